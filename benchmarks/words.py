"""What plain words are understood of: right, wrong, asked, by style; the same clauses in every order; and the time that it takes.

    python -m benchmarks.words       the entries that were worked with, and those that were kept back
    python -m benchmarks.words -v    and each one that is not right

An entry is right when every fact is stated, none is wrong, and nothing is asked but what may be. It counts half where all that is
amiss are questions.
"""

from __future__ import annotations

import itertools
import sys
import time
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Any

from benchmarks.entries import entries

from after_check.domain.facts import value_of
from after_check.domain.modules import Module
from after_check.domain.readings import RateUnit, Reading, ShownRate
from after_check.language.typed_text import Said, said
from after_check.language.words import understand

_NEAR = 0.002
_AMOUNTS = ("total_bytes", "usable_bytes", "graphics_bytes")
_OF_MODULE = ("size_bytes", "generation", "rated_mts", "ranks", "device_width_bits", "voltage_mv", "form", "ecc", "maker", "part")
_SETS = (
    ("2x16gb ddr4 3200", "dual channel", "31.8 GB usable"),
    ("two sticks of 8gb", "xmp off", "runs at 2133"),
    ("2 of 4 slots used", "16 GB total", "DDR4"),
    ("4x8 ddr4", "total 32 GB", "profile 1"),
    ("A1: 16gb", "A2 empty", "single channel"),
    ("one 8gb stick", "ddr3 1600", "15.9 GB usable"),
    ("8gb soldered", "8gb in the slot", "lpddr4"),
    ("32 GB installed", "2 GB for graphics", "speed 3200"),
    ("4x32gb rdimm", "ecc", "running 2933"),
    ("slot 1 8gb", "slot 2 empty", "ddr4 2666"),
)
_JOINERS = (", ", "; ", ". ", "\n", " and ", " ")


@dataclass(slots=True)
class Found:
    """What is right, wrong, missed and asked of one entry."""

    right: int = 0
    wrong: list[str] = field(default_factory=list)
    missed: list[str] = field(default_factory=list)
    needless: list[str] = field(default_factory=list)
    unasked: list[str] = field(default_factory=list)

    @property
    def score(self) -> float:
        """One, a half where only questions are amiss, or nothing."""
        if self.wrong or self.unasked or (self.missed and not self.needless):
            return 0.0
        return 0.5 if self.needless or self.missed else 1.0


def near(one: Any, other: Any) -> bool:
    """Return whether two values are one: figures within 0.2 %, anything else the same."""
    if isinstance(one, (int, float)) and isinstance(other, (int, float)) and not isinstance(one, bool):
        return abs(one - other) <= _NEAR * max(abs(other), 1)
    return str(one).casefold() == str(other).casefold()


def judged(entry: dict[str, Any], found: Said) -> Found:
    """Return what of an entry was understood."""
    result = Found()
    truth, may, reading = entry["truth"], entry["may"], found.reading
    asked = {ask.about.rsplit(".", 1)[-1] for ask in found.asks}
    open_facts = {name for names in entry["ask"] for name in names.split("|")}
    _modules(entry, reading, result)
    shown = {name: value_of(getattr(reading, name)) for name in (*_AMOUNTS, "channels")}
    shown["profile"] = reading.profile.value.value if reading.profile is not None else None
    shown["slots_total"] = value_of(reading.slot_count)
    either = {name: one["value"] for one in entry["either"] for name in one["facts"]}
    sums = sum(value_of(module.size_bytes) or 0 for module in reading.modules)
    for name, value in shown.items():
        wanted = [one[name] for one in (truth, may, either) if name in one]
        if value is None:
            if (
                name in truth
                and not (name == "total_bytes" and near(sums, truth[name]))
                and not (name == "slots_total" and len(reading.slots) == truth[name])
            ):
                result.missed.append(name)
        elif (
            any(near(value, one) for one in wanted)
            or (name == "total_bytes" and near(value, sums))
            or (name == "slots_total" and value == len(reading.slots))
        ):
            result.right += 1
        else:
            result.wrong.append(f"{name}: {value}, not {wanted or 'said'}")
    _running(entry, reading, result)
    allowed = open_facts | set(entry["ask_ok"]) | set(either)
    for about in asked:
        group = {
            "modules": ("modules", "size_bytes", "slots"),
            "slot_count": ("slots_total", "slots"),
            "running_rate": ("running_mts", "rated_mts"),
            "slots_used": ("modules", "slots", "slots_used"),
        }.get(about, (about, "modules" if about == "total_bytes" else about))
        if not allowed & set(group) and about != "graphics_bytes":
            result.needless.append(about)
    if open_facts and not found.asks:
        result.unasked += entry["ask"]
    if asked & {"modules", "total_bytes", "slots_used"}:
        result.missed = [name for name in result.missed if name not in ("modules", "size_bytes", "total_bytes") or "modules" not in allowed]
    return result


def _running(entry: dict[str, Any], reading: Reading, result: Found) -> None:
    shown: ShownRate | None = value_of(reading.running_rate)
    wanted = [one["running_mts"] for one in (entry["truth"], entry["may"]) if "running_mts" in one]
    wanted += [one["value"] for one in entry["either"] if "running_mts" in one["facts"]]
    if shown is None:
        if "running_mts" in entry["truth"] and "running_mts" not in entry["ask_ok"]:
            result.missed.append("running_mts")
    elif any(near(shown.number, one) or (shown.unit is RateUnit.MHZ and near(2 * shown.number, one)) for one in wanted):
        result.right += 1
    else:
        result.wrong.append(f"runs {shown.number:g}, not {wanted or 'said'}")


