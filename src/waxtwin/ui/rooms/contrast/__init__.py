"""The Contrast room."""
