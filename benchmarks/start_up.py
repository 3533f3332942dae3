"""Times the start: `--version`, and the bench drawn with 1,000, 10,000 and 100,000 jobs in the store.

Run `.venv/bin/python benchmarks/start_up.py [jobs...]`. Each figure is the median of seven starts of the whole process, in
turns; the bench is timed in a terminal of its own, from the start of the process to the first frame that shows a job,
beside an empty program of the same toolkit, whose time says how fast the machine is just now: the ratio is of pairs.
Then the keys: one ends with the last of what it drew, after which nothing comes for a while.
"""

from __future__ import annotations

import compileall
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

import after_check
from after_check.domain.jobs import JobFacts, Moment
from after_check.shop.shop import Shop
from after_check.sources.open_source import take_notation

JOBS = (1_000, 10_000, 100_000)
RUNS = 7
_AFTER = "A2=16G DDR4-3200; B2=16G DDR4-3200; run 3200; dual; total 32G"
COMMAND = [str(Path(sys.executable).parent / "after-check")]


def time_version() -> float:
    """Return the seconds that `after-check --version` takes."""
    begun = time.perf_counter()
    subprocess.run([*COMMAND, "--version"], check=True, stdout=subprocess.DEVNULL)
    return time.perf_counter() - begun


def make_shop(path: Path, jobs: int) -> None:
    """Write a store with many copies of one job."""
    shop = Shop.open(path)
    before, after = take_notation("A2=8G DDR4-2400; B2=8G DDR4-2400; run 2400"), take_notation(_AFTER)
    facts = JobFacts("1", "Template", "Larkfield T1", "Tide-gauge office", "2x16G DDR4-3200; dual")
    shop.jobs.add(facts, ((Moment.ARRIVAL, before), (Moment.FITTED, after)))
    shop.close()
    with sqlite3.connect(path) as connection:
        connection.execute(
            "WITH RECURSIVE n(i) AS (SELECT 2 UNION ALL SELECT i + 1 FROM n WHERE i < ?) "
            "INSERT INTO jobs (number, title, machine, customer, promise, created_at, changed_at, version, line, search, "
            "waits_for, latest, judged_by, uid) "
            "SELECT i, 'Job ' || i, '', '', '', created_at, changed_at, 1, replace(line, 'Template', 'Job ' || i), "
            "'job ' || i || ' ' || search, CASE WHEN i % 3 THEN 'customer' ELSE 'you' END, "
            "strftime('%Y-%m-%dT%H:%M:%S+00:00', 1700000000 + i * 600, 'unixepoch'), judged_by, printf('%036d', i) "
            "FROM n, jobs WHERE jobs.number = '1'",
            (jobs,),
        )


EMPTY = """
from textual.app import App
from textual.widgets import Footer, Input, Static
class Empty(App):
    def compose(self):
        yield Static("Nothing at all")
        yield Input()
        yield Footer()
Empty().run()
"""


class Terminal:
    """A program in a terminal of its own, 128 x 40 cells."""

    def __init__(self, command: list[str], path: Path) -> None:
        self.begun = time.perf_counter()
        self.pid, self.terminal = pty.fork()
        if self.pid == 0:
            os.environ.update(TERM="xterm-256color", COLORTERM="truecolor", AFTER_CHECK_SHOP=str(path))
            os.execv(command[0], command)
        fcntl.ioctl(self.terminal, termios.TIOCSWINSZ, struct.pack("HHHH", 40, 128, 0, 0))

    def wait(self, awaited: bytes) -> float:
        """Return the seconds from the start of the process to the first output that contains `awaited`."""
        seen = b""
        while awaited not in seen:
            if not select.select([self.terminal], [], [], 30)[0]:
                raise TimeoutError(seen[-500:])
            seen += os.read(self.terminal, 65536)
        return time.perf_counter() - self.begun

    def settle(self, seconds: float) -> float:
        """Read until nothing came for so long; return the moment of the last output."""
        last = time.perf_counter()
        while select.select([self.terminal], [], [], seconds)[0]:
            os.read(self.terminal, 65536)
            last = time.perf_counter()
        return last

    def key(self, key: bytes) -> float:
        """Press a key; return the seconds until the last of what it drew was out."""
        begun = time.perf_counter()
        os.write(self.terminal, key)
        select.select([self.terminal], [], [], 5)
        return self.settle(0.2) - begun

    def close(self) -> None:
        """Kill the program."""
        os.kill(self.pid, signal.SIGKILL)
        os.waitpid(self.pid, 0)
        os.close(self.terminal)


def time_first_frame(command: list[str], path: Path, awaited: bytes) -> float:
    """Return the seconds to a first frame."""
    terminal = Terminal(command, path)
    try:
        return terminal.wait(awaited)
    finally:
        terminal.close()


def time_keys(path: Path) -> list[float]:
    """Return the seconds that each of many keys took: moving through the list, and searching letter by letter."""
    terminal = Terminal(COMMAND, path)
    try:
        terminal.wait(b"Job ")
        terminal.settle(3.0)  # The shop is opened behind the first frame.
        moves = [terminal.key(key) for key in [b"\x1b[B"] * 20 + [b"\x1b[6~"] * 10]
        terminal.key(b"/")
        return moves + [terminal.key(bytes([letter])) for letter in b"job 77 9"]
    finally:
        terminal.close()


def report(what: str, seconds: list[float], bound: float | None = None) -> None:
    """Print a figure beside its bound, where it has one."""
    beside = f"; bound {bound} s" if bound is not None else ""
    print(f"{what:<44} median {statistics.median(seconds):.3f} s  (min {min(seconds):.3f}, max {max(seconds):.3f}{beside})")


if __name__ == "__main__":
    # A start is that of a program that ran before: its modules are compiled.
    compileall.compile_dir(Path(after_check.__file__).parent, quiet=2)
    report("after-check --version", [time_version() for _ in range(RUNS)], 0.25)
    with tempfile.TemporaryDirectory() as folder:
        for jobs in [int(word) for word in sys.argv[1:]] or JOBS:
            shop = Path(folder) / f"shop-{jobs}.db"
            make_shop(shop, jobs)
            empty, drawn = [], []
            for _ in range(RUNS):
                empty.append(time_first_frame([sys.executable, "-c", EMPTY], shop, b"Nothing"))
                drawn.append(time_first_frame(COMMAND, shop, b"Job "))
            report("an empty program of the same toolkit", empty)
            report(f"bench drawn with {jobs:,} jobs", drawn, 1.0)
            ratios = [mine / its for mine, its in zip(drawn, empty, strict=True)]
            print(f"{'drawn, to the empty program, in pairs':<44} ratio  {statistics.median(ratios):.2f}  (goal 1.15)")
            keys = [1000 * seconds for seconds in sorted(time_keys(shop))]
            worst = keys[int(len(keys) * 0.95)]
            print(f"{f'a key with {jobs:,} jobs':<44} median {statistics.median(keys):.0f} ms, 95 % {worst:.0f} ms (goal 50 ms)")
