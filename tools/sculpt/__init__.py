"""Sculpts the wax figure from text and writes the asset that the program ships. Never part of the program."""
