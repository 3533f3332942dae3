"""Times decoding, reconciling and judging: one reading, a thousand of them, batches by the command, forty machines over SSH at once.

Run `.venv/bin/python benchmarks/readings.py`.
"""

from __future__ import annotations

import json
import os
import statistics
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path

from after_check.domain.case_files import CaseFile
from after_check.judgement.judge import judge
from after_check.sources import saved
from after_check.sources.linux import read_folder
from after_check.sources.open_source import take_promise
from after_check.sources.ssh import read_over_ssh
from after_check.sources.trust import Access, TrustNeededError
from after_check.standins.machines import MACHINES
from after_check.standins.ssh_target import SshTarget

SAVED = 1000
JUDGED = 500
MACHINES_AT_ONCE = 40
BATCHES = {500: 4, 5000: 40}
PROMISE = "8x32G DDR4-3200; channels 8"


def time_one(folder: Path) -> float:
    """Return the seconds for one tree from bytes to verdict."""
    promise = take_promise(PROMISE)
    begun = time.perf_counter()
    judge(CaseFile(read_folder(folder).reading, None, promise))
    return time.perf_counter() - begun


def time_judging(folder: Path) -> float:
    """Return the seconds to judge as many readings as `JUDGED`, each held against its promise."""
    promise = take_promise(PROMISE)
    reading = read_folder(folder).reading
    begun = time.perf_counter()
    for _ in range(JUDGED):
        judge(CaseFile(reading, None, promise))
    return time.perf_counter() - begun


def time_saved(folder: Path) -> float:
    """Return the seconds to load, check, reconcile and judge the saved readings."""
    document = json.dumps(saved.dump(read_folder(folder))).encode()
    begun = time.perf_counter()
    for _ in range(SAVED):
        judge(CaseFile(saved.load(document, "saved").reading))
    return time.perf_counter() - begun


def time_at_once(folder: Path) -> tuple[float, float]:
    """Return the seconds for all machines, and the longest pause of a thread that wants to draw every 20 ms."""
    target = SshTarget(folder, password="bench")
    address = f"ssh://bench@127.0.0.1:{target.start()}{folder}"
    try:
        read_over_ssh(address)
    except TrustNeededError as needed:
        access = Access(password="bench", accepted_fingerprint=needed.fingerprint)
        read_over_ssh(address, access)
    threads = [threading.Thread(target=read_over_ssh, args=(address, access)) for _ in range(MACHINES_AT_ONCE)]
    begun = time.perf_counter()
    for thread in threads:
        thread.start()
    longest = 0.0
    while any(thread.is_alive() for thread in threads):
        before = time.perf_counter()
        time.sleep(0.02)
        longest = max(longest, time.perf_counter() - before - 0.02)
    return time.perf_counter() - begun, longest


def time_batch(tree: Path, folder: Path, machines: int) -> tuple[float, float]:
    """Return the seconds of wall and of processor time that the command takes for a folder of saved readings."""
    document = json.dumps(saved.dump(read_folder(tree)))
    folder.mkdir()
    for number in range(machines):
        (folder / f"machine-{number:05d}.json").write_text(document, encoding="utf-8")
    command = [str(Path(sys.executable).parent / "after-check"), "judge", "--batch", "--after", str(folder), "--promise", PROMISE]
    before, begun = os.times(), time.perf_counter()
    subprocess.run([*command, "--json"], check=False, stdout=subprocess.DEVNULL)
    after = os.times()
    spent = after.children_user + after.children_system - before.children_user - before.children_system
    return time.perf_counter() - begun, spent


if __name__ == "__main__":
    with tempfile.TemporaryDirectory() as name:
        os.environ["AFTER_CHECK_TRUST"] = name
        tree = Path(name) / "tree"
        MACHINES["0419"]().write_tree(tree)
        one = [time_one(tree) for _ in range(50)]
        print(f"one reading decoded and judged: median {statistics.median(one) * 1000:.1f} ms (bound 20 ms)")
        print(f"{SAVED} saved readings: {time_saved(tree):.1f} s (bound 20 s)")
        print(f"{JUDGED} machines judged: {time_judging(tree):.1f} s (bound 5 s)")
        for machines, goal in BATCHES.items():
            wall, spent = time_batch(tree, Path(name) / str(machines), machines)
            print(f"the command for a batch of {machines}: {wall:.1f} s, {spent:.1f} s of processor time (goal {goal} s)")
        whole, pause = time_at_once(tree)
        print(f"{MACHINES_AT_ONCE} machines over SSH at once: {whole:.1f} s, longest pause of the screen's thread {pause * 1000:.0f} ms")
