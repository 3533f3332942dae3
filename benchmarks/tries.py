"""How often the right culprit is named on benches written from the trade, in how many tries, moves and minutes.

    python benchmarks/tries.py [benches] [first seed] [-v] [--other-machine] [--least-right SHARE] [--most-wrong SHARE]

The benches are simulated (standins/workshop.py) and share nothing with the model. "Wrong" is a culprit named that is not
the one and whose act would not repair it; "open" is one that was not named within twenty tries.
"""

from __future__ import annotations

import argparse
import statistics
import sys
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from functools import partial

from after_check.domain.facts import typed
from after_check.domain.modules import Module
from after_check.domain.tries import Arrangement, Blame, SoakSaid, Started, SuspectKind, Try, TryLog, TryModule
from after_check.standins.workshop import BenchFault, WorkBench, workbench
from after_check.tries.blame import blame
from after_check.tries.elsewhere import with_elsewhere
from after_check.tries.next_try import next_try

MOST_TRIES = 20


def modules_of(bench: WorkBench) -> tuple[TryModule, ...]:
    """Return the modules as they stand in a log."""
    soldered = {letter for _, letter in bench.soldered}
    letters = (*bench.new, *bench.old, *soldered, *bench.borrowed)
    return tuple(
        TryModule(
            letter,
            old=letter in bench.old,
            module=Module(ecc=typed(bench.ecc[letter]) if bench.ecc_is_known else None),
            soldered=letter in soldered,
            known_good=letter in bench.borrowed,
        )
        for letter in letters
    )


def as_try(arrangement: Arrangement, said: dict[str, object], before: Arrangement) -> Try:
    """Return what a technician would write down of a try."""
    seen, errors = said.get("seen"), said.get("errors_in") or ()
    stayed = tuple(letter for slot, letter in arrangement.fitted if before.module_in.get(slot) == letter)
    minutes, seconds = said.get("soak_minutes"), said.get("seconds")
    return Try(
        arrangement,
        Started(str(said["start"])),
        tuple(seen) if isinstance(seen, list) else None,
        SoakSaid(str(said["soak"])) if "soak" in said else None,
        tuple(errors) if isinstance(errors, list) else (),
        soak_minutes=float(minutes) if isinstance(minutes, float) else None,
        off_under_load=True if said.get("off_under_load") else None,
        settings_reset=True if said.get("settings_reset") else None,
        seconds=float(seconds) if isinstance(seconds, float) else None,
        reseated=stayed if said["reseated"] else (),
        starts=whole_number(said["starts"]),
        starts_failed=whole_number(said["starts_failed"]),
    )


def whole_number(value: object) -> int | None:
    """Return a whole number that was noted."""
    return value if isinstance(value, int) else None


def is_right(bench: WorkBench, said: Blame) -> bool:
    """Return whether what was named is the hidden fault, or its act would repair it."""
    return any(_is_that(bench, said, fault) for fault in bench.faults)


def _is_that(bench: WorkBench, said: Blame, fault: BenchFault) -> bool:
    if said.named is not None:
        kinds = {(one.kind.value, one.name) for one in said.named.suspects}
        left = set(said.named.letters)
        if fault.kind in ("module", "marginal", "mix"):
            return bool(left & set(fault.names))
        if fault.kind == "machine":
            return any(kind == fault.kind for kind, _ in kinds)
        return fault.kind in ("kind", "total") and (any(kind == fault.kind for kind, _ in kinds) or left >= set(bench.new))
    first = said.first
    if first is None:
        return False
    kind, name = first.kind, first.name
    if fault.kind in ("once", "seat"):
        return kind is SuspectKind.NOTHING or (kind is SuspectKind.CONTACT and (said.works_now or name == " in ".join(fault.names[::-1])))
    if kind.value != fault.kind:
        # A channel of one slot is the slot, a marginal module is that module.
        return (fault.kind, kind.value) in (("marginal", "module"), ("module", "marginal")) and name == fault.names[0]
    if kind is SuspectKind.MIX:
        return set(name.split(" + ")) == set(fault.names)
    if kind in (SuspectKind.MODULE, SuspectKind.SLOT, SuspectKind.MARGINAL, SuspectKind.CHANNEL):
        return name == fault.names[0]
    return kind is not SuspectKind.ORDER or name == bench.must_be_filled


def tested_elsewhere(log: TryLog, bench: WorkBench, letter: str) -> TryLog:
    """Return the log with what another machine says of a module, tested there as it failed here."""
    minutes = 40.0 if any(attempt.soak is SoakSaid.ERRORS for attempt in log.tries) else 0.0
    words = f"{letter} {'fails' if bench.try_elsewhere(letter, minutes) else 'works'}{f' {minutes:.0f} min' if minutes else ''}"
    return with_elsewhere(log, words)


