"""Entries: lines as people type them, with what a careful colleague is certain of. Read off `tests/entries/*.txt`.

A line of text (or several), then ` = ` and the facts, separated by semicolons:

    2x8G DDR4 3200 sodimm   modules (`?x` where nobody says how many; `2xmodule` without a size)
    A1=8G DDR4, A1=-        slots by name
    slots 4, used 2         how many slots there are, and are filled
    total, usable, graphics SIZE; run, rate N (`rate`: sold as or running); ch N; profile off
    ask X|Y                 has to be asked about; ok X,Y may be asked about instead
    may FACT                may be stated, and need not be
    loose-names             the slots' names are not judged
"""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

ENTRIES = Path(__file__).resolve().parents[1] / "tests" / "entries"
_UNITS = {"K": 2**10, "M": 2**20, "G": 2**30, "": 1}
_FORMS = {"udimm": "UDIMM", "sodimm": "SODIMM", "rdimm": "RDIMM", "lrdimm": "LRDIMM", "soldered": "soldered"}
_OPEN = {"running_mts", "rated_mts"}


def entries(folder: Path = ENTRIES) -> Iterator[dict[str, Any]]:
    """Yield the entries of all styles; `held` marks every third one of a style, which nobody looks at while the reader is worked on."""
    for path in sorted(folder.glob("*.txt")):
        texts: list[str] = []
        number = 0
        for line in path.read_text(encoding="utf-8").splitlines():
            if not line.startswith(" = "):
                texts.append(line)
                continue
            text = "\n".join(texts)
            texts = []
            promise = text.startswith("promise ")
            number += 1
            entry = _entry(text.removeprefix("promise "), promise, line[3:])
            yield {"id": f"{path.stem}-{number:02d}", "group": path.stem, "held": number % 3 == 0, **entry}


def size(text: str) -> int:
    """Return a size in bytes: 16G, 512M, 15.8G, 34214809600."""
    found = re.fullmatch(r"(\d+(?:\.\d+)?)([KMG]?)", text)
    assert found is not None, text
    return round(float(found[1]) * _UNITS[found[2]])


def _module(words: list[str]) -> dict[str, Any]:
    facts: dict[str, Any] = {}
    for word in words:
        if re.fullmatch(r"\d+(?:\.\d+)?[MG]", word):
            facts["size_bytes"] = size(word)
        elif re.fullmatch(r"(?:LP)?DDR[2345]?X?", word):
            facts["generation"] = word
        elif re.fullmatch(r"\d{3,5}", word):
            facts["rated_mts"] = int(word)
        elif word in _FORMS:
            facts["form"] = _FORMS[word]
        elif word in ("ecc", "noecc"):
            facts["ecc"] = word == "ecc"
        elif found := re.fullmatch(r"CL(\d+)", word):
            facts["cl"] = int(found[1])
        elif re.fullmatch(r"\d+(?:-\d+){2,3}", word):
            facts["timings"] = [int(part) for part in word.split("-")]
            facts["cl"] = facts["timings"][0]
        elif found := re.fullmatch(r"(\d)R(?:x(\d+))?", word):
            facts["ranks"] = int(found[1])
            if found[2]:
                facts["device_width"] = int(found[2])
        elif found := re.fullmatch(r"(\d(?:\.\d+)?)V", word):
            facts["voltage_mv"] = round(float(found[1]) * 1000)
        elif found := re.fullmatch(r"(maker|part):(\S+)", word):
            facts[found[1]] = found[2]
        elif word != "module":
            raise ValueError(word)
    return facts


def _entry(text: str, promise: bool, facts: str) -> dict[str, Any]:
    truth: dict[str, Any] = {}
    entry: dict[str, Any] = {
        "text": text,
        "kind": "promise" if promise else "reading",
        "truth": truth,
        "ask": [],
        "ask_ok": [],
        "may": {},
        "either": [],
        "ignore_ok": [text],
    }
    of_modules: dict[str, Any] = {}
    for fact in filter(None, (part.strip() for part in facts.split(";"))):
        if not (_of_modules(entry, of_modules, fact) or _of_the_machine(entry, fact) or _asked(entry, fact)):
            raise ValueError(fact)
    for module in truth.get("modules", []) + [one for one in truth.get("slots", {}).values() if isinstance(one, dict)]:
        module["may"] = {**of_modules, **module.get("may", {})}
    if of_modules and not truth.get("modules") and not any(isinstance(one, dict) for one in truth.get("slots", {}).values()):
        entry["may"].setdefault("modules", [{"count": None, "may": of_modules}])
    if "graphics_bytes" in entry["ask_ok"]:
        entry["may"].setdefault("borrowed", True)
    return entry


