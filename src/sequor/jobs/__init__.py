"""Long work in child processes, with progress and cancel. A task calls one operation."""
