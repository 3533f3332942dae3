"""Which version the rules of judgement have."""

JUDGEMENT_VERSION = 5
"""Raised when a rule changes, so that judgements kept in a shop are worked out again."""
