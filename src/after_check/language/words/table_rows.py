"""From rows and blocks to modules and slots: each field's text is read as that field and nothing else."""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any

from after_check.domain.modules import Form, Generation, Timings
from after_check.domain.quantities import GIB, MIB
from after_check.language.words.counted import FORMS
from after_check.language.words.figures import is_module_size
from after_check.language.words.layout import Record
from after_check.language.words.state import Described, Rate, State
from after_check.language.words.token import Token
from after_check.language.words.tokens import tokens
from after_check.language.words.understood import Phrase

_FORM_CODES = {"12": Form.SODIMM, "13": None, "8": None}
"""CIM_PhysicalMemory.FormFactor (DMTF CIM schema): 8 is a DIMM, 12 a SODIMM."""
_TYPE_CODES = {
    "24": Generation.DDR3,
    "26": Generation.DDR4,
    "34": Generation.DDR5,
    "35": Generation.LPDDR5,
    "30": Generation.LPDDR4,
    "29": Generation.LPDDR3,
    "19": Generation.DDR2,
}
"""Memory types of the firmware's tables (DMTF DSP0134, type 17), as some tables show their numbers."""
_UNKNOWN = re.compile(
    r"unknown|unspecified|not specified|n/?a|other|-+|\?|none|null|undefined|to be filled.*|<.*>|not provided|default string|nan|0",
    re.IGNORECASE,
)
_NO_MODULE = re.compile(
    r"(?:no|not|none|empty|-+|–|n/?a|0(?:\s*[MG]i?B)?|free|frei|leer|vide|vac[ií][oa]|vuoto|leeg|vrij|libre|libero|pust[ya]|woln[ya]|vazi[oa]|absent|unpopulated|unused|open)\b.*|-+|–|\s*",
    re.IGNORECASE,
)
_EMPTY_STATUS = re.compile(
    r"(?:no|false|empty|absent|not present|unpopulated|free|leer|vide|not installed|disabled|unused)\b.*", re.IGNORECASE
)
_LARGEST_RATE = 12_000


def read_rows(state: State, records: Sequence[Record]) -> None:
    """Read modules and empty slots off rows and blocks."""
    slots_named = sum("slot" in record.values or "bank" in record.values for record in records)
    for number, record in enumerate(records):
        if "usable" in record.values:
            if (usable := _size(record.values["usable"], "")) is not None:
                state.facts["usable_bytes"] = usable
            continue
        slot = _slot(record, records)
        item = Phrase("row", {}, record.start, record.end, -1, -1, clause=-2 - number, used=True)
        size_text = record.values.get("size")
        if _is_empty(record) and slot:
            state.empty_slots.append(slot)
            continue
        if _is_empty(record):
            state.slots.free = (state.slots.free or 0) + 1
            continue
        size = _size(size_text, record.units.get("size", "")) if size_text else None
        blank = not any(record.values.get(name) for name in record.values if name not in ("slot", "bank"))
        if slot and blank:
            if slots_named > 1:
                state.unseen_slots.append(slot)
            continue
        if size is None and not {"part", "generation", "serial", "maker"} & {
            name for name, value in record.values.items() if value and not _UNKNOWN.fullmatch(value)
        }:
            continue
        draft = Described(_count(record), size, _facts(record), slot if _count(record) == 1 else "", clause=item.clause)
        state.drafts.append(draft)
        _rates(state, record, item, draft)
        if draft.facts.get("generation") is not None:
            state.said.setdefault("generation", []).append((item.clause, draft.facts["generation"], item))


def _slot(record: Record, records: Sequence[Record]) -> str:
    """Return the name of a row's slot: the locator, or the bank where locators do not tell slots apart."""
    slot, bank = record.values.get("slot", "").strip(), record.values.get("bank", "").strip()
    if not slot and re.fullmatch(
        r"(?:dimm|slot|bank|socket|channel)?[\s_#-]?[A-P]?\d{1,2}", record.values.get("name", "").strip(), re.IGNORECASE
    ):
        slot = record.values["name"].strip()
    same = [other for other in records if other is not record and other.values.get("slot", "").strip() == slot and slot]
    if bank and (not slot or same):
        slot = f"{bank}/{slot}" if slot else bank
    if _UNKNOWN.fullmatch(slot):
        return slot if slot.isdigit() else ""
    name = " ".join(re.sub(r"(?i)^slot\s*#\s*", "", slot).split())[:40]
    return name[5:] if re.fullmatch(r"DIMM[_ ][A-H]\d", name, re.IGNORECASE) else name


