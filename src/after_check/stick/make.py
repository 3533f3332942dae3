"""Making the image of a stick: a small Debian system with After Check in it, from Debian's own packages.

mmdebstrap(1) sets the system up in a folder, mksquashfs(1) packs it, GRUB starts it: by BIOS from the first blocks, by
UEFI through Debian's signed shim. Root is needed, as the packages' own scripts run in the folder.
"""

from __future__ import annotations

import os
import re
import secrets
import shutil
import subprocess
import tempfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from importlib import resources
from pathlib import Path

from platformdirs import user_cache_path

from after_check.bringing.wheels import NotBroughtError, TargetKind, unpack, wheels_for
from after_check.domain.errors import AfterCheckError
from after_check.domain.outside_text import clean
from after_check.domain.quantities import GIB, MIB, size_text
from after_check.files.whole_files import write_whole
from after_check.stick.console_font import SIZES, console_font, signs_of
from after_check.stick.contents import env_block
from after_check.stick.disk_image import (
    DATA_LABEL,
    FIRST_WINDOW,
    FOLDER,
    SHOP_ENV,
    SYSTEM_LABEL,
    fat_file,
    number_text,
    partitions,
    write_image,
)

SUITE, ARCHIVE = "bookworm", "http://deb.debian.org/debian"
_PYTHON = TargetKind((3, 11), "x86_64")
"""The Python of that release."""
_LEAST_FREE_BYTES = 4 * GIB
USUAL_DATA_BYTES = 512 * MIB
_PROGRAMS = {
    "mmdebstrap": "mmdebstrap",
    "mksquashfs": "squashfs-tools",
    "mkfs.vfat": "dosfstools",
    "mcopy": "mtools",
}
_PACKAGES = (
    *("linux-image-amd64", "initramfs-tools", "systemd-sysv", "udev", "dbus", "kmod", "zstd", "busybox"),
    *("python3", "kbd", "iproute2", "openssh-server", "dosfstools", "fonts-dejavu-core"),
    *("grub-common", "grub-pc-bin", "grub-efi-amd64-signed", "shim-signed"),
)
_MODULES_LEFT_OUT = (
    *("kernel/sound", "kernel/drivers/media", "kernel/drivers/net/wireless", "kernel/net/wireless", "kernel/net/bluetooth"),
    *("kernel/drivers/bluetooth", "kernel/drivers/infiniband", "kernel/drivers/iio", "kernel/drivers/staging", "kernel/drivers/isdn"),
    *("kernel/drivers/comedi", "kernel/drivers/target", "kernel/drivers/mtd", "kernel/net/netfilter", "kernel/net/mac80211"),
    *("kernel/net/sched", "kernel/net/sunrpc", "kernel/net/sctp", "kernel/net/tipc", "kernel/net/ceph", "kernel/net/batman-adv"),
)
"""What no memory test needs."""
_FILE_SYSTEMS, _FILE_SYSTEMS_KEPT = "kernel/fs", ("fat", "nls", "overlayfs", "squashfs", "efivarfs", "autofs", "configfs")
"""Those of the stick itself. What a disk of the machine may hold cannot even be read."""
_PICTURES, _PICTURES_KEPT = "kernel/drivers/gpu/drm", ("tiny", "ttm")
"""Drivers of single makers' pictures are left out too: the firmware's own picture is enough, and what is common stays."""
_FILES_LEFT_OUT = ("boot", "var/cache/apt", "var/lib/apt/lists", "usr/lib/grub", "usr/lib/shim", "usr/share/fonts", "usr/share/doc")
_GRUB_MODULES = "biosdisk part_msdos part_gpt fat normal configfile linux loadenv test echo search search_fs_uuid search_label all_video"
_EARLY = "search --no-floppy --fs-uuid --set=root {number}\nset prefix=($root)/boot/grub\n"
_UNITS_LEFT_OUT = (
    *("getty@tty1.service", "apt-daily.timer", "apt-daily-upgrade.timer", "fstrim.timer"),
    *("e2scrub_all.timer", "e2scrub_reap.service", "systemd-timesyncd.service"),
)


PROCESSOR_LEVELS = ("x86-64-v3", "x86-64")
"""The levels of the x86-64 psABI that loops are compiled for: with vectors of 256 bits, and what every such processor has."""


class NotMadeError(AfterCheckError):
    """The image cannot be made; the message says why and what would help."""


@dataclass(frozen=True, slots=True)
class Made:
    """An image that was made: where, and how large it is."""

    path: Path
    size_bytes: int


