"""What else a try may tell: which bits were wrong, how hot it was, and which slots the system counted corrected errors for.

A cell, a pin or a line is one place and spoils the same bits again; a setting, heat or a mix has no place. An error that
was corrected on its way is an error all the same, and its slot is known.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace
from itertools import pairwise

import numpy as np

from after_check.domain.outside_text import clean
from after_check.domain.tries import SoakSaid, SuspectKind, Try, TryLog
from after_check.tries.model import Array, Hypotheses
from after_check.tries.suspects import Mode

SAME_BITS_OF_A_PLACE, SAME_BITS_BY_CHANCE = 0.8, 0.25
"""How often two tests with errors name a bit in common: of a fault with a place, and of one without."""
HOT_WHEN_HEAT, HOT_ANYHOW = 0.7, 0.1
"""How often a module is beyond its normal range when a test fails: where heat is the cause, and where it is not."""
HOT_MODULE_CELSIUS = 85.0
"""The upper end of the normal range of DRAM's case temperature (JESD79-4 and JESD79-5)."""
_WITH_A_PLACE = (
    *(SuspectKind.MODULE, SuspectKind.MARGINAL, SuspectKind.SLOT, SuspectKind.CHANNEL),
    *(SuspectKind.CONTACT, SuspectKind.MACHINE),
)
_BITS = re.compile(r"\b(?:bits?\s*|DQ)((?:\d+\s*(?:,|and|[-–]|to)?\s*)+)", re.IGNORECASE)
_RANGE = re.compile(r"(\d{1,2})\s*(?:[-–]|to)\s*(\d{1,2})(?!\d)")
_DEVICE = re.compile(r"\bdevices?\s*((?:\d+\s*(?:,|and)?\s*)+)", re.IGNORECASE)
_CELSIUS = re.compile(r"(?<![\w.,])(\d{2,3}(?:[.,]\d+)?)\s*(?:°\s*C?|degrees?(?:\s*C\w*)?|deg|C)(?!\w)", re.IGNORECASE)
HOTTEST_CELSIUS = 200.0
_OF_ANOTHER_PART = re.compile(r"\b(cpu|processor|core|gpu|graphics|disk|drive|ssd|room|outside)s?\b", re.IGNORECASE)
_CLAUSES = re.compile(r"[;\n]|\.(?=\s|$)|,(?!\d)(?!\s*\d+\s*(?:,|and\b|;|$))")
"""Where a clause ends: not within 84,5 nor within bits 5, 37 and 38."""
_NONE_CORRECTED = re.compile(r"\b(0|no) corrected|corrected:? 0\b|\bCE(?: count)?:? 0\b")
_CORRECTED = re.compile(r"\b(?:[Cc]orrected|CORRECTED|[Cc]orrectable|CE)\b")


def told_in(text: str) -> tuple[tuple[str, ...], float | None]:
    """Return what a note says of where errors lay, and how hot it was: `bit 17`, `A2: 14 corrected`, `84 °C`."""
    parts = [clean(part, 40) for part in _CLAUSES.split(text)]
    places = [part for part in parts if _BITS.search(part) or _DEVICE.search(part) or (_CORRECTED.search(part) and re.search(r"\d", part))]
    of_memory = [part for part in parts if not _OF_ANOTHER_PART.search(part)]
    degrees = [float(match[1].replace(",", ".")) for part in of_memory for match in _CELSIUS.finditer(part)]
    return tuple(places), max((value for value in degrees if value <= HOTTEST_CELSIUS), default=None)


def bits_of(tried: Try) -> frozenset[str]:
    """Return the bits and devices that a test named, as words that can be compared."""
    found = {f"bit {number}" for number in tried.wrong_bits}
    for words in tried.errors_at:
        for pattern, kind in ((_BITS, "bit"), (_DEVICE, "device")):
            for match in pattern.finditer(words):
                found.update(f"{kind} {int(number)}" for number in re.findall(r"\d+", match[1]))
                for first, last in _RANGE.findall(match[1]):
                    found.update(f"{kind} {number}" for number in range(int(first), int(last) + 1))
    return frozenset(found)


def corrected_in(tried: Try) -> tuple[str, ...]:
    """Return the filled slots that corrected errors were counted for: `A2: 14 corrected`."""
    said = [words for words in tried.errors_at if _CORRECTED.search(words) and not _NONE_CORRECTED.search(words)]
    return tuple(
        slot for slot, _ in tried.arrangement.fitted if any(re.search(rf"\b{re.escape(slot)}\b", words, re.IGNORECASE) for words in said)
    )


def counted(log: TryLog) -> TryLog:
    """Return a log in which errors that were corrected on their way are errors of their slots."""
    tries = tuple(
        replace(attempt, soak=SoakSaid.ERRORS, errors_in=attempt.errors_in or slots)
        if (slots := corrected_in(attempt)) and not attempt.errors_in
        else attempt
        for attempt in log.tries
    )
    return replace(log, tries=tries) if tries != log.tries else log


def evidence(hypotheses: Hypotheses, tries: Sequence[Try]) -> Array:
    """Return, for every hypothesis, by what this makes it likelier or less likely."""
    factor = np.ones(len(hypotheses.strength))
    kinds = [hypotheses.culprits[number].kind if number >= 0 else SuspectKind.NOTHING for number in hypotheses.culprit]
    placed = np.array([kind in _WITH_A_PLACE for kind in kinds])
    heat = np.array([mode is Mode.HEAT for mode in hypotheses.modes])
    named = [bits for attempt in tries if attempt.soak is SoakSaid.ERRORS and (bits := bits_of(attempt))]
    # In the order of what they name, not of the tries: the order of a log says nothing.
    named.sort(key=sorted)
    for one, other in pairwise(named):
        of_place, by_chance = SAME_BITS_OF_A_PLACE, SAME_BITS_BY_CHANCE
        factor *= np.where(placed, of_place, by_chance) if one & other else np.where(placed, 1 - of_place, 1 - by_chance)
    for attempt in tries:
        if attempt.celsius is None or not (attempt.soak is SoakSaid.ERRORS or attempt.off_under_load):
            continue
        hot = attempt.celsius > HOT_MODULE_CELSIUS
        factor *= np.where(heat, HOT_WHEN_HEAT, HOT_ANYHOW) if hot else np.where(heat, 1 - HOT_WHEN_HEAT, 1 - HOT_ANYHOW)
    return factor
