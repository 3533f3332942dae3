"""What a module most likely is, for whoever chooses instead of typing: from the sheet of the machine and the modules beside it."""

from __future__ import annotations

from collections.abc import Iterable

from after_check.domain.cards import Card
from after_check.domain.facts import value_of
from after_check.domain.modules import Generation, Module
from after_check.domain.quantities import GIB
from after_check.language.plain_words.figures import is_size_of, usual_rates
from after_check.standards.rates import STANDARD_RATES_MTS

MOST_CHOICES = 9
"""One key each."""
_SIZES_GIB = (8, 16, 32, 4, 64, 24, 48, 2, 1)
_KINDS = (Generation.DDR4, Generation.DDR5, Generation.DDR3, Generation.LPDDR5, Generation.LPDDR4X, Generation.DDR2)


def likely_sizes(others: Iterable[Module], card: Card | None, generation: Generation | None = None) -> tuple[int, ...]:
    """Return sizes in bytes, the likeliest first: those beside it, their doubles, the usual ones; none that the machine does not take."""
    beside = [size for module in others if (size := value_of(module.size_bytes))]
    found = [*beside, *(2 * size for size in beside), *(gib * GIB for gib in _SIZES_GIB)]
    most = card.module_bytes if card is not None and card.module_bytes else None
    generation = generation or (card.generation if card is not None else None)
    fitting = [size for size in dict.fromkeys(found) if is_size_of(size, generation) and (most is None or size <= most)]
    return tuple(fitting)[:MOST_CHOICES]


def likely_kinds(others: Iterable[Module], card: Card | None) -> tuple[Generation, ...]:
    """Return generations, the likeliest first: what the machine takes and what is beside it come before all others."""
    beside = [kind for module in others if (kind := value_of(module.generation))]
    known = [card.generation] if card is not None and card.generation is not None else []
    return tuple(dict.fromkeys((*known, *beside, *_KINDS)))[:MOST_CHOICES]


def likely_rates(generation: Generation, others: Iterable[Module], card: Card | None) -> tuple[int, ...]:
    """Return what such modules are sold as, in MT/s: as those beside it, as fast as the machine goes, then the standard rates."""
    beside = [rate for module in others if value_of(module.generation) in (generation, None) and (rate := value_of(module.rated_mts))]
    fastest = [card.highest_rate_mts] if card is not None and card.highest_rate_mts else []
    known = usual_rates(generation)
    found = (*beside, *(rate for rate in fastest if rate in known), *reversed(STANDARD_RATES_MTS[generation]))
    return tuple(dict.fromkeys(found))[:MOST_CHOICES]
