"""The Session room."""
