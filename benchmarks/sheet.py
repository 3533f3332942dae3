"""The sheet: the whole command `handback --pdf`, and the sheet alone in a program that runs.

Beside them the mere import of what the command needs, the libraries alone and with the program's own modules, in pairs that
run in turns: a ratio says what the program does beyond being loaded, whatever the machine is doing just now.

python benchmarks/sheet.py
"""

from __future__ import annotations

import importlib.util
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
ROUNDS = 9
_WHICH = """
import sys
from after_check.cli.entry import main
try:
    main(sys.argv[1:])
except SystemExit:
    pass
print("modules:", *(name for name in sys.modules if name != "__main__"))
"""
_LOAD = """
import gc, importlib, sys
gc.set_threshold(100_000, 50, 100)
for name in sys.argv[1:]:
    importlib.import_module(name)
gc.freeze()
"""


def once(command: list[str]) -> float:
    """Return the seconds of a whole process."""
    begun = time.perf_counter()
    subprocess.run(command, check=True, stdout=subprocess.DEVNULL)
    return time.perf_counter() - begun


def modules_of(arguments: list[str]) -> list[str]:
    """Return the modules that a command loads, in their order."""
    said = subprocess.run([sys.executable, "-c", _WHICH, *arguments], check=True, capture_output=True, text=True).stdout
    names = next(line for line in said.splitlines() if line.startswith("modules:")).split()[1:]
    return [name for name in names if importable(name)]


def importable(name: str) -> bool:
    """Whether a module can be loaded by its name: some are made by others, and some were tried and are not there."""
    try:
        return importlib.util.find_spec(name) is not None
    except (ImportError, ValueError):
        return False


def main() -> None:
    """Print the times, in seconds."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "demo.db"
        shop = Shop.open(path)
        fill(shop)
        for number in ("0417", "0418", "0425"):
            arguments = ["handback", number, "--shop", str(path), "--pdf", str(Path(folder) / "s.pdf")]
            loaded = [sys.executable, "-c", _LOAD, *modules_of(arguments)]
            commands = ([sys.executable, "-m", "after_check", *arguments], loaded, [sys.executable, "-c", LIBRARIES])
            rounds = [[once(command) for command in commands] for _ in range(ROUNDS)]
            span, needed, libraries = (statistics.median(column) for column in zip(*rounds, strict=True))
            to_needed, to_libraries = (statistics.median(one[0] / one[column] for one in rounds) for column in (1, 2))
            begun = time.perf_counter()
            sheet_pdf(content_of(shop.jobs.job(number)))
            alone = time.perf_counter() - begun
            print(
                f"{number}: the command {span:.2f} s, {to_needed:.2f} of loading what it needs ({needed:.2f} s) and "
                f"{to_libraries:.2f} of its libraries ({libraries:.2f} s); the sheet alone {alone:.2f} s"
            )


if __name__ == "__main__":
    main()
