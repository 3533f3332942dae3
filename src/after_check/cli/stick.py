"""The command `stick`: make, write, load and collect the stick that boots on the customer's machine."""

from __future__ import annotations

import sys
from pathlib import Path

import asyncssh

from after_check.cli.on_machine import run_on_machine
from after_check.domain.quantities import MIB, counted, parse_size, size_text
from after_check.files.errors import SourceError
from after_check.local.settings import load_settings, shop_place
from after_check.shop.shop import Shop
from after_check.stick.contents import StickFolder
from after_check.stick.load import collect_stick, find_stick, load_stick
from after_check.stick.make import NotMadeError, StickWishes, make_image
from after_check.stick.write import NotWrittenError, checked, write_stick

EXIT_DONE, EXIT_PROBLEMS = 0, 1
_LEAST_DATA_BYTES, _MOST_DATA_BYTES = 64 * MIB, 64 << 30
_SERIAL = "console=tty0 console=ttyS0,115200 systemd.journald.forward_to_console=1"


def make_command(image: Path, data: str, key: Path | None, serial: bool) -> int:
    """Make an image; returns 0."""
    data_bytes = parse_size(data)
    if not data_bytes or not _LEAST_DATA_BYTES <= data_bytes <= _MOST_DATA_BYTES:
        raise SourceError(f"{data!r} is no room for jobs", "--room", "for instance 512M; 64M to 64G")
    wishes = StickWishes(data_bytes, _public_key(key) if key is not None else "", _SERIAL if serial else "")
    try:
        made = make_image(image, wishes, _told)
    except NotMadeError as problem:
        raise SourceError(str(problem), "stick make") from None
    print(f"{made.path}: {size_text(made.size_bytes)}. Next: after-check stick write /dev/… --image {made.path}")
    return EXIT_DONE


def _public_key(path: Path) -> str:
    try:
        text = path.read_text(encoding="utf-8").strip()
        asyncssh.import_public_key(text)
    except (OSError, UnicodeDecodeError, asyncssh.KeyImportError):
        raise SourceError("is no public SSH key", str(path), "name the file that ends in .pub") from None
    return text.splitlines()[0]


def _told(words: str, share: float) -> None:
    end = "\r" if sys.stderr.isatty() and share < 1 else "\n"
    print(f"{share:4.0%}  {words:<48}", end=end, file=sys.stderr, flush=True)


def write_command(device: Path, image: Path, root: Path = Path("/")) -> int:
    """Write an image to a stick after its name and size were typed back; returns 0. `root` is where /sys and /proc lie."""
    try:
        found = checked(device, image, root)
        print(f"{found.words}\nEverything on it will be gone. To go on, type its name and size: {found.to_type}")
        try:
            typed = input("> ")
        except EOFError:
            typed = ""
        if " ".join(typed.split()).casefold() != found.to_type.casefold():
            print("nothing was written")
            return EXIT_PROBLEMS
        write_stick(found, image, _told)
    except NotWrittenError as problem:
        raise SourceError(str(problem), str(device)) from None
    print(f"{device} is written and was read back: it is right. Next: after-check stick load --open")
    return EXIT_DONE


def load_command(numbers: tuple[str, ...], all_open: bool, stick: Path | None, shop: str | None) -> int:
    """Put jobs onto a stick; returns 0."""
    if not numbers and not all_open:
        raise SourceError("no job was named", "stick load", "name job numbers, or --open for all that are not handed back")
    folder = StickFolder(stick if stick is not None else find_stick())
    opened = Shop.open_existing(shop_place(shop))
    loaded = load_stick(opened, folder, numbers, all_open, load_settings())
    print(f"{counted(loaded.jobs, 'job')} and {counted(loaded.cards, 'data sheet')} are on the stick at {folder.root}")
    print("Take it out by the system's own way, so that all of it is written.")
    return EXIT_DONE


def collect_command(stick: Path | None, any_shop: bool, shop: str | None) -> int:
    """Bring in what a stick found; returns 0, or 1 where something of it is damaged."""
    folder = StickFolder(stick if stick is not None else find_stick())
    found = collect_stick(Shop.open(shop_place(shop)), folder, any_shop)
    for number, became in found.jobs:
        print(f"job {number} {became}")
    for words in found.problems:
        print(f"! {words}")
    if not found.jobs:
        print("nothing is on the stick")
    return EXIT_PROBLEMS if found.problems else EXIT_DONE


def run_command(stick: Path) -> int:
    """Run on the customer's machine: what the stick starts."""
    return run_on_machine(stick)
