"""Dialogs: one question each."""
