"""A simulated workshop: benches with a hidden fault, written from the trade and not from how suspects are weighed.

Faults come in degrees: some show at every start, some at one pass in ten. Boards may demand that a slot is filled
first, laptops have memory that is soldered in, a first start may be cut short by somebody who does not wait, firmware
now and then names a wrong slot, a contact gets better only when its module is handled, and things go wrong once
and never again. What a bench tells is what a technician would write down.
"""

from __future__ import annotations

import itertools
import random
from collections.abc import Callable
from dataclasses import dataclass, field

HOW_OFTEN = {
    "module": 40, "marginal": 18, "profile": 14, "slot": 11, "seat": 13, "mix": 4, "total": 3, "kind": 6, "order": 12, "channel": 6,
    "machine": 5, "outside": 4, "once": 4,
}  # fmt: skip
DEGREES = ((1.0, 62), (0.7, 14), (0.35, 14), (0.12, 10))
"""How often a fault shows at a start or in a pass of ten minutes, and how many faults of a hundred are so."""
CONTACT_MENDED, CONTACT_SPOILT = 0.72, 0.004
START_FAILS, CYCLES, IMPATIENT, WRONG_SLOT = 0.01, 0.04, 0.04, 0.05
FAILS_ELSEWHERE = 0.02
"""How often a sound module fails in another machine: it sat badly there, or that machine does not like it."""
SLOT_IS_NAMED = 0.75
"""How often a memory test of this workshop says in which slot errors were."""
PASS_MINUTES, SETUP_MINUTES, HAND_MINUTES, AGAIN_MINUTES = 10.0, 4.0, 1.5, 1.5
LONGEST_SECONDS = 300.0
SECOND_FAULTS = 0.03


@dataclass(frozen=True)
class Habits:
    """The figures of one workshop and its boards: how often what goes wrong, is noticed, and is put right."""

    contact_mended: float = CONTACT_MENDED
    contact_spoilt: float = CONTACT_SPOILT
    start_fails: float = START_FAILS
    cycles: float = CYCLES
    impatient: float = IMPATIENT
    wrong_slot: float = WRONG_SLOT
    fails_elsewhere: float = FAILS_ELSEWHERE
    slot_is_named: float = SLOT_IS_NAMED
    second_faults: float = SECOND_FAULTS
    clears_settings: float = 0.45
    rarest: float | None = None
    """Where it is given, faults show from always to so seldom, evenly by how often; else by `DEGREES`."""
    how_often: tuple[tuple[str, float], ...] = tuple(HOW_OFTEN.items())


def other_habits(chance: random.Random) -> Habits:
    """Return the habits of another workshop, drawn again from wide ranges: none of them is what a model was written with."""
    return Habits(
        contact_mended=chance.uniform(0.35, 0.92),
        contact_spoilt=chance.uniform(0.0, 0.03),
        start_fails=10 ** chance.uniform(-3, -1.3),
        cycles=chance.uniform(0.0, 0.12),
        impatient=chance.uniform(0.0, 0.15),
        wrong_slot=chance.uniform(0.0, 0.2),
        fails_elsewhere=chance.uniform(0.0, 0.06),
        slot_is_named=chance.uniform(0.3, 1.0),
        second_faults=chance.uniform(0.0, 0.1),
        clears_settings=chance.uniform(0.1, 0.9),
        rarest=1 / chance.uniform(2.0, 8.0),
        how_often=tuple((kind, weight * chance.lognormvariate(0.0, 0.7)) for kind, weight in HOW_OFTEN.items()),
    )


@dataclass
class BenchFault:
    """What is wrong: kind, the letters or slots concerned, how it shows (dead, absent, weak, hot), and how often."""

    kind: str
    names: tuple[str, ...] = ()
    symptom: str = "dead"
    shows: float = 1.0
    is_bad_now: bool = True


