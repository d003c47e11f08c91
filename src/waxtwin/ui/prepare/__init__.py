"""The Prepare room's parts: its picture, its tape, its steps and their pages."""
