"""Makes a stick's image, boots it in an emulator and looks at what comes back: `./check --stick`, as root.

By BIOS to the end, with a disk beside it that nobody may touch; by BIOS with bits flipped from outside through the
emulator's debugging stub (the GDB remote serial protocol); with different amounts of memory; with little of it and a
clock at 1970; by UEFI as far as the reading, and with secure boot on as far as the test. Pictures of the screen are
left in the folder that is named. It takes a good half hour without hardware to help.
"""

from __future__ import annotations

import argparse
import hashlib
import os
import random
import re
import shutil
import socket
import subprocess
import sys
import tempfile
import time
from dataclasses import dataclass
from pathlib import Path

from after_check.casework.snapshot import take_snapshot
from after_check.domain.identity import CameBy
from after_check.domain.jobs import Job, JobFacts
from after_check.domain.ranges import Ranges
from after_check.domain.soak import SoakRecord, SoakState
from after_check.local.settings import Settings
from after_check.shop.shop import Shop
from after_check.stick.contents import StickFolder
from after_check.stick.disk_image import partitions, placed
from after_check.stick.load import collect_stick, load_stick
from after_check.stick.make import NotMadeError, StickWishes, make_image

MIB = 1 << 20
MEMORY_MIB = 800
DATA_BYTES = 256 * MIB
LONGEST_SECONDS = 3600
FLIPS = 10
COVERED = {2048: 0.90, 8192: 0.96}
"""How much of so many MiB is under test in the first of two starts: nearly all but what the system needs at the least."""
_OFFSET = placed(partitions(DATA_BYTES, MIB))[0].first_byte
_UEFI = Path("/usr/share/OVMF/OVMF_CODE.fd")
_SECURE = Path("/usr/share/OVMF/OVMF_CODE_4M.ms.fd"), Path("/usr/share/OVMF/OVMF_VARS_4M.ms.fd")
"""A firmware with secure boot on, and its settings, which know the keys that signed shims are checked against."""


class FailedError(Exception):
    """Something is not as it should be."""


@dataclass
class Emulator:
    """A machine in the emulator, with its monitor and its debugging stub."""

    folder: Path
    image: Path
    more: tuple[str, ...] = ()
    memory_mib: int = MEMORY_MIB

    def start(self) -> None:
        """Switch it on."""
        self.monitor, self.stub = self.folder / "monitor", self.folder / "stub"
        command = ["qemu-system-x86_64", "-accel", "tcg,thread=multi", "-cpu", "max,-hypervisor", "-smp", "2", "-m", str(self.memory_mib)]
        command += ["-display", "none", "-vga", "std", "-nic", "none", "-serial", f"file:{self.folder / 'serial'}"]
        command += ["-drive", f"if=none,id=stick,file={self.image},format=raw", "-device", "qemu-xhci"]
        command += ["-device", "usb-storage,drive=stick,removable=on,bootindex=1"]
        command += ["-smbios", "type=1,manufacturer=Larkfield,product=T1,serial=LT-0501,uuid=0a1b2c3d-0000-4000-8000-00000000c0de"]
        command += [
            "-smbios",
            "type=2,manufacturer=Larkfield,product=T1-board",
            "-smbios",
            "type=17,manufacturer=Ostrel,serial=0A00A1,speed=2400",
        ]
        command += ["-monitor", f"unix:{self.monitor},server,nowait", "-gdb", f"unix:{self.stub},server,nowait", *self.more]
        self.process = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE)

    def stop(self) -> None:
        """Pull the plug."""
        self.process.kill()
        self.process.wait()

    def say(self, words: str) -> str:
        """Say something to the monitor, and return what it answers."""
        with socket.socket(socket.AF_UNIX) as line:
            line.settimeout(10)
            line.connect(str(self.monitor))
            time.sleep(0.3)
            line.recv(1 << 16)
            line.sendall(words.encode() + b"\n")
            time.sleep(1.0)
            return line.recv(1 << 18).decode("ascii", "replace")

    def picture(self, path: Path) -> None:
        """Take a picture of its screen."""
        from PIL import Image

        raw = self.folder / "screen.ppm"
        self.say(f"screendump {raw}")
        with Image.open(raw) as image:
            image.save(path)

    def flip(self, physical_byte: int, bit: int) -> None:
        """Flip a bit of its memory, at a physical address, while it stands still for a moment."""
        with socket.socket(socket.AF_UNIX) as line:
            line.settimeout(20)
            line.connect(str(self.stub))
            _packet(line, "?")
            if _packet(line, "Qqemu.PhyMemMode:1") != "OK":
                raise FailedError("the emulator's stub knows no physical addresses")
            value = int(_packet(line, f"m{physical_byte:x},1"), 16)
            if _packet(line, f"M{physical_byte:x},1:{value ^ 1 << bit:02x}") != "OK":
                raise FailedError("the emulator's stub takes no bytes")
            _packet(line, "D")


