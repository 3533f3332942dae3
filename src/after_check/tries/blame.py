"""What a log of tries says: who may be to blame, how clear that is, and what speaks against it.

Weighing only: which arrangement to try next is another question (`next_try.py`), which takes longer and is asked less often.
"""

from __future__ import annotations

import functools
import re
from collections.abc import Sequence

from after_check.domain.cards import Card
from after_check.domain.tries import Arrangement, Blame, NamedClass, SoakSaid, Suspect, SuspectKind, TryLog, sureness
from after_check.tries.classes import class_of
from after_check.tries.confirm import needs_old_modules, to_confirm
from after_check.tries.error_places import counted
from after_check.tries.model import PLACELESS
from after_check.tries.weigh import SETTLED, Weighed, contradictions, is_settled, settled_at, suspects_from, weigh

PUT_RIGHT_SURE = 0.86
"""A poor contact that works now needs to be no surer than this: nothing is replaced for it."""
PUT_RIGHT_AFTER = ((7, 0.84), (9, 0.8), (12, 0.75))
"""After so many tries, the last of which worked, this much is enough."""
GONE_SURE = 0.9
"""Nor a contact or what came once, together."""
ASKED_FROM = 0.5


@functools.lru_cache(maxsize=32)
def blame(log: TryLog, card: Card | None = None) -> Blame:
    """Return what a log of tries says: suspects, contradictions, and whether one suspect is clear enough.

    The same log is weighed once.
    """
    log = counted(log)
    if not any(attempt.failed for attempt in log.tries):
        said = "No try failed: there is nothing to blame." if log.tries else "Nothing was tried yet."
        return Blame(says=said, tries=len(log.tries))
    weighed = weigh(log, card)
    suspects = suspects_from(weighed)
    put_right = _is_put_right(log, weighed, suspects)
    asks = questions(log, suspects)
    proven = not needs_old_modules(log, weighed, suspects) and to_confirm(log, weighed, suspects) is None
    settled = put_right or (proven and not asks and is_settled(log, suspects, weighed))
    named = class_of(log, weighed, settled_at(log)) if not settled and not asks else None
    return Blame(
        suspects=suspects,
        settled=settled or named is not None,
        says=named_words(named) if named is not None else _says(suspects, settled, weighed.has_pairs, put_right),
        named=named,
        asks=asks,
        contradictions=contradictions(log, weighed),
        tries=len(log.tries),
        two_faults=weighed.has_pairs,
        slots=_where_now(log, weighed, suspects),
        works_now=log.last is not None and log.last.worked,
        clean_now=log.last is not None and (log.last.soak is SoakSaid.CLEAN or not any(one.soak is SoakSaid.ERRORS for one in log.tries)),
        fitted_now=len(log.last.arrangement.fitted) if log.last is not None else 0,
        fitted_bytes=_fitted_bytes(log),
        borrow_for=_borrow_for(log, suspects),
        elsewhere_for=_elsewhere_for(log, suspects),
    )


def questions(log: TryLog, suspects: Sequence[Suspect]) -> tuple[str, ...]:
    """Return what to ask about modules before the machine is blamed: facts that would tell more than a try."""
    if not suspects or suspects[0].kind is not SuspectKind.MACHINE or suspects[0].weight < ASKED_FROM:
        return ()
    known = [module for module in log.modules if module.module is not None]
    new = [module.letter for module in known if module.is_new and module.module is not None and module.module.ecc is None]
    if not new or not any(module.old for module in log.modules) or len(known) < len(log.modules):
        return ()
    return (f"Do modules {', '.join(new)} have ECC?",)


def named_words(named: NamedClass) -> str:
    """Return a class of suspects in a sentence, with what to do."""
    like = " or ".join(suspect.words for suspect in named.suspects[:3])
    return f"It is {like}: the same act repairs each ({sureness(named.weight)} sure). {named.act[:1].upper()}{named.act[1:]}."


