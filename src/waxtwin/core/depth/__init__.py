"""A throw in space from one camera: an estimate with its doubt, from marks, segment lengths and how bodies move."""
