"""Budgets, kept as ratios within one run."""
