"""A simulated bench with a hidden fault: modules that can be moved about, starts and soaks that fail as the fault has it.

Written for itself: it knows nothing of how suspects are weighed, and its faults follow rules of their own (a bad contact
stays until the module is seated again, and is put right then three times of four).
"""

from __future__ import annotations

import itertools
import random
from collections.abc import Callable
from dataclasses import dataclass, field

CONTACT_MENDED = 0.75
RARE_SHOWS = 0.55
"""How often a fault that comes and goes shows."""
RARE_FAULTS = 0.12
SOAK_MISSES = 0.03
CHANCE_CYCLES = 0.04

_HOW_OFTEN = (
    ("module", 45),
    ("slot", 18),
    ("seat", 14),
    ("mix", 4),
    ("total", 2),
    ("kind", 6),
    ("profile", 4),
    ("machine", 5),
    ("outside", 2),
)
_SYMPTOMS = {
    "module": ("dead", "absent", "weak"),
    "slot": ("absent", "absent", "dead", "weak"),
    "seat": ("absent", "dead"),
    "mix": ("dead", "weak"),
    "total": ("dead",),
    "kind": ("dead",),
    "profile": ("dead", "weak"),
    "machine": ("dead", "weak"),
    "outside": ("hot",),
}


@dataclass(frozen=True)
class HiddenFault:
    """What is wrong: its kind, the letters or slots it concerns, how it shows, and how often."""

    kind: str
    names: tuple[str, ...]
    symptom: str
    shows: float = 1.0


@dataclass
class FaultyBench:
    """A board with its slots in the order of filling, the modules on the bench, and one hidden fault."""

    slots: tuple[str, ...]
    modules: tuple[str, ...]
    fault: HiddenFault
    chance: random.Random
    old: tuple[str, ...] = ()
    ecc: dict[str, bool] = field(default_factory=dict)
    sitting: dict[str, str] = field(default_factory=dict)
    contact_is_bad: bool = False
    tries: int = 0
    moved: int = 0
    minutes: float = 0.0

    def try_out(self, fitted: dict[str, str], profile: str = "", soak: bool = True, again: bool = True) -> dict[str, object]:
        """Seat modules (`again`: also those that stay), start, look, soak if asked; returns what a technician would write down."""
        self._seat(fitted, again)
        self.tries += 1
        self.minutes += 5.0
        acts = self._acts(fitted, profile) and self.chance.random() < self.fault.shows
        symptom = self.fault.symptom if acts else ""
        if symptom == "dead" or (symptom == "hot" and self.chance.random() < 0.1):
            return {"start": "no"}
        places = self._places(fitted)
        seen = [slot for slot in fitted if not (symptom == "absent" and slot in places)]
        said: dict[str, object] = {"start": "cycles" if self.chance.random() < CHANCE_CYCLES else "yes", "seen": seen}
        if not seen:
            return {"start": "no"}
        if soak:
            self.minutes += 10.0
            if symptom == "hot" and self.chance.random() < 0.8:
                return {**said, "off_under_load": True}
            if symptom == "weak" and self.chance.random() > SOAK_MISSES:
                said |= {"soak": "errors", "errors_in": [place for place in places if place in fitted][:1]}
            else:
                said["soak"] = "clean"
        return said

    def _seat(self, fitted: dict[str, str], again: bool) -> None:
        if not again and fitted == self.sitting:
            return
        before, after = {(slot, letter) for slot, letter in self.sitting.items()}, set(fitted.items())
        taken_in_hand = after - before or after if before == after else after - before
        self.moved += len({letter for _, letter in before ^ after}) or len(after)
        self.minutes += 1.5 * (len({letter for _, letter in before ^ after}) or len(after))
        if self.fault.kind == "seat" and self.sitting:
            slot, letter = self.fault.names
            if (slot, letter) in taken_in_hand or fitted.get(slot) != letter:
                self.contact_is_bad = self.contact_is_bad and self.chance.random() > CONTACT_MENDED
        self.sitting = dict(fitted)

    def _acts(self, fitted: dict[str, str], profile: str) -> bool:
        kind, names = self.fault.kind, self.fault.names
        if kind == "module":
            return names[0] in fitted.values()
        if kind == "slot":
            return names[0] in fitted
        if kind == "seat":
            return self.contact_is_bad and fitted.get(names[0]) == names[1]
        if kind == "mix":
            return set(names) <= set(fitted.values())
        if kind == "total":
            return len(fitted) >= int(names[0])
        if kind == "kind":
            return any(not self.ecc.get(letter, True) for letter in fitted.values())
        if kind == "profile":
            return profile not in ("", "off")
        return True

    def _places(self, fitted: dict[str, str]) -> list[str]:
        """Where the fault shows."""
        kind, names = self.fault.kind, self.fault.names
        if kind == "module":
            return [slot for slot, letter in fitted.items() if letter == names[0]]
        if kind in ("slot", "seat"):
            return [names[0]]
        if kind == "mix":
            return [slot for slot, letter in fitted.items() if letter in names][-1:]
        return [self.chance.choice(list(fitted))] if fitted else []


def faulty_bench(seed: int) -> FaultyBench:
    """Return a bench with two to eight slots and a fault drawn at random: every seed its own, always the same."""
    chance = random.Random(seed)
    count = chance.choice((2, 2, 2, 2, 4, 4, 4, 8))
    slots = tuple(f"{'ABCDEFGH'[number % (count // 2)]}{number // (count // 2) + 1}" for number in range(count))
    new = tuple("abcdefgh"[:count])
    old = tuple("pqrstuvw"[: max(1, count // 2)]) if chance.random() < 0.7 else ()
    kind = chance.choices([name for name, _ in _HOW_OFTEN], [weight for _, weight in _HOW_OFTEN])[0]
    if kind == "kind" and not old:
        kind = "module"
    names: dict[str, Callable[[], tuple[str, ...]]] = {
        "module": lambda: (chance.choice(new),),
        "slot": lambda: (chance.choice(slots),),
        "seat": lambda: chance.choice(list(zip(slots, new, strict=True))),
        "mix": lambda: chance.choice(list(itertools.combinations(new, 2))),
        "total": lambda: (str(count),),
    }
    concerned: tuple[str, ...] = tuple(names[kind]()) if kind in names else ()
    shows = RARE_SHOWS if chance.random() < RARE_FAULTS else 1.0
    fault = HiddenFault(kind, concerned, chance.choice(_SYMPTOMS[kind]), shows)
    ecc = dict.fromkeys(new, kind != "kind") | dict.fromkeys(old, True)
    return FaultyBench(slots, (*new, *old), fault, chance, old, ecc, contact_is_bad=kind == "seat")
