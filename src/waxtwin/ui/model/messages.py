"""What is told to the user, and of which kind it is. Knows no Qt."""

from __future__ import annotations


class Fault(str):
    """Something went wrong: what, and what was kept. A plain str is a fact."""


class Success(str):
    """Something that was asked for is done."""
