"""How much memory there is: fitted, counted by the firmware, usable by the system."""

from __future__ import annotations

from dataclasses import dataclass, replace

from after_check.domain.boards import Filling
from after_check.domain.facts import Fact, Source, value_of
from after_check.domain.quantities import GIB, size_text
from after_check.domain.readings import Reading, Redundancy

_RESERVE_SHARE = 1 / 8
_RESERVE_BYTES = 2 * GIB
"""Firmware, graphics and the kernel keep up to about this much without a word; above it the gap is worth telling."""
_LARGEST_NAMED_SHARE = 1 / 4
"""Graphics without memory of their own are given an eighth to a quarter of it; more has to be asked about."""
_SYSTEM_LIMIT_32_BIT_BYTES = 4 * GIB
_BINARY_OVER_DECIMAL = GIB / 1e9
"""How much larger an amount in GiB is than the same number of GB (IEC 80000-13)."""


@dataclass(frozen=True, slots=True)
class Capacity:
    """What is known of the amount of memory in one reading, in bytes.

    `now_bytes` is what the customer has. `kept_back_bytes` is what graphics and firmware are known to keep, `gap_bytes`
    what the system does not get of the total beside it; `gap_is_large` when it is as much as half a module and more than
    this machine kept on arrival; `capped_by_system` when a 32-bit system, its edition or a start option is why. `doubt`
    says how an amount was taken that may be meant in thousands.
    """

    fitted_bytes: int | None
    total_bytes: int | None
    usable_bytes: int | None
    now_bytes: int | None
    source: Source | None
    basis: str
    gap_bytes: int = 0
    kept_back_bytes: int = 0
    gap_is_large: bool = False
    gap_is_notable: bool = False
    capped_by_system: bool = False
    uncounted_bytes: int = 0
    contradiction: str = ""
    doubt: str = ""


def look_at_capacity(reading: Reading, usually_kept_back_bytes: int = 0, named_before_bytes: int = 0) -> Capacity:
    """Work out the amount of memory that a reading shows, of a machine that kept so much of it back on arrival.

    `named_before_bytes` is what graphics and firmware were known to keep then.
    """
    reading, doubt = _in_binary(reading)
    return replace(_capacity(reading, usually_kept_back_bytes, named_before_bytes), doubt=doubt)


def _capacity(reading: Reading, usually_kept_back_bytes: int, named_before_bytes: int) -> Capacity:
    fitted = _fitted_bytes(reading)
    usable = _usable(reading)
    of_nodes = sum(node.total_bytes for node in reading.nodes) if len(reading.nodes) > 1 else None
    usable = of_nodes if usable is None else usable
    kept_back = (value_of(reading.graphics_bytes) or 0) + (value_of(reading.reserved_bytes) or 0)
    total, source, basis = _total(reading, fitted, kept_back)
    shown = value_of(reading.total_bytes)
    uncounted = max(0, fitted - total) if fitted is not None and total is not None else 0
    contradiction = ""
    if fitted is not None and shown is not None and shown > fitted and not _is_reserve(shown - fitted, reading):
        contradiction = f"the firmware counts {size_text(shown)}, and the listed modules add up to {size_text(fitted)}"
        return Capacity(fitted, total, usable, None, source, basis, contradiction=contradiction)
    if of_nodes is not None and usable is not None and abs(of_nodes - usable) > max(usable / 16, GIB / 2):
        contradiction = f"the memory nodes add up to {size_text(of_nodes)}, and the system can use {size_text(usable)}"
        return Capacity(fitted, total, usable, None, source, basis, contradiction=contradiction)
    if total is None:
        return _from_usable(fitted, usable, reading.usable_bytes or reading.in_use_bytes)
    # A name explains a gap up to what is usual for its kind, and up to what it was on arrival; the rest is missing.
    explained = min(kept_back, max(round(total * _LARGEST_NAMED_SHARE), named_before_bytes))
    if usable is None and kept_back > explained:
        usable = total - kept_back
    if usable is None:
        return Capacity(
            fitted, total, None, total, source, basis, kept_back_bytes=kept_back, uncounted_bytes=uncounted, contradiction=contradiction
        )
    if usable > total:
        counted = "the firmware counts" if shown is not None else "the modules add up to"
        contradiction = f"the system uses {size_text(usable)}, and {counted} {size_text(total)}"
        return Capacity(fitted, total, usable, None, source, basis, contradiction=contradiction)
    gap = max(0, total - usable - explained)
    large = gap > 0 and gap >= _half_module_bytes(reading, total) and gap > usually_kept_back_bytes + GIB / 4
    # Half of the memory is never normal, whatever it is called.
    large = large or (total - usable >= total / 2 and total - usable > usually_kept_back_bytes + named_before_bytes + GIB / 4)
    gap = max(gap, total - usable) if large else gap
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
        kept_back_bytes=kept_back,
        gap_is_large=large,
        gap_is_notable=gap > max(_RESERVE_BYTES, total * _RESERVE_SHARE, usually_kept_back_bytes),
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


