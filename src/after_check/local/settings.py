"""The settings file: one small TOML file that a person may write, described in docs/settings.md."""

from __future__ import annotations

import os
from pathlib import Path
from typing import Any, NamedTuple

from after_check.domain.outside_text import clean
from after_check.domain.quantities import parse_size
from after_check.files.whole_files import make_private_folder, write_whole
from after_check.local.paths import settings_path, usual_shop_path

PAPERS = ("A4", "Letter")
STICK_PLANS = ("short", "full")
"""How the stick may test by itself. A test that ends only when it is stopped is none of them."""
KNOWN = ("theme", "shop", "soak_memory", "shop_name", "shop_words", "shop_mark", "paper", "colour", "signed_by", "stick_plan", "ready")


class Settings(NamedTuple):
    """What a person set; `problems` says in words what of the file was not understood and is left alone.

    `ready_soak_minutes`, `ready_soak_passes` and `ready_soak_percent` are what a memory test must have done before
    a job counts as ready. `ready` has them in the order of `Needs`. `shop` names the store, `shop_name`,
    `stick_plan` is the memory test that the stick runs by itself. `shop_words` (an address) and `shop_mark` (a PNG) go onto the sheet.
    """

    theme: str = ""
    shop: str = ""
    soak_memory_bytes: int | None = None
    shop_name: str = ""
    shop_words: str = ""
    shop_mark: Path | None = None
    paper: str = "A4"
    colour: bool = True
    signed_by: str = ""
    stick_plan: str = "short"
    ready_soak_minutes: int = 0
    ready_soak_passes: int = 0
    ready_soak_percent: int = 0
    problems: tuple[str, ...] = ()

    @property
    def ready(self) -> tuple[int, int, int]:
        """Minutes, whole passes and per cent of a memory test that a job needs before it counts as ready."""
        return (self.ready_soak_minutes, self.ready_soak_passes, self.ready_soak_percent)


def load_settings(path: Path | None = None) -> Settings:
    """Return the settings; without a file, or with a broken one, those that always hold."""
    path = path or settings_path()
    try:
        text = path.read_text(encoding="utf-8")
    except FileNotFoundError:
        return Settings()
    except (OSError, UnicodeDecodeError) as error:
        return Settings(problems=(f"{path} cannot be read ({type(error).__name__})",))
    import tomllib

    try:
        found = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        return Settings(problems=(f"{path} is no TOML ({clean(str(error), 80)})",))
    return _settings(found, path)


def _settings(found: dict[str, Any], path: Path) -> Settings:
    problems = [f"{path}: {clean(key, 40)} is no setting (known: {', '.join(KNOWN)})" for key in found if key not in KNOWN]

    def text(key: str) -> str:
        value = found.get(key, "")
        if isinstance(value, str):
            return clean(value)
        problems.append(f"{path}: {key} is no text")
        return ""

    memory = text("soak_memory")
    memory_bytes = parse_size(memory) if memory else None
    if memory and not memory_bytes:
        problems.append(f'{path}: soak_memory is {memory!r}, for instance "2G"')
    paper = text("paper") or "A4"
    if paper not in PAPERS:
        problems.append(f"{path}: paper is {paper!r}, known: {', '.join(PAPERS)}")
    colour = found.get("colour", True)
    if not isinstance(colour, bool):
        problems.append(f"{path}: colour is true or false")
    plan = text("stick_plan") or "short"
    if plan not in STICK_PLANS:
        problems.append(f"{path}: stick_plan is {plan!r}, known: {', '.join(STICK_PLANS)}")
    ready = found.get("ready", {})

    def asked(key: str, most: int) -> int:
        value = ready.get(key, 0) if isinstance(ready, dict) else 0
        if isinstance(value, int) and not isinstance(value, bool) and 0 <= value <= most:
            return value
        problems.append(f"{path}: {key} is a whole number from 0 to {most}")
        return 0

    if not isinstance(ready, dict) or set(ready) - {"soak_minutes", "soak_passes", "soak_percent"}:
        problems.append(f"{path}: [ready] takes soak_minutes, soak_passes and soak_percent")
    mark = text("shop_mark")
    return Settings(
        theme=text("theme"),
        shop=text("shop"),
        soak_memory_bytes=memory_bytes or None,
        shop_name=text("shop_name"),
        shop_words=text("shop_words"),
        shop_mark=(path.parent / Path(mark).expanduser()) if mark else None,
        paper=paper if paper in PAPERS else "A4",
        colour=colour if isinstance(colour, bool) else True,
        signed_by=text("signed_by"),
        stick_plan=plan if plan in STICK_PLANS else "short",
        ready_soak_minutes=asked("soak_minutes", 9_999),
        ready_soak_passes=asked("soak_passes", 9_999),
        ready_soak_percent=asked("soak_percent", 100),
        problems=tuple(problems),
    )


def shop_place(named: str | None) -> Path | str:
    """Return where the jobs are kept: a file, or a server's address (`postgresql…://`).

    What was named on the command line comes first, then AFTER_CHECK_SHOP, then the settings, then the usual file.
    """
    found = named or os.environ.get("AFTER_CHECK_SHOP") or load_settings().shop
    if not found:
        return usual_shop_path()
    return found if found.startswith("postgresql") else Path(found).expanduser()


def save_theme(name: str) -> None:
    """Remember a theme in the settings, whose other lines and remarks stay. A place that takes no file is no reason to stop."""
    # The library that keeps a person's remarks and blanks is needed for this alone.
    import tomlkit
    from tomlkit.exceptions import TOMLKitError

    path = settings_path()
    try:
        document = tomlkit.parse(path.read_text(encoding="utf-8")) if path.exists() else tomlkit.document()
        document["theme"] = name
        make_private_folder(path.parent)
        write_whole(path, tomlkit.dumps(document).encode())
    except (OSError, UnicodeDecodeError, TOMLKitError):
        return  # A file that cannot be read is left as it is, for its writer to put right.
