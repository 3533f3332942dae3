"""What a hand-back still lacks, each with what would fix it."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from after_check.casework.outcome import open_unknown, to_settle, unknown_code, unknown_words, untested_code
from after_check.domain.codes import Severity
from after_check.domain.facts import value_of
from after_check.domain.findings import Finding
from after_check.handback.content import SheetContent
from after_check.texts import words_of


class Remedy(StrEnum):
    """What a person does about something that is missing."""

    FIX = "fix"
    """Go and fix it; that the customer takes the machine with it is a second way."""
    AGREE = "agree"
    """Write down that the customer takes the machine with it."""
    READ = "read"
    SETTLE = "settle"
    """Look at the modules' stickers, or say that it only describes them."""
    SOAK = "soak"
    BENCHMARK = "benchmark"
    OLD_MODULES = "old modules"
    SIGN = "sign"
    WRITE = "write"


@dataclass(frozen=True, slots=True)
class Missing:
    """Something that the hand-back still lacks; `blocks` when the machine is not to go back without it."""

    words: str
    remedy: Remedy
    blocks: bool = False
    finding: Finding | None = None
    unknown: str = ""
    """What was promised and is not known, where it is that."""

    @property
    def code(self) -> str:
        """Under what it is agreed to; empty where nothing is to be agreed."""
        if self.unknown:
            return unknown_code(self.unknown)
        return self.finding.code if self.finding is not None else ""


def _untested(content: SheetContent) -> Finding | None:
    code = untested_code(content.judgement)
    return next((finding for finding in content.judgement.findings if finding.code == code), None)


def missing(content: SheetContent) -> tuple[Missing, ...]:
    """Return what the hand-back still lacks, what blocks it first. A machine that goes back as it came lacks nothing."""
    if content.job.hand_back.as_it_came:
        return ()
    found = [Missing(f"to fix: {words_of(finding).title}", Remedy.FIX, True, finding) for finding in content.open_findings(Severity.FIX)]
    settle = to_settle(content.judgement, content.job.hand_back, content.promise)
    found += [
        Missing(f"not known: {unknown_words(name)}", Remedy.SETTLE if name in settle else Remedy.READ, blocks=True, unknown=name)
        for name in open_unknown(content.judgement, content.job.hand_back)
    ]
    now, added = content.now, content.job.hand_back
    if now is None:
        found.append(Missing("the machine was not read after fitting", Remedy.READ, blocks=True))
    elif content.soak is None:
        found.append(Missing("no memory test was run", Remedy.SOAK, finding=_untested(content)))
    if content.benchmarks[1] is None:
        found.append(Missing("no speed was measured", Remedy.BENCHMARK))
    if not added.old_modules and content.before is not None and content.before.modules:
        found.append(Missing("what became of the old modules", Remedy.OLD_MODULES))
    serials = [value_of(module.serial) for module in (now.modules if now is not None else ())]
    if serials and not all(serials):
        found.append(Missing("serial numbers of the modules, for the warranty", Remedy.READ))
    return tuple(found)
