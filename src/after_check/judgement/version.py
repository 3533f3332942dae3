"""Which rules judged a job: the version of the rules, and what the shop asks for beside the promise."""

import zlib

JUDGEMENT_VERSION = 14
"""Raised when a rule changes, so that judgements kept in a shop are worked out again."""


def judged_by(*needs: int) -> int:
    """Return one number for the rules and for what a shop asks for (the figures of `Needs`); 31 bits hold it.

    It is only compared with itself, so a check sum of all of it will do.
    """
    return zlib.crc32(repr((JUDGEMENT_VERSION, needs)).encode()) >> 1