@dataclass(frozen=True, slots=True)
class StickWishes:
    """What is asked of an image. `key` is a public SSH key that may log in as root; `more` are start options."""

    data_bytes: int = USUAL_DATA_BYTES
    key: str = ""
    more: str = ""


Tell = Callable[[str, float], object]
"""Called with what is being done and the share of the whole that is done, from 0 to 1."""


def _quiet(words: str, share: float) -> None:
    """Tell nobody."""


def make_image(path: Path, wishes: StickWishes = StickWishes(), tell: Tell = _quiet, cache: Path | None = None) -> Made:
    """Make the image of a stick as a file. Packages that were fetched are kept for the next time. Raises NotMadeError."""
    kept = cache or user_cache_path("after-check") / "stick"
    _check(path)
    try:
        with tempfile.TemporaryDirectory(prefix="after-check-stick-", dir=path.parent) as name:
            work = Path(name)
            tell("fetching After Check's libraries", 0.0)
            wheels = wheels_for(_PYTHON)
            tell("setting up a small Debian system", 0.05)
            root = _system(work / "root", kept)
            tell("putting After Check into it", 0.55)
            _put_in(root, wheels, wishes)
            tell("packing the system", 0.65)
            system = _system_partition(root, work, wishes)
            tell("writing the image", 0.92)
            made = _image(path, root, work, system, wishes)
            tell("done", 1.0)
            return made
    except NotBroughtError as problem:
        raise NotMadeError(str(problem)) from None
    except subprocess.CalledProcessError as problem:
        raise NotMadeError(_in_words(problem)) from None
    except OSError as problem:
        raise NotMadeError(f"{problem.strerror or problem} ({problem.filename or path})") from None


def _check(path: Path) -> None:
    if os.name != "posix" or os.geteuid() != 0:
        raise NotMadeError("making a stick sets up a system, which only root may do: sudo after-check stick make --image F")
    missing = [package for program, package in _PROGRAMS.items() if shutil.which(program) is None]
    if missing:
        raise NotMadeError(f"a program is missing; on Debian: apt install {' '.join(missing)}")
    if not path.parent.is_dir():
        raise NotMadeError(f"{path.parent} is no folder")
    if path.exists() and not path.is_file():
        raise NotMadeError(f"{path} is no file: an image is a file; after-check stick write puts it onto a stick")
    free = shutil.disk_usage(path.parent).free
    if free < _LEAST_FREE_BYTES:
        raise NotMadeError(f"{path.parent} has {size_text(free)} free; making a stick takes {size_text(_LEAST_FREE_BYTES)}")


def _in_words(problem: subprocess.CalledProcessError) -> str:
    """Return what a program that failed said last, in a sentence."""
    said = [line for line in str(problem.stderr or "").splitlines() if line.strip()]
    name = Path(problem.cmd[0]).name if isinstance(problem.cmd, list | tuple) else "a program"
    errors = [line for line in said if re.match(r"\s*(E|Err|ERROR)\b", line)] or said
    words = f"{name} ended with {problem.returncode}: {clean(errors[-1], 200) if errors else 'it said nothing'}"
    offline = any(sign in line for line in said for sign in ("Could not resolve", "Temporary failure", "Unable to connect", "Network is"))
    return f"{words}. Is this computer on the network?" if offline else words


def _run(*command: str | Path, inside: Path | None = None) -> str:
    words = [str(word) for word in command]
    if inside is not None:
        words = ["chroot", str(inside), *words]
    return subprocess.run(words, check=True, capture_output=True, text=True, errors="replace").stdout


def _system(root: Path, kept: Path) -> Path:
    """Set up the system in a folder, with packages that were kept from the last time."""
    packages = kept / "packages"
    packages.mkdir(parents=True, exist_ok=True)
    archives = '"$1"/var/cache/apt/archives'
    command = ["mmdebstrap", "--mode=root", "--variant=minbase", "--components=main", f"--include={','.join(_PACKAGES)}"]
    command += [f"--dpkgopt=path-exclude=/usr/share/{name}/*" for name in ("man", "doc", "locale", "info")]
    command += ["--skip=essential/unlink,download/empty,cleanup/apt"]
    command += [f"--setup-hook=mkdir -p {archives}", f"--setup-hook=cp -n {packages}/*.deb {archives}/ 2>/dev/null || true"]
    command += [f"--customize-hook=cp -n {archives}/*.deb {packages}/ || true", SUITE, str(root), ARCHIVE]
    _run(*command)
    return root