@dataclass
class WorkBench:
    """One job: a board, its modules, what is wrong with it, and what was done so far."""

    slots: tuple[str, ...]
    new: tuple[str, ...]
    old: tuple[str, ...]
    ecc: dict[str, bool]
    ecc_is_known: bool
    faults: list[BenchFault]
    chance: random.Random
    soldered: tuple[tuple[str, str], ...] = ()
    must_be_filled: str = ""
    order_is_known: bool = False
    profile: str = ""
    borrowed: tuple[str, ...] = ()
    habits: Habits = Habits()
    sitting: dict[str, str] = field(default_factory=dict)
    tries: int = 0
    hands: int = 0
    minutes: float = 0.0

    @property
    def fault(self) -> BenchFault:
        """The fault that is looked for."""
        return self.faults[0]

    def first_arrangement(self) -> dict[str, str]:
        """The new modules in the slots in which somebody put them first."""
        free = [slot for slot in self.slots if slot not in dict(self.soldered)]
        if any(fault.kind == "order" for fault in self.faults):
            free = [slot for slot in free if slot != self.must_be_filled]
        return {**dict(self.soldered), **dict(zip(free, self.new, strict=False))}

    def may_be(self, fitted: dict[str, str]) -> bool:
        """Whether a person can make this arrangement: what is soldered stays, a module is in one place."""
        stays = all(fitted.get(slot) == letter for slot, letter in self.soldered)
        known = set(self.new) | set(self.old) | set(self.borrowed) | {letter for _, letter in self.soldered}
        once = len(set(fitted.values())) == len(fitted)
        return stays and once and set(fitted) <= set(self.slots) and set(fitted.values()) <= known

    def borrow(self, letter: str) -> None:
        """Take a module that is known to be good from the shelf."""
        self.borrowed = (*self.borrowed, letter)
        self.ecc[letter] = all(self.ecc.values())

    def try_elsewhere(self, letter: str, minutes: float) -> bool:
        """Fit a module alone in another machine that takes it, and test it for so long there; return whether it fails."""
        self.hands += 1
        self.minutes += SETUP_MINUTES + HAND_MINUTES + minutes
        passes = max(1, round(minutes / PASS_MINUTES)) if minutes else 0
        for fault in self.faults:
            if fault.kind == "module" and fault.names[0] == letter:
                times = passes if fault.symptom == "weak" else 1
                if any(self._shows(fault, 0.97) for _ in range(times)):
                    return True
        return self.chance.random() < self.habits.fails_elsewhere

    def try_out(self, fitted: dict[str, str], profile: str, soak_minutes: float, reseat: bool, starts: int = 1) -> dict[str, object]:
        """Make an arrangement, start, look, and test for so long; `reseat` handles every module. Returns what is noted.

        Several starts end at the first one that goes wrong; a memory test follows the last of them.
        """
        first_start_with_it = fitted != self.sitting
        self._take_in_hand(fitted, reseat)
        self.tries += 1
        self.minutes += SETUP_MINUTES
        said: dict[str, object] = {}
        for done in range(1, starts + 1):
            said = self._start(fitted, profile, soak_minutes if done == starts else 0.0, first_start_with_it and done == 1)
            self.minutes += AGAIN_MINUTES if done > 1 else 0.0
            went_wrong = said["start"] == "no" or said.get("settings_reset") or said.get("seen") != list(fitted)
            said |= {"reseated": reseat, "starts": done, "starts_failed": int(bool(went_wrong))}
            if went_wrong:
                break
        return said

    def _start(self, fitted: dict[str, str], profile: str, soak_minutes: float, first_start_with_it: bool) -> dict[str, object]:
        said: dict[str, object] = {}
        acting = [fault for fault in self.faults if self._is_at_work(fault, fitted, profile)]
        dead = [fault for fault in acting if fault.symptom == "dead" and self._shows(fault)]
        absent: set[str] = set()
        for fault in acting:
            if fault.symptom == "absent" and self._shows(fault):
                absent |= self._hidden(fault, fitted)
        if dead and dead[0].kind in ("profile", "marginal") and self.chance.random() < self.habits.clears_settings:
            return {**said, "start": "yes", "settings_reset": True, "seen": list(fitted)}
        if dead or absent >= set(fitted) or self.chance.random() < self.habits.start_fails:
            if dead and self.chance.random() < 0.08:
                return {**said, "start": "cycles", "seen": [slot for slot in fitted if slot not in absent]}
            return {**said, "start": "no", "seconds": LONGEST_SECONDS * self.chance.uniform(1.0, 1.3)}
        if first_start_with_it and self.chance.random() < self.habits.impatient:
            return {**said, "start": "no", "seconds": LONGEST_SECONDS * self.chance.uniform(0.1, 0.5)}
        said["start"] = "cycles" if self.chance.random() < self.habits.cycles else "yes"
        said["seen"] = [slot for slot in fitted if slot not in absent]
        if any(fault.symptom == "hot" and self._shows(fault) for fault in acting) and soak_minutes:
            self.minutes += soak_minutes
            return {**said, "off_under_load": True}
        if soak_minutes:
            self.minutes += soak_minutes
            said |= {"soak_minutes": soak_minutes, **self._tested(acting, fitted, absent, soak_minutes)}
        return said

    def _tested(self, acting: list[BenchFault], fitted: dict[str, str], absent: set[str], minutes: float) -> dict[str, object]:
        passes = max(1, round(minutes / PASS_MINUTES))
        for fault in acting:
            shown = any(self._shows(fault, 0.97) for _ in range(passes))
            places = [slot for slot in self._places(fault, fitted) if slot not in absent]
            if fault.symptom != "weak" or not shown or not places:
                continue
            if self.chance.random() >= self.habits.slot_is_named:
                return {"soak": "errors"}
            place = self.chance.choice(places)
            if len(fitted) > 1 and self.chance.random() < self.habits.wrong_slot:
                place = self.chance.choice([slot for slot in fitted if slot != place])
            return {"soak": "errors", "errors_in": [place]}
        return {"soak": "clean"}

    def _shows(self, fault: BenchFault, most: float = 1.0) -> bool:
        return self.chance.random() < min(most, fault.shows)

    def _take_in_hand(self, fitted: dict[str, str], reseat: bool) -> None:
        before, after = set(self.sitting.items()), set(fitted.items())
        fixed = set(self.soldered)
        handled = {letter for _, letter in (before ^ after) - fixed} | ({letter for _, letter in after - fixed} if reseat else set())
        self.hands += len(handled)
        self.minutes += HAND_MINUTES * len(handled)
        for fault in self.faults:
            if fault.kind == "seat" and self.sitting and (fault.names[1] in handled):
                fault.is_bad_now = fault.is_bad_now and self.chance.random() > self.habits.contact_mended
        self.sitting = dict(fitted)

    def _is_at_work(self, fault: BenchFault, fitted: dict[str, str], profile: str) -> bool:
        profile_on = profile not in ("", "off")
        letters, names = set(fitted.values()), fault.names
        rules: dict[str, Callable[[], bool]] = {
            "module": lambda: names[0] in letters,
            "marginal": lambda: names[0] in letters and profile_on,
            "profile": lambda: profile_on,
            "slot": lambda: names[0] in fitted,
            "seat": lambda: fault.is_bad_now and fitted.get(names[0]) == names[1],
            "mix": lambda: set(names) <= letters,
            "total": lambda: len(fitted) >= int(names[0]),
            "kind": lambda: any(not self.ecc[letter] for letter in letters),
            "order": lambda: self.must_be_filled not in fitted,
            "channel": lambda: any(slot[0] == names[0] for slot in fitted),
            "machine": lambda: True,
            "outside": lambda: True,
            "once": lambda: self.tries <= 1,
        }
        return rules[fault.kind]()

    def _places(self, fault: BenchFault, fitted: dict[str, str]) -> list[str]:
        """Where errors may be told to be."""
        letters = set(fault.names)
        if fault.kind in ("module", "marginal", "mix"):
            return [slot for slot, letter in fitted.items() if letter in letters]
        if fault.kind in ("slot", "seat"):
            return [fault.names[0]]
        if fault.kind == "channel":
            return [slot for slot in fitted if slot[0] == fault.names[0]]
        return list(fitted)

    def _hidden(self, fault: BenchFault, fitted: dict[str, str]) -> set[str]:
        """Which slots are not seen while the fault shows."""
        places = self._places(fault, fitted)
        if fault.kind == "total":
            return {list(fitted)[-1]}
        if fault.kind == "mix":
            return set(places) if self.chance.random() < 0.3 else {self.chance.choice(places)}
        if fault.kind in ("machine", "kind", "once"):
            return {self.chance.choice(places)}
        return set(places)


