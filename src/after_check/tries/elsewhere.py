"""A module alone in another machine that takes it: what a technician does who has one at hand, and what it tells.

Nothing of the machine that is looked into is at work there: neither its slots, nor its profile, nor what it refuses. So trouble
there too blames the module, and none clears it, as far as it was tested. The numbers are written out in docs/tries.md.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import replace

import numpy as np

from after_check.domain.outside_text import clean
from after_check.domain.tries import Elsewhere, SuspectKind, TryLog, TryModule
from after_check.tries.model import PASS_MINUTES, Array, Hypotheses
from after_check.tries.suspects import Mode

FAILS_ANYHOW = 0.03
"""How often a module that is sound fails in another machine: its contact there, or a machine that does not take it after all."""
MOST_NOTED = 8
"""So many notes about one module are kept, the latest ones; who looks for a fault needs no more."""
NIGHT_MINUTES = 480.0
"""What "overnight" is."""
_PASSES = re.compile(r"\b(\d{1,2}) (?:full )?(?:passes|rounds)\b", re.IGNORECASE)
_NIGHT = re.compile(r"\bover ?night\b|\ball night\b", re.IGNORECASE)
_NO_TROUBLE = re.compile(
    r"\b(?:(?:no|without(?: any)?|zero|0) (?:more )?(?:errors?|faults?|troubles?|problems?|issues?)|"
    r"(?:(?:did|does|has|have)(?: not|n'?t)|never) (?:fail\w*|crash\w*|hang|hung))\b",
    re.IGNORECASE,
)
_FAILS = re.compile(
    r"\b(?:fail\w*|errors?|dead|bad|faulty|broken|crash\w*|hangs?|freez\w*|beeps?|black|no (?:start|boot|picture|post|go)|same|"
    r"(?:does|did|do|will|would|is|was|are|were)(?: not|n'?t)|won'?t|cannot|can'?t|"
    r"not (?:ok|seen|recogni[sz]ed|detected|found|working|start\w*|boot\w*))\b",
    re.IGNORECASE,
)
_WORKS = re.compile(
    r"\b(?:works?|worked|working|ok(?:ay)?|fine|good|sound|clean|pass(?:e[sd])?|starts?|started|boots?|booted|runs?|ran|seen)\b",
    re.IGNORECASE,
)
_TESTED = re.compile(r"\b(?:clean|errors?|soak\w*|memory test|tested|pass(?:e[sd])?)\b", re.IGNORECASE)
_NOT_TRIED = re.compile(r"^(?:-|–|nothing|not tried|forget it)$", re.IGNORECASE)
_CLAUSES = re.compile(r"[;\n]+|,\s*(?=(?:module )?[A-Za-z]{1,2}\b[ :])")
_LEAD = re.compile(r"^(?:modules?\s+)?(\S+?)\s*[:=]?\s+(.+)$", re.IGNORECASE)


def example_of(log: TryLog) -> str:
    """Return a line that would be understood, with the letters of a log."""
    loose = [module.letter for module in log.modules if not module.soldered] or ["b"]
    return f"{loose[0]} fails" + (f"; {loose[1]} clean 40 min" if len(loose) > 1 else "")


def said_elsewhere(words: str) -> Elsewhere:
    """Return what words say of a module in another machine: `fails`, `starts`, `clean 40 min`. Raises ValueError for other words."""
    from after_check.language.words.tokens import tokens

    spotless = _NO_TROUBLE.search(words) is not None
    plain = _NO_TROUBLE.sub(" ", words)
    fails, works = _FAILS.search(plain) is not None, spotless or _WORKS.search(_FAILS.sub(" ", plain)) is not None
    if not fails and not works:
        raise ValueError(f"{clean(words, 40)!r} does not say whether it works there: fails, starts, or clean 40 min")
    if spotless and fails:
        raise ValueError(f"{clean(words, 40)!r} says that it fails and that it does not")
    duration = next((float(token.value) for token in tokens(words) if token.means("duration")), None)
    if duration is None and (passes := _PASSES.search(words)):
        duration = int(passes[1]) * PASS_MINUTES
    if duration is None and _NIGHT.search(words):
        duration = NIGHT_MINUTES
    if duration is None and (_TESTED.search(words) or spotless):
        duration = PASS_MINUTES
    return Elsewhere(fails, duration)


def with_elsewhere(log: TryLog, line: str) -> TryLog:
    """Return a log with what a line says of modules in another machine: `b fails; a clean 40 min`; `b -` forgets what was noted of b.

    Raises ValueError that says what of the line is not understood.
    """
    modules = {module.letter: module for module in log.modules}
    for clause in filter(None, (part.strip(" .") for part in _CLAUSES.split(line))):
        found = _LEAD.match(clause)
        letter = next((one for one in modules if found is not None and one.casefold() == found[1].casefold()), None)
        if found is None or letter is None:
            raise ValueError(f"{clean(clause, 40)!r} does not begin with a module of this log: for instance {example_of(log)}")
        module = modules[letter]
        if module.soldered:
            raise ValueError(f"{letter} is soldered to this machine, and was in no other one")
        noted = () if _NOT_TRIED.match(found[2]) else (*module.elsewhere, said_elsewhere(found[2]))[-MOST_NOTED:]
        modules[letter] = replace(module, elsewhere=noted)
    return replace(log, modules=tuple(modules.values()))


def failed_elsewhere(log: TryLog, letter: str) -> bool:
    """Return whether a module failed in another machine too, and never worked in one."""
    module = log.by_letter.get(letter)
    return module is not None and bool(module.elsewhere) and all(one.failed for one in module.elsewhere)


def worked_elsewhere(log: TryLog, tested: bool) -> set[str]:
    """Return the letters of modules that worked in another machine, and never failed in one; `tested`: with a memory test."""
    return {
        module.letter
        for module in log.modules
        if module.elsewhere
        and not any(one.failed for one in module.elsewhere)
        and (not tested or any(one.soak_minutes for one in module.elsewhere))
    }


def elsewhere_factor(hypotheses: Hypotheses, modules: Iterable[TryModule]) -> Array:
    """Return, for every hypothesis, by what this makes it likelier than one of which nothing is at work in another machine."""
    factor = np.ones(len(hypotheses.strength))
    for module in modules:
        if not module.elsewhere:
            continue
        for at, number in enumerate(hypotheses.culprit):
            culprit = hypotheses.culprits[number] if number >= 0 else None
            if culprit is not None and culprit.kind is SuspectKind.MODULE and culprit.name == module.letter:
                factor[at] = _likelier(module.elsewhere, hypotheses.modes[at], float(hypotheses.strength[at]))
    return factor


def _likelier(noted: Sequence[Elsewhere], mode: Mode | None, strength: float) -> float:
    """Return how much likelier what was noted is where the module is the fault than where it is not."""
    found = 1.0
    for one in noted:
        shows = strength
        if mode is Mode.SOAK:
            if one.soak_minutes is None and not one.failed:
                continue  # It was only started: that says nothing of errors.
            shows = 1 - (1 - strength) ** max((one.soak_minutes or PASS_MINUTES) / PASS_MINUTES, 0.3)
        fails = 1 - (1 - shows) * (1 - FAILS_ANYHOW)
        found *= fails / FAILS_ANYHOW if one.failed else (1 - fails) / (1 - FAILS_ANYHOW)
    return found
