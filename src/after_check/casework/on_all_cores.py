"""Judging many saved readings on all cores: each process takes some of the files, reads and judges them.

Only for files: what is read over the network waits for answers, and threads do for that.
"""

from __future__ import annotations

import multiprocessing
from collections.abc import Callable, Mapping
from concurrent.futures import ProcessPoolExecutor

from after_check.casework.batch import JudgedMachine, Terms, judged_of
from after_check.domain.readings import Reading
from after_check.files.errors import SourceError
from after_check.host.processors import usable_cores
from after_check.sources.evidence import Taken
from after_check.sources.many import Named
from after_check.sources.open_source import NETWORK, take

WORTH_IT_FROM = 100
_AT_ONCE = 25
_given: list[tuple[Mapping[str, Reading], Terms]] = []


def is_worth_it(sources: tuple[Named, ...]) -> bool:
    """Whether these sources are files, and enough of them to begin processes for."""
    cores = usable_cores() if "fork" in multiprocessing.get_all_start_methods() else 1
    return cores > 1 and len(sources) >= WORTH_IT_FROM and not any(named.source.startswith(NETWORK) for named in sources)


def judged_on_all_cores(
    sources: tuple[Named, ...],
    earlier: Mapping[str, Reading],
    terms: Terms,
    tell: Callable[[int, int], None] = lambda done, whole: None,
) -> tuple[JudgedMachine, ...]:
    """Read and judge every source, in their order; one that cannot be read is a machine with a problem."""
    pieces = [sources[at : at + _AT_ONCE] for at in range(0, len(sources), _AT_ONCE)]
    judged: list[JudgedMachine] = []
    # Forked, so that what all are judged by need not be written out for each process.
    context = multiprocessing.get_context("fork")
    with ProcessPoolExecutor(usable_cores(), context, _given.append, ((earlier, terms),)) as pool:
        for some in pool.map(_judged, pieces):
            judged += some
            tell(len(judged), len(sources))
    return tuple(judged)


def _judged(sources: tuple[Named, ...]) -> list[JudgedMachine]:
    earlier, terms = _given[-1]
    found: list[JudgedMachine] = []
    for named in sources:
        taken: Taken | SourceError
        try:
            taken = take(named.source)
        except SourceError as problem:
            taken = problem
        found.append(judged_of(named.name, taken, earlier.get(named.name), terms))
    return found
