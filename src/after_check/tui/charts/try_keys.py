"""What one key does to a try that is being written down: a module put into a slot, how it started, what was seen and tested."""

from __future__ import annotations

import re
import string
from collections.abc import Callable
from dataclasses import replace

from after_check.domain.quantities import counted
from after_check.domain.tries import Arrangement, SoakSaid, Started, Try, TryModule, noted_by_both
from after_check.language.short_form.problems import Problem
from after_check.language.short_form.writer import write_module
from after_check.language.typed_text import modules_said
from after_check.tries.try_words import places_of
from after_check.tries.watch import SIGNS, clock

LETTERS = string.ascii_lowercase
"""What modules of a log are called."""
_PROFILES = ("", "off", "1", "2", "3")


def seated(arrangement: Arrangement, slot: str, letter: str, slots: tuple[str, ...]) -> Arrangement:
    """Return the arrangement with a module in a slot (taken out of where it was), or with the slot emptied."""
    fitted = {place: module for place, module in arrangement.fitted if place != slot and module != letter}
    if letter != "-":
        fitted[slot] = letter
    order = {place: number for number, place in enumerate(slots)}
    return Arrangement(tuple(sorted(fitted.items(), key=lambda pair: order.get(pair[0], 99))), arrangement.profile)


def with_corrections(modules: tuple[TryModule, ...], others: tuple[TryModule, ...]) -> tuple[TryModule, ...]:
    """Return modules with what others know of them: what is there holds, and those that are only there are added.

    How a module did in another machine is kept from both.
    """
    found = {module.letter: module for module in modules}
    for module in others:
        own = found.get(module.letter)
        found[module.letter] = module if own is None else replace(module, elsewhere=noted_by_both(own.elsewhere, module.elsewhere))
    return tuple(found.values())


_BORROWED = re.compile(r"\b(?:known|tested|proven)[ -]good\b|\b(?:a )?(?:borrowed|known to be good|from the shelf)\b", re.IGNORECASE)


def lettered(words: str, taken: set[str]) -> tuple[tuple[TryModule, ...], int, tuple[Problem, ...]]:
    """Return the modules that words describe with the next free letters, how many found none, and what was not understood.

    `known good` or `borrowed` says that they were borrowed to look for a fault.
    """
    good = _BORROWED.search(words) is not None
    plain = _BORROWED.sub(" ", words).strip(" ,;:") if good else words
    free = [letter for letter in LETTERS if letter not in taken]
    if good and not plain:  # Nobody needs to know more of it than that it works.
        return (TryModule(free[0], known_good=True),) if free else (), 0 if free else 1, ()
    modules, problems = modules_said(plain)
    found = tuple(
        TryModule(letter, write_module(module), module=module, known_good=good) for letter, module in zip(free, modules, strict=False)
    )
    return found, len(modules) - len(found), problems


def beside_words(tried: Try) -> list[str]:
    """Return what has no key of its own: other signs, where errors lay, how hot it was, and the note."""
    found = [sign for sign in tried.signs if sign not in SIGNS.values()]
    if places_of(tried):
        found.append(f"where: {', '.join(places_of(tried))}")
    if tried.celsius is not None:
        found.append(f"{tried.celsius:g} °C at most")
    return [*found, *([f"“{tried.note}”"] if tried.note else [])]


def toggled_unseen(tried: Try, slot: str) -> Try:
    """Return the try with the module of a slot not seen, or seen after all; what was seen at all starts."""
    filled = tuple(place for place, _ in tried.arrangement.fitted)
    unseen = set(tried.unseen) ^ {slot}
    return replace(tried, seen=tuple(place for place in filled if place not in unseen), started=tried.started or Started.YES)


def _all_seen(tried: Try) -> Try:
    filled = tuple(place for place, _ in tried.arrangement.fitted)
    return replace(tried, seen=None if tried.seen == filled else filled, started=tried.started or Started.YES)


def _profile(tried: Try) -> Try:
    following = (
        _PROFILES[(_PROFILES.index(tried.arrangement.profile) + 1) % len(_PROFILES)] if tried.arrangement.profile in _PROFILES else ""
    )
    return replace(tried, arrangement=replace(tried.arrangement, profile=following))


def _started(tried: Try, how: Started) -> Try:
    if how is Started.NO:  # The starts that were asked for end with the first one that fails.
        return replace(tried, started=how, seen=None, soak=None, errors_in=(), cycles=None, starts=None, starts_failed=None)
    return replace(tried, started=how, cycles=(tried.cycles or 0) + 1 if how is Started.CYCLES else None)


