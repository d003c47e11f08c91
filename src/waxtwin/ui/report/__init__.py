"""The parts of the Report room."""
