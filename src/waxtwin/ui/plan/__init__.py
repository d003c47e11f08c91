"""The parts of the Plan room."""
