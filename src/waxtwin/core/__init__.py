"""The arithmetic of the work: NumPy and SciPy only, no interface, no files."""
