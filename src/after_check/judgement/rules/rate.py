"""The rule about the data rate; the reasons themselves are found in `judgement/rate_reasons.py`."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from after_check.domain.codes import Severity
from after_check.domain.findings import Finding, finding
from after_check.judgement.case import Case


def short(case: Case) -> Iterator[Finding]:
    """rate.*: below the promise, or below what the modules state where nothing was promised."""
    why = case.explanation
    if why is None:
        return
    said = finding(
        why.code,
        why.sure,
        why.evidence,
        why.slots,
        Severity.FIX if why.promised else Severity.TELL,
        running_mts=why.running_mts,
        target_mts=why.target_mts,
        against="promised" if why.promised else "stated",
        **dict(why.values),
    )
    yield replace(said, more=why.more)
