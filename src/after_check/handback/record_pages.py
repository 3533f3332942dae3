"""The record behind the customer's page: modules, readings, ceilings, benchmarks, soaks, tries, findings, evidence."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from reportlab.platypus import CondPageBreak, Flowable, KeepTogether, Paragraph, Spacer, Table

from after_check.benchmark.measurement_names import figure_words
from after_check.casework.job_tries import staying
from after_check.casework.rate_words import expected_words
from after_check.casework.same_machine import known_by, why_not
from after_check.casework.verdict_words import QUANTITY_WORDS, status_words
from after_check.domain.benchmark import Series
from after_check.domain.fact_table import known_facts
from after_check.domain.facts import Fact, value_of
from after_check.domain.identity import CameBy
from after_check.domain.modules import Module
from after_check.domain.quantities import number_text, size_text
from after_check.domain.readings import Reading
from after_check.domain.soak import SoakRecord
from after_check.domain.tries import sureness
from after_check.handback.content import SheetContent
from after_check.handback.drawings import bandwidth_drawing, ceilings_drawing, staircase_drawing
from after_check.handback.typesetting import HEADING, SMALL, TEXT, TITLE, Bookmark, Placed, paragraph, table
from after_check.standards.weeks import week_words
from after_check.texts import say, words_of
from after_check.tries.try_words import elsewhere_words, fitted_words, outcome_words, shown_words

_MOST_EVIDENCE = 120
_LEAST_ROOM = 110.0
"""In points: a heading, the head of a table and a few of its rows."""
_MOST_ROWS = 64


def record_pages(content: SheetContent, width: float) -> Iterator[Flowable]:
    """Yield the parts of the record, each with its place in the outline."""
    yield Paragraph("The record", TITLE)
    yield Spacer(1, 4)
    parts = (
        ("Modules", _modules),
        ("Figures and their sources", _figures),
        ("What limits the speed, in MT/s", _ceilings),
        ("Measured", _benchmarks),
        ("Memory tests", _soaks),
        ("What was tried", _tries),
        ("Findings", _findings),
        ("Agreed and signed", _agreed),
        ("Readings and evidence", _evidence),
    )
    for number, (name, build) in enumerate(parts):
        drawn = list(build(content, width))
        if drawn:
            head = [Bookmark(name, f"record-{number}", 1), Paragraph(name, HEADING)]
            if isinstance(drawn[0], Table):  # Its rows go on with the next page; half an empty one is no use to anybody.
                yield CondPageBreak(_LEAST_ROOM)
                yield from (*head, *drawn)
                continue
            yield KeepTogether([*head, drawn[0]])
            yield from drawn[1:]


def _modules(content: SheetContent, width: float) -> Iterator[Flowable]:
    for word, reading in (("Now", content.now), ("On arrival", content.before)):
        rows = [(slot or "–", *_module_cells(module)) for slot, module in (reading.filled() if reading is not None else ())]
        if rows:
            yield paragraph(word, SMALL)
            head = ("Slot", "Size", "Kind", "Maker and part", "Serial", "Made", "Standard, profiles")
            shares = (0.1, 0.09, 0.14, 0.25, 0.14, 0.1, 0.18)
            yield table(head, rows[:_MOST_ROWS], [share * width for share in shares])
            yield Spacer(1, 5)


def _module_cells(module: Module) -> tuple[str, ...]:
    generation, rated = value_of(module.generation), value_of(module.rated_mts)
    form, ranks, wide = value_of(module.form), value_of(module.ranks), value_of(module.device_width_bits)
    ecc = value_of(module.ecc)
    kind = [f"{generation or ''}{f'-{rated}' if rated else ''}", form.value if form else "", "ECC" if ecc else ""]
    kind.append(f"{ranks}R×{wide}" if ranks and wide else "")
    profiles = [f"profile {profile.number}: {profile.rate_mts}" for profile in value_of(module.profiles) or ()]
    standard = value_of(module.standard_mts)
    return (
        size_text(module.size_bytes.value) if module.size_bytes else "not known",
        " ".join(part for part in kind if part) or "not known",
        " ".join(text for text in (value_of(module.maker), value_of(module.part)) if text) or _maker_code(module),
        value_of(module.serial) or "not known",
        week_words(module.made.value) if module.made is not None else "not known",
        "; ".join([f"standard {standard}" if standard else "", *profiles]).strip("; ") or "not known",
    )


def _maker_code(module: Module) -> str:
    return f"maker: {module.maker_id.value}" if module.maker_id is not None else "not known"


def _figures(content: SheetContent, width: float) -> Iterator[Flowable]:
    rows = [
        (
            QUANTITY_WORDS[track.quantity],
            _said(track.before),
            _said(track.promised) if track.promised is not None else "–",
            f"{_said(track.now)} {track.unit}".strip(),
            status_words(track) or "not promised",
            track.basis,
        )
        for track in content.judgement.tracks
    ]
    if rows:
        shares = (0.14, 0.12, 0.12, 0.16, 0.12, 0.34)
        yield table(("Quantity", "On arrival", "Promised", "Now", "", "Where it is from"), rows, [share * width for share in shares])
    if content.now is not None:
        others = [(name, said, fact.source.value) for name, said, fact in _facts(content.now)]
        if others:
            yield Spacer(1, 4)
            yield table(("Besides", "", "Where it is from"), others, [0.3 * width, 0.36 * width, 0.34 * width])


def _facts(reading: Reading) -> Iterator[tuple[str, str, Fact[Any]]]:
    machine = reading.machine
    for name, text in (
        ("Machine", machine.model),
        ("Board", machine.board),
        ("Firmware", machine.firmware_version),
        ("Processor", machine.processor),
        ("Serial of the machine", machine.serial),
    ):
        if text is not None:
            yield name, text.value, text
    for row, fact in known_facts(reading):
        if row.on_record:
            yield f"{row.words[:1].upper()}{row.words[1:]}", row.said(fact.value), fact


def _said(value: float | str | None) -> str:
    return "not known" if value is None else value if isinstance(value, str) else number_text(value)


def _ceilings(content: SheetContent, width: float) -> Iterator[Flowable]:
    if content.judgement.ceilings:
        yield Placed(ceilings_drawing(content.judgement.ceilings, width, title=""))
    if content.judgement.expected is not None:
        yield paragraph(f"To be expected with these modules: {expected_words(content.judgement.expected)}.", SMALL)


def _benchmarks(content: SheetContent, width: float) -> Iterator[Flowable]:
    before, now = content.benchmarks
    if before is None and now is None:
        return
    yield Placed(bandwidth_drawing(before, now, content.one_channel_gbs, content.channels, width))
    yield Placed(staircase_drawing(before, now, width))
    scores = [part for part in (now.series if now else ()) if part.typed]
    rows = [(score.name, figure_words(score), _score_before(content, score), "typed") for score in scores]
    if rows:
        yield table(("Score", "Now", "Before", ""), rows, [0.4 * width, 0.2 * width, 0.2 * width, 0.2 * width])


def _score_before(content: SheetContent, score: Series) -> str:
    before = content.benchmarks[0]
    series = before.of(score.key) if before is not None else None
    return figure_words(series) if series is not None else "not given"


def _soaks(content: SheetContent, width: float) -> Iterator[Flowable]:
    rows = [_soak_row(kept.record) for kept in content.job.soaks]
    if rows:
        head = ("Begun (UTC)", "Plan", "State", "Time", "Passes", "Under test", "Errors", "Points at")
        shares = (0.16, 0.14, 0.12, 0.1, 0.08, 0.14, 0.1, 0.16)
        yield table(head, rows, [share * width for share in shares])
    for kept in content.job.soaks:
        ran_on = kept.record.machine
        if ran_on is not None and ran_on.way is not CameBy.HERE:
            yield paragraph(f"The memory test of {kept.record.begun_at:%Y-%m-%d %H:%M} ran on {ran_on.words}, {ran_on.way.value}.", SMALL)
        if by := known_by(content.job, kept.record):
            yield paragraph(f"That the memory test of {kept.record.begun_at:%Y-%m-%d %H:%M} ran on this machine is known: {by}.", SMALL)
        no_proof = why_not(content.job, kept.record)
        if no_proof:
            yield paragraph(f"The memory test of {kept.record.begun_at:%Y-%m-%d %H:%M} does not count for this machine: {no_proof}.", SMALL)
        for words in (*kept.record.covered.out_of_reach, *kept.record.remarks):
            yield paragraph(words, SMALL)


def _soak_row(record: SoakRecord) -> tuple[str, ...]:
    share = f" ({record.covered.of_installed:.0%})" if record.covered.of_installed is not None else ""
    return (
        f"{record.begun_at:%Y-%m-%d %H:%M}",
        record.own_word_of or record.plan,
        record.state.value,
        f"{record.seconds / 60:.0f} min",
        str(record.passes_done),
        size_text(record.fully_swept_bytes or record.covered.held_bytes) + share,
        f"{record.errors:,}",
        ", ".join(record.suspects) or "–",
    )


def _tries(content: SheetContent, width: float) -> Iterator[Flowable]:
    log, blame = content.tries, content.blame
    if log is None or blame is None:
        return
    stays = staying(content.job)
    rows = [
        (
            str(number),
            f"{attempt.at:%Y-%m-%d %H:%M}" if attempt.at else "",
            fitted_words(attempt.arrangement),
            attempt.arrangement.profile or "–",
            "; ".join(filter(None, (outcome_words(attempt), shown_words(attempt), "this stays" if number - 1 == stays else ""))),
            "; ".join([*attempt.signs, *([attempt.note] if attempt.note else [])]),
        )
        for number, attempt in enumerate(log.tries, 1)
    ]
    shares = (0.05, 0.14, 0.26, 0.08, 0.2, 0.27)
    yield table(
        ("", "When (UTC)", "Which module in which slot", "Profile", "What happened", "Signs, notes"), rows, [s * width for s in shares]
    )
    if log.conclusion:
        yield paragraph(f"The technician concludes: {log.conclusion}", TEXT)
    yield paragraph(f"The program: {blame.says}" if log.conclusion else blame.says, TEXT)
    weights = ", ".join(f"{suspect.words} {sureness(suspect.weight)}" for suspect in blame.suspects[:5])
    if weights:
        yield paragraph(f"After all tries: {weights}.", SMALL)
    since = {module.letter: "old" if module.old else "borrowed" if module.known_good else "" for module in log.modules}
    known = [
        f"{module.letter}: {', '.join(filter(None, (module.words, since[module.letter], elsewhere_words(module))))}"
        for module in log.modules
        if module.words or module.known_good or module.elsewhere
    ]
    if known:
        yield paragraph("; ".join(known), SMALL)


def _findings(content: SheetContent, width: float) -> Iterator[Flowable]:
    rows = [
        (
            finding.severity.value,
            f"{finding.code}{f', follows from {finding.because_of.code}' if finding.because_of else ''}",
            words_of(finding).title,
            words_of(finding).reason,
            f"{finding.sure:.0%}",
            "; ".join(f"{say(part.says)} ({part.source.value})" for part in finding.evidence),
        )
        for finding in content.judgement.findings
    ]
    if rows:
        shares = (0.06, 0.14, 0.22, 0.3, 0.06, 0.22)
        yield table(("", "Code", "Finding", "Reason", "Sure", "Rests on"), rows, [share * width for share in shares])


def _agreed(content: SheetContent, width: float) -> Iterator[Flowable]:
    rows = [
        (
            f"{override.at:%Y-%m-%d}" if override.at else "",
            override.code,
            override.reason,
            override.by,
            f"{override.before} > {override.after}" if override.after else "",
        )
        for override in content.job.hand_back.overrides
    ]
    if rows:
        shares = (0.1, 0.16, 0.28, 0.14, 0.32)
        yield table(("When", "What", "Reason", "By", "Before and after"), rows, [share * width for share in shares])
    for revision in content.job.revisions:
        signed = f"signed {revision.signed_at:%Y-%m-%d %H:%M} UTC by {revision.signed_by}"
        yield paragraph(f"Revision {revision.number}: {signed}; SHA-256 {revision.sha256}", SMALL)


def _evidence(content: SheetContent, width: float) -> Iterator[Flowable]:
    rows = [
        (
            f"{kept.taken_at:%Y-%m-%d %H:%M}",
            kept.moment.value,
            kept.reading.origin or "typed",
            part.name,
            f"{part.size_bytes:,}",
            part.sha256,
        )
        for kept in content.job.readings
        for part in kept.reading.evidence
    ]
    if rows:
        shares = (0.12, 0.08, 0.16, 0.24, 0.07, 0.33)
        head = ("Taken (UTC)", "", "From", "Evidence", "Bytes", "SHA-256")
        yield table(head, rows[:_MOST_EVIDENCE], [share * width for share in shares])
        if len(rows) > _MOST_EVIDENCE:
            yield paragraph(f"And {len(rows) - _MOST_EVIDENCE} more; the job file has them all.", SMALL)
