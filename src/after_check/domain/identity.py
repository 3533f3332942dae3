"""What tells one machine from another, so that a test of one is never put on another's sheet."""

from __future__ import annotations

from collections.abc import Iterable
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


def agreement(ran_on: MachineIdentity, of_job: Iterable[MachineIdentity]) -> tuple[Agreement, str]:
    """Return whether something ran on the machine of a job, and why. `of_job` are identities by its readings, latest first.

    The machine's own numbers decide; where nobody could read them, other boards and other amounts of memory speak
    against it, and equal modules for it. What a person answered decides what is left open, and nothing else.
    """
    known = tuple(of_job)
    for name, words in (("uuid", "number"), ("serial", "serial number")):
        mine = getattr(ran_on, name)
        theirs = [value for identity in known if (value := getattr(identity, name))]
        if mine and theirs:
            if any(_alike(mine, value) for value in theirs):
                return Agreement.SAME, f"it has the {words} of the job's machine"
            return Agreement.DIFFERENT, f"its {words} is {mine}, that of the job's machine {theirs[0]}"
    if ran_on.installation and any(identity.installation == ran_on.installation for identity in known):
        return Agreement.SAME, "the job's machine was read on this very system"
    against = _other_names(ran_on, known) or _other_size(ran_on, known)
    if against:
        return Agreement.DIFFERENT, against
    serials = set(ran_on.module_serials)
    if serials and any(serials & set(identity.module_serials) for identity in known):
        return Agreement.SAME, "it holds modules of the job by their serial numbers"
    if ran_on.is_the_jobs is not None:
        return (Agreement.SAME if ran_on.is_the_jobs else Agreement.DIFFERENT), "a person said so"
    return Agreement.OPEN, "nothing that both show tells whether it is the job's machine"


def _alike(one: str, other: str) -> bool:
    return one.strip().casefold() == other.strip().casefold()


def _other_names(ran_on: MachineIdentity, known: tuple[MachineIdentity, ...]) -> str:
    """Return what says that the boards differ, or nothing. Both names were read from firmware, never typed."""
    for name in ("board", "model"):
        mine = getattr(ran_on, name)
        theirs = [value for identity in known if (value := getattr(identity, name))]
        if mine and theirs and not any(_alike(mine, value) for value in theirs):
            return f"its {name} is {mine}, that of the job's machine {theirs[0]}"
    return ""


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
