"""Words that contradict a label beside them: neither is dropped, it is asked which holds."""

from __future__ import annotations

from typing import Any

from after_check.domain.facts import Fact, Source
from after_check.domain.modules import Form, Module, Timings
from after_check.language.short_form.writer import write_module
from after_check.language.words.state import Described, State, label_facts
from after_check.language.words.understood import Phrase

_SAID_AS = {
    "generation": "kind",
    "rated_mts": "rate",
    "ranks": "number of ranks",
    "device_width_bits": "width of its devices",
    "form": "form",
    "ecc": "error correction",
    "timings": "timing",
    "voltage_mv": "voltage",
}


def settle_labels(state: State) -> None:
    """Ask about what is said of a module otherwise than its label says, and leave it open until then."""
    for name, said in state.said.items():
        for clause, value, item in list(said):
            beside = [draft for draft in state.drafts if draft.clause == clause] or (state.drafts if len(state.drafts) == 1 else [])
            differing = [draft for draft in beside if draft.label is not None and _differs(name, label_facts(draft.label).get(name), value)]
            if differing:
                _ask(state, differing[0], name, value, item)
                said.remove((clause, value, item))
                for draft in differing:
                    draft.facts.pop(name, None)
                    if name == "rated_mts":
                        draft.facts.pop("standard_mts", None)


def _differs(name: str, of_label: Any, said: Any) -> bool:
    if of_label is None or name not in _SAID_AS:
        return False
    if isinstance(of_label, Timings) and isinstance(said, Timings):
        pairs = zip((of_label.cl, of_label.trcd, of_label.trp), (said.cl, said.trcd, said.trp), strict=True)
        return any(one is not None and other is not None and one != other for one, other in pairs)
    if {of_label, said} == {Form.UDIMM, Form.SODIMM}:
        return said is Form.SODIMM  # A SODIMM is unbuffered, too; a long module is none.
    return bool(of_label != said)


def _ask(state: State, draft: Described, name: str, value: Any, item: Phrase) -> None:
    label, facts = draft.label, label_facts(draft.label) if draft.label is not None else {}
    if label is None or draft.label_item is None:
        return
    size = {"size_bytes": label.size_bytes} if label.size_bytes is not None else {}
    one, other = (
        write_module(
            Module(**{key: Fact(found, Source.TYPED) for key, found in {**size, **facts, name: held}.items() if key != "standard_mts"})
        )
        for held in (facts[name], value)
    )
    question = f"The label and the word beside it give another {_SAID_AS[name]}: which of them holds?"
    state.ask(name, question, (one, other), draft.label_item, item)
