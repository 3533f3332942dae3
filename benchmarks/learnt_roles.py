"""What a figure in a text is (size, total, count, rate, none of them), learnt instead of written: measured on styles that were left out.

    pip install python-crfsuite==0.9.12
    python -m benchmarks.learnt_roles

A conditional random field (Lafferty, McCallum and Pereira, 2001) is trained on all styles of `tests/entries/` but one, on the tokens of
the reader with all their kinds, and told on that one. The training draws nothing by chance, so the figures come out the same again.
The library is no part of the product: what was measured speaks against it (docs/words.md).
"""

from __future__ import annotations

import re
import tempfile
from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from benchmarks.entries import entries

from after_check.language.words.token import Token
from after_check.language.words.tokens import tokens

_GIB, _MIB = 2**30, 2**20
_AMOUNTS = ("total_bytes", "usable_bytes", "graphics_bytes")
_COUNTS = ("slots_total", "slots_used", "channels")
_SURE = 0.8


def roles(entry: dict[str, Any], found: list[Token]) -> list[str]:
    """Return the role of each token, as the truth of the entry has it."""
    truths = [entry["truth"], entry["may"]]
    slots = [truth["slots"] for truth in truths if isinstance(truth.get("slots"), dict)]
    listed = [one for truth in truths for one in truth.get("modules", ())] + [one for named in slots for one in named.values()]
    modules = [one for one in listed if isinstance(one, dict)]
    sizes = {one["size_bytes"] for one in modules if "size_bytes" in one}
    amounts = {truth[name] for truth in truths for name in _AMOUNTS if name in truth}
    counts = {one.get("count") for one in modules} | {truth[name] for truth in truths for name in _COUNTS if name in truth}
    rates = {one["rated_mts"] for one in modules if "rated_mts" in one}
    rates |= {truth["running_mts"] for truth in truths if "running_mts" in truth} | {
        one["value"] for one in entry["either"] if isinstance(one["value"], int)
    }
    return [_role(token, sizes, amounts, counts, rates) for token in found]


def _role(token: Token, sizes: set[int], amounts: set[int], counts: set[Any], rates: set[Any]) -> str:
    value = token.value
    if not isinstance(value, (int, float)) or isinstance(value, bool):
        return "-"
    if value in counts and not token.means("size"):
        return "count"
    as_sizes = [value] if token.means("size") else [value * _GIB, value * _MIB]
    if any(_near(one, size) for one in as_sizes for size in sizes):
        return "size"
    if any(_near(one, amount) for one in as_sizes for amount in amounts):
        return "total"
    return "rate" if any(_near(value, rate) or _near(2 * value, rate) for rate in rates) else "aside"


def _near(one: float, other: float) -> bool:
    return abs(one - other) <= 0.004 * max(abs(other), 1)


def features(found: list[Token]) -> list[list[str]]:
    """Return what is looked at of each token: its word and kinds, those of the two beside it, and what stands up to four away."""
    own = [[f"w={re.sub(r'[0-9]', '0', one.text)[:12]}", *(f"k={kind}" for kind in sorted(one.kinds))] for one in found]
    return [[*own[at], *_around(own, at)] for at in range(len(found))]


def _around(own: list[list[str]], at: int) -> Iterator[str]:
    for step in (-4, -3, -2, -1, 1, 2, 3, 4):
        if not 0 <= at + step < len(own):
            yield f"{step}:end"
            continue
        place = str(step) if abs(step) <= 2 else "before" if step < 0 else "behind"
        yield from (f"{place}:{one}" for one in own[at + step])


def main() -> None:
    """Print, for each style left out, how many roles are right, and how many of those that the field is sure of."""
    import pycrfsuite

    rows = [(one["group"], features(found), roles(one, found)) for one in entries() if (found := tokens(one["text"]))]
    print(f"{'style left out':16} {'roles right':>16} {'sure of':>10} {'of these right':>16}")
    total: Counter[str] = Counter()
    with tempfile.TemporaryDirectory() as folder:
        for style in dict.fromkeys(group for group, _, _ in rows):
            trainer = pycrfsuite.Trainer(algorithm="lbfgs", verbose=False)
            trainer.set_params({"c1": 0.1, "c2": 0.05, "max_iterations": 150, "feature.minfreq": 2})
            for group, seen, truth in rows:
                if group != style:
                    trainer.append(seen, truth)
            trainer.train(str(Path(folder) / "field"))
            tagger = pycrfsuite.Tagger()
            tagger.open(str(Path(folder) / "field"))
            row: Counter[str] = Counter()
            for _, seen, truth in (one for one in rows if one[0] == style):
                tagger.set(seen)
                for at, (guess, role) in enumerate(zip(tagger.tag(), truth, strict=True)):
                    if role == "-":
                        continue
                    sure = tagger.marginal(guess, at) >= _SURE
                    row.update(all=1, right=guess == role, sure=sure, sure_right=sure and guess == role)
            _print(style, row)
            total += row
    _print("all", total)


def _print(name: str, row: Counter[str]) -> None:
    right = f"{row['right']} of {row['all']}"
    print(f"{name:16} {right:>16} {row['sure'] / row['all']:>10.0%} {row['sure_right'] / max(row['sure'], 1):>16.1%}")


if __name__ == "__main__":
    main()