_SYMPTOMS = {
    "module": ("dead", "absent", "weak", "weak"), "marginal": ("weak", "dead"), "profile": ("dead", "weak"),
    "slot": ("absent", "absent", "dead", "weak"), "seat": ("absent", "dead", "weak"), "mix": ("dead", "weak", "absent"),
    "total": ("dead", "absent"), "kind": ("dead",), "order": ("dead",), "channel": ("dead", "absent", "weak"),
    "machine": ("dead", "weak"), "outside": ("hot",), "once": ("dead", "weak", "absent"),
}  # fmt: skip
_SELDOM = ("module", "slot", "seat", "marginal", "machine", "channel", "outside")
"""Faults that may show now and then; the others always do."""


def workbench(seed: int, other: bool = False) -> WorkBench:
    """Return a bench with a fault drawn at random: every seed its own, always the same. `other`: of a workshop with other habits."""
    chance = random.Random(f"workshop {seed}")
    habits = other_habits(random.Random(f"habits {seed}")) if other else Habits()
    is_laptop = chance.random() < 0.4
    if is_laptop:
        return _laptop(chance, habits)
    count = chance.choice((2, 4, 4, 4, 8))
    half = count // 2
    channels = "AB" if count <= 4 else "ABCD"
    slots = tuple(f"{channels[number % len(channels)]}{number // len(channels) + 1}" for number in range(count))
    new = tuple("abcdefgh"[: chance.choice((count, count, max(2, half)))])
    old = tuple("pqrs"[: min(4, max(1, half))]) if chance.random() < 0.75 else ()
    profile = "1" if chance.random() < 0.35 else ""
    return _with_fault(WorkBench(tuple(dict.fromkeys(slots)), new, old, {}, False, [], chance, profile=profile, habits=habits))


