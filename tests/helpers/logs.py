"""Small logs of tries."""

from __future__ import annotations

from after_check.domain.tries import Arrangement, SoakSaid, Started, Try, TryModule

A, B = TryModule("a"), TryModule("b")


def tried(fitted, start="yes", seen=None, soak=None, errors_in=(), profile="", **rest):
    return Try(
        Arrangement(tuple(fitted.items()), profile),
        Started(start) if start else None,
        tuple(seen) if seen is not None else None,
        SoakSaid(soak) if soak else None,
        tuple(errors_in),
        **rest,
    )


THREE = (
    tried({"A2": "a", "B2": "b"}, "no"),
    tried({"A2": "a"}, "yes", ("A2",), "clean"),
    tried({"B2": "a"}, "yes", ("B2",)),
    tried({"A2": "b"}, "no"),
)
