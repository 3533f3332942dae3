"""Drawings in terminal cells: pure functions from snapshots to lines of text."""
