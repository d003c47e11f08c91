"""The Gap room."""