def _usable(reading: Reading) -> int | None:
    """Return what the system can use: as it says, else what is in use and what is available together."""
    in_use, available = value_of(reading.in_use_bytes), value_of(reading.available_bytes)
    if reading.usable_bytes is None and in_use is not None and available is not None:
        return in_use + available
    return value_of(reading.usable_bytes)


def _in_binary(reading: Reading) -> tuple[Reading, str]:
    """Return a reading whose total and usable amount are in binary units, and how one was taken that was meant in thousands.

    Screens that count in thousands show 32 GiB as 34.4 GB. An amount is taken so where it fits the modules, or a usual
    total, in thousands and does not fit otherwise.
    """
    fitted = _fitted_bytes(reading)
    total, usable = reading.total_bytes, reading.usable_bytes
    doubts: list[str] = []
    if total is not None and (meant := _meant_in_thousands(total.value, fitted)) is not None:
        doubts.append(f"{total.value / GIB:.1f} GB, counted in thousands, are {size_text(meant)}")
        total = replace(total, value=meant)
        reading = replace(reading, total_bytes=total)
    whole = total.value if total is not None else fitted
    if usable is not None and whole is not None and whole < usable.value <= whole * _BINARY_OVER_DECIMAL:
        meant = min(whole, round(usable.value / _BINARY_OVER_DECIMAL))
        doubts.append(f"{usable.value / GIB:.1f} GB, counted in thousands, are {size_text(meant)}")
        reading = replace(reading, usable_bytes=replace(usable, value=meant))
    return reading, "; ".join(doubts)


def _meant_in_thousands(shown_bytes: int, fitted_bytes: int | None) -> int | None:
    meant = shown_bytes / _BINARY_OVER_DECIMAL
    if fitted_bytes is not None:
        return fitted_bytes if shown_bytes > fitted_bytes and abs(meant - fitted_bytes) <= fitted_bytes * 0.005 else None
    whole = round(meant / GIB)
    shown_gib = shown_bytes / GIB
    is_usual = whole >= 4 and whole % 4 == 0
    is_whole_already = abs(shown_gib - round(shown_gib)) < 0.05
    return whole * GIB if is_usual and not is_whole_already and abs(meant - whole * GIB) <= whole * GIB * 0.003 else None


def _total(reading: Reading, fitted: int | None, kept_back: int) -> tuple[int | None, Source | None, str]:
    """Return the total, its source and its basis: the firmware's count, unless it is the fitted amount less what is kept back."""
    if reading.total_bytes is not None:
        shown = reading.total_bytes.value
        if fitted is not None and kept_back and shown < fitted and abs(fitted - shown - kept_back) < GIB / 2:
            return fitted, Source.WORKED_OUT, f"the modules' sum; the firmware shows {size_text(shown)} without what is kept back"
        if fitted is not None and shown < fitted and _is_reserve(fitted - shown, reading):
            return fitted, Source.WORKED_OUT, f"the modules' sum; the firmware shows {size_text(shown)} less a reserve"
        return shown, reading.total_bytes.source, "the firmware's total"
    kept_twice = value_of(reading.redundancy)
    if fitted is None or kept_twice is Redundancy.SPARE:
        return None, None, ""  # How many ranks are held in reserve only the firmware's count says.
    if kept_twice is Redundancy.MIRRORED:
        return fitted // 2, Source.WORKED_OUT, "half of the modules' sum; every byte is kept twice"
    sources = {module.size_bytes.source for module in reading.modules if module.size_bytes}
    return fitted, sources.pop() if len(sources) == 1 else Source.WORKED_OUT, "the sum of the modules"


def lists_too_little(reading: Reading) -> bool:
    """Return whether the machine counts more than the listed modules have, by half a module or more: one is not in the list."""
    total_bytes, fitted = value_of(reading.total_bytes), _fitted_bytes(reading)
    return total_bytes is not None and fitted is not None and total_bytes - fitted >= _half_module_bytes(reading, fitted)


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
