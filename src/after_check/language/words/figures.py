"""What a figure can be: a rate or the clock of one, and a size that a module has."""

from __future__ import annotations

from enum import Enum

from after_check.domain.modules import Generation
from after_check.domain.quantities import GIB, MIB
from after_check.standards.rates import COMMON_PROFILE_RATES_MTS, STANDARD_RATES_MTS, same_rate

_USUAL_GIB = (1, 2, 3, 4, 6, 8, 12, 16, 24, 32, 48, 64, 96, 128, 256, 512)
_USUAL_MIB = (1024, 2048, 4096, 8192, 16384, 32768)
_MODULE_BYTES = frozenset(
    {128 * MIB, 256 * MIB, 512 * MIB, *(size * GIB for size in (1, 2, 4, 8, 12, 16, 24, 32, 48, 64, 96, 128, 256, 512))}
)


class Meaning(Enum):
    """What a figure in MHz is."""

    RATE = "the rate"
    CLOCK = "the clock"
    EITHER = "the rate or the clock"
    NEITHER = "neither"


def usual_rates(generation: Generation | None) -> tuple[int, ...]:
    """Return the rates that modules of a generation, or of any, are sold with."""
    if generation is not None:
        return STANDARD_RATES_MTS[generation] + COMMON_PROFILE_RATES_MTS.get(generation, ())
    tables = (STANDARD_RATES_MTS, COMMON_PROFILE_RATES_MTS)
    return tuple(sorted({rate for table in tables for rates in table.values() for rate in rates}))


def is_usual_rate(number: float, generation: Generation | None) -> bool:
    """Return whether modules are sold with this rate."""
    return any(same_rate(number, rate) for rate in usual_rates(generation))


def may_be_sold_as(number: float, generation: Generation) -> bool:
    """Return whether a rate lies between the slowest and the fastest that a generation is sold with."""
    rates = usual_rates(generation)
    return 0.98 * min(rates) <= number <= 1.05 * max(rates)


_SLOW_AND_HALF = {
    Generation.DDR2: (400,),
    Generation.DDR3: (800,),
    Generation.DDR4: (1600,),
    Generation.DDR5: (3200, 3600, 4000),
}
"""Standard rates of a generation that are the clocks of others that are met as often, or more often."""
_EVEN_SIZES = (Generation.DDR2, Generation.DDR3, Generation.DDR4)
_EITHER_OF_ANY = (667, 800, 1066, 1333, 1600)
"""Without a generation: a rate of an older one, and the clock of a newer one."""


def meaning_in_mhz(number: float, generation: Generation | None) -> Meaning:
    """Return what a figure in MHz is. Screens and people write MHz for clocks and for rates alike."""
    doubtful = _SLOW_AND_HALF.get(generation, ()) if generation is not None else _EITHER_OF_ANY
    if any(same_rate(number, rate) for rate in doubtful):
        return Meaning.EITHER
    if is_usual_rate(number, generation):
        return Meaning.RATE
    return Meaning.CLOCK if is_usual_rate(2 * number, generation) else Meaning.NEITHER


def as_size_bytes(number: float) -> int | None:
    """Return the size that a bare number beside a count stands for, in GiB, or in MiB as `8192`; None where modules have no such size."""
    if number in _USUAL_MIB:
        return int(number) * MIB
    return int(number) * GIB if number in _USUAL_GIB else None


def is_size_of(size_bytes: int, generation: Generation | None) -> bool:
    """Return whether a generation has modules of this size: those before DDR5 have none of 12, 24 or 48 GiB. None is any generation."""
    return is_module_size(size_bytes) and (generation not in _EVEN_SIZES or size_bytes & (size_bytes - 1) == 0)


def is_module_size(size_bytes: int) -> bool:
    """Return whether modules of this size are made."""
    return size_bytes in _MODULE_BYTES
