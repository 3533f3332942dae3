"""Drawings in cells: functions from frozen data to lines of text. They know colours by their meaning (`theme.Ink`)."""
