"""The sheet: the whole command `handback --pdf`, and the sheet alone in a program that runs.

Beside them the mere import of the libraries that the command needs, which says how fast the machine is just now.

python benchmarks/sheet.py
"""

from __future__ import annotations

import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from after_check.handback.content import content_of
from after_check.handback.sheet import sheet_pdf
from after_check.shop.demo import fill
from after_check.shop.shop import Shop

LIBRARIES = "import pydantic, reportlab.graphics.renderPDF, reportlab.platypus, sqlalchemy, typer"


def times(command: list[str]) -> list[float]:
    """Return the seconds of five runs of a whole process."""
    spans = []
    for _ in range(5):
        begun = time.perf_counter()
        subprocess.run(command, check=True, stdout=subprocess.DEVNULL)
        spans.append(time.perf_counter() - begun)
    return spans


def main() -> None:
    """Print the times, in seconds."""
    print(f"importing the libraries alone: {statistics.median(times([sys.executable, '-c', LIBRARIES])):.2f} s")
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "demo.db"
        shop = Shop.open(path)
        fill(shop)
        for number in ("0417", "0418", "0425"):
            command = [sys.executable, "-m", "after_check", "handback", number, "--shop", str(path), "--pdf", str(Path(folder) / "s.pdf")]
            spans = times(command)
            begun = time.perf_counter()
            sheet_pdf(content_of(shop.jobs.job(number)))
            alone = time.perf_counter() - begun
            print(f"{number}: the command {statistics.median(spans):.2f} s, the sheet alone {alone:.2f} s")


if __name__ == "__main__":
    main()
