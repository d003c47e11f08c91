"""The Report room."""
