"""Rates, channels and profiles: what runs, what modules are sold as, what is the clock; and what has to be asked."""

from __future__ import annotations

from dataclasses import dataclass, field

from after_check.domain.modules import Generation
from after_check.domain.readings import ProfileState, RateUnit, ShownRate
from after_check.language.words.figures import Meaning, is_usual_rate, may_be_sold_as, meaning_in_mhz
from after_check.language.words.state import Rate, State, count_of
from after_check.language.words.understood import Phrase, Scope
from after_check.standards.rates import same_rate, snap_rate

_UNITS = {"MHz": RateUnit.MHZ, "MT/s": RateUnit.MTS, "": RateUnit.NONE}


def settle_rates(state: State) -> None:
    """Say of every rate what it is, or ask."""
    generation = state.generation
    rated = [rate for rate in state.rates if rate.role == "rated"]
    loose = [rate for rate in state.rates if rate.role == ""]
    runs = [rate for rate in state.rates if rate.role in ("runs", "clock")]
    for rate in loose:
        _loose(state, rate, rated, runs, loose)
    for rate in (one for one in state.rates if one.role == "rated"):
        _rated(state, rate, generation)
    _running(state, [rate for rate in state.rates if rate.role in ("runs", "clock")], generation)


def _may_be_the_rate(number: float, generation: Generation | None) -> bool:
    """Return whether what is called a clock is as likely the rate: people write both so."""
    if generation is None:
        return number >= 2133 and is_usual_rate(number, None)
    return number >= 1866 and is_usual_rate(number, generation) and not (generation is Generation.DDR5 and number <= 4400)


def _loose(state: State, rate: Rate, rated: list[Rate], runs: list[Rate], loose: list[Rate]) -> None:
    """Say what a rate is that no word explains: beside modules what they are sold as, else what runs."""
    beside = any(draft.clause == rate.item.clause for draft in state.drafts) or any(
        clause == rate.item.clause for said in state.said.values() for clause, _, _ in said
    )
    profile = any(
        item.says.startswith("profile") and item.scope is Scope.NOW and abs(item.clause - rate.item.clause) <= 1
        for clause in state.clauses
        for item in clause.items
    )
    others = [one for one in rated if not same_rate(one.number, rate.number) and not same_rate(one.number, 2 * rate.number)]
    earlier = [one for one in loose if one is not rate and one.item.first < rate.item.first and not same_rate(one.number, rate.number)]
    first = state.tokens[rate.item.first]
    if (
        state.clauses[rate.item.clause].in_brackets
        and len(state.clauses[rate.item.clause].items) == 1
        and rate.item.says == "rate"
        and not first.means("at")
    ):
        rate.role = "rated"
        return
    with_channels = any(
        item.says in ("channels", "two_channels", "one_channel") and item.clause == rate.item.clause
        for clause in state.clauses
        for item in clause.items
    )
    if (
        with_channels
        and not rated
        and not state.drafts
        and any(state.tokens[at].means("at") for at in range(max(0, rate.item.first), rate.item.last + 1))
    ) or (others and not runs and first.means("at") and len(others) == len(rated)):
        rate.role = "runs"
    elif runs and not rated:
        same = any(same_rate(one.number, number) for one in runs for number in (rate.number, 2 * rate.number))
        rate.role = "rated" if beside or not same else "runs"
    elif rated and not others:
        rate.role = "runs" if rate.unit and any(same_rate(one.number, 2 * rate.number) for one in rated) else "rated"
    elif (others and not runs and profile and not beside) or (
        earlier and not rated and profile and all(one.number >= rate.number for one in earlier)
    ):
        rate.role = "runs"
    elif state.drafts or {"generation", "form", "part"} & state.said.keys():
        rate.role = "rated"
    else:
        rate.role = "runs"