def _fitted_bytes(log: TryLog) -> int | None:
    """Return what the latest arrangement adds up to, where all sizes are known."""
    letters = list(log.last.arrangement.slot_of) if log.last is not None else []
    sizes = [log.by_letter[letter].size_bytes if letter in log.by_letter else None for letter in letters]
    known = [size for size in sizes if size is not None]
    return sum(known) if known and len(known) == len(sizes) else None


def _where_now(log: TryLog, weighed: Weighed, suspects: Sequence[Suspect]) -> tuple[str, ...]:
    """Return the slots at which the first suspect sits in the latest arrangement; none for one that is everywhere."""
    if not suspects or log.last is None or suspects[0].kind in PLACELESS:
        return ()
    named = next((culprit for culprit in weighed.culprits if (culprit.kind, culprit.name) == (suspects[0].kind, suspects[0].name)), None)
    return named.where(log.last.arrangement) if named is not None else ()


def _is_put_right(log: TryLog, weighed: Weighed, suspects: Sequence[Suspect]) -> bool:
    """Return whether it was a poor contact and works now; which of several it was cannot be told any more, and need not be."""
    if log.last is None:
        return False
    # Only what sits where it failed, and works there now, was put right.
    there = {culprit.name for culprit in weighed.culprits if culprit.kind is SuspectKind.CONTACT and culprit.where(log.last.arrangement)}
    seats = sum(suspect.weight for suspect in suspects if suspect.kind is SuspectKind.CONTACT and suspect.name in there)
    gone = seats + sum(suspect.weight for suspect in suspects if suspect.kind is SuspectKind.NOTHING)
    first = suspects[0].kind if suspects else None
    worked = log.last.worked
    enough = next((least for count, least in reversed(PUT_RIGHT_AFTER) if len(log.tries) >= count), PUT_RIGHT_SURE)
    as_it_was = any(attempt.failed and attempt.arrangement == log.last.arrangement for attempt in log.tries)
    every = sum(suspect.weight for suspect in suspects if suspect.kind in (SuspectKind.CONTACT, SuspectKind.NOTHING))
    # Where the very arrangement that failed works again, a contact and what came once are one.
    if worked and as_it_was and every >= enough:
        return True
    return worked and (seats >= enough or (gone >= GONE_SURE and first in (SuspectKind.CONTACT, SuspectKind.NOTHING)))


def _says(suspects: Sequence[Suspect], settled: bool, two: bool, put_right: bool) -> str:
    if not suspects:
        return "Nothing explains what happened."
    first = suspects[0]
    if put_right and first.kind is SuspectKind.NOTHING:
        return f"Nothing is wrong any more: it came once, or a contact was poor ({sureness(sum(s.weight for s in suspects[:2]))} sure)."
    if put_right:
        weight = sum(suspect.weight for suspect in suspects if suspect.kind is SuspectKind.CONTACT)
        return f"It was a poor contact; seated again, it works ({sureness(weight)} sure)."
    if settled and two:
        return f"Two faults: {first.words} and {suspects[1].words} ({sureness(suspects[1].weight)} sure)."
    if settled:
        return f"It is {first.words} ({sureness(first.weight)} sure)."
    return f"Most likely {first.words} ({sureness(first.weight)}); not clear yet."


_OF_MEMORY = (SuspectKind.MODULE, SuspectKind.MARGINAL, SuspectKind.MIX, SuspectKind.KIND, SuspectKind.TOTAL)
_SUPPORTED_FROM, _DENIED_BELOW = 0.3, 0.03


def supports(said: Blame, conclusion: str) -> bool | None:
    """Return whether the log supports what a technician concludes; None where his words name no suspect that it knows."""
    text = f" {conclusion.casefold()} "
    named = [suspect for suspect in said.suspects if _is_named(suspect, text)]
    if named:
        weight = sum(suspect.weight for suspect in named)
        return True if weight >= _SUPPORTED_FROM else False if weight < _DENIED_BELOW else None
    outside = any(word in text for word in (" fan ", " cooler", " power supply", " heat ", "overheat", " psu "))
    if not outside or not said.suspects:
        return None
    memory = sum(suspect.weight for suspect in said.suspects if suspect.kind in _OF_MEMORY)
    return None if said.works_now or memory < SETTLED else False


