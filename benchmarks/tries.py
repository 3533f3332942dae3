"""How many tries, module moves and minutes it takes to name a hidden fault, beside two plain ways of looking for it.

    python benchmarks/tries.py [benches]

The benches are simulated (standins/faulty_bench.py). "Wrong" is a culprit named that is not the one; "open" is a fault
that was not named within twenty tries.
"""

from __future__ import annotations

import statistics
import sys
import time
from collections import Counter
from dataclasses import dataclass, field

from after_check.domain.facts import typed
from after_check.domain.modules import Module
from after_check.domain.tries import Arrangement, SoakSaid, Started, Try, TryLog, TryModule
from after_check.standins.faulty_bench import FaultyBench, faulty_bench
from after_check.tries.blame import blame
from after_check.tries.next_try import next_try

MOST_TRIES = 20


@dataclass
class Score:
    """What one way of looking came to over all benches."""

    tries: list[int] = field(default_factory=list)
    moves: list[int] = field(default_factory=list)
    minutes: list[float] = field(default_factory=list)
    right: int = 0
    wrong: int = 0
    left_open: int = 0
    wrong_ones: Counter[str] = field(default_factory=Counter)

    def add(self, bench: FaultyBench, kind: str, name: str) -> None:
        """Count one bench."""
        self.tries.append(bench.tries)
        self.moves.append(bench.moved)
        self.minutes.append(bench.minutes)
        if not kind:
            self.left_open += 1
            self.wrong_ones[f"open: {bench.fault.kind}/{bench.fault.symptom}"] += 1
        elif is_right(bench, kind, name):
            self.right += 1
        else:
            self.wrong += 1
            self.wrong_ones[f"{kind} for {bench.fault.kind}/{bench.fault.symptom}"] += 1

    def __str__(self) -> str:
        def middle(values: list[int] | list[float]) -> str:
            return f"{statistics.median(values):5.0f} {sorted(values)[int(len(values) * 0.95)]:5.0f}"

        count = len(self.tries)
        return (
            f"tries {middle(self.tries)}   moves {middle(self.moves)}   minutes {middle(self.minutes)}   "
            f"right {self.right / count:6.1%}  wrong {self.wrong / count:6.1%}  open {self.left_open / count:6.1%}"
        )


def is_right(bench: FaultyBench, kind: str, name: str) -> bool:
    """Return whether the culprit that was named is the hidden one."""
    fault = bench.fault
    if kind != fault.kind:
        return False
    if kind == "mix":
        return set(name.split(" + ")) == set(fault.names)
    return kind in ("seat", "total", "kind", "profile", "machine", "outside") or name == fault.names[0]


def as_try(arrangement: Arrangement, said: dict[str, object]) -> Try:
    """Return what a technician would write down of a try."""
    seen, errors = said.get("seen"), said.get("errors_in") or ()
    return Try(
        arrangement,
        Started(str(said["start"])),
        tuple(seen) if isinstance(seen, list) else None,
        SoakSaid(str(said["soak"])) if "soak" in said else None,
        tuple(errors) if isinstance(errors, list) else (),
        off_under_load=True if said.get("off_under_load") else None,
    )


def first_arrangement(bench: FaultyBench) -> Arrangement:
    """Return the new modules in the slots in their order, with the profile on where that is the fault."""
    new = [letter for letter in bench.modules if letter not in bench.old]
    return Arrangement(tuple(zip(bench.slots, new, strict=False)), "1" if bench.fault.kind == "profile" else "")


def by_weighing(bench: FaultyBench) -> tuple[str, str]:
    """Follow the proposals until one suspect is clear enough."""
    modules = tuple(TryModule(item, old=item in bench.old, module=Module(ecc=typed(bench.ecc[item]))) for item in bench.modules)
    arrangement, soak = first_arrangement(bench), True
    tries: list[Try] = []
    while bench.tries < MOST_TRIES:
        tries.append(as_try(arrangement, bench.try_out(arrangement.module_in, arrangement.profile, soak, not (tries and tries[-1].worked))))
        log = TryLog(modules, bench.slots, tuple(tries))
        said = blame(log)
        if said.settled and said.first is not None:
            return said.first.kind.value, said.first.name
        following = next_try(log)
        if following is None:
            # Nothing failed yet: the same once more. Nothing to tell apart: the likeliest, if it leads clearly.
            if said.first is None:
                continue
            return (said.first.kind.value, said.first.name) if said.first.weight > 0.6 else ("", "")
        arrangement, soak = following.arrangement, following.with_soak
    return "", ""