def _packet(line: socket.socket, words: str) -> str:
    """Send a packet of the GDB remote serial protocol, and return the answer's content."""
    data = words.encode()
    line.sendall(b"$" + data + b"#" + f"{sum(data) % 256:02x}".encode())
    answer = b""
    while True:
        answer += line.recv(1 << 12)
        # That it stands still now may be told more than once, and is no answer to anything but "?".
        while match := re.match(rb"[+-]*\$([^#]*)#..", answer):
            answer = answer[match.end() :]
            line.sendall(b"+")
            if words == "?" or not match[1].startswith(b"T"):
                return match[1].decode()


def _mcopy(image: Path, *words: str) -> None:
    command = ["mcopy", "-s", "-Q", "-i", f"{image}@@{_OFFSET}", *words]
    subprocess.run(command, check=True, env={**os.environ, "MTOOLS_SKIP_CHECK": "1"}, capture_output=True)


def copied_out(image: Path, place: Path) -> StickFolder:
    """Return the data partition's content, copied out of an image."""
    shutil.rmtree(place, ignore_errors=True)
    place.mkdir()
    environment = {**os.environ, "MTOOLS_SKIP_CHECK": "1"}
    subprocess.run(
        ["mcopy", "-s", "-Q", "-n", "-i", f"{image}@@{_OFFSET}", "::/after-check", str(place)],
        check=True,
        env=environment,
        capture_output=True,
    )
    return StickFolder(place)


def state_of(image: Path, work: Path) -> Job | None:
    """Return the job on a stick as it stands now, read beside the machine that writes it; None where it cannot be read."""
    try:
        folder = copied_out(image, work / "look")
        store = work / "look.db"
        store.unlink(missing_ok=True)
        shop = Shop.open(store)
        try:
            found = collect_stick(shop, folder, any_shop=True)
            jobs = [shop.jobs.job(number) for number, _ in found.jobs]
            # A machine that is not known again becomes a job of its own, beside those that were loaded.
            return max(jobs, key=lambda job: (len(job.soaks), len(job.readings)), default=None)
        finally:
            shop.close()
    except (subprocess.CalledProcessError, OSError, ValueError):
        return None


def wait_for(what: str, condition: object, machine: Emulator, seconds: float = LONGEST_SECONDS) -> None:
    """Wait until something is so."""
    until = time.monotonic() + seconds
    while time.monotonic() < until:
        if machine.process.poll() is not None:
            raise FailedError(f"the emulator ended: {machine.process.stderr.read().decode()[-300:] if machine.process.stderr else ''}")
        if condition():  # type: ignore[operator]
            return
        time.sleep(5)
    raise FailedError(f"it did not come to that: {what}")


def check(ok: bool, words: str) -> None:
    """Say that something is so, or fail."""
    if not ok:
        raise FailedError(words)
    print(f"  so it is: {words}", flush=True)