def _wanted(entry: dict[str, Any]) -> Iterator[tuple[str, dict[str, Any]]]:
    for module in entry["truth"].get("modules", ()):
        for _ in range(module["count"] or 0):
            yield "", module
    for name, filling in entry["truth"].get("slots", {}).items():
        if isinstance(filling, dict):
            yield name.casefold(), filling


def _modules(entry: dict[str, Any], reading: Reading, result: Found) -> None:
    wanted = list(_wanted(entry))
    got = [(_plain(name), module) for name, module in reading.filled()]
    names = {_plain(name): filling for name, filling in entry["truth"].get("slots", {}).items()}
    for slot in reading.slots:
        said_of = names.get(_plain(slot.name))
        if said_of == "empty":
            (result.wrong if slot.module is not None else []).append(f"slot {slot.name} is filled")
    for name, filling in names.items():
        there = [slot for slot in reading.slots if _plain(slot.name) == name]
        if not there:
            result.missed.append("slots")
        elif filling == "empty" and there[0].module is None:
            result.right += 1
    unknown = [module for module in entry["truth"].get("modules", ()) if module["count"] is None]
    if not wanted:
        spec = (unknown or entry["may"].get("modules") or [{"may": {}}])[0]
        allowed = bool(unknown or entry["may"].get("modules")) or entry["truth"].get("slots_used") == len(got)
        for _, module in got:
            _module(spec, module, result, bool(unknown), entry)
        if got and not allowed:
            result.wrong.append(f"{len(got)} modules, not said")
        return
    if len(got) != len(wanted):
        (result.wrong if got and not any("modules" in one for one in entry["ask_ok"]) else result.missed).append("modules")
        return
    result.right += 1
    left = list(wanted)
    for name, module in sorted(got, key=lambda one: not one[0]):
        place = next((one for one in left if _plain(one[0]) == name and name), None)
        best = place or min(
            left,
            key=lambda one: sum(
                not near(value_of(getattr(module, _field(key))) or 0, value) for key, value in one[1].items() if _field(key)
            ),
        )
        left.remove(best)
        _module(best[1], module, result, True, entry)


def _plain(name: str) -> str:
    return "".join(one for one in name.casefold().replace("slot", "").replace("dimm", "").replace("bank", "") if one.isalnum())


def _field(key: str) -> str:
    return {"device_width": "device_width_bits"}.get(key, key if key in _OF_MODULE else "")


def _module(spec: dict[str, Any], module: Module, result: Found, strict: bool, entry: dict[str, Any]) -> None:
    may = spec.get("may", {})
    # A rate that is what runs or what they are sold as may be told as either.
    either = next((one["value"] for one in entry["either"] if "rated_mts" in one["facts"]), None)
    for name in _OF_MODULE:
        value = value_of(getattr(module, name))
        wanted = next((one[key] for one in (spec, may) for key in one if _field(key) == name), either if name == "rated_mts" else None)
        if value is None:
            if strict and any(_field(key) == name for key in spec):
                result.missed.append(name)
        elif wanted is None or not near(value, wanted):
            if name != "device_width_bits" or wanted is not None:
                result.wrong.append(f"{name}: {value}, not {wanted if wanted is not None else 'said'}")
        else:
            result.right += 1


def measure(verbose: bool) -> None:
    """Print what is understood, by style."""
    rows: dict[str, Counter[str]] = {}
    for entry in entries():
        result = judged(entry, said(entry["text"], entry["kind"] == "promise"))
        for name in (entry["group"], "kept back" if entry["held"] or entry["group"].startswith("kept_back") else "worked with"):
            row = rows.setdefault(name, Counter())
            row["entries"] += 1
            row["score"] += int(2 * result.score)
            row["wrong"] += len(set(result.wrong))
            row["stated"] += result.right + len(set(result.wrong))
            row["asked"] += len(result.needless)
        if verbose and result.score < 1:
            print(f"  {entry['id']} {entry['text'][:70]!r}: wrong {result.wrong}, missed {result.missed}, asked {result.needless}")
    print(f"{'style':14} {'right':>12} {'wrong facts':>18} {'needless questions':>20}")
    for name, row in rows.items():
        share = row["wrong"] / max(row["stated"], 1)
        right = f"{row['score'] / 2:g} of {row['entries']}"
        print(f"{name:14} {right:>12} {row['wrong']:>6} of {row['stated']:<5} {share:5.1%} {row['asked']:>12}")


def orders() -> None:
    """Print how many orders and joiners of the same clauses give the same facts."""
    same = total = 0
    for clauses in _SETS:
        outcomes = Counter(_outcome(joiner.join(order)) for order in itertools.permutations(clauses) for joiner in _JOINERS)
        same += outcomes.most_common(1)[0][1]
        total += sum(outcomes.values())
    print(f"the same clauses in any order: {same} of {total} give the same facts")


def _outcome(text: str) -> tuple[str, ...]:
    found = said(text)
    return (*sorted(found.notation.split("; ")), *sorted(ask.about for ask in found.asks))


def times() -> None:
    """Print how long a line and a page take."""
    line = "2x8gb ddr4 3200, dual channel, 31.8 GB usable, xmp off, runs at 2666"
    start = time.process_time()
    understand(line)
    print(f"the first line, with the vocabulary: {(time.process_time() - start) * 1000:.0f} ms of processor time")
    for name, text, number in (("a line", line, 50), ("20 kB", f"{line}\n" * 290, 3)):
        start = time.process_time()
        for _ in range(number):
            understand(text)
        print(f"{name}: {(time.process_time() - start) / number * 1000:.1f} ms of processor time")


if __name__ == "__main__":
    times()
    measure("-v" in sys.argv)
    orders()
