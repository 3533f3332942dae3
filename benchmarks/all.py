"""Runs every benchmark but the fuzzing, one after the other, and says what the machine was doing meanwhile.

    .venv/bin/python benchmarks/all.py > figures.txt

Each line has its figure and its goal. What else ran on the machine is told by the load before and after each: a figure
beside a load above the number of processors says little. `docs/speed.md` keeps a run with its date and machine.
"""

from __future__ import annotations

import os
import platform
import subprocess
import sys
from datetime import date
from pathlib import Path

PARTS = ("start_up.py", "readings.py", "sheet.py", "speed.py", "soak.py", "plan.py", "tries.py")


def load() -> str:
    """Return how many programs wanted to run in the last minute."""
    return f"{os.getloadavg()[0]:.1f}"


def main() -> None:
    """Run them all."""
    print(f"{date.today().isoformat()}, {os.cpu_count()} processors, {platform.system()}, Python {platform.python_version()}")
    for name in PARTS:
        before = load()
        done = subprocess.run([sys.executable, str(Path(__file__).parent / name)], check=False, capture_output=True, text=True)
        print(f"\n{name}   load {before} before, {load()} after")
        print(done.stdout.rstrip())
        if done.returncode:
            print(f"  it ended with {done.returncode}: {done.stderr.strip().splitlines()[-1:]}")
        sys.stdout.flush()


if __name__ == "__main__":
    main()
