"""What firmware and services put where they have nothing to say: one list for all sources."""

from __future__ import annotations

import re

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
