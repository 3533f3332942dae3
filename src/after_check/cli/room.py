"""Judging many machines against one promise."""

from __future__ import annotations

import json
import sys
from dataclasses import dataclass
from pathlib import Path

from after_check.cli.access import AccessWords, with_access
from after_check.cli.judge import EXIT_CODES, judgement_document
from after_check.domain.cards import Card
from after_check.domain.findings import Verdict
from after_check.domain.promises import Promise
from after_check.judgement.room import Room
from after_check.shop.rooms import room_of
from after_check.sources.errors import SourceError
from after_check.sources.many import Named, sources_in, take_many, with_kept_passwords
from after_check.sources.taken import Taken
from after_check.sources.whole_files import write_whole

_MARKS = {Verdict.READY: "✓", Verdict.NOT_READY: "✗", Verdict.CANT_TELL: "?"}
_MOST_CODES = 8
_LONGEST_NAME = 26


@dataclass(frozen=True, slots=True)
class RoomOutputs:
    """Where the summary goes besides the screen."""

    pdf: Path | None = None
    csv: Path | None = None
    json: bool = False


def room_command(
    after: Path, before: Path | None, promise: Promise | None, card: Card | None, out: RoomOutputs, access: AccessWords
) -> int:
    """Judge every machine of a folder or a list; returns 0 when all are ready, 1 when any is not, else 2."""
    earlier = {named.name: taken.reading for named, taken in _taken(before, access) if isinstance(taken, Taken)} if before else {}
    room = room_of(((named.name, taken) for named, taken in _taken(after, access)), earlier, promise, lambda reading: card)
    if out.pdf is not None or out.csv is not None:
        from after_check.handback.content import look_of
        from after_check.handback.room_sheet import room_csv, room_pdf
        from after_check.shop.settings import load_settings

        if out.pdf is not None:
            write_whole(out.pdf, room_pdf(room, promise, look_of(load_settings())))
        if out.csv is not None:
            write_whole(out.csv, room_csv(room))
    if out.json:
        print(json.dumps(_document(room), indent=1))
    else:
        print("\n".join(_lines(room)))
    return EXIT_CODES[room.verdict]


def _taken(path: Path, access: AccessWords) -> tuple[tuple[Named, Taken | SourceError], ...]:
    sources = sources_in(path)

    def tell(done: int, whole: int) -> None:
        if sys.stderr.isatty():
            print(f"{done} of {whole} read", end="\r" if done < whole else "\n", file=sys.stderr, flush=True)

    return with_access(str(path), access, lambda given: take_many(sources, with_kept_passwords(given), tell))


def _lines(room: Room) -> list[str]:
    """Return the matrix: a row for each machine, a column for each finding; those that differ come with their reason."""
    codes = room.codes[:_MOST_CODES]
    wide = min(_LONGEST_NAME, max(len(one.name) for one in room.machines))
    lines = [f"{'':{wide}}    {'   '.join(str(number) for number in range(1, len(codes) + 1))}"] if codes else []
    different = {one.name for one in room.different} if room.usual is not None else set()
    for one in room.machines:
        found = {finding.code for finding in one.telling}
        cells = "   ".join("▲" if code in found else "·" for code in codes)
        mark = "  ◂ differs" if one.name in different else ""
        lines.append(f"{one.name[:wide]:{wide}}  {_MARKS[one.verdict]} {cells}{mark}")
    lines += [f"  {number} {code}" for number, code in enumerate(codes, 1)]
    lines.append("")
    for one in room.machines:
        if one.name in different or (one.verdict is not Verdict.READY and room.usual is None):
            lines.append(f"{one.name}: {one.why}")
    ready, not_ready, open_ones = (room.count(verdict) for verdict in (Verdict.READY, Verdict.NOT_READY, Verdict.CANT_TELL))
    lines.append(f"{len(room.machines)} machines: {ready} ready, {not_ready} not ready, {open_ones} can't be told")
    return lines


def _document(room: Room) -> dict[str, object]:
    return {
        "verdict": room.verdict.value,
        "ready": room.count(Verdict.READY),
        "not_ready": room.count(Verdict.NOT_READY),
        "cant_tell": room.count(Verdict.CANT_TELL),
        "different": [one.name for one in room.different] if room.usual is not None else [],
        "machines": [
            {"name": one.name, "problem": one.problem or None, "judgement": judgement_document(one.judgement) if one.judgement else None}
            for one in room.machines
        ],
    }
