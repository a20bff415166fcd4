"""The verbs: import, revise, undo, render, export. No HTTP here; one transaction each."""
