"""The rule about the data rate; the reasons themselves are found in `judgement/rate_reasons.py`."""

from __future__ import annotations

from collections.abc import Iterator

from after_check.domain.codes import Code, Severity
from after_check.domain.findings import Finding
from after_check.judgement.case import Case

_IN_SHORT = {
    Code.RATE_PENDING_RESTART: ("a change waits for a restart", "because a restart is still to come"),
    Code.RATE_CAPPED: ("the firmware setup limits it", "because a setting limits it"),
    Code.RATE_SLOWEST_MODULE: ("the slowest module sets the pace", "because one of the modules is slower than the others"),
    Code.RATE_PROMISE_OUT_OF_REACH: ("the promise is out of reach", "which is as fast as this memory goes in this machine"),
    Code.RATE_LOAD: ("more modules in a channel lower the rate", "because so many modules slow each other down"),
    Code.RATE_PLATFORM: ("the machine itself stops there", "which is as fast as this machine goes"),
    Code.RATE_LOCKED: ("this firmware offers no profile", "because this machine does not allow a faster setting"),
    Code.RATE_PROFILE_OFF: (
        "the memory profile is not applied",
        "because the memory profile (the setting for full speed) is not switched on",
    ),
    Code.RATE_PROFILE_LOWER: ("the slower profile is on", "because a slower setting was chosen"),
    Code.RATE_UNEXPLAINED: ("no single reason explains it", "and the reason is not known yet"),
}
"""A reason in a few words: for the technician, and for the customer."""


def short(case: Case) -> Iterator[Finding]:
    """rate.*: below the promise, or below what the modules state where nothing was promised."""
    found = case.explanation
    if found is None:
        return
    in_short, for_customer = _IN_SHORT[found.code]
    against = "promised" if found.promised else "the modules state"
    yield Finding(
        code=found.code,
        severity=Severity.FIX if found.promised else Severity.TELL,
        title=f"Runs at {found.running_mts}, {against} {found.target_mts} MT/s: {in_short}",
        reason=found.reason,
        next=found.next,
        sure=found.sure,
        customer=f"The memory runs at {found.running_mts} instead of {found.target_mts} million transfers a second, {for_customer}.",
        evidence=found.evidence,
        slots=found.slots,
    )
