"""Data rates in words: what caps one, what is to be expected, and over how many channels it is spread."""

from __future__ import annotations

from after_check.domain.findings import Ceiling, CeilingKind, ChannelPart, ExpectedRate
from after_check.domain.quantities import counted, size_text


def ceiling_words(ceiling: Ceiling) -> str:
    """Return what caps a data rate in a few words."""
    match ceiling.kind:
        case CeilingKind.PROMISE:
            return "promised"
        case CeilingKind.PROFILE:
            return f"modules, profile {ceiling.number}"
        case CeilingKind.PLATFORM:
            return f"machine, {ceiling.per_channel} a channel"
        case CeilingKind.FIRMWARE:
            return "firmware limit"
        case CeilingKind.STANDARD:
            return "modules, standard"
        case CeilingKind.AS_RUNNING:
            return "modules, standard (as it runs)"
        case CeilingKind.SLOWEST:
            return "slowest module"
        case CeilingKind.AS_SOLD:
            return "modules, as sold"


def one_a_cause(ceilings: tuple[Ceiling, ...]) -> tuple[Ceiling, ...]:
    """Return the ceilings with one for each cause: what the slowest module states is not told a second time as what all state."""
    slowest = {ceiling.rate_mts for ceiling in ceilings if ceiling.kind is CeilingKind.SLOWEST}
    same = (CeilingKind.STANDARD, CeilingKind.AS_RUNNING, CeilingKind.AS_SOLD)
    return tuple(one for one in ceilings if one.binding or one.kind not in same or one.rate_mts not in slowest)


def expected_words(expected: ExpectedRate) -> str:
    """Return a rate or an interval in words: `4800 MT/s`, `4800 to 6400 MT/s`."""
    if expected.low_mts is None:
        return f"{expected.high_mts} MT/s at most"
    if expected.low_mts == expected.high_mts:
        return f"{expected.high_mts} MT/s"
    return f"{expected.low_mts} to {expected.high_mts} MT/s"


def expected_range_words(expected_mts: tuple[int | None, int | None], parts: tuple[ChannelPart, ...]) -> tuple[str, ...]:
    """Return what can be expected of a plan, in sentences: its speed, and how it is spread over channels."""
    low, high = expected_mts
    said = []
    if high is not None:
        said.append(f"{high} MT/s" if low in (None, high) else f"{high} MT/s at most, {low} MT/s at the least")
    said += [f"{size_text(part.size_bytes)} on {counted(part.ways, 'channel')}" for part in parts]
    return tuple(said)
