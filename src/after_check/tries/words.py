"""Tries in words."""

from __future__ import annotations

from after_check.domain.quantities import counted, size_text
from after_check.domain.tries import Arrangement, SoakSaid, Started, Try


def fitted_words(arrangement: Arrangement) -> str:
    """Return an arrangement in words: `a in A2, b in B2`."""
    return ", ".join(f"{letter} in {slot}" for slot, letter in arrangement.fitted) or "nothing fitted"


def outcome_words(tried: Try) -> str:
    """Return how a try ended, in a few words."""
    words: list[str] = []
    if tried.started is Started.NO:
        words.append("no start")
    elif tried.started is Started.CYCLES:
        words.append("started after power cycles")
    if tried.unseen:
        words.append(f"{', '.join(tried.unseen)} not seen")
    if tried.soak is SoakSaid.ERRORS:
        words.append("soak errors" + (f" in {', '.join(tried.errors_in)}" if tried.errors_in else ""))
    elif tried.soak is SoakSaid.CLEAN:
        words.append("soak clean")
    if tried.off_under_load:
        words.append("off under load")
    if not words:
        words.append("started, all seen" if tried.seen is not None else "started" if tried.started else "nothing noted")
    return ", ".join(words)


def shown_words(tried: Try) -> str:
    """Return the figures that the machine showed with an arrangement: `2400 MT/s, 16 GB, 2 channels, 21.3 GB/s`; empty where none."""
    words = [
        f"{tried.rate_mts} MT/s" if tried.rate_mts else "",
        size_text(tried.total_bytes) if tried.total_bytes else "",
        counted(tried.channels, "channel") if tried.channels else "",
        f"{tried.benchmark_gbs:.1f} GB/s" if tried.benchmark_gbs else "",
    ]
    return ", ".join(word for word in words if word)
