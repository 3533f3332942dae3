"""Units: what each measures, and its size. They are read off `units.toml`."""

from __future__ import annotations

import tomllib
from importlib.resources import files

from after_check.domain.quantities import GIB, KIB, MIB, TIB

_BYTES = {"bytes": 1, "KiB": KIB, "MiB": MIB, "GiB": GIB, "TiB": TIB}
_MEGAHERTZ = {"MHz": ("MHz", 1.0), "GHz": ("MHz", 1000.0), "MT/s": ("MT/s", 1.0)}
_DOCUMENT = tomllib.loads((files("after_check.language.words") / "units.toml").read_text(encoding="utf-8"))

SIZE_UNITS = {unit: _BYTES[name] for name, units in _DOCUMENT["size"].items() for unit in units}
"""Units of sizes, in bytes."""
FREQUENCY_UNITS = {unit: _MEGAHERTZ[name] for name, units in _DOCUMENT["frequency"].items() for unit in units}
"""Units of rates and clocks: the unit that is kept, and by what a figure is multiplied for it."""
UNITS = {
    **dict.fromkeys(SIZE_UNITS, "size"),
    **dict.fromkeys(FREQUENCY_UNITS, "frequency"),
    **{unit: kind for kind, units in _DOCUMENT["other"].items() for unit in units},
}
"""What each unit measures."""
WORDS_TOO = frozenset(_DOCUMENT["apart"]["words_too"])
"""Units that are words too: apart from their number they count only where they are written as units are."""
SHORTENED = frozenset(_DOCUMENT["shortened"]["words"])
"""Words that are written with a point behind them, which ends no sentence."""
