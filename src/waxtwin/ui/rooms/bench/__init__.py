"""The Bench."""
