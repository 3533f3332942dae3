"""The codes of findings, and what each may ask for."""

from __future__ import annotations

from enum import StrEnum


class Severity(StrEnum):
    """What a finding asks for: fix blocks the hand-back, tell is for the customer, note is for the record."""

    FIX = "fix"
    TELL = "tell"
    NOTE = "note"


class Code(StrEnum):
    """What a finding is about. Codes keep their meaning: files, `--json` and the record of the sheet carry them."""

    CAPACITY_OVER = "capacity.over"
    CAPACITY_REDUNDANT = "capacity.redundant"
    CAPACITY_BORROWED = "capacity.borrowed"
    CAPACITY_RESERVED = "capacity.reserved"
    CAPACITY_SHORT = "capacity.short"
    CAPACITY_SYSTEM_LIMIT = "capacity.system_limit"
    CAUSE_FOUND = "cause.found"
    CAUSE_OPEN = "cause.open"
    CAUSE_OUTSIDE = "cause.outside"
    CHANNELS_FEWER = "channels.fewer"
    CHANNELS_NODE_EMPTY = "channels.node_empty"
    CHANNELS_PARTIAL = "channels.partial"
    CHANNELS_SINGLE = "channels.single"
    CHANNELS_UNPROVEN = "channels.unproven"
    CHANNELS_WRONG_SLOTS = "channels.wrong_slots"
    DEMAND_PROVEN = "demand.proven"
    DEMAND_SHORT = "demand.short"
    ECC_CORRECTED = "ecc.corrected"
    ECC_OFF = "ecc.off"
    ECC_ON_DIE = "ecc.on_die"
    ECC_UNCORRECTED = "ecc.uncorrected"
    FIRMWARE_CHANGED_NOTICE = "firmware.changed_notice"
    FIRMWARE_RESET = "firmware.reset"
    FIRMWARE_UPDATED = "firmware.updated"
    BENCHMARK_NOT_COMPARABLE = "gauge.not_comparable"
    BENCHMARK_SAME = "gauge.same"
    BENCHMARK_SHORT = "gauge.short"
    BENCHMARK_WORSE = "gauge.worse"
    LIMIT_MODULE = "limit.module"
    LIMIT_RATE = "limit.rate"
    LIMIT_TOTAL = "limit.total"
    LIMIT_UNLISTED = "limit.unlisted"
    MIX_BUFFERED = "mix.buffered"
    MIX_ECC = "mix.ecc"
    MIX_FORM = "mix.form"
    MIX_GENERATION = "mix.generation"
    MIX_MAKER = "mix.maker"
    MIX_RANKS = "mix.ranks"
    MIX_VOLTAGE = "mix.voltage"
    MODULE_DIFFERS = "module.differs"
    MODULE_MISSING = "module.missing"
    MODULE_SHORT = "module.short"
    MODULE_UNEXPECTED = "module.unexpected"
    MODULE_UNREADABLE = "module.unreadable"
    PROFILE_HIDDEN = "profile.hidden"
    PROFILE_LOCKED = "profile.locked"
    PROFILE_NOT_PROMISED = "profile.not_promised"
    PROFILE_OFF = "profile.off"
    PROMISE_DIFFERS = "promise.differs"
    RATE_CAPPED = "rate.capped"
    RATE_LOAD = "rate.load"
    RATE_LOCKED = "rate.locked"
    RATE_PENDING_RESTART = "rate.pending_restart"
    RATE_PLATFORM = "rate.platform"
    RATE_PROFILE_LOWER = "rate.profile_lower"
    RATE_PROFILE_OFF = "rate.profile_off"
    RATE_PROMISE_OUT_OF_REACH = "rate.promise_out_of_reach"
    RATE_SLOWEST_MODULE = "rate.slowest_module"
    RATE_SLOWER = "rate.slower"
    RATE_UNEXPLAINED = "rate.unexplained"
    SLOTS_ELSEWHERE = "slots.elsewhere"
    SLOTS_ORDER = "slots.order"
    SLOTS_SWAPPED = "slots.swapped"
    SOAK_ERRORS = "soak.errors"
    SOAK_NONE = "soak.none"
    SOAK_NOT_ENOUGH = "soak.not_enough"
    SOAK_PARTIAL = "soak.partial"
    SOURCE_DAMAGED = "source.damaged"
    SOURCE_DISAGREE = "source.disagree"
    SOURCE_OTHER_MACHINE = "source.other_machine"
    SOURCE_RIGHTS = "source.rights"
    SOURCE_STICKERS = "source.stickers"
    SOURCE_UNIT = "source.unit"
    SOURCE_VIRTUAL = "source.virtual"
    START_CYCLES = "start.cycles"
    START_NONE = "start.none"
    START_SLOW = "start.slow"
    TIMINGS_LOOSE = "timings.loose"
    TIMINGS_MIXED = "timings.mixed"
    TIMINGS_SLOWER = "timings.slower"
    VOLTAGE_HIGH = "voltage.high"

    @property
    def group(self) -> str:
        """The part before the point: `rate`, `soak`."""
        return self.value.partition(".")[0]


