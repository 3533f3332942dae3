"""A module of the domain from an SPD image."""

from __future__ import annotations

from after_check.domain.facts import Fact, Source, T
from after_check.domain.modules import Generation, Module
from after_check.domain.readings import Notice, NoticeKind
from after_check.standards.spd import SpdModule
from after_check.standards.spd.organisation import timings_at


def module_from_spd(spd: SpdModule, where: str) -> Module:
    """Return what an SPD image says as a module; an unsound check sum is named beside every fact it covers."""
    place = where if spd.base_sound else f"{where}, check sum wrong"

    def fact(value: T | None) -> Fact[T] | None:
        return None if value is None else Fact(value, Source.SPD, place)

    rates = [profile.rate_mts for profile in spd.profiles] + ([spd.standard_mts] if spd.standard_mts else [])
    times = (spd.taa_ps, spd.trcd_ps, spd.trp_ps, spd.tras_ps)
    return Module(
        size_bytes=fact(spd.size_bytes),
        generation=fact(spd.generation),
        form=fact(spd.form),
        rated_mts=fact(max(rates, default=None)),
        standard_mts=fact(spd.standard_mts),
        profiles=fact(spd.profiles) if spd.profiles_read else None,
        timings=fact(timings_at(spd.tck_ps, times, spd.cas_latencies, spd.generation, rounded=spd.generation is not Generation.DDR3)),
        ranks=fact(spd.ranks * spd.dies if spd.ranks else None),
        device_width_bits=fact(spd.device_width_bits),
        data_width_bits=fact(spd.data_width_bits),
        voltage_mv=fact(spd.voltage_mv),
        ecc=fact(spd.ecc),
        maker_id=fact(spd.maker),
        part=fact(spd.part),
        serial=fact(spd.serial),
        made=fact(spd.made),
    )


def spd_notices(spd: SpdModule, where: str) -> list[Notice]:
    """Return what is wrong with an image."""
    return [Notice(NoticeKind.DAMAGED, f"the module's SPD: {problem}", where, "read it again") for problem in spd.problems]
