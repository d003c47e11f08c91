"""The Pair room."""