def fails(said: dict[str, object]) -> bool:
    """Return whether anything went wrong."""
    return said["start"] == "no" or said.get("soak") == "errors" or bool(said.get("off_under_load"))


def one_at_a_time(bench: FaultyBench) -> tuple[str, str]:
    """Every module alone in the first slot; then a good one in every slot."""
    start = first_arrangement(bench)
    said = bench.try_out(start.module_in, start.profile)
    seen = said.get("seen")
    if not fails(said) and isinstance(seen, list) and len(seen) == len(start.fitted):
        return "", ""
    if start.profile and not fails(bench.try_out(start.module_in, "off")):
        return "profile", "profile 1"
    first, good, bad = bench.slots[0], "", ""
    for letter in start.slot_of:
        if fails(bench.try_out({first: letter})):
            bad = bad or letter
        else:
            good = good or letter
    if bad and good:
        return "module", bad
    if bad:
        if bench.old and fails(bench.try_out({first: bench.old[0]})):
            return ("slot", first) if not fails(bench.try_out({bench.slots[1]: bench.old[0]})) else ("machine", "machine")
        return "kind", ""
    for slot in bench.slots[1:]:
        if fails(bench.try_out({slot: good})):
            return "slot", slot
    if not fails(bench.try_out(start.module_in, start.profile)):
        return "seat", " in ".join(reversed(bench.fault.names[:2])) if bench.fault.kind == "seat" else ""
    return "mix", " + ".join(list(start.slot_of)[:2])


def by_halves(bench: FaultyBench) -> tuple[str, str]:
    """Half of the modules out at each step, until one is left; then that one elsewhere."""
    start = first_arrangement(bench)
    fitted = start.module_in

    def bad(arrangement: dict[str, str]) -> bool:
        said = bench.try_out(arrangement, "")
        seen = said.get("seen")
        return fails(said) or (isinstance(seen, list) and len(seen) < len(arrangement))

    said = bench.try_out(fitted, start.profile)
    if start.profile and not bad(fitted):
        return "profile", "profile 1"
    if not fails(said) and len(said.get("seen") or ()) == len(fitted):  # type: ignore[arg-type]
        return "", ""
    while len(fitted) > 1:
        items = list(fitted.items())
        half, other = dict(items[: len(items) // 2]), dict(items[len(items) // 2 :])
        if bad(half):
            fitted = half
        elif bad(other):
            fitted = other
        else:
            return "mix", " + ".join(list(fitted.values())[:2])
    ((slot, letter),) = fitted.items()
    elsewhere = next(item for item in bench.slots if item != slot)
    if bad({elsewhere: letter}):
        if bench.old and bad({elsewhere: bench.old[0]}):
            return "machine", "machine"
        return "module", letter
    return ("slot", slot) if bad({slot: letter}) else ("seat", f"{letter} in {slot}")


def main() -> None:
    """Print the scores."""
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 500
    longest = 0.0
    print(f"{count} benches; median and 95th percentile")
    for name, way in (("weighing", by_weighing), ("one at a time", one_at_a_time), ("halves", by_halves)):
        score = Score()
        for seed in range(count):
            bench = faulty_bench(seed)
            begun = time.perf_counter()
            kind, culprit = way(bench)
            longest = max(longest, (time.perf_counter() - begun) / max(1, bench.tries))
            score.add(bench, kind, culprit)
        print(f"{name:<14} {score}")
        if "-v" in sys.argv:
            print("   ", dict(score.wrong_ones.most_common(14)))
    eight = TryLog(tuple(TryModule(letter) for letter in "abcdefgh"), tuple(f"{letter}1" for letter in "ABCDEFGH"))
    failed = Try(Arrangement(tuple(zip(eight.slots, "abcdefgh", strict=True))), Started.NO)
    begun = time.perf_counter()
    next_try(TryLog(eight.modules, eight.slots, (failed,)))
    print(f"a proposal for 8 slots and 8 modules: {time.perf_counter() - begun:.3f} s")


if __name__ == "__main__":
    main()
