"""Wax Twin: a pitcher's delivery held against a reference delivery, matched at the same stops."""

import os
from pathlib import Path

# before NumPy is loaded: two threads at one banded system wait for one another longer than one takes
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

__version__ = "0.1.0"
ASSETS = Path(__file__).parent / "assets"  # what ships with the program