def _rated(state: State, rate: Rate, generation: Generation | None) -> None:
    """Read what modules are sold as: the rate itself, or the clock where no module is sold as it."""
    kind = rate.generation or generation
    meaning = meaning_in_mhz(rate.number, kind) if rate.unit == "MHz" else None
    number = rate.number
    if (
        kind is not None
        and not rate.unit
        and not may_be_sold_as(number, kind)
        and may_be_sold_as(2 * number, kind)
        and number < 1700
        and is_usual_rate(2 * number, kind)
    ):
        number *= 2  # A bare figure that no module of the kind is sold as, and its double is.
    elif meaning is Meaning.CLOCK:
        number *= 2
    elif (
        kind in (Generation.DDR4, Generation.DDR5)
        and not rate.unit
        and not rate.joined
        and meaning_in_mhz(number, kind) is Meaning.EITHER
        and not _is_confirmed(state, rate)
    ):
        choices = (f"{kind}-{number:g}", f"{kind}-{2 * number:g}")
        state.ask("rated_mts", f"Is {number:g} the rate of {kind}, or the clock of {2 * number:g}?", choices, rate.item)
        return
    elif meaning is Meaning.EITHER and not _is_confirmed(state, rate):
        generations = f"{kind}-" if kind else ""
        whole = f"{rate.number:g}"
        state.ask(
            "rated_mts",
            f"Is {whole} MHz the rate, or the clock of {2 * rate.number:g}?",
            (f"{generations}{whole}", f"{generations}{2 * rate.number:g}"),
            rate.item,
        )
        return
    elif meaning is Meaning.NEITHER:
        state.ask("rated_mts", f"No module is sold as {rate.number:g}: what does the label say?", (), rate.item)
        return
    if kind is not None and not may_be_sold_as(number, kind):
        state.ask("rated_mts", f"No {kind} module is sold as {number:g}: which of them is wrong?", (), rate.item)
        state.said.pop("generation", None)
        state.common.pop("generation", None)
        return
    if not is_usual_rate(number, None) and not 400 <= number <= 12_000:
        state.ask("rated_mts", f"No module is sold as {number:g}: what does the label say?", (), rate.item)
        return
    state.said.setdefault("rated_mts", []).append((rate.item.clause, snap_rate(number, kind), rate.item))


def _is_confirmed(state: State, rate: Rate) -> bool:
    """Return whether something else that was said settles that a figure in MHz is the rate."""
    others = [value for _, value, _ in state.said.get("rated_mts", ())] + [
        one.number for one in state.rates if one is not rate and one.role == "rated"
    ]
    return any(same_rate(rate.number, other) for other in others)


def _running(state: State, runs: list[Rate], generation: Generation | None) -> None:
    """Read what runs. The clock of what runs is told as the rate; a bare figure that can only be the clock is one in MHz."""
    shown: list[tuple[ShownRate, Phrase]] = []
    for rate in runs:
        if rate.role == "clock" and _may_be_the_rate(rate.number, generation):
            answers = (f"run {rate.number:g}MT/s", f"run {2 * rate.number:g}MT/s")
            state.ask("running_rate", f"Is {rate.number:g} the clock, or the rate that runs?", answers, rate.item)
            continue
        if rate.role == "clock":
            number = (
                rate.number
                if rate.number >= 2300
                and generation in (None, Generation.DDR4)
                and is_usual_rate(rate.number, None)
                and not is_usual_rate(2 * rate.number, None)
                else 2 * rate.number
            )
            shown.append((ShownRate(number, RateUnit.MTS), rate.item))
            continue
        unit = _UNITS[rate.unit]
        sold = {value for _, value, _ in state.said.get("rated_mts", ())}
        if unit is not RateUnit.MTS and not any(same_rate(rate.number, one) for one in sold):
            half = any(same_rate(2 * rate.number, one) for one in sold)
            meaning = meaning_in_mhz(rate.number, generation)
            if meaning is Meaning.CLOCK or (half and unit is RateUnit.MHZ and meaning is not Meaning.RATE):
                unit = RateUnit.MHZ
            elif meaning is Meaning.EITHER and generation is not None:
                answers = (f"run {rate.number:g}MT/s", f"run {2 * rate.number:g}MT/s")
                state.ask(
                    "running_rate",
                    f"Does the memory run at {rate.number:g} MT/s, or is that the clock of {2 * rate.number:g}?",
                    answers,
                    rate.item,
                )
                continue
            elif meaning is Meaning.NEITHER and not 200 <= rate.number <= 12_000:
                continue
        shown.append((ShownRate(rate.number, unit), rate.item))
    if not shown:
        return
    different = [one for one, _ in shown if not same_rate(one.number, shown[0][0].number)]
    if different:
        clocks = [
            one for one in different if same_rate(2 * one.number, shown[0][0].number) or same_rate(one.number, 2 * shown[0][0].number)
        ]
        if len(clocks) == len(different):
            state.facts["running_rate"] = max((one for one, _ in shown), key=lambda one: one.number)
            return
        words = [f"{one.number:g}" for one in dict.fromkeys((shown[0][0], *different))]
        state.ask("running_rate", f"Which rate runs now: {' or '.join(words)}?", tuple(f"run {word}" for word in words))
        return
    state.facts["running_rate"] = shown[0][0]


