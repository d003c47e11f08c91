"""A simulated pitcher and simulated cameras: deliveries whose truth is known."""
