"""The rooms, in the order of the work."""
