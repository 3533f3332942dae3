"""Which rules judged a job: the version of the rules, and what the shop asks for beside the promise."""

JUDGEMENT_VERSION = 6
"""Raised when a rule changes, so that judgements kept in a shop are worked out again."""


def judged_by(soak_minutes: int = 0, soak_percent: int = 0) -> int:
    """Return one number for the rules and for what a shop asks for before a job counts as ready; 31 bits hold it."""
    return JUDGEMENT_VERSION * 10_000_000 + soak_minutes * 1000 + soak_percent
