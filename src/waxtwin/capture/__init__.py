"""Clips: frame-exact reading, and looking for a person in them."""
