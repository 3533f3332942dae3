"""Capacity and clocks: the formulas that the SPD documents share."""

from __future__ import annotations

from after_check.domain.modules import Generation, Timings
from after_check.standards.rates import STANDARD_RATES_MTS, snap_rate

MBIT_BYTES = 1 << 17
"""A megabit of an SDRAM, in bytes."""

SHORTEST_TCK_PS, LONGEST_TCK_PS = 100, 20_000
"""A clock outside of these is no clock of any memory (20,000 down to 100 MT/s)."""


def capacity_bytes(density_mbit: int | None, bus_bits: int | None, device_bits: int | None, ranks: int | None) -> int | None:
    """Return SDRAM capacity / 8 × bus width / SDRAM width × ranks (JESD21-C annexes K and L, "module capacity")."""
    if not density_mbit or not bus_bits or not device_bits or not ranks:
        return None
    return density_mbit * MBIT_BYTES * (bus_bits // device_bits) * ranks if bus_bits >= device_bits else None


def standard_rate(tck_ps: int | None, generation: Generation) -> int | None:
    """Return the fastest standard rate for a shortest clock: 937 ps is 2133, 682 ps is 2933, 416 ps is 4800."""
    if tck_ps is None or not SHORTEST_TCK_PS <= tck_ps <= LONGEST_TCK_PS:
        return None
    exact = 2_000_000 / tck_ps
    # The clock is rounded to whole ps, and downwards for DDR5, so the bin is the nearest one within 1 %.
    nearest = min(STANDARD_RATES_MTS[generation], key=lambda rate: abs(rate - exact))
    return nearest if abs(nearest - exact) <= 0.01 * exact else snap_rate(exact, generation)


def timings_at(
    tck_ps: int | None,
    times_ps: tuple[int | None, int | None, int | None, int | None],
    latencies: tuple[int, ...],
    generation: Generation,
    rounded: bool = True,
) -> Timings | None:
    """Return tAA, tRCD, tRP and tRAS in clocks of `tck_ps`; CL is rounded up to a supported latency where those are known.

    `rounded` is whether the times are stored in a base too coarse for them, as in profile blocks.
    """
    taa_ps, trcd_ps, trp_ps, tras_ps = times_ps
    if not tck_ps or not taa_ps:
        return None
    cl = clocks(taa_ps, tck_ps, generation, rounded)
    cl = next((latency for latency in sorted(latencies) if latency >= cl), cl)
    if not trcd_ps or not trp_ps:
        return Timings(cl)
    trcd, trp = (clocks(time_ps, tck_ps, generation, rounded) for time_ps in (trcd_ps, trp_ps))
    return Timings(cl, trcd, trp, clocks(tras_ps, tck_ps, generation, rounded) if tras_ps else None)


def clocks(time_ps: int, tck_ps: int, generation: Generation, rounded: bool = True) -> int:
    """Return a time in clocks by the rounding rule of the generation.

    DDR4 takes 2.5 % off before rounding up (JESD79-4, "rounding algorithms"), DDR5 0.3 % (JESD79-5, same name); DDR3 a
    hundredth of a clock where a fine time base gives the times to a ps (JESD21-C annex K). What is stored rounded is off by up
    to 1 %.
    """
    if generation is Generation.DDR4:
        return (time_ps * 1000 // tck_ps + 974) // 1000
    if generation is Generation.DDR5:
        return (time_ps * 997 // tck_ps + 1000) // 1000
    return -((-time_ps * 99) // (tck_ps * 100)) if rounded else -((tck_ps - time_ps * 100) // (tck_ps * 100))
