"""What can be known before a machine is opened: whether the promise can be kept, what goes where, and what to buy to match."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from enum import StrEnum

from after_check.domain.boards import board_order
from after_check.domain.cards import Card, EccSupport, ProfileChoice
from after_check.domain.facts import value_of
from after_check.domain.findings import ChannelPart
from after_check.domain.modules import Form, Generation, Module
from after_check.domain.promises import Promise
from after_check.domain.quantities import GIB, counted, size_text
from after_check.domain.readings import ProfileState, Reading
from after_check.judgement.case import ReadingView, view
from after_check.judgement.ceilings import modules_per_channel
from after_check.judgement.channels import channel_parts
from after_check.judgement.expected import expected_rate
from after_check.judgement.reconcile import reconciled
from after_check.judgement.running_rate import best_rate_mts, common_generation, standard_rate_mts
from after_check.judgement.slot_plan import kept_and_new, planned
from after_check.standards.rates import is_standard_rate, same_rate

_LARGEST_32_BIT_BYTES = 4 * GIB
_REGISTERED = (Form.RDIMM, Form.LRDIMM)


class Weight(StrEnum):
    """How much a remark weighs: STOP before anything is opened, MIND it, or know it."""

    STOP = "stop"
    MIND = "mind"
    SAYS = "says"


@dataclass(frozen=True, slots=True)
class Remark:
    """Something to know beforehand, and what to do about it."""

    weight: Weight
    words: str
    do: str = ""


@dataclass(frozen=True, slots=True)
class BeforeFitting:
    """What is known beforehand.

    `plan` is the board as it is to be, `kept` the slots whose modules stay, `to_buy` a line for each kind of module.
    """

    remarks: tuple[Remark, ...]
    plan: Reading
    kept: tuple[str, ...] = ()
    to_buy: tuple[str, ...] = ()
    parts: tuple[ChannelPart, ...] = ()
    expected_mts: tuple[int | None, int | None] = (None, None)
    missing: tuple[str, ...] = ()

    @property
    def stops(self) -> bool:
        """Whether something speaks against opening the machine at all."""
        return any(remark.weight is Weight.STOP for remark in self.remarks)


@dataclass(frozen=True, slots=True)
class _Plan:
    arrival: Reading
    promise: Promise
    card: Card | None
    seen: ReadingView
    new: tuple[Module, ...]

    @property
    def name(self) -> str:
        return self.card.name if self.card is not None else "This machine"

    @property
    def total_bytes(self) -> int | None:
        sizes = [value_of(module.size_bytes) for module in self.seen.reading.modules]
        return self.promise.total_bytes or (sum(size for size in sizes if size) if sizes and None not in sizes else None)


def look_before_fitting(arrival: Reading | None, promise: Promise | None, card: Card | None) -> BeforeFitting:
    """Return what can be said of a promise before anything is fitted."""
    arrival, promise = reconciled(arrival) if arrival is not None else Reading(), promise or Promise()
    kept, new = kept_and_new(arrival, promise)
    new = tuple(_as_beside(module, arrival, card) for module in new)
    seen = view(planned(arrival, _with_new(promise, arrival, card), card), card)
    plan = _Plan(arrival, promise, card, seen, new)
    rate = expected_rate(_as_promised(plan), card) if seen.reading.modules else None
    found = [remark for rule in _RULES for remark in rule(plan)]
    order = list(Weight)
    return BeforeFitting(
        remarks=tuple(sorted(found, key=lambda remark: order.index(remark.weight))),
        plan=replace(seen.reading, slots=tuple(sorted(seen.reading.slots, key=board_order))),
        kept=tuple(name for name, _ in kept if name),
        to_buy=tuple(_to_buy(plan)),
        parts=_parts(plan),
        expected_mts=(rate.low_mts, rate.high_mts) if rate is not None else (None, None),
        missing=tuple(_missing(arrival, promise, card)),
    )


def _as_promised(plan: _Plan) -> ReadingView:
    """Return the plan with the profile setting that was promised, else the present one; where neither is known, it is off."""
    return replace(
        plan.seen, profile=plan.promise.profile or plan.seen.profile or view(plan.arrival, plan.card).profile or ProfileState.OFF
    )


def _with_new(promise: Promise, arrival: Reading, card: Card | None) -> Promise:
    slots = tuple(
        replace(slot, module=_as_beside(slot.module, arrival, card)) if slot.module is not None else slot for slot in promise.slots
    )
    return replace(promise, slots=slots, loose=tuple(_as_beside(module, arrival, card) for module in promise.loose))


def _as_beside(module: Module, arrival: Reading, card: Card | None) -> Module:
    """Return a promised module with the generation and form that this machine takes, where nobody said another."""
    generation = common_generation(arrival)
    beside = [one for one in arrival.modules if value_of(one.form) is not Form.SOLDERED]
    known = next((one.generation for one in beside if one.generation), None) if generation is not None else None
    form = next((one.form for one in beside if one.form), None)
    return replace(module, generation=module.generation or known, form=module.form or form)


# ---- rules: each yields what speaks against the plan, or is to be known


def _virtual(plan: _Plan) -> Iterator[Remark]:
    if value_of(plan.arrival.virtual):
        yield Remark(
            Weight.STOP,
            "This is a virtual machine: its memory is given by its host, and its tables say nothing of modules.",
            "Give it more memory in the host's settings, or read the host itself.",
        )


def _generation(plan: _Plan) -> Iterator[Remark]:
    takes = plan.card.generation if plan.card is not None else common_generation(plan.arrival)
    for wrong in dict.fromkeys(kind for module in plan.new if (kind := value_of(module.generation)) and takes and kind is not takes):
        yield Remark(Weight.STOP, f"{plan.name} takes {takes}, and {wrong} is promised: it does not fit.", f"Buy {takes} modules.")


def _form(plan: _Plan) -> Iterator[Remark]:
    beside = {value_of(module.form) for module in plan.arrival.modules} - {None, Form.SOLDERED}
    takes = set(plan.card.forms if plan.card is not None else ()) - {Form.SOLDERED} or beside
    for form in dict.fromkeys(value_of(module.form) for module in plan.new):
        if form is None or not takes or form in takes or form is Form.SOLDERED:
            continue
        words = ", ".join(sorted(str(one.value) for one in takes if one is not None))
        both_long = form not in (Form.SODIMM, Form.CAMM) and not takes & {Form.SODIMM, Form.CAMM}
        why = "it does not start with them" if both_long else "they do not fit"
        yield Remark(Weight.STOP, f"{plan.name} takes {words} modules, and {form.value} is promised: {why}.", f"Buy {words} modules.")


def _ecc(plan: _Plan) -> Iterator[Remark]:
    support = plan.card.ecc if plan.card is not None else None
    known = {value_of(module.ecc) for module in plan.new}
    beside = {value_of(module.ecc) for module in plan.arrival.modules} - {None}
    if support is EccSupport.REQUIRED and False in known:
        yield Remark(Weight.STOP, f"{plan.name} starts only with ECC modules, and modules without ECC are promised.", "Buy ECC modules.")
    elif support is EccSupport.REQUIRED and None in known:
        yield Remark(Weight.MIND, f"{plan.name} starts only with ECC modules, and the promise does not say ECC.", "Buy ECC modules.")
    elif support is None and beside == {True} and known & {False, None} and plan.new:
        yield Remark(
            Weight.MIND, "The old modules have ECC, and the promise does not say it of the new ones.", "Buy ECC modules, or ask first."
        )
    elif support is EccSupport.UNSUPPORTED and True in known:
        yield Remark(Weight.MIND, f"{plan.name} makes no use of ECC.", "Modules without ECC do as well and cost less.")


def _too_many(plan: _Plan) -> Iterator[Remark]:
    slots = len(plan.card.slots) if plan.card is not None and plan.card.slots else len(plan.arrival.slots)
    slots = slots or value_of(plan.arrival.slot_count) or 0
    count = sum(value_of(module.form) is not Form.SOLDERED for module in plan.promise.modules)
    if slots and count > slots:
        yield Remark(
            Weight.STOP, f"{count} modules are promised, and there are {counted(slots, 'slot')}.", "Promise fewer, larger modules."
        )


def _limits(plan: _Plan) -> Iterator[Remark]:
    card, total = plan.card, plan.total_bytes
    if card is not None and card.total_bytes and total and total > card.total_bytes:
        yield Remark(
            Weight.MIND,
            f"{size_text(total)} is promised, and {size_text(card.total_bytes)} is documented as the most for {card.name}.",
            "It sometimes works and is unsupported. Tell the customer first; keep the old modules until it is tested.",
        )
    stated = value_of(plan.arrival.array_limit_bytes)
    if stated and total and total > stated and (card is None or not card.total_bytes):
        yield Remark(
            Weight.MIND,
            f"{size_text(total)} is promised, and the firmware states {size_text(stated)} as the most.",
            "Firmware is often wrong about this: look into the documents of the maker.",
        )
    for module in plan.new if card is not None and card.module_bytes else ():
        size = value_of(module.size_bytes)
        if card is not None and card.module_bytes and size and size > card.module_bytes:
            words = f"A module of {size_text(size)} is promised, and {size_text(card.module_bytes)} is documented as the largest."
            yield Remark(Weight.MIND, words, "It sometimes works and is unsupported. Tell the customer first.")
            break
    listed = {part.replace(" ", "").casefold() for part in (card.supported_parts if card is not None else ())}
    for module in plan.new:
        part = value_of(module.part)
        if listed and part and part.replace(" ", "").casefold() not in listed:
            yield Remark(Weight.MIND, f"{part} is not on the list of supported modules.", "Tell the customer, or buy one that is listed.")


def _system(plan: _Plan) -> Iterator[Remark]:
    total = plan.total_bytes
    bits, limit = value_of(plan.arrival.system_bits), value_of(plan.arrival.system_limit_bytes)
    if bits == 32 and total and total >= _LARGEST_32_BIT_BYTES:
        yield Remark(
            Weight.MIND,
            f"The system has 32 bits: of {size_text(total)} it will use between 3 and 3.5 GiB.",
            "Tell the customer that the rest needs a 64-bit system.",
        )
    elif limit and total and total > limit:
        yield Remark(Weight.MIND, f"The system uses {size_text(limit)} at most.", "Tell the customer that the rest needs another edition.")


def _speed(plan: _Plan) -> Iterator[Remark]:
    promised, modules = plan.promise.rate_mts, plan.seen.reading.modules
    rates = {best_rate_mts(module) for module in modules} - {None}
    if len(rates) > 1:
        fastest, slowest = max(rate for rate in rates if rate), min(rate for rate in rates if rate)
        if not same_rate(fastest, slowest):
            yield Remark(Weight.MIND, f"Unequal speeds: {slowest} and {fastest}. All of it runs at {slowest} MT/s or below.", "")
    expected = expected_rate(_as_promised(plan), plan.card)
    high = expected.high_mts if expected is not None else None
    if promised and high and high < promised and not same_rate(high, promised):
        yield Remark(
            Weight.MIND,
            f"{promised} MT/s is promised, and with these modules {high} MT/s is what can be expected at most.{_why_slower(plan, high)}",
            "Change the modules, or agree on another speed before the machine is opened.",
        )
    if plan.card is not None and plan.card.profile in (ProfileChoice.LOCKED, ProfileChoice.NONE):
        standards = [rate for module in plan.new if (rate := standard_rate_mts(module))]
        rated = [rate for module in plan.new if (rate := value_of(module.rated_mts)) and not _is_standard(module, rate)]
        if rated and not standards and promised and max(rated) >= promised:
            words = f"{plan.name} offers no memory profile: modules run at their standard speed there, not at that of a profile."
            yield Remark(Weight.MIND, words, f"Buy modules whose standard speed is {promised} MT/s.")


def _profile(plan: _Plan) -> Iterator[Remark]:
    """Modules that stay and are fast by their profile alone, beside new ones of which nobody says that they hold it."""
    promised = plan.promise.rate_mts
    stays = [module for module in plan.seen.reading.modules if value_of(module.profiles)]
    standards = [rate for module in stays if (rate := standard_rate_mts(module))]
    without = [module for module in plan.new if not value_of(module.profiles)]
    slow = [rate for rate in standards if promised and rate < promised and not same_rate(rate, promised)]
    if slow and without:
        yield Remark(
            Weight.MIND,
            f"The modules that stay reach {promised} MT/s only with their memory profile, and {min(slow)} MT/s without it. "
            "A module that holds no profile takes that choice away from all.",
            f"Buy modules with a profile for {promised} MT/s.",
        )


def _is_standard(module: Module, rate_mts: int) -> bool:
    generation = value_of(module.generation)
    return generation is not None and is_standard_rate(rate_mts, generation)


def _why_slower(plan: _Plan, high_mts: int) -> str:
    per_channel = modules_per_channel(plan.seen)
    platform = plan.card.rate_for(per_channel) if plan.card is not None else None
    if platform is not None and same_rate(platform, high_mts):
        return f" {plan.name} runs {counted(per_channel, 'module')} in a channel at {platform} MT/s."
    return ""


def _parts(plan: _Plan) -> tuple[ChannelPart, ...]:
    """Return how the memory is spread; where no slot tells, as many modules as promised channels have one each."""
    sizes = [size for module in plan.seen.reading.modules if (size := value_of(module.size_bytes))]
    one_each = plan.promise.channels is not None and 1 < plan.promise.channels == len(sizes) == len(plan.seen.reading.modules)
    return plan.seen.channels.parts or (channel_parts(sizes) if one_each else ())


def _channels(plan: _Plan) -> Iterator[Remark]:
    parts, promised = _parts(plan), plan.promise.channels
    count = plan.seen.channels.count
    if len(parts) > 1:
        words = ", ".join(f"{size_text(part.size_bytes)} on {counted(part.ways, 'channel')}" for part in parts)
        yield Remark(Weight.MIND, f"The channels are not filled alike: {words}.", "Equal modules in each channel run faster.")
    elif count == 1 and (promised or 2) > 1 and len(plan.seen.reading.modules) == 1:
        yield Remark(Weight.MIND, "One module runs on one channel.", "Two modules of half the size run on two channels, and are faster.")
    if promised and count and count < promised:
        yield Remark(Weight.MIND, f"{counted(promised, 'channel')} promised, and this arrangement runs on {counted(count, 'channel')}.", "")


def _voltage(plan: _Plan) -> Iterator[Remark]:
    modules = plan.seen.reading.modules
    if {value_of(module.generation) for module in modules} == {Generation.DDR3}:
        volts = {value_of(module.voltage_mv) for module in modules} - {None}
        if len(volts) > 1:
            yield Remark(
                Weight.MIND, "Modules for 1.5 V and for 1.35 V together: all run at 1.5 V.", "A low-voltage machine does not start so."
            )


_RULES: tuple[Callable[[_Plan], Iterator[Remark]], ...] = (
    _virtual,
    _generation,
    _form,
    _ecc,
    _too_many,
    _limits,
    _system,
    _speed,
    _profile,
    _channels,
    _voltage,
)


def _to_buy(plan: _Plan) -> Iterator[str]:
    """Yield the modules that come in, a line for each kind, as they are to be looked for in a shop."""
    groups: dict[str, int] = {}
    for module in plan.new:
        words = _wanted(module, plan)
        groups[words] = groups.get(words, 0) + 1
    for words, count in groups.items():
        yield f"{count} × {words}"


def _wanted(module: Module, plan: _Plan) -> str:
    beside = [one for one in plan.arrival.modules if value_of(one.form) is not Form.SOLDERED]
    card = plan.card
    generation = value_of(module.generation) or (card.generation if card is not None else None)
    form = value_of(module.form) or (card.forms[0] if card is not None and len(card.forms) == 1 else None)
    fastest = [rate for one in beside if (rate := best_rate_mts(one))]
    rate = value_of(module.rated_mts) or plan.promise.rate_mts or (max(fastest) if fastest else None)
    ecc = value_of(module.ecc)
    if ecc is None and card is not None and card.ecc in (EccSupport.REQUIRED, EccSupport.UNSUPPORTED):
        ecc = card.ecc is EccSupport.REQUIRED
    if ecc is None:
        ecc = next((known for one in beside if (known := value_of(one.ecc)) is not None), None)
    low = generation is Generation.DDR3 and any(value_of(one.voltage_mv) == 1350 for one in (module, *beside))
    timings = value_of(module.timings)
    parts = [
        size_text(size) if (size := value_of(module.size_bytes)) else "size not said",
        f"{generation}{'L' if low else ''}{f'-{rate}' if rate else ''}" if generation else f"{rate} MT/s" if rate else "",
        str(form.value) if form else "",
        "ECC" if ecc else "without ECC" if ecc is False else "",
        "registered" if form in _REGISTERED else "",
        f"CL{timings.cl}" if timings is not None else "",
        f"{ranks} rank{'s' if ranks > 1 else ''}" if (ranks := value_of(module.ranks)) else "",
    ]
    return " · ".join(part for part in parts if part)


def _missing(arrival: Reading, promise: Promise, card: Card | None) -> Iterator[str]:
    """Yield what would say more, where it were known."""
    if not arrival.modules and arrival.total_bytes is None:
        yield "the reading on arrival: what stays, and what is beside the new modules"
    if not promise.modules and promise.total_bytes is None:
        yield "the promise: which modules go in"
    if card is None:
        yield "the machine data sheet: how much it takes, which slots come first, what it makes of two modules a channel"
