"""The command `soak`: a memory test of this machine, or what each program finds."""

from __future__ import annotations

import json
from dataclasses import dataclass
from pathlib import Path

import typer
from platformdirs import user_state_path

from after_check.cli.long_work import run_to_the_end
from after_check.domain.messages import message
from after_check.domain.quantities import MIB, parse_size, size_text
from after_check.domain.soak import LookedFor, SoakRecord, SoakState
from after_check.files.errors import SourceError
from after_check.soak.coverage import Found, coverage_of
from after_check.soak.faults import Model
from after_check.soak.locating import reading_for_slots
from after_check.soak.march import PROGRAMS, RETENTION, MarchProgram
from after_check.soak.plan_asked import NotUnderstoodError, minutes_asked, plan_again, plan_asked, program_asked
from after_check.soak.soak_json import covered_percent, interrupted, read_record, record_document, write_record
from after_check.soak.soak_run import MachineUnderTest
from after_check.sources.linux import identity_here
from after_check.texts import say

EXIT_CLEAN, EXIT_ERRORS, EXIT_NOT_COVERED = 0, 1, 2
_AS_ASKED = 0.95
_MARKS = {Found.FULLY: "●", Found.PARTLY: "◐", Found.NOT: "·"}


@dataclass(frozen=True, slots=True)
class SoakWords:
    """What was given on the command line."""

    plan: str
    programs: tuple[str, ...]
    backgrounds: tuple[str, ...]
    minutes: float | None
    within: float | None
    memory: str | None
    reserve: str | None
    threads: int | None
    record: Path | None
    go_on: bool
    at: str | None
    as_json: bool


def coverage_command(programs: tuple[str, ...], as_json: bool) -> int:
    """Print which fault models programs find, by exhaustive simulation; returns 0."""
    try:
        chosen = tuple(program_asked(text) for text in programs) or (*PROGRAMS.values(), RETENTION)
    except NotUnderstoodError as problem:
        raise SourceError(str(problem), "--program") from None
    if as_json:
        print(json.dumps({"programs": [_coverage_document(program) for program in chosen]}, indent=1, ensure_ascii=False))
        return 0
    width = max(len(program.name) for program in chosen)
    print(" " * (width + 6) + "  ".join(model.value for model in Model))
    for program in chosen:
        marks = "  ".join(_MARKS[covered.verdict].center(len(covered.model.value)) for covered in coverage_of(program))
        print(f"{program.name:<{width}} {program.length:>3}n {marks}")
    print("● every fault of the model  ◐ some  · none")
    for model in Model:
        print(f"  {model.value:<12} {model.words}")
    return 0


def _coverage_document(program: MarchProgram) -> dict[str, object]:
    found = coverage_of(program)
    return {
        "name": program.name,
        "program": str(program),
        "operations_per_cell": program.length,
        "finds": {covered.model.value: covered.verdict.value for covered in found},
        "counts": {covered.model.value: {"found": covered.found, "of": covered.total, "missed": covered.missed} for covered in found},
    }


def soak_command(words: SoakWords) -> int:
    """Soak this machine and print what came of it; returns 0 clean, 1 errors, 2 not covered as asked."""
    from after_check.soak.appliance import ApplianceSoak, NoServiceError
    from after_check.soak.soak_run import Soak, Wishes

    path = words.record or user_state_path("after-check") / "soak.json"
    try:
        if words.within is not None:
            plan = minutes_asked(f"{words.within:g}")
        else:
            plan = plan_asked(words.plan, words.programs, words.backgrounds, repeats=words.minutes is not None)
    except NotUnderstoodError as problem:
        raise SourceError(str(problem), "soak") from None
    wishes = Wishes(
        memory_bytes=size_asked(words.memory, "--memory"),
        reserve_bytes=size_asked(words.reserve, "--reserve"),
        threads=words.threads,
        seconds=words.minutes * 60 if words.minutes is not None else None,
    )
    earlier = _earlier(path) if words.go_on else None
    if earlier is not None and words.within is not None and earlier.plan == plan.name:
        plan = plan_again(earlier) or plan
    if earlier is not None and earlier.steps != tuple(step.name for step in plan.steps):
        raise SourceError(f"the soak that was interrupted had the plan {earlier.plan!r}, not this one", str(path), "name the same plan")
    soak: Soak | ApplianceSoak
    if words.at is not None:
        try:
            soak = ApplianceSoak(words.at, lambda record: write_record(record, path))
        except NoServiceError as problem:
            raise typer.BadParameter(str(problem), param_hint="--at") from None
    else:
        soak = Soak(
            plan,
            wishes,
            earlier,
            lambda record: write_record(record, path),
            MachineUnderTest(None, None, reading_for_slots, identity_here()),
        )

    run_to_the_end(soak, lambda: progress_line(soak.record))
    print_soak(soak.record, words.as_json, wishes.memory_bytes)
    return exit_code(soak.record, wishes.memory_bytes)


def print_soak(record: SoakRecord, as_json: bool, wanted_bytes: int | None) -> None:
    """Print what came of a soak."""
    if as_json:
        print(json.dumps({**record_document(record), "result": result_words(record, wanted_bytes)}, indent=1))
    else:
        print("\n".join(_lines(record, wanted_bytes)))


