"""Entering a job and its promise."""