_MOST_CHANNELS = 16
_CHANNELS = {"one_channel": 1, "two_channels": 2, "four_channels": 4}


@dataclass(slots=True)
class _Settings:
    """Channels that were said, and said not to be; states of the profile; whether a profile was spoken of before."""

    channels: dict[int, Phrase] = field(default_factory=dict)
    denied: dict[int, Phrase] = field(default_factory=dict)
    profiles: dict[str, Phrase] = field(default_factory=dict)
    told_before: bool = False


def read_settings(state: State) -> None:
    """Read channels, the profile and error correction off every clause."""
    found = _Settings()
    for clause in state.clauses:
        for item in clause.items:
            if item.scope is Scope.NOW:
                _setting(state, item, found)
            elif item.scope is Scope.NEGATED and item.says in ("channels", "mode", "two_channels", "one_channel"):
                found.denied[_number(item)] = item
            found.told_before = found.told_before or (item.scope is not Scope.NOW and item.says.startswith("profile"))
    _settle_channels(state, found.channels, found.denied)
    _settle_profile(state, found.profiles)


def _setting(state: State, item: Phrase, found: _Settings) -> None:
    if item.says in ("channels", "mode", *_CHANNELS):
        _channel(state, item, found)
    elif item.says == "on_off" and found.told_before:
        found.profiles["on" if "on" in item.parts else "off"] = item  # "XMP used to be on, it is off now"
        item.used = True
    elif item.says == "channels_no":
        found.denied[_number(item)] = item
        item.used = True
    elif item.says == "channels_of":
        used, total = count_of(item.parts["u"]) or 0, count_of(item.parts["t"]) or 0
        item.used = True
        if 0 < used <= total <= _MOST_CHANNELS:
            found.channels[used] = item
    elif item.says == "subchannels":
        _subchannels(state, item, found.channels)
    elif item.says == "kit_mode":
        item.used = True  # Sold for two channels: nobody says that the machine runs on two.
    elif item.says.startswith("profile"):
        _profile(state, item, found.profiles)
    elif item.says == "ecc_state":
        item.used = True
        state.facts["ecc_on"] = "on" in item.parts


def _channel(state: State, item: Phrase, found: _Settings) -> None:
    number = _number(item)
    if (item.says == "mode" and _is_of_modules(state, item, number)) or _is_a_name(state, item):
        return
    behind = state.tokens[item.last + 1] if item.last + 1 < len(state.tokens) else None
    of_board = behind is not None and (
        behind.means("per", "whole_machine") or behind.text == "cpu" or (behind.means("each") and len(behind.text) > 1)
    )
    if of_board:
        item.used = True  # What a board or a processor has, and not what runs.
    elif 1 <= number <= _MOST_CHANNELS:
        found.channels[number] = item
        item.used = True


def _number(item: Phrase) -> int:
    if item.says in _CHANNELS:
        return _CHANNELS[item.says]
    token = item.parts["n"]
    if token.means("article") and not token.means("mode"):
        return 0  # "channel A"
    return token.number("mode") or count_of(token) or 0


