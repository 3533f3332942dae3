"""Module labels.

Documents: the label sections of the JEDEC module standards (JESD21-C section 4.20 for DDR2 to DDR4, JESD400 and
the JESD305/JESD308/JESD309 families for DDR5); speed bin letters after JESD79-4 table "Speed Bins" and
JESD79-5 section 13.
"""

from __future__ import annotations

import itertools
import re
from dataclasses import dataclass, replace

from after_check.domain.modules import Form, Generation, Timings
from after_check.domain.quantities import GIB, MIB
from after_check.standards.rates import pc_number_to_rate_mts

_LABEL = re.compile(
    r"""
    (?:(?P<size>\d{1,4})\s*(?P<unit>[MGT])B\s+)?
    (?:(?P<ranks>\d{1,2}(?:S\d{1,2}|D)?)\s*R\s*[x×]\s*(?P<width>\d{1,2})\s+)?
    (?P<family>PC|LP)(?P<digit>[2345]?)(?P<low>L|U)?\s*-?\s*(?P<number>\d[\dOI]{2,4})(?P<bin>[A-Z]{0,3})
    (?P<rest>(?:-[A-Z0-9]+)*)
    \s*\Z
    """,
    re.VERBOSE | re.IGNORECASE | re.ASCII,
)

_GENERATION_BY_DIGIT = {
    "": Generation.DDR,
    "2": Generation.DDR2,
    "3": Generation.DDR3,
    "4": Generation.DDR4,
    "5": Generation.DDR5,
}

_FORM_BY_LETTER: dict[str, tuple[Form, bool]] = {
    "U": (Form.UDIMM, False),
    "S": (Form.SODIMM, False),
    "R": (Form.RDIMM, True),
    "L": (Form.LRDIMM, True),
    "E": (Form.UDIMM, True),
    "T": (Form.SODIMM, True),
    "P": (Form.RDIMM, True),
}
"""Letters of the module type (DDR2 to DDR5); P is the DDR2 registered module with parity."""
_FULLY_BUFFERED = "F"
"""DDR2 only: a kind of module that no other form here stands for."""

DDR4_BINS: dict[tuple[int, str], Timings] = {
    (1600, "J"): Timings(10, 10, 10),
    (1600, "K"): Timings(11, 11, 11),
    (1600, "L"): Timings(12, 12, 12),
    (1866, "L"): Timings(12, 12, 12),
    (1866, "M"): Timings(13, 13, 13),
    (1866, "N"): Timings(14, 14, 14),
    (2133, "N"): Timings(14, 14, 14),
    (2133, "P"): Timings(15, 15, 15),
    (2133, "R"): Timings(16, 16, 16),
    (2400, "P"): Timings(15, 15, 15),
    (2400, "R"): Timings(16, 16, 16),
    (2400, "T"): Timings(17, 17, 17),
    (2400, "U"): Timings(18, 18, 18),
    (2666, "T"): Timings(17, 17, 17),
    (2666, "U"): Timings(18, 18, 18),
    (2666, "V"): Timings(19, 19, 19),
    (2666, "W"): Timings(20, 20, 20),
    (2933, "V"): Timings(19, 19, 19),
    (2933, "W"): Timings(20, 20, 20),
    (2933, "Y"): Timings(21, 21, 21),
    (2933, "AA"): Timings(22, 22, 22),
    (3200, "W"): Timings(20, 20, 20),
    (3200, "AA"): Timings(22, 22, 22),
    (3200, "AC"): Timings(24, 24, 24),
}
"""CL-tRCD-tRP of the DDR4 speed bins by rate and bin letters (JESD79-4, speed bin tables)."""

DDR5_BINS: dict[tuple[int, str], Timings] = {
    (4400, "B"): Timings(36, 36, 36),
    (4800, "B"): Timings(40, 39, 39),
    (5200, "B"): Timings(42, 42, 42),
    (5600, "B"): Timings(46, 45, 45),
    (6400, "B"): Timings(52, 52, 52),
}
"""CL-tRCD-tRP of the DDR5 "B" speed bins by rate (JESD79-5, speed bin tables); a bin that is not here is not guessed."""

_DDR5_BIN_LETTERS = ("AN", "A", "B", "BN", "C")
"""The bins of every DDR5 rate (JESD79-5, speed bin tables)."""