def _of_modules(entry: dict[str, Any], of_modules: dict[str, Any], fact: str) -> bool:
    """Read what may be said, modules, and slots by name."""
    key, _, rest = fact.partition(" ")
    truth = entry["truth"]
    if key == "may":
        _may(entry, of_modules, rest)
    elif counted := re.fullmatch(r"(\d+|\?)x(.*)", fact):
        truth.setdefault("modules", []).append({"count": None if counted[1] == "?" else int(counted[1]), **_module(counted[2].split())})
    elif re.match(r"[\w -]+=", fact):
        name, _, filling = fact.partition("=")
        truth.setdefault("slots", {})[name] = "empty" if filling == "-" else _module(filling.split())
    else:
        return False
    return True


def _of_the_machine(entry: dict[str, Any], fact: str) -> bool:
    """Read numbers of slots, amounts, rates, channels and the profile."""
    key, _, rest = fact.partition(" ")
    names = {"slots": "slots_total", "used": "slots_used", "run": "running_mts", "ch": "channels"}
    if key in names:
        entry["truth"][names[key]] = int(rest)
    elif key in ("total", "usable", "graphics"):
        entry["truth"][f"{key}_bytes"] = size(rest)
    elif key == "rate":
        entry["either"].append({"facts": ["rated_mts", "running_mts"], "value": int(rest)})
    elif key == "profile":
        entry["truth"]["profile"] = rest
    else:
        return False
    return True


def _asked(entry: dict[str, Any], fact: str) -> bool:
    """Read what has to be asked, what may be, and what may be one or the other."""
    key, _, rest = fact.partition(" ")
    if key == "ask":
        entry["ask"].append(rest)
    elif key == "ok":
        entry["ask_ok"] += rest.split(",")
    elif key == "loose-names":
        entry["may"]["slots"] = "any"
    elif key == "either":
        name, value = rest.split()
        entry["either"].append({"facts": [name, "noprofile"], "value": value})
    elif found := re.fullmatch(r"either(.+)", key):
        value = found[1]
        if value in ("2400", "4800"):
            entry["either"].append({"facts": ["rated_mts", "running_mts"], "value": int(value)})
        else:
            amount = size(value if value[-1] in "KMG" else value + "G")
            entry["either"].append({"facts": ["usable_bytes", "total_bytes"], "value": amount})
    else:
        return False
    return True


def _may(entry: dict[str, Any], of_modules: dict[str, Any], rest: str) -> None:
    may = entry["may"]
    key, _, value = rest.partition(" ")
    if key in ("generation", "form", "maker", "part", "size", "voltage", "timings", "cl") or key in ("ecc", "noecc"):
        names = {"size": "size_bytes", "voltage": "voltage_mv", "noecc": "ecc", "cl": "timings"}
        readers: dict[str, Callable[[], Any]] = {
            "size": lambda: size(value),
            "voltage": lambda: int(value),
            "ecc": lambda: True,
            "noecc": lambda: False,
            "cl": lambda: [int(value)],
        }
        made: Any = readers[key]() if key in readers else value
        if key == "timings":
            made = "*" if value == "*" else [int(part) for part in value.split("-")]
        of_modules[names.get(key, key)] = made
    elif key in ("slots_total", "slots_used", "channels"):
        may[key] = int(value)
    elif key == "ch":
        may["channels"] = int(value)
    elif key in ("total", "usable", "graphics"):
        may[f"{key}_bytes"] = size(value)
    elif key == "profile":
        may["profile"] = value
    elif key == "rate":
        of_modules["rated_mts"] = int(value)
        may.setdefault("running_mts", int(value))
    elif key == "run":
        may["running_mts"] = int(value)
    elif counted := re.fullmatch(r"(\d+)x(.*)", rest):
        module = {"count": int(counted[1]), **_module(counted[2].split())}
        may.setdefault("modules", []).append({"count": module.pop("count"), "may": module})
        known = entry["truth"].get("modules", [])
        if known and known[0]["count"] is None:
            known[0]["may"] = {"count": int(counted[1]), **{name: one for name, one in module.items() if name not in known[0]}}
    elif "=" in rest:
        name, _, filling = rest.partition("=")
        slots = may.setdefault("slots", {})
        if isinstance(slots, dict):
            slots[name] = "empty" if filling == "-" else "any"
    else:
        raise ValueError(rest)
