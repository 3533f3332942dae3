"""What to consider later: worked out from the card and from what is fitted."""

from __future__ import annotations

from after_check.domain.boards import Filling
from after_check.domain.cards import Card, ProfileChoice
from after_check.domain.facts import value_of
from after_check.domain.findings import Judgement
from after_check.domain.promises import Promise
from after_check.domain.quantities import GIB, size_text
from after_check.domain.readings import Reading
from after_check.domain.standing import Quantity


def suggestions(reading: Reading | None, promise: Promise | None, judgement: Judgement, card: Card | None) -> tuple[str, ...]:
    """Return sentences for the customer, the most useful first; none where nothing can be said."""
    if reading is None or not reading.modules:
        return ()
    found = [_second_module(reading, judgement), _faster_modules(promise, judgement, card), _more(reading, judgement, card)]
    return tuple(part for part in found if part)


def _second_module(reading: Reading, judgement: Judgement) -> str:
    channels = judgement.track(Quantity.CHANNELS)
    free = [slot.name for slot in reading.slots if slot.filling is Filling.EMPTY]
    if channels is None or channels.now != 1 or len(reading.modules) != 1 or not free:
        return ""
    size = value_of(reading.modules[0].size_bytes)
    like = f" of {size_text(size)}" if size else ""
    return f"A second, matching module{like} would open the second memory channel; it often helps more than its size does."


def _faster_modules(promise: Promise | None, judgement: Judgement, card: Card | None) -> str:
    rate = judgement.track(Quantity.RATE)
    if card is None or card.profile is not ProfileChoice.LOCKED or promise is None or rate is None or not isinstance(rate.now, int | float):
        return ""
    wanted = promise.rate_mts
    highest = card.highest_rate_mts
    if wanted is None or wanted <= rate.now:
        return ""
    reach = min(wanted, highest) if highest else wanted
    return f"This machine has no memory profile: only modules whose own standard pace is {reach} MT/s would run at it."


def _more(reading: Reading, judgement: Judgement, card: Card | None) -> str:
    capacity = judgement.track(Quantity.CAPACITY)
    if card is None or card.total_bytes is None or capacity is None or not isinstance(capacity.now, int | float):
        return ""
    left = card.total_bytes - round(capacity.now * GIB)
    if left < GIB:
        return ""
    free = sum(slot.filling is Filling.EMPTY for slot in reading.slots)
    how = f"{free} slot{'s are' if free > 1 else ' is'} free" if free else "larger modules would have to take the place of these"
    return f"The machine takes up to {size_text(card.total_bytes)}, {size_text(left)} more than it has now; {how}."
