"""The frame around the rooms: window, menu, notices, jobs, settings, help."""