def to_the_end(image: Path, work: Path, pictures: Path) -> None:
    """Boot, let it do everything, bring it home."""
    print("by BIOS, to the end", flush=True)
    stick, disk = work / "one.img", work / "disk.img"
    shutil.copyfile(image, stick)
    with disk.open("wb") as file:
        file.truncate(64 * MIB)
    subprocess.run(["mkfs.vfat", "-F", "32", "-n", "CUSTOMER", str(disk)], check=True, capture_output=True)
    before = hashlib.sha256(disk.read_bytes()).hexdigest()
    home = Shop.open(work / "home.db")
    home.jobs.add(JobFacts("0501", "Tide desk", "Larkfield T1", "", f"total {MEMORY_MIB}M"))
    _load(home, stick, work, Settings(), "0501")
    machine = Emulator(_empty(work / "m1", "run"), stick, ("-drive", f"if=ide,file={disk},format=raw"))
    machine.start()
    try:
        begun = time.monotonic()
        # It asks which job it is, as nothing of the machine is known; the first key answers.
        wait_for("the job is asked for", lambda: _answered(machine, stick, work, "0501"), machine)
        wait_for(
            "the test runs", lambda: (job := state_of(stick, work)) is not None and any(s.record.steps_done for s in job.soaks), machine
        )
        machine.picture(pictures / "stick-testing.png")
        wait_for("it is done", lambda: _is_done(stick, work), machine)
        time.sleep(10)
        machine.picture(pictures / "stick-done.png")
        print(f"  {time.monotonic() - begun:.0f} s in all", flush=True)
        stats = machine.say("info blockstats")
        line = next(line for line in stats.splitlines() if line.startswith("ide0"))
        check("wr_bytes=0 " in line, "nothing was written to the machine's own disk")
    finally:
        machine.stop()
    check(hashlib.sha256(disk.read_bytes()).hexdigest() == before, "the machine's own disk is as it was")
    found = collect_stick(home, copied_out(stick, work / "back"))
    check(not found.problems, f"it came home: {found.jobs}")
    job = home.jobs.job(found.jobs[-1][0])
    record = job.soaks[-1].record
    installed = record.covered.installed_bytes or 1
    print(f"  covered {record.fully_swept_bytes / installed:.3%} in {record.seconds:.0f} s; {take_snapshot(job).outcome.value}")
    check(record.fully_swept_bytes / installed >= 0.998, "nearly all of it was tested in two starts")
    check(record.machine is not None and record.machine.way is CameBy.STICK, "it says that it came from the stick")
    check(record.machine is not None and record.machine.serial == "LT-0501", "it says which machine it was")
    check(record.errors == 0, "no false error")
    check(job.facts.number == "0501", "it is the job that was answered")
    home.close()


def _load(home: Shop, stick: Path, work: Path, settings: Settings, *jobs: str) -> None:
    """Load jobs and settings onto a stick's image."""
    load_stick(home, StickFolder(_empty(work / "load")), jobs, False, settings)
    environment = {**os.environ, "MTOOLS_SKIP_CHECK": "1"}
    subprocess.run(
        ["mcopy", "-s", "-Q", "-o", "-i", f"{stick}@@{_OFFSET}", str(work / "load/after-check"), "::"], check=True, env=environment
    )


def _answered(machine: Emulator, stick: Path, work: Path, number: str) -> bool:
    """Press the key of the first job; return whether the machine was taken for it.

    In the start menu any other key than enter would stop its countdown: it is told by the width of its text.
    """
    if machine.monitor.exists():
        raw = machine.folder / "screen.ppm"
        machine.say(f"screendump {raw}")
        width = raw.read_bytes()[3:20].split()[0] if raw.exists() else b""
        machine.say("sendkey ret" if width in (b"720", b"640") else "sendkey 1")
    return _is_of(state_of(stick, work), number)


def _is_of(job: Job | None, number: str) -> bool:
    """Whether a job is the one with this number, and the machine was read for it."""
    return job is not None and job.facts.number == number and bool(job.readings)


def _is_done(stick: Path, work: Path) -> bool:
    job = state_of(stick, work)
    if job is None or not job.soaks or not job.soaks[-1].record.state.is_over:
        return False
    return StickFolder(work / "look").running("run") is None


def _empty(place: Path, inside: str = "after-check") -> Path:
    shutil.rmtree(place, ignore_errors=True)
    (place / inside).mkdir(parents=True)
    return place