def _is_empty(record: Record) -> bool:
    size, status = record.values.get("size"), record.values.get("status", "")
    if (
        size is not None
        and size.strip()
        and _NO_MODULE.fullmatch(size.strip())
        and not size.strip().lower().startswith(("other", "unknown"))
    ):
        return True
    if size is None and _NO_MODULE.fullmatch(record.values.get("generation", "x").strip()) and "generation" in record.values:
        return True
    if size is not None and not size.strip():
        return False
    return bool(size is None and _EMPTY_STATUS.fullmatch(status.strip()) and status.strip())


def _first(text: str, *kinds: str) -> Token | None:
    return next((token for token in tokens(text) if token.means(*kinds)), None)


def _size(text: str, unit: str) -> int | None:
    token = _first(text, "size")
    if token is not None:
        return int(token.value)
    number = _first(text, "number")
    if number is None:
        return None
    value = float(number.value)
    factor = {"g": GIB, "m": MIB, "k": 1024, "b": 1}.get(unit[:1].lower(), 0)
    if factor:
        return round(value * factor)
    if value >= 128 * MIB and is_module_size(round(value)):
        return round(value)
    if value >= 256 and value % 256 == 0:
        return round(value * MIB)
    return round(value * GIB) if is_module_size(round(value * GIB)) else None


def _count(record: Record) -> int:
    token = _first(record.values.get("count", ""), "number")
    return int(token.value) if token is not None and 1 <= token.value <= 64 else 1


_FORMS = {**FORMS, "soldered": Form.SOLDERED}


def _facts(record: Record) -> dict[str, Any]:
    """Return what a row says of its module, by the fields of a module."""
    values = {name: value.strip() for name, value in record.values.items() if value.strip() and not _UNKNOWN.fullmatch(value.strip())}
    facts: dict[str, Any] = {name: values[name][:60] for name in ("maker", "part", "serial") if name in values}
    found = {
        "generation": _kind(values),
        "form": _form(values),
        "timings": _latency(values.get("latency", "")),
        "ecc": _ecc(values) or None,
    }
    facts |= {name: value for name, value in found.items() if value is not None}
    if (token := _first(values.get("ranks", ""), "ranks", "number")) is not None:
        facts |= token.value if token.means("ranks") else {"ranks": int(token.value)} if token.value in (1, 2, 4, 8) else {}
    if (token := _first(values.get("voltage", ""), "volts")) is not None:
        facts["voltage_mv"] = token.value
    return facts


def _kind(values: dict[str, str]) -> Generation | None:
    token = _first(values.get("generation", ""), "generation", "rated_generation", "class")
    if token is None:
        return _TYPE_CODES.get(values.get("generation", ""))
    generation: Generation = token.value["generation"]
    return generation


def _form(values: dict[str, str]) -> Form | None:
    token = _first(f"{values.get('form', '')} {values.get('generation', '')} {values.get('size', '')}", *_FORMS)
    if token is None:
        return _FORM_CODES.get(values.get("form", ""))
    return next(form for kind, form in _FORMS.items() if token.means(kind))


def _latency(text: str) -> Timings | None:
    token = _first(text, "timings", "number")
    if token is None:
        return None
    if token.means("timings"):
        timings: Timings = token.value
        return timings
    return Timings(int(token.value)) if 2 <= token.value <= 60 else None


def _ecc(values: dict[str, str]) -> bool:
    """Return whether a module has bits for error correction: 72 of 64, or said so."""
    widths = [_first(values.get(name, ""), "bits", "number") for name in ("total_width", "data_width")]
    wider = all(widths) and [token.value for token in widths if token is not None] == [72, 64]
    return wider or bool(re.fullmatch(r"yes|true|ja|oui|s[ií]|multi.*|single.*", values.get("ecc", ""), re.IGNORECASE))


def _rates(state: State, record: Record, item: Phrase, draft: Described) -> None:
    generation = draft.facts.get("generation")
    rated: Rate | None = None
    for name, role in (("speed", "rated"), ("generation", "rated"), ("configured", "runs")):
        text = record.values.get(name, "")
        if role == "rated" and rated is not None:
            continue
        token = (
            _first(text, "frequency", "mts", "bin", "class")
            if name != "generation"
            else next(
                (
                    one
                    for one in tokens(text)
                    if one.means("class", "rated_generation") and ("rated_mts" in one.value or "rate" in one.value)
                ),
                None,
            )
        )
        if token is None:
            continue
        if token.means("class", "rated_generation"):
            number, unit = float(token.value.get("rated_mts") or token.value.get("rate")), ""
        else:
            number, unit = token.value if token.means("frequency") else (float(token.value), _unit(record.units.get(name, "")))
        if not 200 <= number <= _LARGEST_RATE:
            continue
        rate = Rate(number, unit, role, item, generation)
        rated = rate if role == "rated" else rated
        state.rates.append(rate)


def _unit(text: str) -> str:
    plain = text.lower().replace(" ", "")
    return "MHz" if plain == "mhz" else "MT/s" if plain in ("mt/s", "mts") else ""
