"""How much memory there is: fitted, counted by the firmware, usable by the system."""

from __future__ import annotations

from dataclasses import dataclass

from after_check.domain.boards import Filling
from after_check.domain.facts import Fact, Source, value_of
from after_check.domain.quantities import GIB, size_text
from after_check.domain.readings import Reading

_RESERVE_SHARE = 1 / 8
_RESERVE_BYTES = 2 * GIB
"""Firmware, graphics and the kernel keep up to about this much without a word; above it the gap is worth telling."""
_SYSTEM_LIMIT_32_BIT_BYTES = 4 * GIB


@dataclass(frozen=True, slots=True)
class Capacity:
    """What is known of the amount of memory in one reading, in bytes.

    `now_bytes` is what the customer has. `gap_bytes` is what the system does not get of the total, without
    graphics; `gap_is_large` when it is as much as half a module; `capped_by_system` when a 32-bit system, its edition
    or a start option is why.
    """

    fitted_bytes: int | None
    total_bytes: int | None
    usable_bytes: int | None
    now_bytes: int | None
    source: Source | None
    basis: str
    gap_bytes: int = 0
    gap_is_large: bool = False
    gap_is_notable: bool = False
    capped_by_system: bool = False
    uncounted_bytes: int = 0
    contradiction: str = ""


def look_at_capacity(reading: Reading) -> Capacity:
    """Work out the amount of memory that a reading shows."""
    fitted = _fitted_bytes(reading)
    usable = value_of(reading.usable_bytes)
    total, source, basis = _total(reading, fitted)
    shown = value_of(reading.total_bytes)
    uncounted = max(0, fitted - total) if fitted is not None and total is not None else 0
    contradiction = ""
    if fitted is not None and shown is not None and shown > fitted and not _is_reserve(shown - fitted, reading):
        contradiction = f"the firmware counts {size_text(shown)}, and the listed modules add up to {size_text(fitted)}"
    if total is None:
        return _from_usable(fitted, usable, reading.usable_bytes)
    if usable is None:
        return Capacity(fitted, total, None, total, source, basis, uncounted_bytes=uncounted, contradiction=contradiction)
    if usable > total:
        contradiction = f"the system uses {size_text(usable)}, and the firmware counts {size_text(total)}"
        return Capacity(fitted, total, usable, None, source, basis, contradiction=contradiction)
    gap = max(0, total - usable - (value_of(reading.graphics_bytes) or 0))
    large = gap > 0 and gap >= _half_module_bytes(reading, total)
    limit = value_of(reading.system_limit_bytes)
    capped = value_of(reading.system_bits) == 32 and total >= _SYSTEM_LIMIT_32_BIT_BYTES and usable < _SYSTEM_LIMIT_32_BIT_BYTES and gap > 0
    capped = capped or (limit is not None and usable <= limit < total)
    if large or capped:
        source, basis = Source.SYSTEM if reading.usable_bytes is None else reading.usable_bytes.source, "what the system can use"
    return Capacity(
        fitted_bytes=fitted,
        total_bytes=total,
        usable_bytes=usable,
        now_bytes=usable if large or capped else total,
        source=source,
        basis=basis,
        gap_bytes=gap,
        gap_is_large=large,
        gap_is_notable=gap > max(_RESERVE_BYTES, total * _RESERVE_SHARE),
        capped_by_system=capped,
        uncounted_bytes=uncounted,
        contradiction=contradiction,
    )


def limit_just_above(usable_bytes: int) -> int | None:
    """Return the power of two that a usable amount stays just under, as under a limit of a system; None where it does not."""
    limit = 1 << max(usable_bytes - 1, 1).bit_length()
    return limit if usable_bytes >= limit * (1 - 1 / 32) else None


def kept_by_usable(usable_bytes: int, promised_bytes: int, smallest_module_bytes: int | None) -> bool:
    """Return whether a usable amount can only come from the promised total: less than half a module is missing."""
    gap = promised_bytes - usable_bytes
    return gap <= 0 or gap < min((smallest_module_bytes or promised_bytes) / 2, max(_RESERVE_BYTES, promised_bytes * _RESERVE_SHARE))


def _fitted_bytes(reading: Reading) -> int | None:
    """Return the sum of the modules; None where a size or the filling of a slot is not known."""
    sizes = [value_of(module.size_bytes) for module in reading.modules]
    known = [size for size in sizes if size is not None]
    if not known or len(known) < len(sizes) or any(slot.filling is Filling.UNKNOWN for slot in reading.slots):
        return None
    return sum(known)


def _total(reading: Reading, fitted: int | None) -> tuple[int | None, Source | None, str]:
    """Return the total, its source and its basis: the firmware's count, unless it is the fitted amount less a reserve."""
    if reading.total_bytes is not None:
        shown = reading.total_bytes.value
        if fitted is not None and shown < fitted and _is_reserve(fitted - shown, reading):
            return fitted, Source.WORKED_OUT, f"the modules' sum; the firmware shows {size_text(shown)} less a reserve"
        return shown, reading.total_bytes.source, "the firmware's total"
    if fitted is None:
        return None, None, ""
    sources = {module.size_bytes.source for module in reading.modules if module.size_bytes}
    return fitted, sources.pop() if len(sources) == 1 else Source.WORKED_OUT, "the sum of the modules"


def _from_usable(fitted: int | None, usable: int | None, fact: Fact[int] | None) -> Capacity:
    if usable is None or fact is None:
        return Capacity(fitted, None, None, None, None, "")
    return Capacity(fitted, None, usable, usable, fact.source, "what the system can use; the fitted total is not known")


def _is_reserve(difference_bytes: int, reading: Reading) -> bool:
    """Whether a difference is small enough to be a reserve and not half a module."""
    total = sum(value_of(module.size_bytes) or 0 for module in reading.modules)
    return difference_bytes < min(_half_module_bytes(reading, total), max(_RESERVE_BYTES, total * _RESERVE_SHARE))


def _half_module_bytes(reading: Reading, total_bytes: int) -> float:
    sizes = [size for module in reading.modules if (size := value_of(module.size_bytes))]
    return min(sizes, default=total_bytes) / 2