def with_flips(image: Path, work: Path) -> None:
    """Boot, flip bits from outside in different steps, and see each of them found where it was."""
    print(f"{FLIPS} bits flipped from outside", flush=True)
    stick = work / "two.img"
    shutil.copyfile(image, stick)
    home = Shop.open(work / "flips.db")
    # The full plan: ten flips take longer than the short one.
    _load(home, stick, work, Settings(stick_plan="full"))
    home.close()
    machine = Emulator(_empty(work / "m2", "run"), stick)
    machine.start()
    chance = random.Random(7)
    flips: dict[int, int] = {}
    try:
        wait_for(
            "the test runs", lambda: (job := state_of(stick, work)) is not None and any(s.record.steps_done for s in job.soaks), machine
        )
        for _ in range(FLIPS):
            record = _record_now(stick, work, machine)
            if record.state.is_over and record.state is not SoakState.INTERRUPTED:  # One that was silent for a while counts as that.
                print(f"  it is {record.state.value} after {record.steps_done} steps: {'; '.join(record.remarks)}", flush=True)
                break
            # Each byte as likely as any other, as far as it is under test.
            left = chance.randrange(sum(after - first for first, after in record.swept_ranges))
            at, bit = _byte_at(record.swept_ranges, left), chance.randrange(8)
            machine.flip(at, bit)
            print(f"  bit {bit} of {at:#x} in {record.steps[record.steps_done % len(record.steps)]}", flush=True)
            flips[at] = bit
            time.sleep(chance.uniform(4, 12))
        check(len(flips) == FLIPS, f"{FLIPS} bits were flipped while it ran")
        wanted = {(at & ~7, 1 << (8 * (at & 7) + bit)) for at, bit in flips.items()}
        wait_for("all are found", lambda: wanted <= _found(_last_record(stick, work)) or _is_done(stick, work), machine)
        record = _record_now(stick, work, machine)
    finally:
        machine.stop()
    found = _found(record)
    for at, bit in flips.items():
        known = (at & ~7, 1 << (8 * (at & 7) + bit)) in found
        print(f"  bit {bit} of {at:#x}: {'found' if known else 'not found'}", flush=True)
    print(f"  {[f'{place or 0:#x} {bits:#x}' for place, bits in sorted(found, key=str)]}", flush=True)
    check(wanted <= found, f"{len(wanted & found)} of {FLIPS} flips were found, each with its physical address and its bit")
    check(len(found) == len(wanted), "and nothing else")


def _found(record: SoakRecord | None) -> set[tuple[int | None, int]]:
    """Return where errors were found, and which bits."""
    return {(error.physical_byte, error.bits) for error in record.kept} if record is not None else set()


def coverage(image: Path, work: Path) -> None:
    """Boot with different amounts of memory as far as the first step, and look how much of it is under test."""
    for memory_mib, least in COVERED.items():
        print(f"with {memory_mib} MiB, as far as the test", flush=True)
        stick = work / "four.img"
        shutil.copyfile(image, stick)
        machine = Emulator(_empty(work / "m4", "run"), stick, memory_mib=memory_mib)
        machine.start()
        try:
            wait_for("the test runs", lambda stick=stick: (record := _last_record(stick, work)) is not None and record.steps_done, machine)
        finally:
            machine.stop()
        record = _last_record(stick, work)
        share = record.covered.held_bytes / (memory_mib * MIB) if record is not None else 0.0
        print(f"  {share:.2%} of it in the first start", flush=True)
        check(share >= least, f"at least {least:.0%} of {memory_mib} MiB are under test in one start")


def _byte_at(ranges: Ranges, number: int) -> int:
    for first, after in ranges:
        if number < after - first:
            return first + number
        number -= after - first
    raise FailedError("so many bytes are not under test")


def _last_record(stick: Path, work: Path) -> SoakRecord | None:
    job = state_of(stick, work)
    return job.soaks[-1].record if job is not None and job.soaks else None


def with_little(image: Path, work: Path, pictures: Path) -> None:
    """Boot a machine of 512 MiB whose clock is at 1970, to the end, and bring it home."""
    print("with 512 MiB and a clock at 1970, to the end", flush=True)
    stick = work / "six.img"
    shutil.copyfile(image, stick)
    home = Shop.open(work / "little.db")
    home.jobs.add(JobFacts("0502", "Ferry till", "Larkfield T1", "", "total 512M"))
    _load(home, stick, work, Settings(), "0502")
    machine = Emulator(_empty(work / "m6", "run"), stick, ("-rtc", "base=1970-01-02T00:00:00"), memory_mib=512)
    machine.start()
    try:
        wait_for("the job is asked for", lambda: _answered(machine, stick, work, "0502"), machine)
        wait_for("it is done", lambda: _is_done(stick, work), machine)
        machine.picture(pictures / "stick-little.png")
    finally:
        machine.stop()
    found = collect_stick(home, copied_out(stick, work / "back"))
    check(not found.problems, f"it came home: {found.jobs}")
    job = home.jobs.job(found.jobs[-1][0])
    record = job.soaks[-1].record
    share = record.fully_swept_bytes / (record.covered.installed_bytes or 1)
    print(f"  begun {record.begun_at:%Y-%m-%d}, covered {share:.1%}; {take_snapshot(job).outcome.value}", flush=True)
    check(record.state is SoakState.FINISHED and record.errors == 0, "it was tested to the end, without a false error")
    check(share > 0.3 and job.now is not None, "a part of it was tested, and it was read")


