"""Rules about what the tries say: who is to blame, and what follows for the findings about starts, modules and tests."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace

from after_check.domain.codes import Code, Severity
from after_check.domain.facts import Source
from after_check.domain.findings import Evidence, Finding
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
    customer = _NAMED_CUSTOMER.format(_and(tried.named.letters)) if tried.named is not None else _STEPS[first.kind][1].format(first.name)
    words = " or ".join(suspect.words for suspect in tried.named.suspects[:3]) if tried.named is not None else first.words
    yield Finding(
        code=Code.CAUSE_OUTSIDE if outside else Code.CAUSE_FOUND,
        severity=Severity.NOTE if put_right else Severity.FIX,
        title=f"The tries show: {words}" if not outside else "The tries show: it is not the memory",
        reason=f"{tried.says} {tried.tries} arrangement{'s were' if tried.tries > 1 else ' was'} tried."
        + (" What is fitted now works." if put_right else ""),
        next=what_to_do(tried),
        sure=min(0.99, tried.named.weight if tried.named is not None else first.weight),
        customer=_tense(customer, put_right),
        evidence=(Evidence(f"{tried.tries} tries", Source.TYPED),),
        slots=tried.slots,
    )


def open_cause(case: Case) -> Iterator[Finding]:
    """cause.open: something failed in the tries, and who is to blame is not clear yet."""
    tried = case.tried
    if tried is None or tried.settled or not tried.suspects:
        return
    over = tried.works_now and tried.clean_now and _is_as_promised(tried, case)
    untested = tried.works_now and not tried.clean_now
    yield Finding(
        code=Code.CAUSE_OPEN,
        severity=Severity.NOTE if over else Severity.FIX,
        title="It failed in the tries, and why is not clear yet",
        reason=tried.says
        + (" What is fitted now works." if over else "")
        + (" What is fitted now starts; the memory test that failed before was not run with it." if untested else ""),
        next="Start twice more before the machine goes back."
        if over
        else (case.next_try.why if case.next_try is not None else "")
        or "Go on with the tries, or write down what you conclude and test what is fitted now.",
        sure=0.9,
        customer="The machine failed once while it was being tested; as it is fitted now it works."
        if over
        else "The machine failed while it was being tested, and the reason is still looked for.",
        evidence=(Evidence(f"{tried.tries} tries", Source.TYPED),),
    )


def _is_as_promised(tried: Blame, case: Case) -> bool:
    """Return whether the latest arrangement is as large as promised; the old modules back in are no finished job."""
    promised = case.promise.total_bytes
    if promised is not None and tried.fitted_bytes is not None:
        return tried.fitted_bytes >= promised
    return tried.fitted_now >= len(case.promise.modules)


def told_by_tries(case: Case, finding: Finding) -> Finding:
    """Return a finding about a start, a module or a test with what the tries add: their word, and the next one to make."""
    tried = case.tried
    if tried is None or not tried.says:
        return finding
    return replace(
        finding,
        reason=f"{finding.reason} {tried.says}",
        next=_next(case, tried) or finding.next,
        evidence=(*finding.evidence, Evidence(f"{tried.tries} tries", Source.TYPED)),
    )


def _next(case: Case, tried: Blame) -> str:
    return what_to_do(tried) if tried.settled else case.next_try.why if case.next_try is not None else ""


def what_to_do(tried: Blame) -> str:
    """Return what follows from tries that are clear; nothing where they name nobody."""
    if tried.named is not None:
        return f"{tried.named.act[:1].upper()}{tried.named.act[1:]}. Keep serial numbers and errors for the warranty. Then test again."
    return _STEPS[tried.first.kind][0].format(tried.first.name) if tried.first is not None else ""


def _and(letters: Sequence[str]) -> str:
    return " and ".join(letters) if len(letters) < 3 else f"{', '.join(letters[:-1])} and {letters[-1]}"


def _tense(sentence: str, put_right: bool) -> str:
    return f"{sentence} It works as it is fitted now." if put_right else sentence


_STEPS: dict[SuspectKind, tuple[str, str]] = {
    SuspectKind.MODULE: (
        "Take module {} out and have it replaced; keep its serial number and the errors for the warranty. Then test again.",
        "One memory module (marked {}) was found to be faulty by trying it in different places.",
    ),
    SuspectKind.SLOT: (
        "Look into slot {} for dirt and bent contacts. If it stays as it is: leave it empty, or have the board repaired.",
        "One memory slot of the machine ({}) was found not to work.",
    ),
    SuspectKind.MIX: (
        "Do not fit {} together: take modules of one kit, or set the lower of their rates by hand.",
        "Two of the memory modules do not work together.",
    ),
    SuspectKind.TOTAL: (
        "Fit less than {}: this machine takes no more, whatever its parts can do.",
        "The machine does not take that much memory.",
    ),
    SuspectKind.KIND: (
        "Fit other modules: this machine refuses those {}.",
        "The machine does not accept one kind of module that was tried ({}).",
    ),
    SuspectKind.PROFILE: (
        "Leave the profile off, or use a lower one: {} is more than this machine holds.",
        "The machine does not run steadily with the memory at its memory profile.",
    ),
    SuspectKind.CONTACT: (
        "Seat {} again, clean its contacts, and start twice more to see that it stays.",
        "A memory module was not making good contact; it was seated again.",
    ),
    SuspectKind.MACHINE: (
        "The memory is not to blame: the machine fails with modules that are known to be good. Look at board, processor and power.",
        "The machine fails with memory that is known to be good; the fault is not in the memory.",
    ),
    SuspectKind.OUTSIDE: (
        "Look at fans, cooler, power supply and processor; the memory is not to blame for this.",
        "The machine switches off or fails for a reason that is not its memory.",
    ),
    SuspectKind.MARGINAL: (
        "Have module {} replaced: it does not hold the profile that it is sold with. Until then leave the profile off, or use a lower one.",
        "One memory module (marked {}) fails at the speed of its memory profile; at the standard speed it works.",
    ),
    SuspectKind.ORDER: (
        "Fill slot {} first: this machine does not work with it empty.",
        "The machine works only where a certain slot ({}) is filled first.",
    ),
    SuspectKind.CHANNEL: (
        "Look into all slots of channel {} and, where the processor is in a socket, under it for dirt and bent contacts. "
        "If it stays as it is: use the other channels only, or have the board repaired.",
        "One memory channel of the machine ({}) was found not to work.",
    ),
    SuspectKind.NOTHING: (
        "Nothing has to be replaced. Start twice more and test once more before the machine goes back.",
        "A fault came once while the memory was fitted, and did not come again.",
    ),
}
"""What to do, and what the customer reads, for each kind of suspect."""

_NAMED_CUSTOMER = "The machine does not work with one part of the memory that was tried (marked {})."
