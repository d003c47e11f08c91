"""Long work on a library: what kinds there are, who is asked for it, and how it stands."""
