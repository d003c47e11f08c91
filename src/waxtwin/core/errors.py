"""Faults that a user can mend, each worded as one plain sentence."""

from __future__ import annotations


class WaxTwinError(ValueError):
    """Base of every expected fault; the text is fit to be shown as it is."""


class TrackError(WaxTwinError):
    """The landmarks cannot be a delivery."""