@dataclass(frozen=True, slots=True)
class Label:
    """What a JEDEC module label says. What the label leaves out is None; `unknown_letter` is a module type that is not known."""

    generation: Generation
    rate_mts: int
    size_bytes: int | None = None
    ranks: int | None = None
    device_width_bits: int | None = None
    form: Form | None = None
    ecc: bool | None = None
    timings: Timings | None = None
    bin_letters: str = ""
    voltage_mv: int | None = None
    reference_design: str = ""
    spd_revision: str = ""
    unknown_letter: str = ""
    misprint: str = ""
    """A number that is neither a rate nor a class; the rate is the likely one then, and to be asked about."""

    @property
    def is_odd_bin(self) -> bool:
        """Whether the letters behind the rate are those of no speed bin of it: letters or number were misread, or misprinted."""
        bins = bins_of(self.rate_mts, self.generation)
        return bool(self.bin_letters and bins) and self.bin_letters not in bins

    @property
    def odd_bin_words(self) -> str:
        """That the letters behind the rate are those of none of its speed bins, in words."""
        bins = " and ".join(bins_of(self.rate_mts, self.generation))
        return f"{self.bin_letters} is no speed bin of {self.generation}-{self.rate_mts} (those are {bins})"


def parse_label(text: str) -> Label | None:
    """Return what a label such as `16GB 2Rx8 PC4-3200AA-SE1-11` says, or None where it is no such label."""
    match = _LABEL.match(" ".join(text.split()))
    if match is None or match["family"].upper() == "LP":
        return None
    generation = _GENERATION_BY_DIGIT[match["digit"]]
    number, bin_letters = _with_noughts(match["number"], match["bin"].upper(), generation)
    rate_mts = pc_number_to_rate_mts(int(number), generation)
    if rate_mts is None:
        return None
    rest = [part for part in match["rest"].upper().split("-") if part]
    form_letter, reference, revision, timings = "", "", "", None
    if generation in (Generation.DDR2, Generation.DDR3):
        bin_letters, form_letter, reference, revision, timings = _older_parts(bin_letters, rest, generation)
    elif rest:
        form_letter, reference = rest[0][0], rest[0][1:]
        revision = rest[1] if len(rest) > 1 else ""
    if timings is None:
        bins = {Generation.DDR4: DDR4_BINS, Generation.DDR5: DDR5_BINS}.get(generation, {})
        timings = bins.get((rate_mts, bin_letters))
    form, ecc = _FORM_BY_LETTER.get(form_letter, (None, None))
    if form_letter == _FULLY_BUFFERED and generation is Generation.DDR2:
        ecc = True
    unknown = form_letter if form_letter and form is None and ecc is None else ""
    ranks, width = _ranks(match["ranks"]), int(match["width"]) if match["width"] else None
    size_bytes = _size_bytes(match["size"], match["unit"])
    if not _is_organisation(ranks, width) or not can_be_built(generation, size_bytes, ranks, width):
        return None
    return Label(
        generation=generation,
        rate_mts=rate_mts,
        size_bytes=size_bytes,
        ranks=ranks,
        device_width_bits=width,
        form=form,
        ecc=ecc,
        timings=timings,
        bin_letters=bin_letters,
        voltage_mv=_voltage_mv(generation, (match["low"] or "").upper()),
        reference_design=reference,
        spd_revision=revision,
        unknown_letter=unknown,
    )


_LETTERS_LIKE_FIGURES = {"O": "0", "I": "1"}
_FIGURES_LIKE_LETTERS = {"8": "B", "1": "I", "0": "O", "5": "S"}


def _with_noughts(number: str, letters: str, generation: Generation) -> tuple[str, str]:
    """Return number and letters with letters that were read for figures put back: `1060O` and `S` are 10600 and S."""
    whole = (number + letters).upper()
    for end in range(min(len(whole), 5), 2, -1):
        figures = "".join(_LETTERS_LIKE_FIGURES.get(letter, letter) for letter in whole[:end])
        if figures.isdigit() and pc_number_to_rate_mts(int(figures), generation) is not None and not whole[end:].isdigit():
            return figures, whole[end:]
    figures = "".join(itertools.takewhile(str.isdigit, whole))
    return figures, whole[len(figures) :]


def bins_of(rate_mts: int, generation: Generation) -> tuple[str, ...]:
    """Return the letters of the speed bins of a rate; none where the tables of this program have none."""
    if generation is Generation.DDR5:
        return _DDR5_BIN_LETTERS
    return tuple(letters for rate, letters in DDR4_BINS if rate == rate_mts) if generation is Generation.DDR4 else ()


def misprint_in(text: str) -> tuple[str, str] | None:
    """Return the number of a label that is neither a rate nor a class of its generation, and the label as it is most likely meant.

    A figure at the end may be a letter that looks like it (`56008` is 5600B, `24001` a 2400 with a letter). None where the
    number is one, or where the text is no label; the likely reading is empty where none suggests itself.
    """
    match = _LABEL.match(" ".join(text.split()))
    if match is None or match["family"].upper() == "LP":
        return None
    generation = _GENERATION_BY_DIGIT[match["digit"]]
    number, letters = _with_noughts(match["number"], match["bin"].upper(), generation)
    if pc_number_to_rate_mts(int(number), generation) is not None:
        return None
    short = number[:-1]
    rate_mts = pc_number_to_rate_mts(int(short), generation) if short else None
    if letters or rate_mts is None or len(short) != 4:
        return number, ""
    letter = _FIGURES_LIKE_LETTERS.get(number[-1], "")
    likely = letter if letter in bins_of(rate_mts, generation) else ""
    start, end = match.span("number")
    plain = " ".join(text.split())
    return number, f"{plain[:start]}{short}{likely}{plain[end:]}"


