"""Wax Twin: a pitcher's delivery held against a reference delivery, matched at the same stops."""

__version__ = "0.1.0"
