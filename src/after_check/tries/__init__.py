"""Tries: weighing suspects after arrangements of modules and settings, and proposing the next arrangement."""