def _reseated(tried: Try) -> Try:
    """All modules were taken out and put in again, or none was: what was not said first is said to be so."""
    everything = tuple(letter for _, letter in tried.arrangement.fitted)
    return replace(tried, reseated=() if tried.reseated else everything)


_HOW_OFTEN = (1, 2, 3, 4, 5, 6, 8, 10, 15, 20)


def _started_again(tried: Try) -> Try:
    """How often it was started: the next step; after the last one nothing is said of it."""
    more = next((count for count in _HOW_OFTEN if count > (tried.starts or 1)), None)
    failed = tried.starts_failed if more is not None and tried.starts_failed is not None else None
    return replace(tried, starts=more, starts_failed=failed)


def _one_more_failed(tried: Try) -> Try:
    """One more of the starts failed; after all of them, none did. A start is two then: this one, and one that failed."""
    starts = tried.starts or 2
    return replace(tried, starts=starts, starts_failed=((tried.starts_failed or 0) + 1) % (starts + 1))


_NETWORK = {None: True, True: False, False: None}
OUTCOMES: dict[str, Callable[[Try], Try]] = {
    "1": lambda tried: _started(tried, Started.YES),
    "2": lambda tried: _started(tried, Started.NO),
    "3": lambda tried: _started(tried, Started.CYCLES),
    "7": _started_again,
    "8": _one_more_failed,
    "=": _all_seen,
    "4": lambda tried: replace(tried, soak=SoakSaid.CLEAN, errors_in=(), started=tried.started or Started.YES),
    "5": lambda tried: replace(tried, soak=SoakSaid.ERRORS, started=tried.started or Started.YES),
    "6": _profile,
    "O": lambda tried: replace(tried, off_under_load=None if tried.off_under_load else True),
    "R": _reseated,
    "C": lambda tried: replace(tried, settings_reset=None if tried.settings_reset else True),
    "N": lambda tried: replace(tried, on_network=_NETWORK[tried.on_network]),
}


Mark = tuple[str, str, bool]
"""What can be noted by a key: the key, its words, and whether it is set."""
_NETWORK_WORDS: dict[bool | None, str] = {None: "on the network?", True: "on the network", False: "not on the network"}


def _started_words(tried: Try) -> str:
    """Return how often it was started in words, or is to be, where nothing is noted yet."""
    times = counted(tried.starts or 1, "time")
    return f"start it up to {times}" if tried.starts and not (tried.failed or tried.worked) else f"started {times}"


def _failed_words(tried: Try) -> str:
    """Return how many of several starts failed, in words."""
    if (tried.starts or 1) == 1:
        return "of several starts some failed"
    return (
        f"{tried.starts_failed or 'none'} of them failed"
        if tried.starts_failed is not None or not tried.failed
        else "how many of them failed?"
    )


def outcome_groups(tried: Try) -> list[tuple[str, list[Mark]]]:
    """Return what can be noted by a key: by title, the key, its words for this try, and whether it is set."""
    cycles = f": {tried.cycles}" if tried.cycles else ""
    took = f", {clock(tried.seconds)}" if tried.seconds is not None else ""
    start = [
        ("1", f"it starts{took if tried.started is Started.YES else ''}", tried.started is Started.YES),
        ("2", "it does not start", tried.started is Started.NO),
        ("3", f"it starts after power cycles{cycles}", tried.started is Started.CYCLES),
        ("7", _started_words(tried), (tried.starts or 1) > 1),
        ("8", _failed_words(tried), bool(tried.starts_failed)),
        ("N", _NETWORK_WORDS[tried.on_network], bool(tried.on_network)),
        ("R", "all modules were seated again", bool(tried.reseated)),
    ]
    minutes = f" ({tried.soak_minutes:.0f} min)" if tried.soak_minutes else ""
    tested = [
        ("=", "all modules are seen", tried.seen is not None and not tried.unseen),
        ("4", f"a memory test was clean{minutes}", tried.soak is SoakSaid.CLEAN),
        ("5", "a memory test found errors", tried.soak is SoakSaid.ERRORS),
        ("6", f"profile: {tried.arrangement.profile or 'not looked at'}", tried.arrangement.profile_is_on),
    ]
    signs = [
        ("O", "switches off under load", bool(tried.off_under_load)),
        ("C", "settings were cleared", bool(tried.settings_reset)),
        *((key, words, words in tried.signs) for key, words in SIGNS.items()),
    ]
    return [("DOES IT START?", start), ("SEEN AND TESTED", tested), ("SIGNS", signs)]
