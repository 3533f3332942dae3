"""The command `shop`: look through a store, back it up, bring it back, move it, hand jobs out and bring them in."""

from __future__ import annotations

import sys
from collections.abc import Callable
from pathlib import Path

import typer

from after_check.domain.outside_text import clean
from after_check.domain.quantities import counted
from after_check.files.whole_files import write_whole
from after_check.local.paths import usual_shop_path
from after_check.local.settings import shop_place
from after_check.shop.checking import check_shop
from after_check.shop.exchange import Counted, backup, bring_in, job_file, move, restore
from after_check.shop.lineages import WORDS, BothWrote
from after_check.shop.outbox import Outbox
from after_check.shop.shop import Shop

EXIT_SOUND, EXIT_PROBLEMS = 0, 1
_TELL_EVERY = 50


def check_command(shop: str | None, save: Path | None) -> int:
    """Look through a shop; returns 1 when something is wrong. What can still be read is saved into a backup when asked."""
    place = shop_place(shop)
    if shop is None and place == usual_shop_path() and not usual_shop_path().exists():
        print(f"there is no shop yet at {place}; after-check makes one")
        return EXIT_SOUND
    opened = Shop.open_existing(shop_place(shop))
    found = check_shop(opened, _progress("looked at"))
    if opened.outbox is not None:
        _tell_outbox(opened.outbox)
    for problem in found.problems:
        print(f"! {problem}")
    sound = "sound" if found.is_sound else f"{len(found.problems)} problems"
    print(f"{counted(found.jobs, 'job')} and {counted(found.evidence, 'piece')} of evidence: {sound}")
    if save is not None:
        saved = backup(opened, save, _progress("saved"))
        print(f"{saved.new} jobs saved as {save}" + (f", {len(saved.problems)} could not be" if saved.problems else ""))
    return EXIT_SOUND if found.is_sound else EXIT_PROBLEMS


def _tell_outbox(outbox: Outbox) -> None:
    """Say what waits on this computer, and what the shop did not take."""
    if outbox.waiting or outbox.refused:
        print(f"{len(outbox.waiting)} waiting for the server, {len(outbox.refused)} not taken: {outbox.folder}")
    if outbox.unsent_stores:
        stores = counted(len(outbox.unsent_stores), "store")
        print(f"{stores} of a time without the server: written to it when the bench is opened")


def backup_command(file: Path, shop: str | None) -> int:
    """Write a backup."""
    done = backup(Shop.open_existing(shop_place(shop)), file, _progress("saved"))
    print(f"{counted(done.new, 'job')} saved as {file}")
    return _told(done)


def restore_command(file: Path, shop: str | None) -> int:
    """Bring a backup into a shop."""
    done = restore(Shop.open(shop_place(shop)), file, _progress("brought in"))
    print(_words(done))
    return _told(done)


def move_command(target: str, shop: str | None) -> int:
    """Copy a shop into another store and check it."""
    done = move(Shop.open_existing(shop_place(shop)), Shop.open(shop_place(target)), _progress("moved"))
    print(_words(done))
    if not done.problems:
        print('every job arrived as it left; the old store is as it was. Put shop = "…" into the settings to work with the new one')
    return _told(done)


def hand_out_command(number: str, file: Path, shop: str | None) -> int:
    """Write a job file."""
    write_whole(file, job_file(Shop.open_existing(shop_place(shop)), number))
    print(file)
    return EXIT_SOUND


def bring_in_command(files: list[Path], take: list[str], keep: list[str], shop: str | None) -> int:
    """Bring job files in; returns 1 while a word that both benches wrote waits for an answer."""
    chosen = {word_named(name): True for name in take} | {word_named(name): False for name in keep}
    opened, open_still = Shop.open(shop_place(shop)), 0
    for file in files:
        arrived = bring_in(opened, file, chosen)
        print(f"{file}: job {arrived.number} {arrived.became.value}")
        answers = {both.name: _is_taken(both) for both in arrived.both_wrote}
        said = {name: taken for name, taken in answers.items() if taken is not None}
        if said:
            bring_in(opened, file, chosen | said)
        for both in arrived.both_wrote:
            if both.name not in said:
                open_still += 1
                print(f"? {both.words}. What is here stays; the file's: --take {both.name}, done with it: --keep {both.name}")
    return EXIT_PROBLEMS if open_still else EXIT_SOUND


def word_named(name: str) -> str:
    """Return the name of a word of a job as it was typed. Raises typer.BadParameter that says which there are."""
    wanted = name.strip().casefold().replace(" ", "_").replace("-", "_")
    if wanted not in WORDS:
        raise typer.BadParameter(f"'{clean(name, 40)}' is no word of a job; these are: {', '.join(WORDS)}")
    return wanted


def _is_taken(both: BothWrote) -> bool | None:
    """Ask at a terminal which of two words stays; None where nobody can be asked, or nobody answers."""
    if not (sys.stdin.isatty() and sys.stdout.isatty()):
        return None
    print(f"? {both.words}.")
    answer = input("  [h] what is here stays, [f] take that of the file, anything else: not now: ").strip().casefold()
    return {"h": False, "f": True}.get(answer)


def _words(done: Counted) -> str:
    return f"{done.new} new, {done.same} were here already, {done.joined} joined with what was here"


def _told(done: Counted) -> int:
    for problem in done.problems:
        print(f"! {problem}")
    return EXIT_PROBLEMS if done.problems else EXIT_SOUND


def _progress(word: str) -> Callable[[int, int], None]:
    """Return what tells how far it is, on standard error."""

    def tell(done: int, whole: int) -> None:
        if sys.stderr.isatty() and (done % _TELL_EVERY == 0 or done == whole):
            print(f"{done} of {whole} {word}", end="\r" if done < whole else "\n", file=sys.stderr, flush=True)

    return tell
