"""Wax Twin: a pitcher's delivery held against a reference delivery, matched at the same stops."""

from pathlib import Path

__version__ = "0.1.0"
ASSETS = Path(__file__).parent / "assets"  # what ships with the program