def _record_now(stick: Path, work: Path, machine: Emulator) -> SoakRecord:
    """Return the record of the test while it runs: whoever looks beside the machine that writes may come in the middle of a change."""
    found: list[SoakRecord] = []

    def is_read() -> bool:
        record = _last_record(stick, work)
        found.extend([record] if record is not None else [])
        return record is not None

    wait_for("its record can be read", is_read, machine, 300)
    return found[-1]


def by_uefi(image: Path, work: Path, pictures: Path) -> None:
    """Boot by UEFI as far as the reading."""
    print("by UEFI, as far as the reading", flush=True)
    if not _UEFI.exists():
        raise FailedError(f"{_UEFI} is missing: apt install ovmf")
    stick = work / "three.img"
    shutil.copyfile(image, stick)
    machine = Emulator(_empty(work / "m3", "run"), stick, ("-drive", f"if=pflash,format=raw,readonly=on,file={_UEFI}"))
    machine.start()
    try:
        wait_for("it was read", lambda: (job := state_of(stick, work)) is not None and bool(job.readings), machine)
        machine.picture(pictures / "stick-uefi.png")
    finally:
        machine.stop()
    check(True, "it starts by UEFI and reads the machine")


def by_secure_boot(image: Path, work: Path, pictures: Path) -> None:
    """Boot by UEFI with secure boot on, as far as the test: what is signed starts, and what may not be tested is told."""
    print("by UEFI with secure boot on, as far as the test", flush=True)
    for path in _SECURE:
        if not path.exists():
            raise FailedError(f"{path} is missing: apt install ovmf")
    stick, settings = work / "five.img", work / "settings.fd"
    shutil.copyfile(image, stick)
    shutil.copyfile(_SECURE[1], settings)
    more = ["-machine", "q35,smm=on", "-global", "driver=cfi.pflash01,property=secure,value=on"]
    more += ["-drive", f"if=pflash,unit=0,format=raw,readonly=on,file={_SECURE[0]}"]
    more += ["-drive", f"if=pflash,unit=1,format=raw,file={settings}"]
    machine = Emulator(_empty(work / "m5", "run"), stick, tuple(more))
    machine.start()
    try:
        wait_for("the test runs", lambda: (record := _last_record(stick, work)) is not None and record.steps_done, machine)
        machine.picture(pictures / "stick-secure.png")
    finally:
        machine.stop()
    record = _last_record(stick, work)
    said = " ".join(record.covered.out_of_reach) if record is not None else ""
    share = record.covered.held_bytes / (MEMORY_MIB * MIB) if record is not None else 0.0
    print(f"  {share:.1%} under test; {said}", flush=True)
    check(share > 0.3, "with secure boot on it starts, reads and tests what is free")


def main() -> int:
    """Do it all; returns 1 where something is not as it should be."""
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--image", type=Path, help="an image that was made before with 256M of room")
    options.add_argument("--pictures", type=Path, default=Path("."), help="where pictures of the screen go")
    options.add_argument("--only", choices=("end", "flips", "uefi", "secure", "coverage", "little"), help="one of the parts")
    given = options.parse_args()
    with tempfile.TemporaryDirectory(prefix="after-check-stick-") as name:
        work = Path(name)
        image = given.image or work / "stick.img"
        try:
            if given.image is None:
                make_image(image, StickWishes(data_bytes=DATA_BYTES), lambda words, share: print(f"{share:4.0%}  {words}", flush=True))
            if given.only in (None, "end"):
                to_the_end(image, work, given.pictures)
            if given.only in (None, "flips"):
                with_flips(image, work)
            if given.only in (None, "coverage"):
                coverage(image, work)
            if given.only in (None, "little"):
                with_little(image, work, given.pictures)
            if given.only in (None, "uefi"):
                by_uefi(image, work, given.pictures)
            if given.only in (None, "secure"):
                by_secure_boot(image, work, given.pictures)
        except (FailedError, NotMadeError) as problem:
            print(f"not so: {problem}", file=sys.stderr)
            return 1
    print("the stick is sound")
    return 0


if __name__ == "__main__":
    sys.exit(main())
