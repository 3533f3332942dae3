"""Sizes, rates and times: parsing, arithmetic and wording.

Sizes of memory are binary (JEDEC Standard 100B.01: 1 GB of memory is 2**30 bytes); bandwidth is decimal.
"""

from __future__ import annotations

import re

KIB = 1 << 10
MIB = 1 << 20
GIB = 1 << 30
TIB = 1 << 40

LARGEST_SIZE_BYTES = 1 << 60
"""Above one exbibyte a size is a mistake; the limit also keeps arithmetic on outside values small."""

_UNITS_BYTES = {"": 1, "K": KIB, "M": MIB, "G": GIB, "T": TIB}
SIZE_PATTERN = r"(?P<number>\d{1,19}(?:\.\d{1,6})?)\s*(?:(?P<unit>[KMGT])(?:i?B)?|(?P<bytes>B))"
_SIZE = re.compile(SIZE_PATTERN + r"\Z", re.IGNORECASE | re.ASCII)


def parse_size(text: str) -> int | None:
    """Return the bytes that a size such as `16G`, `16 GiB`, `32768MB` or `31.8G` stands for, or None."""
    match = _SIZE.match(text.strip())
    if match is None:
        return None
    unit_bytes = _UNITS_BYTES[(match["unit"] or "").upper()]
    # Whole numbers stay whole: beyond 2**53 a float would lose the last bytes.
    number = match["number"]
    size_bytes = int(number) * unit_bytes if number.isdigit() else round(float(number) * unit_bytes)
    return size_bytes if size_bytes <= LARGEST_SIZE_BYTES else None


def size_notation(size_bytes: int) -> str:
    """Return the shortest notation that `parse_size` turns back into exactly `size_bytes`."""
    for unit in "TGMK":
        whole, rest = divmod(size_bytes, _UNITS_BYTES[unit])
        if whole and not rest:
            return f"{whole}{unit}"
    for unit in "GM":
        for decimals in (1, 2, 3):
            text = f"{size_bytes / _UNITS_BYTES[unit]:.{decimals}f}{unit}"
            if parse_size(text) == size_bytes:
                return text
    return f"{size_bytes}B"


def size_text(size_bytes: int) -> str:
    """Return a size as people read it: `48 GiB`, `31.8 GiB`, `512 MiB`."""
    if size_bytes >= GIB or size_bytes == 0:
        return f"{number_text(size_bytes / GIB)} GiB"
    if size_bytes >= MIB:
        return f"{number_text(size_bytes / MIB)} MiB"
    return f"{number_text(size_bytes / KIB)} KiB"


def number_text(number: float, decimals: int = 1) -> str:
    """Return a number without a tail of zeros: 48, 31.8, 102.4."""
    text = f"{number:.{decimals}f}"
    return text.rstrip("0").rstrip(".") if "." in text else text


def peak_bandwidth_gbs(rate_mts: float, channels: int) -> float:
    """Return the peak bandwidth in decimal GB/s: 8 bytes a transfer and channel; ECC bits do not count."""
    return rate_mts * 8 * channels / 1000


def first_word_ns(cas_latency_clocks: float, rate_mts: float) -> float:
    """Return the first-word latency in ns: CAS latency clocks of 2000 / rate ns each."""
    return cas_latency_clocks * 2000 / rate_mts


def clock_mhz(rate_mts: float) -> float:
    """Return the memory clock in MHz: two transfers a clock."""
    return rate_mts / 2


def counted(count: int, one: str, many: str = "") -> str:
    """Return a count with its word: 1 channel, 2 channels; `many` where an s is not enough."""
    return f"{count} {one}" if count == 1 else f"{count} {many or one + 's'}"