def _is_named(suspect: Suspect, text: str) -> bool:
    name = suspect.name.casefold()
    word = {SuspectKind.MACHINE: r"machine|board|mainboard", SuspectKind.PROFILE: "profile", SuspectKind.CONTACT: "contact|seat"}
    if suspect.kind in word:
        return re.search(rf"\b({word[suspect.kind]})", text) is not None
    if suspect.kind in (SuspectKind.MODULE, SuspectKind.MARGINAL):
        return re.search(rf"\b(module|stick|dimm) {re.escape(name)}\b", text) is not None
    return re.search(rf"\b{suspect.kind.value} {re.escape(name)}\b", text) is not None


def says_with(said: Blame, found_next: bool) -> str:
    """Return what the tries say where a next one was looked for: without one, that nothing separates the suspects."""
    if said.settled or found_next or not said.suspects:
        return said.says
    like = ", ".join(f"{suspect.words} ({sureness(suspect.weight)})" for suspect in said.suspects[:3])
    help_words = other_help(said.borrow_for, said.elsewhere_for)
    return f"No arrangement of these modules separates what is left: {like}." + (f" {help_words}" if help_words else "")


def other_help(borrow_for: str, elsewhere_for: str, beside: bool = False) -> str:
    """Return in words what would tell where the modules at hand in this machine do not, or tell little: a borrowed module, or
    another machine; `beside` a proposal that would tell less. Empty where neither would."""
    ways = []
    if borrow_for:
        ways.append(
            f"borrow a module that is known to be good, and fit it in {borrow_for}: "
            "the same trouble clears the module, none clears the slot."
        )
    if elsewhere_for:
        ways.append(f"fit {elsewhere_for} alone in another machine that takes it: the same trouble there blames {elsewhere_for}.")
    words = " Or ".join(ways)
    return "" if not words else f"Or {words}" if beside else f"{words[:1].upper()}{words[1:]}"


def other_help_in_short(borrow_for: str, elsewhere_for: str) -> str:
    """Return the same beside a proposal where there is little room."""
    ways = [f"fit a borrowed good module in {borrow_for}"] if borrow_for else []
    ways += [f"try {elsewhere_for} in another machine"] if elsewhere_for else []
    return f"Or {', or '.join(ways)}." if ways else ""


def _told_by_others(log: TryLog, suspects: Sequence[Suspect]) -> tuple[str, str]:
    """Return the slot and the module that a sound module or another machine would tell of: where the first suspect that has
    both sat in the latest try that failed; none where it sat nowhere, or is soldered."""
    told = (SuspectKind.MODULE, SuspectKind.SLOT, SuspectKind.CONTACT)
    first = next((suspect for suspect in suspects if suspect.kind in told), None)
    failed = next((attempt.arrangement for attempt in reversed(log.tries) if attempt.failed), Arrangement())
    if first is None:
        return "", ""
    slot = first.name if first.kind is SuspectKind.SLOT else failed.slot_of.get(first.name.split(" in ")[0], "")
    letter = failed.module_in.get(slot, "")
    return (slot, letter) if letter and slot not in log.soldered else ("", "")


def _borrow_for(log: TryLog, suspects: Sequence[Suspect]) -> str:
    """Return the slot that a borrowed module would tell of; none where one was borrowed."""
    return "" if any(module.known_good for module in log.modules) else _told_by_others(log, suspects)[0]


def _elsewhere_for(log: TryLog, suspects: Sequence[Suspect]) -> str:
    """Return the module that another machine would tell of; none where it was in one."""
    _, letter = _told_by_others(log, suspects)
    module = log.by_letter.get(letter)
    return "" if not letter or (module is not None and (module.elsewhere or module.known_good)) else letter