def parse_doubtful_label(text: str) -> Label | None:
    """Return what a label says, also where its number is misprinted and suggests what was meant (`misprint` names it then)."""
    label, wrong = parse_label(text), misprint_in(text)
    if label is None and wrong is not None and wrong[1] and (meant := parse_label(wrong[1])) is not None:
        return replace(meant, misprint=wrong[0])
    return label


def other_readings(text: str, label: Label) -> tuple[str, ...]:
    """Return how a label with letters of no speed bin of its rate may be meant: another rate with these letters, or other letters."""
    plain = " ".join(text.split())
    match = _LABEL.match(plain)
    if match is None:
        return ()
    rates = [rate for rate, letters in DDR4_BINS if letters == label.bin_letters] if label.generation is Generation.DDR4 else []
    numbers = [(f"{rate}", label.bin_letters) for rate in rates] + [
        (match["number"], bin) for bin in bins_of(label.rate_mts, label.generation)
    ]
    start, end = match.start("number"), match.end("bin")
    return tuple(f"{plain[:start]}{number}{letters}{plain[end:]}" for number, letters in numbers)


def _older_parts(letters: str, rest: list[str], generation: Generation) -> tuple[str, str, str, str, Timings | None]:
    """Split a DDR2 or DDR3 label's tail: form letter after the class, timings, SPD revision, reference design."""
    known = {*_FORM_BY_LETTER, _FULLY_BUFFERED} if generation is Generation.DDR2 else {*_FORM_BY_LETTER} - {"P"}
    form_letter = letters[-1:] if letters[-1:] in known else ""
    timings = None
    if rest and rest[0].isdigit():
        digits = rest[0]
        if generation is Generation.DDR2 and len(digits) == 3:
            timings = Timings(int(digits[0]), int(digits[1]), int(digits[2]))
        elif len(digits) <= 2:
            timings = Timings(int(digits), None, None)
    revision = rest[1] if len(rest) > 1 else ""
    reference = rest[2] if len(rest) > 2 else ""
    return letters[: -1 if form_letter else None], form_letter, reference, revision, timings


_LARGEST_DEVICE_MBIT = {Generation.DDR2: 4096, Generation.DDR3: 8192, Generation.DDR4: 32768, Generation.DDR5: 65536}
_SMALLEST_DEVICE_MBIT = {Generation.DDR2: 256, Generation.DDR3: 512, Generation.DDR4: 2048, Generation.DDR5: 8192}
"""Densities of one device, by the addressing tables of JESD79-2, JESD79-3, JESD79-4 and JESD79-5."""


def _is_organisation(ranks: int | None, width: int | None) -> bool:
    return (ranks is None or ranks in (1, 2, 4, 8, 16)) and (width is None or width in (4, 8, 16, 32))


def can_be_built(generation: Generation, size_bytes: int | None, ranks: int | None, width: int | None) -> bool:
    """Return whether devices exist of which a module of this size and organisation can be built."""
    if size_bytes is None or ranks is None or width is None or generation not in _LARGEST_DEVICE_MBIT:
        return True
    mbit = size_bytes * 8 // MIB * width // (64 * ranks)
    return _SMALLEST_DEVICE_MBIT[generation] <= mbit <= _LARGEST_DEVICE_MBIT[generation]


def _size_bytes(size: str | None, unit: str | None) -> int | None:
    if size is None or unit is None:
        return None
    return int(size) * {"M": MIB, "G": GIB, "T": GIB * 1024}[unit.upper()]


def _ranks(text: str | None) -> int | None:
    """Return the logical ranks: 2 of `2R`, 4 of `4DR` (two dies in a package), 8 of `2S4R` (two ranks of stacks of four)."""
    if text is None:
        return None
    stacked = re.match(r"(\d{1,2})S(\d{1,2})\Z", text, re.IGNORECASE | re.ASCII)
    leading = re.match(r"\d{1,2}", text)
    return int(stacked[1]) * int(stacked[2]) if stacked else int(leading[0]) if leading else None


def _voltage_mv(generation: Generation, low: str) -> int | None:
    if generation is Generation.DDR3:
        return {"": 1500, "L": 1350, "U": 1250}[low]
    return {Generation.DDR2: 1800, Generation.DDR4: 1200, Generation.DDR5: 1100, Generation.DDR: 2500}[generation]
