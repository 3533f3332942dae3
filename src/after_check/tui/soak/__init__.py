"""Soaks: starting one, watching it, taking it up again."""
