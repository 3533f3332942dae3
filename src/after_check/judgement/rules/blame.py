"""Rules about what the tries say: who is to blame, and what follows for the findings about starts, modules and tests."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from after_check.domain.codes import Code, Severity
from after_check.domain.facts import Source
from after_check.domain.findings import Finding, finding, shown
from after_check.domain.messages import Message, Value, message
from after_check.domain.tries import Blame, SuspectKind
from after_check.judgement.case import Case


def found(case: Case) -> Iterator[Finding]:
    """cause.found, cause.outside: the tries point clearly at one suspect."""
    tried = case.tried
    if tried is None or not tried.settled or tried.first is None:
        return
    first = tried.first
    outside = first.kind is SuspectKind.OUTSIDE
    put_right = tried.works_now and _is_as_promised(tried, case)
    suspects = tried.named.suspects[:3] if tried.named is not None else (first,)
    yield finding(
        Code.CAUSE_OUTSIDE if outside else Code.CAUSE_FOUND,
        min(0.99, tried.named.weight if tried.named is not None else first.weight),
        (shown("tries", Source.TYPED, tries=tried.tries),),
        tried.slots,
        Severity.NOTE if put_right else Severity.FIX,
        why="tries",
        suspects=" or ".join(suspect.words for suspect in suspects),
        tries_say=tried.says,
        tries=tried.tries,
        put_right=put_right,
        **_act(tried),
    )


def open_cause(case: Case) -> Iterator[Finding]:
    """cause.open: something failed in the tries, and who is to blame is not clear yet."""
    tried = case.tried
    if tried is None or tried.settled or not tried.suspects:
        return
    over = tried.works_now and tried.clean_now and _is_as_promised(tried, case)
    untested = tried.works_now and not tried.clean_now
    yield finding(
        Code.CAUSE_OPEN,
        0.9,
        (shown("tries", Source.TYPED, tries=tried.tries),),
        severity=Severity.NOTE if over else Severity.FIX,
        state="over" if over else "untested" if untested else "failing",
        tries_say=tried.says,
        next_try=case.next_try.why if case.next_try is not None else None,
    )


def _is_as_promised(tried: Blame, case: Case) -> bool:
    """Return whether the latest arrangement is as large as promised; the old modules back in are no finished job."""
    promised = case.promise.total_bytes
    if promised is not None and tried.fitted_bytes is not None:
        return tried.fitted_bytes >= promised
    return tried.fitted_now >= len(case.promise.modules)


def told_by_tries(case: Case, about: Finding) -> Finding:
    """Return a finding about a start, a module or a test with what the tries add: their word, and the next one to make."""
    tried = case.tried
    if tried is None or not tried.says:
        return about
    evidence = shown("tries", Source.TYPED, tries=tried.tries)
    return replace(about, more=(*about.more, _added(case, tried)), evidence=(*about.evidence, evidence))


def _added(case: Case, tried: Blame) -> Message:
    if tried.settled and (tried.first is not None or tried.named is not None):
        return message("tries-add-act", tries_say=tried.says, put_right=False, **_act(tried))
    if not tried.settled and case.next_try is not None:
        return message("tries-add-next", tries_say=tried.says, next_try=case.next_try.why)
    return message("tries-add", tries_say=tried.says)


def _act(tried: Blame) -> dict[str, Value]:
    """Return what follows from tries that are clear, as the values of `act` in the texts."""
    if tried.named is not None:
        return {"kind": "parts", "name": tried.named.letters, "act": tried.named.act}
    first = tried.first
    return {"kind": first.kind.name.lower(), "name": first.name} if first is not None else {"kind": "nothing", "name": ""}


def act_message(tried: Blame) -> Message:
    """Return what follows from tries that are clear, to be said."""
    return message("act", put_right=False, **_act(tried))
