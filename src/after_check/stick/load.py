"""Putting jobs onto a stick, and bringing back what was found."""

from __future__ import annotations

import hashlib
import os
from dataclasses import dataclass
from pathlib import Path

from after_check.domain.bench import WaitsFor
from after_check.domain.quantities import MIB, counted
from after_check.files.errors import SourceError
from after_check.local.settings import Settings
from after_check.shop.errors import NotFoundError
from after_check.shop.exchange import job_file
from after_check.shop.shop import Shop
from after_check.shop.zip_files import read_job_file
from after_check.sources.card_file import write_card
from after_check.stick.contents import StickError, StickFolder
from after_check.stick.disk_image import DATA_LABEL, FOLDER


@dataclass(frozen=True, slots=True)
class Loaded:
    """How much was put onto a stick."""

    jobs: int
    cards: int


@dataclass(frozen=True, slots=True)
class Collected:
    """What came of the jobs on a stick, each with its number here, and what is damaged in words."""

    jobs: tuple[tuple[str, str], ...]
    problems: tuple[str, ...]


def find_stick(mounts: Path = Path("/proc/mounts"), labels: Path = Path("/dev/disk/by-label")) -> Path:
    """Return where the one stick's data partition is mounted. Raises StickError where there is none, or more than one."""
    found = [place for device, place in _mounts(mounts) if (place / FOLDER).is_dir() and _is_labelled(device, labels)]
    if len(found) == 1:
        return found[0]
    if not found:
        plugged = (labels / DATA_LABEL).exists()
        words = "the stick's partition AFTERCHECK is not mounted" if plugged else "no stick of After Check is plugged in"
        raise StickError(words, "stick", "open it in the file manager, or name its folder with --stick")
    places = ", ".join(str(place) for place in found)
    raise StickError(f"{counted(len(found), 'stick')} are plugged in ({places})", "stick", "name one with --stick")


def _mounts(mounts: Path) -> list[tuple[str, Path]]:
    try:
        lines = mounts.read_text(encoding="utf-8", errors="surrogateescape").splitlines()
    except OSError:
        return []
    parts = [line.split(" ") for line in lines]
    return [(words[0], Path(words[1].replace("\\040", " "))) for words in parts if len(words) > 1]


def _is_labelled(device: str, labels: Path) -> bool:
    """Return whether a device has the stick's label; where nobody keeps a list of labels, the folder on it is enough."""
    if not labels.is_dir():
        return True
    return any(os.path.realpath(link) == os.path.realpath(device) for link in labels.glob(f"{DATA_LABEL}*"))


def shop_mark(shop: Shop) -> str:
    """Return what tells a shop from others on a stick, without saying where it is."""
    return hashlib.sha256(shop.where.encode()).hexdigest()[:16]


def load_stick(shop: Shop, folder: StickFolder, numbers: tuple[str, ...], all_open: bool, settings: Settings) -> Loaded:
    """Put jobs, data sheets and the shop's settings onto a stick. Raises StickError, NotFoundError, ShopError."""
    mark, (theirs, name) = shop_mark(shop), folder.whose()
    waiting, _ = folder.jobs()
    if theirs and theirs != mark and waiting:
        known = f" ({name})" if name else ""
        raise StickError(
            f"another shop{known} loaded this stick, and {counted(len(waiting), 'job')} of it are still on it",
            str(folder.root),
            "collect them there first, or clear the folder after-check/jobs",
        )
    chosen = list(dict.fromkeys(numbers))
    if all_open:
        waiting_here = (entry.number for entry in shop.jobs.entries() if entry.waits_for is not WaitsFor.ARCHIVE)
        chosen += [number for number in waiting_here if number not in chosen]
    known_numbers = set(shop.jobs.numbers())
    for number in chosen:
        if number not in known_numbers:
            raise NotFoundError(f"there is no job {number}", "after-check shows the numbers")
    folder.put_shop(mark, settings.shop_name, settings_for_tests(settings))
    cards = {card.name: write_card(card) for card in shop.cards.all()}
    folder.put_cards(cards)
    for number in chosen:
        folder.put_job(shop.jobs.job(number).uid, job_file(shop, number))
    return Loaded(len(chosen), len(cards))


def settings_for_tests(settings: Settings) -> bytes:
    """Return those of the shop's settings that a test needs, as a settings file; what else is there stays at the shop."""
    minutes, passes, percent = settings.ready
    lines = [f'theme = "{settings.theme}"'] if settings.theme in ("skarrow-day", "skarrow-night", "skarrow-contrast") else []
    lines += [f'soak_memory = "{settings.soak_memory_bytes // MIB}M"'] if settings.soak_memory_bytes else []
    lines += [f'stick_plan = "{settings.stick_plan}"']
    lines += ["[ready]", f"soak_minutes = {minutes}", f"soak_passes = {passes}", f"soak_percent = {percent}", ""]
    return "\n".join(lines).encode()


def collect_stick(shop: Shop, folder: StickFolder, any_shop: bool = False) -> Collected:
    """Bring every job of a stick into a shop; what is here already is not doubled. Raises StickError, ShopError."""
    theirs, name = folder.whose()
    if theirs and theirs != shop_mark(shop) and not any_shop:
        known = f" ({name})" if name else ""
        raise StickError(f"another shop{known} loaded this stick", str(folder.root), "collect it there, or say --any")
    found, problems = folder.jobs()
    said = list(problems)
    jobs: list[tuple[str, str]] = []
    for one in found:
        try:
            document, evidence = read_job_file(folder.job_bytes(one), str(one.path))
            number, became, _ = shop.jobs.take_in(document, evidence, adds_only=True)
        except SourceError as problem:
            said.append(str(problem))
            continue
        jobs.append((number, became.value))
    return Collected(tuple(jobs), tuple(said))
