"""A memory module as far as it is known."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from after_check.domain.facts import Fact


class Generation(StrEnum):
    """Memory generations, by their JEDEC names."""

    DDR = "DDR"
    DDR2 = "DDR2"
    DDR3 = "DDR3"
    DDR4 = "DDR4"
    DDR5 = "DDR5"
    LPDDR3 = "LPDDR3"
    LPDDR4 = "LPDDR4"
    LPDDR4X = "LPDDR4X"
    LPDDR5 = "LPDDR5"
    LPDDR5X = "LPDDR5X"


class Form(StrEnum):
    """How the memory is built in."""

    UDIMM = "UDIMM"
    SODIMM = "SODIMM"
    RDIMM = "RDIMM"
    LRDIMM = "LRDIMM"
    CAMM = "CAMM"
    SOLDERED = "soldered"


@dataclass(frozen=True, slots=True)
class Timings:
    """The primary timings in clocks: CL-tRCD-tRP-tRAS; what was not given is None."""

    cl: int
    trcd: int | None = None
    trp: int | None = None
    tras: int | None = None

    @property
    def figures(self) -> tuple[int | None, ...]:
        """The four figures in their order; None where one was not given."""
        return (self.cl, self.trcd, self.trp, self.tras)

    def longer_than(self, wanted: Timings) -> bool:
        """Return whether any figure that both have is longer than wanted."""
        return any(own is not None and asked is not None and own > asked for own, asked in zip(self.figures, wanted.figures, strict=True))

    def tells(self, wanted: Timings) -> bool:
        """Return whether every figure that is wanted is known."""
        return all(asked is None or own is not None for own, asked in zip(self.figures, wanted.figures, strict=True))

    def __str__(self) -> str:
        if self.trcd is None or self.trp is None:
            return f"CL{self.cl}"
        parts = [self.cl, self.trcd, self.trp] + ([] if self.tras is None else [self.tras])
        return "-".join(str(part) for part in parts)


@dataclass(frozen=True, slots=True)
class Profile:
    """A memory profile that a module holds: its number, rate in MT/s, timings and voltage in mV."""

    number: int
    rate_mts: int
    timings: Timings | None = None
    voltage_mv: int | None = None


@dataclass(frozen=True, slots=True, order=True)
class ManufactureWeek:
    """Year and ISO 8601 week of manufacture."""

    year: int
    week: int

    def __str__(self) -> str:
        return f"{self.year}-W{self.week:02d}"


@dataclass(frozen=True, slots=True, order=True)
class MakerId:
    """A maker by its JEDEC code (JEP106): bank from 1, code without its parity bit."""

    bank: int
    code: int

    def __str__(self) -> str:
        return f"bank {self.bank}, code 0x{self.code:02X}"


@dataclass(frozen=True, slots=True)
class Module:
    """One memory module. A field that is None is not known; `profiles` of () says that it holds none."""

    size_bytes: Fact[int] | None = None
    generation: Fact[Generation] | None = None
    form: Fact[Form] | None = None
    rated_mts: Fact[int] | None = None
    standard_mts: Fact[int] | None = None
    running_mts: Fact[int] | None = None
    profiles: Fact[tuple[Profile, ...]] | None = None
    timings: Fact[Timings] | None = None
    ranks: Fact[int] | None = None
    device_width_bits: Fact[int] | None = None
    data_width_bits: Fact[int] | None = None
    voltage_mv: Fact[int] | None = None
    ecc: Fact[bool] | None = None
    maker: Fact[str] | None = None
    maker_id: Fact[MakerId] | None = None
    part: Fact[str] | None = None
    serial: Fact[str] | None = None
    made: Fact[ManufactureWeek] | None = None
    label: Fact[str] | None = None
