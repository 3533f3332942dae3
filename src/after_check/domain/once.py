"""What follows from frozen data alone is worked out once, however many ask: the case, the sheet and the screens share it."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable
from functools import update_wrapper
from typing import Any, Concatenate, ParamSpec, TypeVar

Of = TypeVar("Of")
More = ParamSpec("More")
Found = TypeVar("Found")


def once_for_each(
    most: int,
) -> Callable[[Callable[Concatenate[Of, More], Found]], Callable[Concatenate[Of, More], Found]]:
    """Return a decorator that keeps the results for the last `most` objects, each known by what it is and not by what it equals.

    The first argument is frozen data that may be too large to compare; further ones must be hashable. The object is held while
    its result is, so that no other one can take its place in memory.
    """

    def decorate(function: Callable[Concatenate[Of, More], Found]) -> Callable[Concatenate[Of, More], Found]:
        kept: OrderedDict[tuple[Any, ...], tuple[Of, Found]] = OrderedDict()
        lock = threading.Lock()

        def remembering(of: Of, /, *more: More.args, **named: More.kwargs) -> Found:
            key = (id(of), more, tuple(sorted(named.items())))
            with lock:
                known = kept.get(key)
            if known is not None:
                return known[1]
            found = function(of, *more, **named)
            with lock:
                kept[key] = (of, found)
                if len(kept) > most:
                    kept.popitem(last=False)
            return found

        update_wrapper(remembering, function)
        return remembering

    return decorate