def _is_a_name(state: State, item: Phrase) -> bool:
    """Return whether a number only names a channel: `channel 1: 8 GB`."""
    first = state.tokens[item.first]
    return (
        item.says == "channels"
        and item.last - item.first == 1
        and first.text in ("channel", "chan", "kanal", "canal", "canale", "kanaal")
        and state.tokens[item.last].means("count")
        and not state.tokens[item.last].means("mode")
    )


def _is_of_modules(state: State, item: Phrase, number: int) -> bool:
    """Return whether "single" or "dual" counts modules: it is right before them."""
    behind = state.tokens[item.last + 1] if item.last + 1 < len(state.tokens) else None
    if behind is not None and behind.means("module", "modules", "kit", "size", "sodimm", "udimm", "sided", "slots"):
        if number > 1 and behind.means("size") and not state.drafts:
            words = state.text[behind.start : behind.end].strip()
            state.ask(
                "modules",
                f"Are these {number} modules of {words}, or {words} on {number} channels?",
                (f"{number}x{words}", f"total {words}, {number} channels"),
            )
        item.used = True
        return True
    return False


def _subchannels(state: State, item: Phrase, channels: dict[int, Phrase]) -> None:
    """Four subchannels of 32 bits are two channels; so are two of 64 bits."""
    number = count_of(item.parts["n"]) or 0
    bits = item.parts["b"].value if "b" in item.parts else 32
    item.used = True
    if bits == 32 and number % 2 == 0 and state.generation in (Generation.DDR5, None):
        channels[number // 2] = item
    elif bits == 64:
        channels[number] = item
    elif number:
        state.ask("channels", f"On how many channels does it run: {number}?", (), item)


def _settle_channels(state: State, channels: dict[int, Phrase], denied: dict[int, Phrase]) -> None:
    for number in denied:
        channels.pop(number, None)
    modules = sum(draft.count for draft in state.drafts)
    if len(channels) > 1:
        numbers = sorted(channels)
        state.ask(
            "channels",
            f"On how many channels does it run: {' or '.join(map(str, numbers))}?",
            tuple(f"{number} channels" for number in numbers),
        )
    elif channels:
        (number, item) = next(iter(channels.items()))
        if (
            modules == 1
            and number > 1
            and not state.added
            and state.drafts[0].counted
            and state.drafts[0].size_bytes is not None
            and not state.drafts[0].is_soldered
        ):
            state.ask("channels", f"One module does not run on {number} channels: which of them is wrong?", ("single channel",), item)
        else:
            state.facts["channels"] = number
    elif denied:
        item = next(iter(denied.values()))
        state.ask("channels", "Does it run on one channel?", ("single channel", "dual channel"), item)


def _profile(state: State, item: Phrase, profiles: dict[str, Phrase]) -> None:
    parts = item.parts
    item.used = True
    if item.says == "profile":
        if parts["state"] == "auto":
            state.ask("profile", "The profile is on auto: is it on, or off?", ("profile on", "profile off"), item)
        elif any(state.tokens[at].means("ready") for at in range(item.last + 1, min(item.last + 2, len(state.tokens)))):
            return
        else:
            profiles[str(parts["state"])] = item
    elif item.says == "profile_none" or item.says == "profile_number_off":
        profiles["off"] = item
    elif item.says == "profile_number":
        token = parts.get("n") or parts.get("o")
        number = (token.value if token.means("profile_number") else count_of(token)) if token is not None else None
        if token is not None and token.means("ordinal"):
            number = token.number("ordinal")
        if number in (1, 2, 3):
            profiles[str(int(number))] = item


def _settle_profile(state: State, profiles: dict[str, Phrase]) -> None:
    if len(profiles) == 2 and "on" in profiles and any(key.isdigit() for key in profiles):
        profiles.pop("on")
    if "locked" in profiles and "off" in profiles:
        profiles.pop("off")
    if len(profiles) > 1:
        words = sorted(profiles)
        state.ask("profile", f"Is the profile {' or '.join(words)}?", tuple(f"profile {word}" for word in words))
    elif profiles and "profile" not in state.asked:
        state.facts["profile"] = ProfileState(next(iter(profiles)))