def _laptop(chance: random.Random, habits: Habits) -> WorkBench:
    if chance.random() < 0.4:
        old = ("p",) if chance.random() < 0.6 else ()
        return _with_fault(WorkBench(("S0", "A1"), ("a",), old, {}, False, [], chance, (("S0", "z"),), habits=habits))
    return _with_fault(WorkBench(("A1", "B1"), ("a", "b"), tuple("pq"[: chance.choice((0, 1, 2))]), {}, False, [], chance, habits=habits))


def _with_fault(bench: WorkBench) -> WorkBench:
    chance, habits, slots, new, old, soldered = bench.chance, bench.habits, bench.slots, bench.new, bench.old, bench.soldered
    bench.ecc_is_known = chance.random() < 0.7
    possible = {kind: weight for kind, weight in habits.how_often if _is_possible(kind, bench)}
    kind = chance.choices(list(possible), list(possible.values()))[0]
    bench.faults.append(_fault(kind, bench))
    if chance.random() < habits.second_faults:
        other = chance.choice([name for name in ("module", "slot", "seat") if _is_possible(name, bench) and name != kind])
        second = _fault(other, bench)
        second.shows = 1.0
        bench.faults.append(second)
    refused = kind == "kind"
    bench.ecc = {letter: not (refused and letter in new) for letter in (*new, *old, *(letter for _, letter in soldered))}
    if kind == "order" or chance.random() < 0.1:
        bench.must_be_filled = slots[0]
        bench.order_is_known = chance.random() < 0.5
    return bench


def _is_possible(kind: str, bench: WorkBench) -> bool:
    free = [slot for slot in bench.slots if slot not in dict(bench.soldered)]
    if kind in ("marginal", "profile"):
        return bool(bench.profile)
    if kind == "mix":
        return len(bench.new) + len(bench.soldered) >= 2
    if kind == "total":
        return len(bench.new) >= 2 and not bench.soldered
    if kind == "kind":
        return bool(bench.old)
    if kind == "order":
        return len(bench.new) < len(free)
    return kind != "channel" or (len(bench.slots) >= 4 and len(bench.new) >= 2)


def _fault(kind: str, bench: WorkBench) -> BenchFault:
    chance, first = bench.chance, dict(zip([s for s in bench.slots if s not in dict(bench.soldered)], bench.new, strict=False))
    letters = [*bench.new, *(letter for _, letter in bench.soldered if chance.random() < 0.3)]
    everything = [*bench.new, *(letter for _, letter in bench.soldered)]
    names: dict[str, tuple[str, ...]] = {
        "module": (chance.choice(letters),),
        "marginal": (chance.choice(list(bench.new)),),
        "slot": (chance.choice(list(first)),),
        "seat": chance.choice(list(first.items())),
        "mix": chance.choice(list(itertools.combinations(everything, 2))) if len(everything) > 1 else (),
        "total": (str(len(first)),),
        "channel": (chance.choice(sorted({slot[0] for slot in first})),),
    }
    rarest = bench.habits.rarest
    if rarest is not None:
        often = rarest ** chance.random() if kind in _SELDOM else 1.0
        symptom = chance.choice(_SYMPTOMS[kind])
        return BenchFault(kind, tuple(names.get(kind, ())), symptom, often)
    shows = chance.choices([degree for degree, _ in DEGREES], [weight for _, weight in DEGREES])[0] if kind in _SELDOM else 1.0
    symptom = chance.choice(_SYMPTOMS[kind])
    return BenchFault(kind, tuple(names.get(kind, ())), symptom, max(shows, 0.35) if symptom != "weak" else shows)
