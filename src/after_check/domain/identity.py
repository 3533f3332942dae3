"""What tells one machine from another, so that a test of one is never put on another's sheet."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from enum import StrEnum

from after_check.domain.quantities import size_text


class Agreement(StrEnum):
    """Whether two identities are of one machine. OPEN: nothing says so, and nothing speaks against it."""

    SAME = "same"
    DIFFERENT = "different"
    OPEN = "open"


class CameBy(StrEnum):
    """How a program came to run on a machine. HERE: where it is installed, beside whoever looks at it."""

    HERE = "here"
    REMOTE = "from the bench"
    STICK = "from the stick"


@dataclass(frozen=True, slots=True)
class MachineIdentity:
    """What is known of the machine that something was run on; what is not known is empty.

    `installation` is a hash that names the installed system without giving its own number away: it is there where the
    rights for serial numbers are missing. `installed_bytes` is what the firmware lists, `usable_bytes` what the system
    counts. `way` is how it was done there. `is_the_jobs` is what a person answered who was asked whether it is the machine of the job.
    """

    uuid: str = ""
    serial: str = ""
    board: str = ""
    model: str = ""
    installation: str = ""
    module_serials: tuple[str, ...] = ()
    installed_bytes: int | None = None
    usable_bytes: int | None = None
    is_the_jobs: bool | None = None
    way: CameBy = CameBy.HERE

    @property
    def words(self) -> str:
        """What a person tells it by: its model or board, and its memory."""
        size_bytes = self.installed_bytes or self.usable_bytes
        named = self.model or self.board
        parts = [named] if named else []
        parts += [f"{size_text(size_bytes)} of memory"] if size_bytes else []
        return " with ".join(parts) or "a computer that says nothing of itself"


SAME_FROM, DIFFERENT_TO = 2.0, -0.5
"""Of what weight a sum is certain; what lies between is asked."""
_CERTAIN = 10.0

_OWN_NUMBERS = (("uuid", "number", 3.0), ("serial", "serial number", 3.0))
"""What a maker gives to one machine: its worth where both show it, and it is no default that thousands share."""
_INSTALLATION_WORTH = 2.0
_MODULES_WORTH, _ONE_MODULE_WORTH = 1.5, 0.5
_NAMES = (("board", 0.5, -3.0), ("model", 0.0, -3.0))
"""What all machines of one make share: next to nothing where it is equal, much where it is not."""
_OTHER_AMOUNT = -0.5


@dataclass(frozen=True, slots=True)
class Mark:
    """One thing that two identities both show: what it says in words, and its worth for (above 0) or against their being one machine."""

    words: str
    worth: float


def agreement(ran_on: MachineIdentity, of_job: Iterable[MachineIdentity]) -> tuple[Agreement, str]:
    """Return whether something ran on the machine of a job, and by what. `of_job` are identities by its readings, latest first.

    Independent marks are weighed: the machine's own numbers, the installed system, its modules, names and amounts. A number of its own
    that differs decides. What a person answered decides what is left open, and nothing else.
    """
    known = tuple(of_job)
    marks = tuple(_marks(ran_on, known))
    weight = sum(mark.worth for mark in marks)
    speaking = sorted((mark for mark in marks if mark.worth), key=lambda mark: -abs(mark.worth))
    if weight >= SAME_FROM:
        return Agreement.SAME, " and ".join(mark.words for mark in speaking if mark.worth > 0)
    if weight <= DIFFERENT_TO:
        return Agreement.DIFFERENT, next(mark.words for mark in speaking if mark.worth < 0)
    if ran_on.is_the_jobs is not None:
        return (Agreement.SAME if ran_on.is_the_jobs else Agreement.DIFFERENT), "a person said so"
    told = "; ".join(mark.words for mark in speaking)
    return Agreement.OPEN, told or "nothing that both show tells whether it is the job's machine"


def _marks(ran_on: MachineIdentity, known: tuple[MachineIdentity, ...]) -> Iterator[Mark]:
    """Yield what two identities both show."""
    for name, words, worth in _OWN_NUMBERS:
        mine = getattr(ran_on, name)
        theirs = [value for identity in known if not is_a_default(value := getattr(identity, name))]
        if theirs and not is_a_default(mine):
            if any(_alike(mine, value) for value in theirs):
                yield Mark(f"it has the {words} of the job's machine", worth)
            else:
                yield Mark(f"its {words} is {mine}, that of the job's machine {theirs[0]}", -_CERTAIN)
    if ran_on.installation and any(identity.installation == ran_on.installation for identity in known):
        yield Mark("the job's machine was read on this very system", _INSTALLATION_WORTH)
    serials = {serial for serial in ran_on.module_serials if not is_a_default(serial)}
    common = [serials & set(identity.module_serials) for identity in known]
    if any(shared and shared == serials == set(identity.module_serials) for shared, identity in zip(common, known, strict=True)):
        yield Mark("it holds all modules of the job by their serial numbers", _MODULES_WORTH)
    elif any(common):
        yield Mark("it holds a module of the job by its serial number", _ONE_MODULE_WORTH)
    for name, worth, against in _NAMES:
        mine = getattr(ran_on, name)
        named = [value for identity in known if (value := getattr(identity, name))]
        if mine and named:
            same = any(_alike(mine, value) for value in named)
            yield Mark(
                f"its {name} is that of the job's machine" if same else f"its {name} is {mine}, that of the job's machine {named[0]}",
                worth if same else against,
            )
    if other := _other_size(ran_on, known):
        yield Mark(other, _OTHER_AMOUNT)


_DEFAULT = re.compile(
    r"""
    t\.?b\.?[ad]\.? | default.* | .*o\.?e\.?m\.?.* | (?:to\ be\ )?fill.* | un(?:known|defined|specified)
    | none | null | empty | invalid | reserved
    | n/?a | not\ .* | no\ .*
    | (?:system|chassis|(?:base|mother)?\ ?board|product)?[\ _-]*(?:serial|asset|uuid)[\ _-]*(?:number|num|no\.?|tag)?[\ _-]*\d{0,2}
    | (?:0x)?0*[0-9]{0,2} | .*(?:12345678|23456789|abcdefgh).* | [-.\ x?*#]*
    """,
    re.IGNORECASE | re.ASCII | re.VERBOSE,
)
_MOST_OF_ONE_DIGIT = 0.5
"""Of the 32 digits of a number that was drawn by chance, half are never the same one."""


def is_a_default(number: str) -> bool:
    """Return whether a number is none, or one that a maker gives to thousands: fillers, digits in a row, one digit again and again."""
    plain = number.strip()
    if not plain or _DEFAULT.fullmatch(plain):
        return True
    digits = re.sub(r"[^0-9a-z]", "", plain.casefold())
    if len(digits) >= 5 and len(set(digits)) <= 2 and digits.isalnum():
        return True
    is_uuid = re.fullmatch(r"[0-9a-f]{32}", digits) is not None
    return is_uuid and max(digits.count(digit) for digit in set(digits)) >= _MOST_OF_ONE_DIGIT * len(digits)


def _alike(one: str, other: str) -> bool:
    return one.strip().casefold() == other.strip().casefold()


_MEMORY_SHARE_KEPT = 0.15
"""Of an amount of memory, what firmware, graphics and the system's kernel may keep."""
_MEMORY_BYTES_KEPT = 2 << 30
_NEARLY = 0.06
"""Systems differ by so much in what they count of the same memory."""


def _other_size(ran_on: MachineIdentity, known: tuple[MachineIdentity, ...]) -> str:
    """Return what says that the amounts of memory differ, or nothing: it must be another one than each that it may be."""
    differ = [words for identity in known if (words := _size_differs(ran_on, identity)) is not None]
    return differ[0] if differ and all(differ) else ""


def _size_differs(ran_on: MachineIdentity, known: MachineIdentity) -> str | None:
    """Return how two amounts differ, nothing where they agree, None where one is not known."""
    if ran_on.installed_bytes and known.installed_bytes:
        mine, theirs = ran_on.installed_bytes, known.installed_bytes
        differs = mine != theirs
    elif ran_on.usable_bytes and known.usable_bytes:
        mine, theirs = ran_on.usable_bytes, known.usable_bytes
        differs = abs(mine - theirs) > max(_NEARLY * max(mine, theirs), 512 << 20)
    elif ran_on.usable_bytes and known.installed_bytes:
        mine, theirs = ran_on.usable_bytes, known.installed_bytes
        differs = not _may_be_left_of(mine, theirs)
    elif ran_on.installed_bytes and known.usable_bytes:
        mine, theirs = ran_on.installed_bytes, known.usable_bytes
        differs = not _may_be_left_of(theirs, mine)
    else:
        return None
    return f"it has {size_text(mine)} of memory, the job's machine {size_text(theirs)}" if differs else ""


def _may_be_left_of(usable_bytes: int, installed_bytes: int) -> bool:
    kept = max(_MEMORY_SHARE_KEPT * installed_bytes, min(_MEMORY_BYTES_KEPT, installed_bytes / 2))
    return installed_bytes - kept <= usable_bytes <= 1.01 * installed_bytes
