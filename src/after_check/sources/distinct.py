"""Names of slots that no other slot of the machine has."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence


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
