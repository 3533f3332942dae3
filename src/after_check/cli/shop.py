"""The command `shop`: look through a store, back it up, bring it back, move it, hand jobs out and bring them in."""

from __future__ import annotations

import sys
from collections.abc import Callable
from pathlib import Path

from after_check.shop.checking import check_shop
from after_check.shop.job_files import Counted, backup, bring_in, job_file, move, restore
from after_check.shop.meanwhile import unwritten
from after_check.shop.places import shop_place
from after_check.shop.store import Shop
from after_check.sources.whole_files import write_whole

EXIT_SOUND, EXIT_PROBLEMS = 0, 1
_TELL_EVERY = 50


def check_command(shop: str | None, save: Path | None) -> int:
    """Look through a shop; returns 1 when something is wrong. What can still be read is saved into a backup when asked."""
    opened = Shop.open(shop_place(shop))
    found = check_shop(opened, _progress("looked at"))
    if opened.aside is not None and (opened.aside.waiting or opened.aside.refused):
        print(f"{len(opened.aside.waiting)} waiting for the server, {len(opened.aside.refused)} not taken: {opened.aside.folder}")
    if opened.aside is not None and (left := unwritten(opened.aside.folder)):
        print(f"{left} {'stores' if left > 1 else 'store'} of a time without the server: written to it when the bench is opened")
    for problem in found.problems:
        print(f"! {problem}")
    print(f"{found.jobs} jobs and {found.evidence} pieces of evidence: {'sound' if found.is_sound else f'{len(found.problems)} problems'}")
    if save is not None:
        counted = backup(opened, save, _progress("saved"))
        print(f"{counted.new} jobs saved as {save}" + (f", {len(counted.problems)} could not be" if counted.problems else ""))
    return EXIT_SOUND if found.is_sound else EXIT_PROBLEMS


def backup_command(file: Path, shop: str | None) -> int:
    """Write a backup."""
    counted = backup(Shop.open(shop_place(shop)), file, _progress("saved"))
    print(f"{counted.new} jobs saved as {file}")
    return _told(counted)


def restore_command(file: Path, shop: str | None) -> int:
    """Bring a backup into a shop."""
    counted = restore(Shop.open(shop_place(shop)), file, _progress("brought in"))
    print(_words(counted))
    return _told(counted)


def move_command(target: str, shop: str | None) -> int:
    """Copy a shop into another store and check it."""
    counted = move(Shop.open(shop_place(shop)), Shop.open(shop_place(target)), _progress("moved"))
    print(_words(counted))
    if not counted.problems:
        print('every job arrived as it left; the old store is as it was. Put shop = "…" into the settings to work with the new one')
    return _told(counted)


def hand_out_command(number: str, file: Path, shop: str | None) -> int:
    """Write a job file."""
    write_whole(file, job_file(Shop.open(shop_place(shop)), number))
    print(file)
    return EXIT_SOUND


def bring_in_command(files: list[Path], shop: str | None) -> int:
    """Bring job files in."""
    opened = Shop.open(shop_place(shop))
    for file in files:
        number, became, gave_way = bring_in(opened, file)
        print(f"{file}: job {number} {became.value}")
        for words in gave_way:
            print(f"  {words}")
    return EXIT_SOUND


def _words(counted: Counted) -> str:
    return f"{counted.new} new, {counted.same} were here already, {counted.joined} joined with what was here"


def _told(counted: Counted) -> int:
    for problem in counted.problems:
        print(f"! {problem}")
    return EXIT_PROBLEMS if counted.problems else EXIT_SOUND


def _progress(word: str) -> Callable[[int, int], None]:
    """Return what tells how far it is, on standard error."""

    def tell(done: int, whole: int) -> None:
        if sys.stderr.isatty() and (done % _TELL_EVERY == 0 or done == whole):
            print(f"{done} of {whole} {word}", end="\r" if done < whole else "\n", file=sys.stderr, flush=True)

    return tell