SEVERITIES: dict[Code, tuple[Severity, ...]] = {
    **dict.fromkeys(
        (
            Code.CAPACITY_SHORT,
            Code.ECC_UNCORRECTED,
            Code.FIRMWARE_RESET,
            Code.BENCHMARK_SHORT,
            Code.MIX_BUFFERED,
            Code.MIX_FORM,
            Code.MIX_GENERATION,
            Code.MODULE_DIFFERS,
            Code.MODULE_MISSING,
            Code.MODULE_SHORT,
            Code.PROFILE_LOCKED,
            Code.PROMISE_DIFFERS,
            Code.PROFILE_NOT_PROMISED,
            Code.SLOTS_ELSEWHERE,
            Code.SOAK_ERRORS,
            Code.START_NONE,
        ),
        (Severity.FIX,),
    ),
    **dict.fromkeys(
        (
            Code.CAPACITY_OVER,
            Code.CAPACITY_REDUNDANT,
            Code.CHANNELS_NODE_EMPTY,
            Code.DEMAND_PROVEN,
            Code.DEMAND_SHORT,
            Code.BENCHMARK_SAME,
            Code.BENCHMARK_WORSE,
            Code.CHANNELS_FEWER,
            Code.LIMIT_RATE,
            Code.MIX_VOLTAGE,
            Code.RATE_PLATFORM,
            Code.RATE_SLOWER,
            Code.SLOTS_SWAPPED,
            Code.SOAK_NOT_ENOUGH,
            Code.SOAK_PARTIAL,
            Code.SOURCE_OTHER_MACHINE,
            Code.SOURCE_STICKERS,
            Code.SOURCE_VIRTUAL,
            Code.START_CYCLES,
            Code.START_SLOW,
            Code.VOLTAGE_HIGH,
        ),
        (Severity.TELL,),
    ),
    **dict.fromkeys(
        (
            Code.CAPACITY_BORROWED,
            Code.ECC_ON_DIE,
            Code.FIRMWARE_UPDATED,
            Code.BENCHMARK_NOT_COMPARABLE,
            Code.MIX_MAKER,
            Code.MIX_RANKS,
            Code.MODULE_UNREADABLE,
            Code.SLOTS_ORDER,
            Code.SOAK_NONE,
            Code.SOURCE_DAMAGED,
            Code.SOURCE_RIGHTS,
            Code.SOURCE_UNIT,
        ),
        (Severity.NOTE,),
    ),
    Code.PROFILE_HIDDEN: (Severity.FIX, Severity.TELL, Severity.NOTE),
    Code.CAPACITY_SYSTEM_LIMIT: (Severity.FIX, Severity.TELL),
    Code.ECC_CORRECTED: (Severity.FIX, Severity.TELL),
    Code.ECC_OFF: (Severity.FIX, Severity.TELL),
    Code.FIRMWARE_CHANGED_NOTICE: (Severity.TELL, Severity.NOTE),
    Code.SOURCE_DISAGREE: (Severity.TELL, Severity.NOTE),
    Code.TIMINGS_LOOSE: (Severity.FIX, Severity.TELL),
    Code.CAPACITY_RESERVED: (Severity.TELL, Severity.NOTE),
    Code.TIMINGS_SLOWER: (Severity.TELL, Severity.NOTE),
    Code.TIMINGS_MIXED: (Severity.TELL, Severity.NOTE),
    Code.CHANNELS_PARTIAL: (Severity.FIX, Severity.TELL),
    Code.CAUSE_FOUND: (Severity.FIX, Severity.NOTE),
    Code.CAUSE_OPEN: (Severity.FIX, Severity.NOTE),
    Code.CAUSE_OUTSIDE: (Severity.FIX, Severity.TELL, Severity.NOTE),
    Code.CHANNELS_UNPROVEN: (Severity.TELL, Severity.NOTE),
    Code.CHANNELS_WRONG_SLOTS: (Severity.FIX, Severity.TELL),
    Code.CHANNELS_SINGLE: (Severity.FIX, Severity.TELL, Severity.NOTE),
    Code.LIMIT_MODULE: (Severity.FIX, Severity.TELL),
    Code.LIMIT_TOTAL: (Severity.FIX, Severity.TELL),
    Code.LIMIT_UNLISTED: (Severity.FIX, Severity.TELL),
    Code.MIX_ECC: (Severity.FIX, Severity.TELL, Severity.NOTE),
    Code.MODULE_UNEXPECTED: (Severity.TELL, Severity.NOTE),
    Code.PROFILE_OFF: (Severity.FIX, Severity.TELL),
    Code.RATE_CAPPED: (Severity.FIX, Severity.TELL),
    Code.RATE_LOAD: (Severity.FIX, Severity.TELL),
    Code.RATE_LOCKED: (Severity.FIX, Severity.TELL),
    Code.RATE_PENDING_RESTART: (Severity.FIX, Severity.TELL),
    Code.RATE_PROFILE_LOWER: (Severity.FIX, Severity.TELL),
    Code.RATE_PROFILE_OFF: (Severity.FIX, Severity.TELL),
    Code.RATE_PROMISE_OUT_OF_REACH: (Severity.FIX, Severity.TELL),
    Code.RATE_SLOWEST_MODULE: (Severity.FIX, Severity.TELL),
    Code.RATE_UNEXPLAINED: (Severity.FIX, Severity.TELL),
}
"""What each finding may ask for. Most always ask for the same; a low rate is to fix where another one was promised, and told where not."""