def progress_line(record: SoakRecord) -> str:
    """Return where a soak is, in a line: step, share of it, rate, time left, errors."""
    if record.own_word_of:
        return f"{record.own_word_of}: {record.share:4.0%}  {record.errors:,} errors  {record.seconds:.0f} s      "
    if not record.blocks:
        return (
            f"taking memory, with a first look: {size_text(record.covered.held_bytes)} of {size_text(record.covered.available_bytes)}      "
        )
    left = f"{int(record.seconds_left // 60)}:{int(record.seconds_left % 60):02d} left" if record.seconds_left is not None else ""
    errors = f"{record.errors:,} errors" if record.errors else "no errors"
    rate = f"{record.rate_bytes_per_s / 1e9:.1f} GB/s"
    return f"{record.step}  {record.step_share:4.0%}  {rate}  {errors}  {left}      "


def _earlier(path: Path) -> SoakRecord | None:
    try:
        record = interrupted(read_record(path))
    except FileNotFoundError:
        raise SourceError("no soak was interrupted here", str(path), "start one without --continue") from None
    except ValueError as problem:
        raise SourceError(f"the record of the soak is damaged ({problem})", str(path), "start a new one") from None
    if record.state is SoakState.FINISHED:
        raise SourceError("the last soak is finished", str(path), "start a new one without --continue")
    return record


def size_asked(text: str | None, option: str) -> int | None:
    """Return an amount of memory that was asked for, in bytes. Raises SourceError with the option's name."""
    if text is None:
        return None
    size_bytes = parse_size(text if text.strip()[-1:].isalpha() else f"{text} M")
    if size_bytes is None or (option == "--memory" and size_bytes < 16 * MIB):
        raise SourceError(f"{text!r} is no amount of memory to test", option, "for instance 4G or 512M, 16M at the least")
    return size_bytes


def exit_code(record: SoakRecord, wanted_bytes: int | None) -> int:
    """Return 1 where errors were found, 0 where as much as was asked for was covered by a whole pass, else 2."""
    if record.errors:
        return EXIT_ERRORS
    if record.own_word_of:
        return EXIT_CLEAN if record.state is SoakState.FINISHED and record.fully_swept_bytes else EXIT_NOT_COVERED
    asked = wanted_bytes if wanted_bytes is not None else max(0, record.covered.available_bytes - record.covered.reserve_bytes)
    complete = record.state is SoakState.FINISHED or (record.state is SoakState.STOPPED and record.passes_done > 0)
    return EXIT_CLEAN if complete and record.fully_swept_bytes and record.fully_swept_bytes >= _AS_ASKED * asked else EXIT_NOT_COVERED


def result_words(record: SoakRecord, wanted_bytes: int | None) -> str:
    """Return clean, errors, or not covered as asked; of a test that was stopped within its first pass, how much of one was done."""
    words = ("clean", "errors", "not covered as asked")[exit_code(record, wanted_bytes)]
    within = record.state is SoakState.STOPPED and not record.passes_done and not record.errors and not record.own_word_of
    return f"{words}, {record.share:.0%} of a pass" if within else words


def _lines(record: SoakRecord, wanted_bytes: int | None) -> list[str]:
    covered = record.covered
    percent = covered_percent(record)
    lines = [
        f"{result_words(record, wanted_bytes)}: {record.errors:,} errors in {record.seconds:.0f} s, "
        f"{record.steps_done} steps ({record.state.value})",
        f"covered   {size_text(record.fully_swept_bytes)} of {size_text(covered.available_bytes)} that was available"
        + (f", {percent} % of what is installed" if percent is not None else ""),
        f"held      {size_text(covered.held_bytes)}, {'locked' if covered.locked else 'not locked'}",
        f"rate      {record.bytes_done / max(record.seconds, 0.01) / 1e9:.1f} GB/s read and written, taken over the whole time",
    ]
    if record.own_word_of:
        lines = [
            lines[0],
            f"covered   {percent if percent is not None else '?'} %, in the machine's own words",
            f"machine   {record.own_word_of}",
        ]
    lines += [f"looked    {share:4.0%} of {kind.value}" for kind, share in zip(LookedFor, record.looked, strict=False)]
    lines += [f"not       {words}" for words in covered.out_of_reach]
    lines += [f"note      {words}" for words in record.remarks]
    lines += [
        f"looks like {symptom.kind.value}: {say(message('symptom', **symptom.values))} ({symptom.errors} errors)"
        for symptom in record.symptoms
    ]
    if record.suspects:
        lines.append(
            f"points at {' or '.join(record.suspects)}" + (f", {say(record.wrong_devices.message)}" if record.wrong_devices else "")
        )
    for error in record.kept[:8]:
        place = f"physical {error.physical_byte:#x}" if error.physical_byte is not None else f"virtual {error.virtual_byte:#x}"
        lines.append(f"  {error.step}: {place}  expected {error.expected:016x}  found {error.found:016x}  bits {error.bits:016x}")
    return lines
