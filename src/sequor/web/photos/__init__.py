"""Photos: importing them, the contact sheet, their pictures."""