def _file(name: str) -> str:
    return (resources.files("after_check.stick") / "files" / name).read_text(encoding="utf-8")


def _put_in(root: Path, wheels: tuple[Path, ...], wishes: StickWishes) -> None:
    """Put the program, its letters and colours, and what starts it into the system."""
    place = root / "opt/after-check"
    unpack(wheels, place / "site")
    (place / "environment").write_text(_file("environment.sh"), encoding="ascii")
    _compile(root)
    signs = signs_of(place / "site/after_check")
    for width, height in SIZES:
        font = console_font(signs, root / "usr/share/fonts/truetype/dejavu/DejaVuSansMono.ttf", width, height)
        (place / f"letters-{width}x{height}.psf").write_bytes(font)
    (place / "colours").write_text(_file("colours"), encoding="ascii")
    _executable(place / "console", _file("console.sh"))
    _executable(root / "etc/initramfs-tools/hooks/after-check", _file("hook.sh"))
    (root / "etc/initramfs-tools/conf.d/after-check").write_text("MODULES=list\nCOMPRESS=zstd\nFSTYPE=vfat\n", encoding="ascii")
    (root / "etc/initramfs-tools/scripts/aftercheck").write_text(_file("boot.sh"), encoding="utf-8")
    (root / "etc/systemd/system/after-check.service").write_text(_file("after-check.service"), encoding="utf-8")
    (root / "etc/hostname").write_text("after-check\n", encoding="ascii")
    for unit in _UNITS_LEFT_OUT:
        _run("systemctl", "mask", unit, inside=root)
    _run("systemctl", "enable", "after-check.service", inside=root)
    _let_in(root, wishes.key)
    for modules in (root / "usr/lib/modules").glob("*"):
        for name in _MODULES_LEFT_OUT:
            shutil.rmtree(modules / name, ignore_errors=True)
        for name, kept in ((_PICTURES, _PICTURES_KEPT), (_FILE_SYSTEMS, _FILE_SYSTEMS_KEPT)):
            for folder in (modules / name).glob("*/"):
                if folder.is_dir() and folder.name not in kept:
                    shutil.rmtree(folder, ignore_errors=True)
        _run("depmod", modules.name, inside=root)
        _run("update-initramfs", "-u", "-k", modules.name, inside=root)


def _compile(root: Path) -> None:
    """Compile the program, and the loops of its tests for two kinds of processors: on a slow machine that would take minutes."""
    for path in (root / "opt/after-check/site/after_check").rglob("*.py"):
        # A packed system keeps whole seconds only, and what was compiled is known by the time of its source.
        whole = int(path.stat().st_mtime)
        os.utime(path, (whole, whole))
    _run("python3", "-m", "compileall", "-q", "-j", "0", "/opt/after-check/site", inside=root)
    for level in PROCESSOR_LEVELS:
        words = f"LEVEL={level}; . /opt/after-check/environment; exec python3 -m after_check.cli.prepare"
        _run("sh", "-c", words, inside=root)


def _let_in(root: Path, key: str) -> None:
    """Let the shop's own key in over the network, and nothing else; without a key the door is not there."""
    if not key:
        _run("systemctl", "mask", "ssh.service", inside=root)
        return
    keys = root / "root/.ssh/authorized_keys"
    keys.parent.mkdir(mode=0o700, exist_ok=True)
    write_whole(keys, f"{key.strip()}\n".encode(), private=True)
    (root / "etc/ssh/sshd_config.d").mkdir(parents=True, exist_ok=True)
    (root / "etc/ssh/sshd_config.d/after-check.conf").write_text(
        "PasswordAuthentication no\nKbdInteractiveAuthentication no\nPermitRootLogin prohibit-password\nAllowUsers root\n", encoding="ascii"
    )
    network = "[Match]\nType=ether\n[Network]\nDHCP=yes\nLinkLocalAddressing=yes\n"
    (root / "etc/systemd/network/wired.network").write_text(network, encoding="ascii")
    _run("systemctl", "enable", "systemd-networkd.service", inside=root)
    # Keys of the host are made at each start: no two sticks share one.
    for old in (root / "etc/ssh").glob("ssh_host_*"):
        old.unlink()
    (root / "etc/systemd/system/ssh.service.d").mkdir(parents=True, exist_ok=True)
    (root / "etc/systemd/system/ssh.service.d/keys.conf").write_text(
        "[Service]\nExecStartPre=\nExecStartPre=/usr/bin/ssh-keygen -A\n", encoding="ascii"
    )
    (root / "usr/local/bin/after-check").write_text(
        '#!/bin/sh\n. /opt/after-check/environment\nexec python3 -m after_check "$@"\n', encoding="ascii"
    )
    (root / "usr/local/bin/after-check").chmod(0o755)


