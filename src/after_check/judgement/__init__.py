"""Readings, promise and card in, findings out. Pure functions over plain data."""
