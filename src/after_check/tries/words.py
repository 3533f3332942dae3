"""Tries in words."""

from __future__ import annotations

from after_check.domain.tries import Arrangement, SoakSaid, Started, Try


def fitted_words(arrangement: Arrangement) -> str:
    """Return an arrangement in words: `a in A2, b in B2`."""
    return ", ".join(f"{letter} in {slot}" for slot, letter in arrangement.fitted) or "nothing fitted"


def outcome_words(one: Try) -> str:
    """Return how a try ended, in a few words."""
    words: list[str] = []
    if one.started is Started.NO:
        words.append("no start")
    elif one.started is Started.CYCLES:
        words.append("started after power cycles")
    if one.unseen:
        words.append(f"{', '.join(one.unseen)} not seen")
    if one.soak is SoakSaid.ERRORS:
        words.append("soak errors" + (f" in {', '.join(one.errors_in)}" if one.errors_in else ""))
    elif one.soak is SoakSaid.CLEAN:
        words.append("soak clean")
    if one.off_under_load:
        words.append("off under load")
    if not words:
        words.append("started, all seen" if one.seen is not None else "started" if one.started else "nothing noted")
    return ", ".join(words)
