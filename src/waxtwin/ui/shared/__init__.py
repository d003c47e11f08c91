"""What several rooms share: widgets, plots, figures, the open library."""
