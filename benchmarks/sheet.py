"""The sheet: the whole command `handback --pdf`, and the sheet alone in a program that runs.

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
from after_check.shop.store import Shop


def main() -> None:
    """Print the times, in seconds."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "demo.db"
        shop = Shop.open(path)
        fill(shop)
        for number in ("0417", "0418", "0425"):
            command = [sys.executable, "-m", "after_check", "handback", number, "--shop", str(path), "--pdf", str(Path(folder) / "s.pdf")]
            spans = []
            for _ in range(5):
                begun = time.perf_counter()
                subprocess.run(command, check=True, stdout=subprocess.DEVNULL)
                spans.append(time.perf_counter() - begun)
            begun = time.perf_counter()
            sheet_pdf(content_of(shop.job(number)))
            alone = time.perf_counter() - begun
            print(f"{number}: the command {statistics.median(spans):.2f} s, the sheet alone {alone:.2f} s")


if __name__ == "__main__":
    main()