def play(bench: WorkBench, other_machine: bool = False) -> Blame | None:
    """Follow the proposals until something is named; None where nothing is."""
    modules = modules_of(bench)
    arrangement, minutes, reseat = Arrangement(tuple(bench.first_arrangement().items()), bench.profile), 10.0, False
    starts = 1
    order = (bench.must_be_filled,) if bench.order_is_known else ()
    tries: list[Try] = []
    said: Blame | None = None
    while bench.tries < MOST_TRIES:
        if not bench.may_be(arrangement.module_in):
            raise AssertionError(f"nobody can make {arrangement} here")
        before = tries[-1].arrangement if tries else Arrangement()
        said_of_it = bench.try_out(arrangement.module_in, arrangement.profile, minutes, reseat, starts)
        tries.append(as_try(arrangement, said_of_it, before))
        log = TryLog(modules, bench.slots, tuple(tries), order=order)
        said = blame(log)
        if said.settled:
            return said
        if said.asks and not bench.ecc_is_known:
            bench.ecc_is_known = True
            modules = modules_of(bench)
            log = TryLog(modules, bench.slots, tuple(tries), order=order)
            said = blame(log)
            if said.settled:
                return said
        following = next_try(log)
        elsewhere = said.elsewhere_for if following is None else following.or_elsewhere_for
        if elsewhere and other_machine:
            log = tested_elsewhere(log, bench, elsewhere)
            modules = log.modules
            said, following = blame(log), next_try(log)
            if said.settled:
                return said
        asked = said.borrow_for if following is None else following.or_borrow_for
        if asked and not bench.borrowed:
            bench.borrow("k")
            noted = {module.letter: module.elsewhere for module in modules}
            modules = tuple(replace(module, elsewhere=noted.get(module.letter, ())) for module in modules_of(bench))
            following = next_try(TryLog(modules, bench.slots, tuple(tries), order=order))
        if following is None:
            if said.first is None:
                minutes, reseat, starts = 40.0, False, 5  # Nothing failed yet, and nothing is proposed any more: once more.
                continue
            return said if said.first.weight > 0.6 else None
        reseat = following.arrangement == arrangement and not tries[-1].worked
        arrangement, minutes, starts = following.arrangement, following.soak_minutes, following.starts
    return None


@dataclass(frozen=True)
class Played:
    """How one bench ended, and what it took."""

    fault: str
    how: str
    words: str
    tries: int
    hands: int
    minutes: float
    sure: float = 0.0


def sureness_of(said: Blame | None) -> float:
    """Return how sure what was named was said to be; 0 where nothing was."""
    if said is None or said.first is None:
        return 0.0
    if said.named is not None:
        return said.named.weight
    if said.works_now and said.first.kind in (SuspectKind.CONTACT, SuspectKind.NOTHING):
        return sum(one.weight for one in said.suspects if one.kind in (SuspectKind.CONTACT, SuspectKind.NOTHING))
    return said.first.weight


def played(seed: int, other_machine: bool = False, other: bool = False) -> Played:
    """Play the bench of a seed, of this workshop or of another one."""
    bench = workbench(seed, other)
    said = play(bench, other_machine)
    how = "open" if said is None else "right" if is_right(bench, said) else "wrong"
    named = "nothing" if said is None else "class" if said.named else said.first.kind.value if said.first else "none"
    words = f"{how}: {named} for {bench.fault.kind}/{bench.fault.symptom}/{bench.fault.shows}"
    return Played(bench.fault.kind, how, words, bench.tries, bench.hands, bench.minutes, sureness_of(said))


def main() -> int:
    """Print the scores; returns 1 where they are below what is asked for."""
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("benches", type=int, nargs="?", default=300)
    options.add_argument("first", type=int, nargs="?", default=0)
    options.add_argument("-v", dest="aloud", action="store_true", help="say what was wrong or open")
    options.add_argument("--least-right", type=float, default=0.0, help="a share")
    options.add_argument("--most-wrong", type=float, default=1.0, help="a share")
    options.add_argument("--other-machine", action="store_true", help="another machine is at hand, for a module alone")
    options.add_argument("--other-workshop", action="store_true", help="each bench is of a workshop with figures of its own")
    given = options.parse_args()
    count = given.benches
    with ProcessPoolExecutor() as pool:
        found_ones = list(
            pool.map(
                partial(played, other_machine=given.other_machine, other=given.other_workshop),
                range(given.first, given.first + count),
                chunksize=4,
            )
        )
    by_kind: dict[str, Counter[str]] = {}
    for one in found_ones:
        by_kind.setdefault(one.fault, Counter())[one.how] += 1
    wrong_ones = Counter(one.words for one in found_ones if one.how != "right")
    tries, hands, minutes = ([getattr(one, name) for one in found_ones] for name in ("tries", "hands", "minutes"))
    whole = sum(by_kind.values(), Counter())
    print(f"{count} benches: " + ", ".join(f"{how} {whole[how] / count:.1%}" for how in ("right", "wrong", "open")))
    for name, values in (("tries", tries), ("moves", hands), ("minutes", minutes)):
        print(f"  {name}: median {statistics.median(values):.0f}, 95 of 100 within {sorted(values)[int(0.95 * count)]:.0f}")
    for low, high in ((0.0, 0.8), (0.8, 0.85), (0.85, 0.9), (0.9, 0.95), (0.95, 0.98), (0.98, 1.01)):
        of_bin = [one for one in found_ones if one.how != "open" and low <= one.sure < high]
        if of_bin:
            right = sum(one.how == "right" for one in of_bin) / len(of_bin)
            said = statistics.mean(one.sure for one in of_bin)
            print(f"  said {said:4.0%}: right in {right:4.0%} of {len(of_bin)}")
    for kind, found in sorted(by_kind.items(), key=lambda pair: -sum(pair[1].values())):
        print(f"  {kind:<9} {sum(found.values()):4}   right {found['right']:4}  wrong {found['wrong']:3}  open {found['open']:3}")
    if given.aloud:
        for words, number in wrong_ones.most_common(40):
            print(f"    {number:3} {words}")
    return int(whole["right"] < given.least_right * count or whole["wrong"] > given.most_wrong * count)


if __name__ == "__main__":
    sys.exit(main())