def _executable(path: Path, text: str) -> None:
    path.write_text(text, encoding="utf-8")
    path.chmod(0o755)


@dataclass(frozen=True, slots=True)
class _System:
    folder: Path
    number: int
    data_number: int


def _system_partition(root: Path, work: Path, wishes: StickWishes) -> _System:
    """Lay out what the second partition holds: the packed system, kernel, and what starts it by UEFI and by BIOS."""
    folder = work / "system"
    found = _System(folder, secrets.randbits(32), secrets.randbits(32))
    for name in ("live", "boot/grub", "EFI/BOOT", "EFI/debian"):
        (folder / name).mkdir(parents=True)
    shutil.copyfile(_newest(root / "boot", "vmlinuz-*"), folder / "live/vmlinuz")
    shutil.copyfile(_newest(root / "boot", "initrd.img-*"), folder / "live/initrd")
    left_out = [word for name in _FILES_LEFT_OUT for word in ("-e", name)]
    _run(
        "mksquashfs", root, folder / "live/system.squashfs", "-comp", "zstd", "-noappend", "-no-progress", "-quiet", "-no-xattrs", *left_out
    )
    shim, grub = root / "usr/lib/shim", root / "usr/lib/grub/x86_64-efi-signed"
    shutil.copyfile(shim / "shimx64.efi.signed", folder / "EFI/BOOT/BOOTX64.EFI")
    shutil.copyfile(grub / "grubx64.efi.signed", folder / "EFI/BOOT/grubx64.efi")
    manager = next(iter(sorted(shim.glob("mmx64.efi*"))), None)
    if manager is not None:
        shutil.copyfile(manager, folder / "EFI/BOOT/mmx64.efi")
    filled = {
        "@SYSTEM@": number_text(found.number),
        "@DATA@": number_text(found.data_number),
        "@FIRST@": FIRST_WINDOW,
        "@ENV@": f"{FOLDER}/{SHOP_ENV}",
        "@MORE@": wishes.more,
    }
    menu = _file("grub.cfg")
    for name, text in filled.items():
        menu = menu.replace(name, text)
    (folder / "boot/grub/grub.cfg").write_text(menu, encoding="utf-8")
    early = _EARLY.format(number=number_text(found.number))
    (folder / "EFI/debian/grub.cfg").write_text(early + "configfile $prefix/grub.cfg\n", encoding="ascii")
    return found


def _newest(folder: Path, pattern: str) -> Path:
    found = sorted(folder.glob(pattern))
    if not found:
        raise NotMadeError(f"the system that was set up has no {pattern} in {folder.name}")
    return found[-1]


def _image(path: Path, root: Path, work: Path, system: _System, wishes: StickWishes) -> Made:
    """Put the partitions together, whole or not at all."""
    early = root / "tmp/early.cfg"
    early.write_text(_EARLY.format(number=number_text(system.number)), encoding="ascii")
    _run(
        *("grub-mkimage", "-O", "i386-pc", "-p", "/boot/grub", "-c", "/tmp/early.cfg", "-o", "/tmp/core.img"),
        *_GRUB_MODULES.split(),
        inside=root,
    )
    data = work / "data"
    (data / FOLDER).mkdir(parents=True)
    (data / FOLDER / SHOP_ENV).write_bytes(env_block({}))
    (data / "READ ME.txt").write_text(_file("read-me.txt"), encoding="utf-8")
    size_bytes = sum(file.stat().st_size for file in system.folder.rglob("*") if file.is_file()) + 48 * MIB
    parts = partitions(wishes.data_bytes, size_bytes)
    fat_file(work / "data.fat", parts[0].size_bytes, DATA_LABEL, system.data_number, data)
    fat_file(work / "system.fat", parts[1].size_bytes, SYSTEM_LABEL, system.number, system.folder)
    boot_code = (root / "usr/lib/grub/i386-pc/boot.img").read_bytes()
    core = (root / "tmp/core.img").read_bytes()
    with _whole(path) as new:
        write_image(new, parts, (work / "data.fat", work / "system.fat"), boot_code, core, secrets.randbits(32))
    return Made(path, path.stat().st_size)


@contextmanager
def _whole(path: Path) -> Iterator[Path]:
    new = path.with_name(f".{path.name}.new")
    try:
        yield new
        new.replace(path)
    finally:
        new.unlink(missing_ok=True)
