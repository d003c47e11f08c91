"""Deliveries as a whole: track, sidecar and clips of one throw, and folders of them."""
