"""Writing the sheet and the drawings of a job to files."""

from __future__ import annotations

from pathlib import Path

from reportlab.graphics import renderPDF, renderSVG
from reportlab.graphics.shapes import Drawing

from after_check.domain.benchmark import BenchmarkRecord
from after_check.domain.jobs import Job
from after_check.files.whole_files import write_whole
from after_check.handback.content import Look, content_of
from after_check.handback.drawings import bandwidth_drawing, board_drawing, ceilings_drawing, staircase_drawing, tracks_drawing
from after_check.handback.ownership import check_folder, check_owner, mark_of
from after_check.handback.sheet import sheet_pdf

WIDTH = 505.0
_BOARD_WIDTH = 300.0


def export_pdf(job: Job, path: Path, look: Look = Look()) -> Path:  # noqa: B008 - frozen
    """Write the sheet of a job and return its path. Raises NotReplacedError where a file of another job is there, and OSError."""
    check_owner(path, job.uid)
    write_whole(path, sheet_pdf(content_of(job), look))
    return path


def export_svg(job: Job, folder: Path) -> list[Path]:
    """Write the drawings of a job into a folder, each as SVG and as PDF, and return their paths."""
    check_folder(folder, job.uid)
    content = content_of(job)
    drawings: dict[str, Drawing] = {
        "tracks": tracks_drawing(content.judgement.tracks, WIDTH),
        "board-arrival": board_drawing(content.board_before, "on arrival", _BOARD_WIDTH),
        "board-now": board_drawing(content.board_now, "now", _BOARD_WIDTH),
    }
    if content.judgement.ceilings:
        drawings["ceilings"] = ceilings_drawing(content.judgement.ceilings, WIDTH)
    if any(content.benchmarks):
        drawings |= benchmark_drawings(*content.benchmarks, content.one_channel_gbs, content.channels)
    return write_drawings(drawings, folder, f"Job {job.facts.number}", mark_of(job.uid))


def benchmark_drawings(
    before: BenchmarkRecord | None, now: BenchmarkRecord | None, one_channel_gbs: float | None = None, channels: int = 2
) -> dict[str, Drawing]:
    """Return the drawings of a benchmark by name."""
    return {"bandwidth": bandwidth_drawing(before, now, one_channel_gbs, channels, WIDTH), "latency": staircase_drawing(before, now, WIDTH)}


def write_drawings(drawings: dict[str, Drawing], folder: Path, title: str, mark: str = "") -> list[Path]:
    """Write drawings into a folder, each as SVG and as PDF, and return their paths; `mark` says in an SVG which job it is of."""
    folder.mkdir(parents=True, exist_ok=True)
    written: list[Path] = []
    for name, drawing in drawings.items():
        for suffix, data in (
            (".svg", _titled(renderSVG.drawToString(drawing), f"{title}: {name}", mark).encode()),
            (".pdf", renderPDF.drawToString(drawing)),
        ):
            path = folder / f"{name}{suffix}"
            write_whole(path, data)
            written.append(path)
    return written


def _titled(svg: str, title: str, mark: str) -> str:
    """Return the SVG with a title in place of the library's dots, for readers that speak it."""
    safe = title.replace("&", "&amp;").replace("<", "&lt;")
    return svg.replace("<title>...</title>", f"<title>{safe}</title>").replace(
        "<desc>...</desc>", f"<desc>Made with After Check{mark and f', {mark}'}</desc>"
    )
