"""Tries: a log in, suspects weighed and the next arrangement proposed out; what a note of a try says."""
