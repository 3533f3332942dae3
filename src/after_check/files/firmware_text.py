"""What firmware and services put where they have nothing to say: one list for all sources."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence

_FILLER = re.compile(
    r"""
    unknown | undefined | none | null | empty | oem | invalid | reserved | n/?a | \[empty\] | default\ string
    | not\ (?:specified|available|present|provided|applicable|installed|set)
    | (?:to\ be\ )?fill(?:ed)?(?:\ (?:in|by).*)?
    | no\ (?:dimm|module)(?:\ installed)?
    | system\ (?:product\ name|manufacturer|serial\ number|version)
    | (?:(?:array|dimm|[a-p])?\d{0,2}_?)?                # A1_, Array1_, Dimm0_
      (?:manufacturer | (?:module)?part[_ ]?(?:num(?:ber)?)? | ser(?:ial)?[_ ]?(?:num(?:ber)?)? | asset[_ ]?(?:tag)?(?:num)?)
      [_ ]?\d{0,2}
    | (?:0x)?0+ | (?:0x)?f{2,} | 0?12345678?9?0?         # digits that count nothing
    | [-.\ x?*]+
    """,
    re.IGNORECASE | re.ASCII | re.VERBOSE,
)


def said(text: str | None) -> str | None:
    """Return a text unless it is a filler, as `Unknown`, `0000`, `To be filled by O.E.M.` or `A1_Manufacturer0`."""
    return None if text is None or not text.strip() or _FILLER.fullmatch(text.strip()) else text


def distinct(names: Sequence[str], banks: Sequence[str]) -> list[str]:
    """Return a name for each slot: its own, its bank's before it where names are equal, a number where that is not enough.

    All slots of one name are told apart in the same way, the first as well as the last.
    """
    with_banks = [f"{bank} {name}" if bank and bank != name else name for name, bank in zip(names, banks, strict=True)]
    plain, banked = (Counter(name.casefold() for name in some) for some in (names, with_banks))
    chosen: list[str] = []
    for name, with_bank in zip(names, with_banks, strict=True):
        if plain[name.casefold()] == 1:
            chosen.append(name)
        elif banked[with_bank.casefold()] == 1:
            chosen.append(with_bank)
        else:
            number = sum(other.rpartition(" (")[0] == with_bank for other in chosen) + 1
            chosen.append(f"{with_bank} ({number})")
    return chosen
