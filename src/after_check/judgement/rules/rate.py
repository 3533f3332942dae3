"""The rule about the data rate; the reasons themselves are in `judgement/rate_reasons.py`."""

from __future__ import annotations

from collections.abc import Iterator

from after_check.domain.findings import Finding, Severity
from after_check.judgement.case import Case
from after_check.judgement.rate_reasons import explain_rate

_IN_SHORT = {
    "rate.pending_restart": ("a change waits for a restart", "because a restart is still to come"),
    "rate.capped": ("the firmware setup limits it", "because a setting limits it"),
    "rate.slowest_module": ("the slowest module sets the pace", "because one of the modules is slower than the others"),
    "rate.promise_out_of_reach": ("the promise is out of reach", "which is as fast as this memory goes in this machine"),
    "rate.load": ("more modules in a channel lower the rate", "because so many modules slow each other down"),
    "rate.platform": ("the machine itself stops there", "which is as fast as this machine goes"),
    "rate.locked": ("this firmware offers no profile", "because this machine does not allow a faster setting"),
    "rate.profile_off": ("the memory profile is not applied", "because a setting for the full speed is not switched on"),
    "rate.profile_lower": ("the slower profile is on", "because a slower setting was chosen"),
    "rate.unexplained": ("no single reason explains it", "and the reason is not known yet"),
}
"""A reason in a few words: for the technician, and for the customer."""


def short(case: Case) -> Iterator[Finding]:
    """rate.*: below the promise, or below what the modules state where nothing was promised."""
    found = explain_rate(case)
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
