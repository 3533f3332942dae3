"""The rules: each a small function from a case to findings, in a file of its kind, listed in one table."""

from __future__ import annotations

from collections.abc import Callable, Iterable

from after_check.domain.findings import Finding
from after_check.judgement.case import Case
from after_check.judgement.rules import capacity, channels, errors, firmware, limits, mix, modules, profile, rate, source, trials, tried

Rule = Callable[[Case], Iterable[Finding]]

RULES: tuple[Rule, ...] = (
    source.virtual,
    tried.found,
    trials.start_outcome,
    trials.soak_errors,
    trials.outside,
    modules.missing,
    modules.short,
    capacity.short,
    capacity.over,
    capacity.system_limit,
    capacity.redundant,
    capacity.reserved,
    modules.unexpected,
    modules.unreadable,
    mix.generation,
    mix.form,
    mix.buffered,
    mix.ecc,
    mix.voltage,
    errors.uncorrected,
    errors.corrected,
    rate.short,
    profile.off,
    profile.locked,
    profile.hidden,
    profile.not_promised,
    channels.single,
    channels.wrong_slots,
    channels.partial,
    channels.unproven,
    channels.node_empty,
    firmware.reset,
    trials.soak_partial,
    trials.benchmark_outcome,
    trials.benchmark_short,
    trials.demand,
    limits.total,
    limits.module,
    limits.unlisted,
    mix.timings_slower,
    mix.timings_mixed,
    mix.ranks,
    mix.maker,
    firmware.changed_notice,
    source.rights,
    source.damaged,
    source.disagree,
    source.unit,
    trials.soak_none,
)
"""Every rule, in the order in which findings of one severity are shown."""
