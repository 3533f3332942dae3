"""What modules are: kind, form, error correction, timings, ranks, voltage, names; and rates, as far as a phrase tells whose they are."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from typing import Any

from after_check.domain.modules import Form, Generation, Timings
from after_check.language.words.clauses import Clause
from after_check.language.words.counted import FORMS, count_before
from after_check.language.words.state import Described, Rate, State, ask_about_misprint, count_of, label_facts
from after_check.language.words.token import Token
from after_check.language.words.understood import Phrase, Scope
from after_check.standards.labels import Label

OF_ONE = ("maker", "part", "serial")
"""What is of the modules beside which it was said, and of no others."""


def read_described(state: State) -> None:
    """Read words about modules and rates off every clause."""
    timings: dict[str, int] = {}
    for clause in state.clauses:
        for item in clause.items:
            if item.scope is Scope.NOW:
                _read(state, clause, item, timings)
            elif "kind_stands" in item.parts:
                _note(state, item, "generation", item.parts["g"].value["generation"])
    if "cl" in timings:
        own = Timings(timings["cl"], timings.get("rcd"), timings.get("rp"), timings.get("ras"))
        first = next(
            item for clause in state.clauses for item in clause.items if "g" in item.parts and _is(item.parts["g"], "one_timing", "timings")
        )
        state.said["timings"] = [(first.clause, own, first)]


def _is(token: Any, *kinds: str) -> bool:
    return isinstance(token, Token) and token.means(*kinds)


def _read(state: State, clause: Clause, item: Phrase, timings: dict[str, int]) -> None:
    parts, says = item.parts, item.says
    if says in ("group", "one", "counted", "some", "each", "one_more", "in_slot"):
        _inner(state, item, timings)
    elif says in ("attr", "soldered", "unclear", "runs", "clock", "rate") and "g" in parts:
        _token(state, item, parts["g"], timings)
    if says == "attr" and "w" in parts:
        _word(state, item, parts["w"])
    elif says == "attr" and "no_ecc" in parts:
        _note(state, item, "ecc", False)
    elif says == "rated":
        _rated(state, item, timings)
    elif says in _ROLES and "r" in parts:
        _rate(state, item, parts["r"], _ROLES[says])
    elif (reader := _READERS.get(says)) is not None:
        reader(state, item)


_ROLES = {"runs": "runs", "channels": "runs", "clock": "clock", "rate": ""}
"""Phrases with a rate, and what it is."""


def _ranks(state: State, item: Phrase) -> None:
    number = count_of(item.parts["n"])
    if number in (1, 2, 4, 8):
        _note(state, item, "ranks", number)


def _latency(state: State, item: Phrase) -> None:
    if "t" in item.parts:
        _note(state, item, "timings", item.parts["t"].value)
    elif (number := count_of(item.parts["n"])) is not None and 2 <= number <= 60:
        _note(state, item, "timings", Timings(number))


def _runs_instead(state: State, item: Phrase) -> None:
    parts = item.parts
    if _runs_in(state, item) or not any(draft.clause == item.clause for draft in state.drafts):
        _rate(state, item, parts["r"], "runs")
        _rate(state, item, parts["q"], "rated")
        return
    word = state.text[parts["r"].start : parts["r"].end].strip()
    state.ask("rated_mts", f"Is {word} what runs, or what the modules are sold as?", (f"run {word}", word), item)
    item.used = True


def _unclear(state: State, item: Phrase) -> None:
    about, word = ("size_bytes", "size") if item.parts["u"].value == "size" else ("rated_mts", "rate")
    state.ask(about, f"Which {word} is {state.text[item.start : item.end].strip()}?", (), item)
    item.used = True


def _runs_in(state: State, item: Phrase) -> bool:
    """Return whether a word says that a rate is what runs."""
    return any(state.tokens[at].means("runs", "only", "at", "but", "now") for at in range(item.first, item.last + 1))


def _inner(state: State, item: Phrase, timings: dict[str, int]) -> None:
    """Read the words about modules inside a phrase that counts them: `a 16 GB SODIMM`."""
    roles = set(map(id, item.parts.values()))
    for at in range(item.first, item.last + 1):
        token = state.tokens[at]
        if id(token) in roles and not token.means(*FORMS):
            continue
        if token.means("generation", "rated_generation", "ranks"):
            _token(state, item, token, timings)
        elif token.means("mts", "frequency"):
            _rate(state, item, token, "rated")
        elif token.means(*FORMS, "ecc", "no_ecc"):
            _word(state, item, token)


def _note(state: State, item: Phrase, name: str, value: Any) -> None:
    item.used = True
    state.said.setdefault(name, []).append((item.clause, value, item))


def _token(state: State, item: Phrase, token: Token, timings: dict[str, int]) -> None:
    """Read a word that describes modules."""
    value = token.value
    if token.means("generation", "rated_generation", "class"):
        _kind(state, item, value)
    elif token.means("label"):
        item.used = True
        if "_done" not in item.parts:
            _label(state, item, value)
    elif token.means("timings"):
        if value.trcd is not None or "cl" not in timings:
            if value.trcd is None and timings:
                timings.setdefault("cl", value.cl)
            _note(state, item, "timings", value)
    elif token.means("one_timing"):
        if not timings and state.said.get("timings"):
            timings["cl"] = state.said["timings"][0][1].cl
        timings[value[0]] = value[1]
        item.used = True
    elif token.means("ranks"):
        for name, number in value.items():
            _note(state, item, name, number)
    elif token.means("volts"):
        _note(state, item, "voltage_mv", value)
    elif token.means("bin"):
        state.rates.append(Rate(float(value), "", "rated", item))
        item.used = True


def _kind(state: State, item: Phrase, value: dict[str, Any]) -> None:
    """Read a kind (`DDR4-3200`) or a module class (`PC4-25600`)."""
    for name in ("generation", "rated_mts", "voltage_mv"):
        if name in value:
            _note(state, item, name, value[name])
    if value.get("form"):
        _note(state, item, "form", Form(value["form"]))
    if "rate" in value:
        joined = bool(value.get("joined"))
        role = "rated" if joined or not value.get("at") else ""
        state.rates.append(Rate(value["rate"], value.get("unit", ""), role, item, value["generation"], joined))


def _label(state: State, item: Phrase, label: Label) -> None:
    """Read a whole label: a module of its own where it tells a size, words about the modules beside it otherwise."""
    facts = label_facts(label)
    item.used = True
    ask_about_misprint(state, item, label)
    if label.size_bytes is None:
        for name in ("voltage_mv", "ecc", "standard_mts"):
            facts.pop(name, None)  # A part of a label tells its kind; what follows from a whole one is not said.
    beside = [draft for draft in state.drafts if draft.clause == item.clause and (draft.size_bytes in (None, label.size_bytes))]
    if label.size_bytes is not None and not beside:
        count = count_before(state, item)
        alike = [draft for draft in state.drafts if draft.size_bytes is None and draft.count > 1]
        if len(alike) == 1 and any(token.means("each", "same") for token in state.tokens):
            alike[0].size_bytes = label.size_bytes
            alike[0].facts = {**facts, **alike[0].facts}
            return
        described = Described(count, label.size_bytes, facts, clause=item.clause, counted=True, label=label, label_item=item)
        state.drafts.append(described)
        return
    for draft in beside:
        draft.facts = {**facts, **draft.facts}
        draft.label, draft.label_item = label, item
        draft.size_bytes = draft.size_bytes or label.size_bytes
    if not beside:
        for name, value in facts.items():
            _note(state, item, name, value)


def _word(state: State, item: Phrase, token: Token) -> None:
    if token.means("ecc") and not token.means("rdimm"):
        _note(state, item, "ecc", True)
    elif token.means("no_ecc"):
        _note(state, item, "ecc", False)
    else:
        for kind, form in FORMS.items():
            if token.means(kind):
                _note(state, item, "form", form)
                if form in (Form.RDIMM, Form.LRDIMM) and "ecc" in token.text:
                    _note(state, item, "ecc", True)
                return
        item.used = True  # "laptop stick" tells a likely form, no certain one.


def _rated(state: State, item: Phrase, timings: dict[str, int]) -> None:
    parts = item.parts
    if "x" in parts and parts["x"].means("sodimm", "udimm", "rdimm", "lrdimm", "ecc"):
        _word(state, item, parts["x"])
    generation: Generation | None = None
    if "g" in parts:
        generation = parts["g"].value["generation"]
        _token(state, item, parts["g"], timings)
    # A figure in MHz beside a kind, with "at" between them, is what runs as likely as what they are sold as.
    at = any(state.tokens[place].means("at") for place in range(item.first, item.last))
    _rate(state, item, parts.get("r") or parts["f"], "rated" if not (at and "f" in parts) else "", generation)


def _rate(state: State, item: Phrase, token: Token, role: str, generation: Generation | None = None) -> None:
    number, unit = token.value if token.means("frequency") else (float(token.value), "")
    item.used = True
    state.rates.append(Rate(float(number), unit, role, item, generation))


def _name(state: State, item: Phrase) -> None:
    """Read a maker, a part number or a serial number, as it was written."""
    key = "m" if item.says == "maker" else "c"
    if key not in item.parts:
        if item.says == "serial" and (code := re.search(r"[\w/-]*\d[\w/-]*\Z", state.text[item.start : item.end])):
            _note(state, item, "serial", code[0])
        item.used = True
        return
    token: Token = item.parts[key]
    end = item.end if item.says == "maker" else token.end
    text = state.text[token.start : end].strip(" .,;:")
    if item.says == "serial" or (text and not token.kinds & {"noise"}):
        _note(state, item, item.says, text)


def spread(state: State) -> None:
    """Give what was said beside modules to these, and what is alone to all; ask where two values of one thing cannot be shared out."""
    for name, said in state.said.items():
        values = list(dict.fromkeys(value for _, value, _ in said))
        whose = [(value, _beside(state, clause, item)) for clause, value, item in said]
        if name in OF_ONE or (name == "ecc" and len(values) > 1):
            for value, drafts in whose:
                for draft in drafts or ([*state.drafts] if len(values) == 1 else []):
                    draft.facts.setdefault(name, value)
            if len(values) == 1 and not state.drafts:
                state.common[name] = values[0]
            continue
        if len(values) == 1:
            _one_value(state, name, values[0], whose)
        elif all(drafts for _, drafts in whose):
            _several(state, name, whose)
        elif name == "timings" and len({value.cl for value in values}) == 1:
            state.common[name] = max(values, key=lambda value: value.trcd is not None)
        elif name == "form" and set(values) == {Form.SODIMM, Form.UDIMM}:
            state.common[name] = Form.SODIMM  # A SODIMM is unbuffered too.
        elif name == "form" and Form.SOLDERED in values and len(values) == 2:
            for value, drafts in whose:
                for draft in drafts:
                    draft.facts.setdefault(name, value)
        else:
            state.ask(name, f"Which is it: {' or '.join(str(value) for value in values)}?", tuple(map(str, values)))


def _one_value(state: State, name: str, value: Any, whose: Sequence[tuple[Any, list[Described]]]) -> None:
    beside = [draft for _, drafts in whose for draft in drafts]
    others = [draft for draft in state.drafts if draft not in beside]
    spoken_apart = (
        beside and others and any(draft.is_soldered or draft.slot for draft in others) and not any(draft.is_soldered for draft in beside)
    )
    if (
        (name == "form" and value is Form.SOLDERED)
        or (name != "generation" and spoken_apart and any(draft.is_soldered for draft in others))
        or (
            beside
            and others
            and name in ("rated_mts", "timings", "ranks", "device_width_bits", "voltage_mv", "form", "ecc")
            and len({draft.clause for draft in state.drafts}) > 1
            and all(draft.slot for draft in state.drafts)
        )
    ):
        for draft in beside:
            draft.facts.setdefault(name, value)
    else:
        state.common[name] = value


def _several(state: State, name: str, whose: Sequence[tuple[Any, list[Described]]]) -> None:
    for clause in dict.fromkeys(drafts[0].clause for _, drafts in whose):
        here = [(value, drafts) for value, drafts in whose if drafts[0].clause == clause]
        drafts, values = here[0][1], [value for value, _ in here]
        if len(set(values)) == 1:
            for draft in drafts:
                draft.facts.setdefault(name, values[0])
        elif len(values) == len(drafts):
            for draft, value in zip(drafts, values, strict=True):
                draft.facts.setdefault(name, value)
        else:
            state.ask(
                name,
                f"Which is it: {' or '.join(str(value) for value in dict.fromkeys(values))}?",
                tuple(str(value) for value in dict.fromkeys(values)),
            )


def _beside(state: State, clause: int, item: Phrase) -> list[Described]:
    """Return the modules of the clause that a word is in; of its line, where that tells of one slot."""
    here = [draft for draft in state.drafts if draft.clause == clause]
    if here:
        return here
    if clause > 0 and state.clauses[clause].in_brackets and not state.clauses[clause - 1].in_brackets:
        inside = [draft for draft in state.drafts if draft.clause == clause - 1]
        if len(inside) == 1:
            return inside
    line = state.clauses[clause].line
    of_line = [draft for draft in state.drafts if draft.line == line and draft.slot]
    lines = {draft.line for draft in state.drafts if draft.slot}
    return of_line if len(of_line) == 1 and len(lines) > 1 else []


def ask_about_mixed(state: State) -> None:
    """Ask where modules of two generations are said to be in one machine: one of them is of another one."""
    kinds = {draft.facts["generation"] for draft in state.drafts if "generation" in draft.facts}
    if len(kinds) > 1 and not any(draft.is_soldered for draft in state.drafts):
        words = " or ".join(sorted(map(str, kinds)))
        state.ask(
            "modules.generation",
            f"No machine takes {words.replace(' or ', ' and ')}: which of them is in it?",
            tuple(sorted(map(str, kinds))),
        )
        state.drafts = []


_READERS: dict[str, Callable[[State, Phrase], None]] = {
    **{"ranks": _ranks, "latency": _latency, "runs_instead": _runs_instead, "unclear": _unclear},
    **dict.fromkeys(("maker", "part", "serial"), _name),
}
