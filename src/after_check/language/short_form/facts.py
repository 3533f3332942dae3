"""The facts of a line of notation: everything that is not a module."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

from after_check.domain.errors import AfterCheckError
from after_check.domain.outside_text import clean
from after_check.domain.quantities import parse_size, size_text
from after_check.domain.readings import BenchmarkOutcome, ProfileState, RateUnit, Redundancy, ShownRate, SoakResult, StartOutcome, Via
from after_check.language.short_form.modules import TIMINGS_WORD, VOLTS_WORD, millivolts, pattern, timings_of
from after_check.standards.rates import HIGHEST_RATE_MTS

_SIZE = r"(?P<size>\d{1,19}(?:\.\d{1,6})?\s*(?:[KMGT](?:i?B)?|B))"
CHANNEL_WORDS = {"single": 1, "dual": 2, "triple": 3, "quad": 4}

VOCABULARY = (
    *("run", "single", "dual", "triple", "quad", "channels", "profile", "total", "usable", "graphics"),
    *("virtual", "reset", "pending", "via", "bits", "ecc", "ecc-errors", "cl", "soak", "start", "benchmark", "off-under-load"),
    *("cap", "limit", "mirrored", "spare", "read", "write", "copy", "latency", "reserved", "in use", "available", "slots"),
    *("uncorrected", "memory-changed", "firmware", "no-rights", "note", "nodes", "stickers", "not-started"),
)

HINTS = {
    "run": "for instance run 2933 or run 1467MHz",
    "channels": "for instance channels 2",
    "profile": "off, 1, 2, 3, on, auto, or locked (greyed out, no choice)",
    "total": "for instance total 32768MB",
    "usable": "for instance usable 31.8G",
    "graphics": "for instance graphics 512M",
    "reserved": "for instance reserved 256M",
    "in": "for instance in use 7.2G",
    "available": "for instance available 8.4G",
    "slots": "for instance slots 4",
    "nodes": "what each memory node has, for instance nodes 32G+0G",
    "firmware": "the version of the firmware, for instance firmware 1.20",
    "uncorrected": "for instance uncorrected 3",
    "via": "firmware, system, label or other",
    "bits": "bits 32 or bits 64",
    "ecc": "ecc on or ecc off",
    "ecc-errors": "for instance ecc-errors 3",
    "cl": "for instance CL 16",
    "cap": "a limit set in the firmware setup, for instance cap 2666",
    "limit": "the most that the system's edition or start options allow, for instance limit 16G",
    "read": "for instance read 45 GB/s",
    "write": "for instance write 30 GB/s",
    "copy": "for instance copy 30 GB/s; in a promise: copy at least 30 GB/s",
    "latency": "for instance latency 90 ns; in a promise: latency at most 90 ns",
    "soak": 'for instance soak clean 30min 95%, soak errors 12, or soak clean 8h by "boot stick"',
    "start": "start yes, no, slow or cycles; not started where nobody tried yet",
    "benchmark": "benchmark better, same, worse or incomparable",
}
"""What may follow a word that needs more."""


class UnfitError(AfterCheckError, ValueError):
    """A fact whose value makes no sense; the message says why."""


def _rate(match: re.Match[str]) -> ShownRate:
    number = float(match["number"])
    unit = (match["unit"] or "").upper()
    if unit == "GHZ":
        number, unit = number * 1000, "MHZ"
    if not 50 <= number <= HIGHEST_RATE_MTS:
        raise UnfitError(f"{match['number']} is no data rate; rates are between 100 and 20000 MT/s")
    return ShownRate(number, RateUnit.MHZ if unit == "MHZ" else RateUnit.MTS if unit else RateUnit.NONE)


def _size(match: re.Match[str]) -> int:
    size_bytes = parse_size(match["size"])
    if not size_bytes:
        raise UnfitError(f"{match['size']} is no size of memory")
    return size_bytes


_SOAK_FIGURE = re.compile(r"(\d+)\s*(min|h|%|pass(?:es)?)", re.IGNORECASE)
_SOAK_UNITS = {"m": "time", "h": "time", "%": "share", "p": "passes"}


def _soak(match: re.Match[str]) -> SoakResult:
    said: dict[str, int] = {}
    for number, unit in _SOAK_FIGURE.findall(match["figures"]):
        kind = _SOAK_UNITS[unit[0].lower()]
        if kind in said:
            raise UnfitError(f"{number} {unit} is a second figure for the {kind} of one memory test")
        said[kind] = int(number) * (60 if unit[0].lower() == "h" else 1)
    percent = said.get("share")
    if percent is not None and percent > 100:
        raise UnfitError(f"{percent} % of the memory cannot be covered")
    errors = int(match["errors"] or 1) if match["result"].lower() == "errors" else 0
    return SoakResult(errors, said.get("time"), percent, said.get("passes"), clean(match["quoted"] or match["by"] or ""))


def _profile(match: re.Match[str]) -> ProfileState:
    """Read the profile setting; a choice that is greyed out, or not there, is none."""
    word = match["state"].lower()
    if word.startswith("auto"):
        return ProfileState.AUTO
    return ProfileState.LOCKED if word[0] in "gn" else ProfileState(word)


def _slot_count(match: re.Match[str]) -> int:
    count = int(match["count"])
    if not 1 <= count <= 96:
        raise UnfitError(f"{count} slots are not possible; 1 to 96 are")
    return count


def _channels(match: re.Match[str]) -> int:
    count = int(match["count"])
    if not 1 <= count <= 16:
        raise UnfitError(f"{count} channels are not possible; 1 to 16 are")
    return count


def _bandwidth(match: re.Match[str]) -> float:
    value = float(match["number"])
    if not 0.1 <= value <= 10_000:
        raise UnfitError(f"{match['number']} GB/s is no bandwidth of a machine's memory")
    return value


def _latency(match: re.Match[str]) -> float:
    value = float(match["number"])
    if not 1 <= value <= 10_000:
        raise UnfitError(f"{match['number']} ns is no latency of a machine's memory")
    return value


def _bandwidth_words(name: str) -> re.Pattern[str]:
    return pattern(rf"{name}(?:\s+at\s+least)?\s*(?P<number>\d{{1,5}}(?:\.\d{{1,3}})?)(?:\s*GB/?s)?")


FACTS: tuple[tuple[re.Pattern[str], str, Callable[[re.Match[str]], Any]], ...] = (
    (pattern(r"run\s*(?P<number>\d{1,5}(?:\.\d{1,3})?)\s*(?P<unit>GHz|MHz|MT/?s)?"), "running_rate", _rate),
    (pattern(r"(?P<word>single|dual|triple|quad)"), "channels", lambda match: CHANNEL_WORDS[match["word"].lower()]),
    (pattern(r"channels?\s*(?P<count>\d{1,2})"), "channels", _channels),
    (pattern(r"profile\s*(?P<state>off|1|2|3|locked|on|auto(?:matic)?|gr[ea]y(?:ed(?:\s+out)?)?|no\s+choice)"), "profile", _profile),
    (pattern(rf"total\s*{_SIZE}"), "total_bytes", _size),
    (pattern(rf"usable\s*{_SIZE}"), "usable_bytes", _size),
    (pattern(rf"graphics\s*{_SIZE}"), "graphics_bytes", _size),
    (pattern(rf"graphics\s*may\s*borrow\s*{_SIZE}"), "borrowed_bytes", _size),
    (pattern(rf"reserved\s*{_SIZE}"), "reserved_bytes", _size),
    (pattern(rf"in\s*use\s*{_SIZE}"), "in_use_bytes", _size),
    (pattern(rf"available\s*{_SIZE}"), "available_bytes", _size),
    (pattern(r"slots?\s*(?P<count>\d{1,3})"), "slot_count", _slot_count),
    (pattern(r"uncorrected(?:-?\s*errors)?\s*(?P<count>\d{1,12})"), "uncorrected_errors", lambda match: int(match["count"])),
    (pattern(r"memory-?\s*changed"), "memory_changed", lambda match: True),
    (pattern(r"not-?\s*started"), "start", lambda match: StartOutcome.NOT_TRIED),
    (pattern(r"stickers?(?:\s*only)?"), "via", lambda match: Via.LABEL),
    (TIMINGS_WORD, "timings", timings_of),
    (VOLTS_WORD, "voltage_mv", lambda match: millivolts(match["volts"])),
    (pattern(r"ecc-?\s*errors\s*(?P<count>\d{1,12})"), "ecc_errors", lambda match: int(match["count"])),
    (pattern(r"ecc\s*(?P<state>on|off)"), "ecc_on", lambda match: match["state"].lower() == "on"),
    (
        pattern(
            r"soak\s*(?P<result>clean|errors)(?:\s+(?P<errors>\d{1,12})(?!\d|\s*(?:min|h|%|pass)))?"
            r"(?P<figures>(?:\s+\d{1,5}\s*(?:min|h|%|pass(?:es)?))*)"
            r"(?:\s+by\s+(?:\"(?P<quoted>[^\"]{1,60})\"|(?P<by>[^\s\";=]{1,60})))?"
        ),
        "soak",
        _soak,
    ),
    (pattern(r"start\s*(?P<state>yes|no|slow|cycles)"), "start", lambda match: StartOutcome(match["state"].lower())),
    (
        pattern(r"(?:benchmark|gauge)\s*(?P<state>better|same|worse|incomparable)"),
        "benchmark",
        lambda match: BenchmarkOutcome(match["state"].lower()),
    ),
    (pattern(r"cap\s*(?P<number>\d{3,5})(?P<unit>\s*MT/?s)?"), "rate_cap_mts", lambda match: round(_rate(match).number)),
    (pattern(rf"limit\s*{_SIZE}"), "system_limit_bytes", _size),
    (pattern(r"(?P<state>mirrored|spare)"), "redundancy", lambda match: Redundancy(match["state"].lower())),
    (_bandwidth_words("read"), "read_gbs", _bandwidth),
    (_bandwidth_words("write"), "write_gbs", _bandwidth),
    (_bandwidth_words("copy"), "copy_gbs", _bandwidth),
    (pattern(r"latency(?:\s+at\s+most)?\s*(?P<number>\d{1,5}(?:\.\d{1,3})?)(?:\s*ns)?"), "latency_ns", _latency),
    (pattern(r"off-?\s*under-?\s*load"), "off_under_load", lambda match: True),
    (pattern(r"virtual"), "virtual", lambda match: True),
    (pattern(r"reset"), "settings_reset", lambda match: True),
    (pattern(r"pending"), "restart_pending", lambda match: True),
    (pattern(r"via\s*(?P<via>firmware|system|label|other)"), "via", lambda match: Via(match["via"].lower())),
    (pattern(r"bits\s*(?P<bits>32|64)"), "system_bits", lambda match: int(match["bits"])),
)
"""Pattern, field of the reading, and how the field's value is read off the match."""


def shown_fact(name: str, value: Any) -> str:
    """Return a fact's value for a message."""
    if name.endswith("_bytes"):
        return size_text(value)
    if isinstance(value, ShownRate):
        return f"{value.number:g} {value.unit}".strip()
    return str(value)
