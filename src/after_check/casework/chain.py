"""The chain of a finding: its cause, what follows from that, one after the other, and the act that breaks it.

A technician fixes the first link; the others go with it.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

from after_check.domain.codes import Severity
from after_check.domain.findings import Finding, Judgement
from after_check.domain.messages import message
from after_check.domain.standing import Quantity, TrackStatus
from after_check.texts import link_words, say, words_of

_SLOWS = ("rate", "channels")
"""Groups of findings from which a lower bandwidth follows."""
_END_OF_SENTENCE, _COMMA = re.compile(r"[.;:](?=\s|$)"), re.compile(r", ")
_SHORT_ACT_LETTERS = 60


@dataclass(frozen=True, slots=True)
class Chain:
    """Links from the cause to the last consequence, each in a few words, and what breaks it; `links[chosen]` is the finding asked for."""

    links: tuple[str, ...]
    act: str
    severity: Severity
    chosen: int


def chain_of(judgement: Judgement, finding: Finding) -> Chain | None:
    """Return the chain that a finding is a link of; None where nothing is to be done about it."""
    root = _root(judgement, finding)
    if root.severity is Severity.NOTE or (root.severity is Severity.TELL and not judgement.following(root)):
        return None
    findings = [root, *judgement.following(root)]
    links = [link_words(one) for one in findings]
    chosen = links[findings.index(finding)]
    if root.code.group == "rate" and (reason := words_of(root).title.partition(": ")[2]):
        links.insert(0, reason)  # What holds the rate back is the cause, the rate what follows.
    peak = judgement.track(Quantity.PEAK)
    if peak is not None and peak.status is TrackStatus.SHORT and any(one.code.group in _SLOWS for one in findings):
        links.append(say(message("link-bandwidth", now=f"{peak.now:.1f}", promised=f"{peak.promised:.1f}")))
    told_once = tuple(dict.fromkeys(links))
    return Chain(told_once, _act(root), root.severity, told_once.index(chosen))


def _root(judgement: Judgement, finding: Finding) -> Finding:
    """Return the finding at the beginning of the chain. A cause is shown before what follows from it, so this ends."""
    while (cause := judgement.cause_of(finding)) is not None:
        finding = cause
    return finding


def _act(root: Finding) -> str:
    """Return the first thing to do about a cause; of a long list of steps the first one."""
    first = _END_OF_SENTENCE.split(words_of(root).next, maxsplit=1)[0]
    return first if len(first) <= _SHORT_ACT_LETTERS else _COMMA.split(first, maxsplit=1)[0]
