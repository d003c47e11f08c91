"""The Prepare room."""
