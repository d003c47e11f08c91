"""The views of the Gap room."""
