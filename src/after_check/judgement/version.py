"""Which version the rules of judgement have."""

JUDGEMENT_VERSION = 4
"""Raised when a rule changes, so that judgements kept in a shop are worked out anew."""
