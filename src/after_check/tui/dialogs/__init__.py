"""Dialogs over a screen; each returns what was decided."""
