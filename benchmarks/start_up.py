"""Times the start: `--version`, and the bench drawn with 10,000 jobs in the store.

Run `.venv/bin/python benchmarks/start_up.py`. Each figure is the median of seven starts of the whole process; the
bench is timed in a terminal of its own, from the start of the process to the first frame that shows a job.
"""

from __future__ import annotations

import fcntl
import os
import pty
import select
import signal
import sqlite3
import statistics
import struct
import subprocess
import sys
import tempfile
import termios
import time
from pathlib import Path

from after_check.domain.jobs import JobFacts
from after_check.shop.store import Shop

JOBS = 10_000
RUNS = 7
COMMAND = [str(Path(sys.executable).parent / "after-check")]


def time_version() -> float:
    """Return the seconds that `after-check --version` takes."""
    begun = time.perf_counter()
    subprocess.run([*COMMAND, "--version"], check=True, stdout=subprocess.DEVNULL)
    return time.perf_counter() - begun


def make_shop(path: Path, jobs: int) -> None:
    """Write a store with many copies of one job."""
    shop = Shop.open(path)
    shop.add_job(JobFacts("1", "Template"))
    shop.close()
    with sqlite3.connect(path) as connection:
        connection.execute(
            "WITH RECURSIVE n(i) AS (SELECT 2 UNION ALL SELECT i + 1 FROM n WHERE i < ?) "
            "INSERT INTO jobs (number, title, machine, customer, promise, created_at, changed_at, version, line, search, "
            "waits_for, latest, judged_by, uid) "
            "SELECT i, 'Job ' || i, '', '', '', created_at, changed_at, 1, replace(line, 'Template', 'Job ' || i), "
            "'job ' || i, waits_for, latest, judged_by, printf('%036d', i) "
            "FROM n, jobs WHERE jobs.number = '1'",
            (jobs,),
        )


def time_bench(path: Path, awaited: bytes) -> float:
    """Return the seconds from the start of the process to the first output that contains `awaited`."""
    begun = time.perf_counter()
    pid, terminal = pty.fork()
    if pid == 0:
        os.environ.update(TERM="xterm-256color", COLORTERM="truecolor", AFTER_CHECK_SHOP=str(path))
        os.execv(COMMAND[0], COMMAND)
    fcntl.ioctl(terminal, termios.TIOCSWINSZ, struct.pack("HHHH", 40, 128, 0, 0))
    seen = b""
    try:
        while awaited not in seen:
            if not select.select([terminal], [], [], 30)[0]:
                raise TimeoutError(seen[-500:])
            seen += os.read(terminal, 65536)
        return time.perf_counter() - begun
    finally:
        os.kill(pid, signal.SIGKILL)
        os.waitpid(pid, 0)
        os.close(terminal)


def report(what: str, seconds: list[float], bound: float) -> None:
    """Print a figure beside its bound."""
    print(f"{what:<44} median {statistics.median(seconds):.3f} s  (min {min(seconds):.3f}, max {max(seconds):.3f}; bound {bound} s)")


if __name__ == "__main__":
    report("after-check --version", [time_version() for _ in range(RUNS)], 0.25)
    with tempfile.TemporaryDirectory() as folder:
        shop = Path(folder) / "shop.db"
        make_shop(shop, JOBS)
        report("first frame of the bench", [time_bench(shop, b"After Check") for _ in range(RUNS)], 1.0)
        report(f"bench drawn with {JOBS:,} jobs", [time_bench(shop, b"Job ") for _ in range(RUNS)], 1.0)
