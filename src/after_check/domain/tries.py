"""Tries: arrangements of modules and settings, what happened with each, and who is to blame after them."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum

from after_check.domain.modules import Module


class Started(StrEnum):
    """Whether a machine started with an arrangement; CYCLES is a start after it switched itself off and on."""

    YES = "yes"
    NO = "no"
    CYCLES = "cycles"


class SoakSaid(StrEnum):
    """What a memory test said of an arrangement."""

    CLEAN = "clean"
    ERRORS = "errors"


PROFILE_OFF = "off"


@dataclass(frozen=True, slots=True)
class Elsewhere:
    """How a module did alone in another machine that takes it; `soak_minutes` is how long it was tested (None: only started)."""

    failed: bool
    soak_minutes: float | None = None


@dataclass(frozen=True, slots=True)
class TryModule:
    """A physical module by its letter. `words` is what is known of it, in the notation; `old` are those from before the upgrade.

    `soldered` memory stays where it is, whatever is tried. `known_good` is one that was borrowed to look for a fault: it works
    elsewhere, and does not stay. `elsewhere` is how it did in another machine, each time that it was tried in one.
    """

    letter: str
    words: str = ""
    old: bool = False
    module: Module | None = None
    soldered: bool = False
    known_good: bool = False
    elsewhere: tuple[Elsewhere, ...] = ()

    @property
    def is_new(self) -> bool:
        """Whether it came with the upgrade: neither there before, nor soldered, nor borrowed."""
        return not (self.old or self.soldered or self.known_good)

    @property
    def size_bytes(self) -> int | None:
        """Its size, where it is known."""
        return self.module.size_bytes.value if self.module is not None and self.module.size_bytes is not None else None

    @property
    def serial(self) -> str | None:
        """Its serial number, by which it is known again."""
        return self.module.serial.value if self.module is not None and self.module.serial is not None else None


def noted_by_both(here: Sequence[Elsewhere], there: Sequence[Elsewhere]) -> tuple[Elsewhere, ...]:
    """Return what two lists of notes about one module say together, whichever is first: what both have is one note."""
    together = (Counter(here) | Counter(there)).elements()
    return tuple(sorted(together, key=lambda one: (one.failed, one.soak_minutes or 0.0)))


@dataclass(frozen=True, slots=True)
class Arrangement:
    """Which module sits in which slot (pairs of slot and letter), and the profile: a number, `off`, or empty for not known."""

    fitted: tuple[tuple[str, str], ...] = ()
    profile: str = ""

    @property
    def slot_of(self) -> dict[str, str]:
        """The slot of each module."""
        return {letter: slot for slot, letter in self.fitted}

    @property
    def module_in(self) -> dict[str, str]:
        """The module in each filled slot."""
        return dict(self.fitted)

    @property
    def profile_is_on(self) -> bool:
        """Whether a profile is known to be on."""
        return bool(self.profile) and self.profile != PROFILE_OFF


@dataclass(frozen=True, slots=True)
class Try:
    """One arrangement, and what happened. What is None was not looked at; `seen` are the slots that the machine reported filled.

    `seconds` is how long the start took (or was waited for), `signs` what was seen or heard, `celsius` the hottest
    temperature that was read, `errors_at` where errors lay as a person wrote it (address, bit, device), `wrong_bits` the
    bits of a word that this program's own test found wrong. `reseated` are modules
    that stayed in their slot and were taken out and put in again all the same; None: nobody said. `put_right` is a cause
    that was put right before this try. `starts` is how often it was started with nothing touched, `starts_failed` how
    often of that it failed.
    """

    arrangement: Arrangement = Arrangement()
    started: Started | None = None
    seen: tuple[str, ...] | None = None
    soak: SoakSaid | None = None
    errors_in: tuple[str, ...] = ()
    soak_minutes: float | None = None
    total_bytes: int | None = None
    rate_mts: int | None = None
    channels: int | None = None
    profile_choice: bool | None = None
    off_under_load: bool | None = None
    settings_reset: bool | None = None
    on_network: bool | None = None
    seconds: float | None = None
    cycles: int | None = None
    benchmark_gbs: float | None = None
    celsius: float | None = None
    signs: tuple[str, ...] = ()
    note: str = ""
    at: datetime | None = None
    reseated: tuple[str, ...] | None = None
    errors_at: tuple[str, ...] = ()
    wrong_bits: tuple[int, ...] = ()
    put_right: str = ""
    starts: int | None = None
    starts_failed: int | None = None

    @property
    def fell_back(self) -> bool:
        """Whether the machine started without the profile that was on: its settings were cleared."""
        return bool(self.settings_reset) and self.arrangement.profile_is_on

    @property
    def unseen(self) -> tuple[str, ...]:
        """The filled slots that the machine did not report; none where nobody looked."""
        return tuple(slot for slot, _ in self.arrangement.fitted if self.seen is not None and slot not in self.seen)

    @property
    def failed(self) -> bool:
        """Whether anything went wrong with this arrangement."""
        shown = self.soak is SoakSaid.ERRORS or bool(self.off_under_load) or self.fell_back or bool(self.starts_failed)
        return self.started is Started.NO or bool(self.unseen) or shown

    @property
    def worked(self) -> bool:
        """Whether the machine started and nothing went wrong as far as it was looked at."""
        return not self.failed and (self.started in (Started.YES, Started.CYCLES) or self.seen is not None or self.soak is SoakSaid.CLEAN)


@dataclass(frozen=True, slots=True)
class TryLog:
    """All tries of a job, in the order in which they were made, with the modules and slots that they speak of.

    `conclusion` is what the technician concludes in his own words; it is printed, with what the program thinks beside it.
    `order` are the slots in the order in which the machine's data sheet wants them filled, where it says so.
    """

    modules: tuple[TryModule, ...] = ()
    slots: tuple[str, ...] = ()
    tries: tuple[Try, ...] = ()
    conclusion: str = ""
    order: tuple[str, ...] = ()

    @property
    def soldered(self) -> dict[str, str]:
        """The slots of soldered memory and what is in them, as the tries have it."""
        letters = {module.letter for module in self.modules if module.soldered}
        return {slot: letter for attempt in self.tries for slot, letter in attempt.arrangement.fitted if letter in letters}

    @property
    def by_letter(self) -> Mapping[str, TryModule]:
        """The modules by their letters."""
        return {module.letter: module for module in self.modules}

    @property
    def last(self) -> Try | None:
        """The latest try."""
        return self.tries[-1] if self.tries else None


class SuspectKind(StrEnum):
    """What may be to blame."""

    MODULE = "module"
    SLOT = "slot"
    MIX = "mix"
    TOTAL = "total"
    KIND = "kind"
    PROFILE = "profile"
    CONTACT = "seat"  # As files have named it from the first.
    MACHINE = "machine"
    OUTSIDE = "outside"
    MARGINAL = "marginal"
    ORDER = "order"
    CHANNEL = "channel"
    NOTHING = "nothing"


@dataclass(frozen=True, slots=True)
class Suspect:
    """What may be to blame, by kind and name, and how likely it is after the tries, from 0 to 1."""

    kind: SuspectKind
    name: str
    weight: float

    @property
    def words(self) -> str:
        """The suspect in words: `module b`, `slot B2`, `a poor contact of b in B2`."""
        return _WORDS[self.kind].format(self.name)


def sureness(weight: float) -> str:
    """Return a weight in words; nothing found by trying is certain."""
    return "over 99%" if weight > 0.99 else f"{weight:.0%}"


_WORDS = {
    SuspectKind.MODULE: "module {}",
    SuspectKind.SLOT: "slot {}",
    SuspectKind.MIX: "{} together",
    SuspectKind.TOTAL: "too much in total ({})",
    SuspectKind.KIND: "modules {}, which it refuses",
    SuspectKind.PROFILE: "{}",
    SuspectKind.CONTACT: "a poor contact of {}",
    SuspectKind.MACHINE: "the machine itself",
    SuspectKind.OUTSIDE: "something outside memory",
    SuspectKind.MARGINAL: "module {}, only with the profile on",
    SuspectKind.ORDER: "slot {}, which has to be filled first",
    SuspectKind.CHANNEL: "channel {}",
    SuspectKind.NOTHING: "nothing any more: it came once",
}


@dataclass(frozen=True, slots=True)
class Outcome:
    """One way in which a try can end: in words, how likely, and who is then the first suspect."""

    what: str
    chance: float
    then: str
    weight: float


@dataclass(frozen=True, slots=True)
class NextTry:
    """A proposal: the arrangement, whether it takes a soak, why in words, and its cost in minutes of work and waiting.

    `or_borrow_for` is the slot in which a borrowed module would tell more, where the proposal only repeats what was tried often;
    `or_elsewhere_for` the module that another machine would tell more of then.
    `starts` is how often to start it with nothing touched, up to the first start that fails.
    """

    arrangement: Arrangement
    why: str
    cost_minutes: float
    with_soak: bool = False
    soak_minutes: float = 0.0
    moves: int = 0
    bits: float = 0.0
    outcomes: tuple[Outcome, ...] = ()
    or_borrow_for: str = ""
    or_elsewhere_for: str = ""
    starts: int = 1


@dataclass(frozen=True, slots=True)
class NamedClass:
    """What can be told apart and no more: suspects that one act would repair, and the act in words. `letters` are the modules concerned."""

    suspects: tuple[Suspect, ...]
    letters: tuple[str, ...]
    act: str
    weight: float


@dataclass(frozen=True, slots=True)
class Blame:
    """What the tries of a job say all together: suspects by weight, and whether one of them is clear enough.

    `says` puts it in a sentence; `contradictions` are tries that the first suspect does not explain.
    `slots` are where the first suspect sits in the latest arrangement; `works_now` whether that one works
    with its `fitted_now` modules of `fitted_bytes` in total (None: not known), and `clean_now` whether a memory test says so
    too, where one found errors before. `named` is a class of suspects that
    nobody has to tell apart; `asks` are questions whose answers would tell more than a try.
    `borrow_for` is the slot in which a borrowed module would tell, where those at hand do not; `elsewhere_for` the module of which
    another machine would.
    """

    suspects: tuple[Suspect, ...] = ()
    settled: bool = False
    says: str = ""
    contradictions: tuple[str, ...] = ()
    tries: int = 0
    two_faults: bool = False
    slots: tuple[str, ...] = ()
    works_now: bool = False
    fitted_now: int = 0
    fitted_bytes: int | None = None
    named: NamedClass | None = None
    asks: tuple[str, ...] = ()
    clean_now: bool = True
    borrow_for: str = ""
    elsewhere_for: str = ""

    @property
    def first(self) -> Suspect | None:
        """The most likely suspect."""
        return self.suspects[0] if self.suspects else None
