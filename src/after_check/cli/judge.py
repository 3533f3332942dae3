"""The command `judge`."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from after_check.casework.answers import answers_document, answers_of_case
from after_check.casework.needs import needs_of_the_shop
from after_check.cli.report_lines import judgement_lines
from after_check.domain.case_files import CaseFile
from after_check.domain.findings import Ceiling, CeilingKind, Finding, Judgement
from after_check.domain.messages import Message, Value, Values
from after_check.domain.standing import Verdict
from after_check.judgement.judge import judge
from after_check.sources.card_file import read_card_file
from after_check.sources.open_source import take, take_promise
from after_check.texts import say, words_of

EXIT_CODES = {Verdict.READY: 0, Verdict.NOT_READY: 1, Verdict.CANT_TELL: 2}


def judge_command(after: str, before: str | None, promise: str | None, card: Path | None, as_json: bool) -> int:
    """Judge a machine and print the judgement; returns 0 ready, 1 not ready, 2 can't tell."""
    arrival = take(before).reading if before else None
    file = CaseFile(
        now=take(after).reading,
        before=arrival,
        promise=take_promise(promise, arrival) if promise else None,
        card=read_card_file(card) if card else None,
        needs=needs_of_the_shop(),
    )
    judgement = judge(file)
    if as_json:
        answers = answers_document(answers_of_case(file, judgement))
        print(json.dumps({**judgement_document(judgement), "answers": answers}, indent=1))
    else:
        print("\n".join(judgement_lines(judgement)))
    return EXIT_CODES[judgement.verdict]


def _finding_document(finding: Finding) -> dict[str, Any]:
    words, cause = words_of(finding), finding.because_of
    return {
        "code": finding.code.value,
        "severity": finding.severity.value,
        "title": words.title,
        "reason": words.reason,
        "next": words.next,
        "sure": finding.sure,
        "customer": words.customer,
        "values": _values(finding.values),
        "evidence": [{"text": say(part.says), "source": part.source.value} for part in finding.evidence],
        "slots": list(finding.slots),
        "because_of": {"code": cause.code.value, "slots": list(cause.slots)} if cause is not None else None,
        "disproof": words.disproof,
    }


def _values(values: Values) -> dict[str, Any]:
    """Return the values that words name as data; what is itself a message becomes its words."""

    def plain(value: Value) -> Any:
        if isinstance(value, Message):
            return say(value)
        return [plain(one) for one in value] if isinstance(value, tuple) else value

    return {name: plain(value) for name, value in values}


def judgement_document(judgement: Judgement) -> dict[str, Any]:
    """Return a judgement as data for a JSON document; `docs/file-formats.md` describes it."""
    expected = judgement.expected
    return {
        "verdict": judgement.verdict.value,
        "why": say(judgement.why),
        "tracks": [
            {
                "quantity": track.quantity.value,
                "before": track.before,
                "promised": track.promised,
                "now": track.now,
                "unit": track.unit,
                "status": track.status.value if track.status else None,
                "basis": track.basis,
            }
            for track in judgement.tracks
        ],
        "findings": [_finding_document(finding) for finding in judgement.findings],
        "ceilings": [
            {"name": ceiling_name(ceiling), "rate_mts": ceiling.rate_mts, "binding": ceiling.binding} for ceiling in judgement.ceilings
        ],
        "expected_rate": {"low_mts": expected.low_mts, "high_mts": expected.high_mts, "open": list(expected.open)} if expected else None,
        "channel_parts": [{"ways": part.ways, "size_bytes": part.size_bytes} for part in judgement.channel_parts],
    }


def ceiling_name(ceiling: Ceiling) -> str:
    """Return the name of a ceiling in JSON documents, which stays as it is whatever the screens call it."""
    if ceiling.kind is CeilingKind.PROFILE:
        return f"modules, profile {ceiling.number}"
    if ceiling.kind is CeilingKind.PLATFORM:
        return f"platform, {ceiling.per_channel} a channel"
    return _CEILING_NAMES[ceiling.kind]


_CEILING_NAMES = {
    CeilingKind.PROMISE: "promised",
    CeilingKind.FIRMWARE: "firmware limit",
    CeilingKind.STANDARD: "modules, standard",
    CeilingKind.AS_RUNNING: "modules, standard (as it runs)",
    CeilingKind.SLOWEST: "slowest module",
    CeilingKind.AS_SOLD: "modules, as sold",
}
