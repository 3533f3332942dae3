"""Where the sheets of a shop are written: the folder that was named last for this very shop, and a name that no other job has."""

from __future__ import annotations

from pathlib import Path

from after_check.domain.jobs import JobFacts
from after_check.local.recent import remember, remembered
from after_check.local.settings import load_settings
from after_check.shop.shop import Shop


def place_for(shop: Shop, facts: JobFacts, ending: str) -> Path:
    """Return where a file of a job is written, for a person to change."""
    from after_check.handback.ownership import file_stem

    folder = Path(next(iter(remembered(_purpose(shop))), Path.cwd()))
    return folder / f"{file_stem(facts, load_settings().shop_name)}{ending}"


def remember_place(shop: Shop, path: Path) -> None:
    """Remember where a file of this shop was written."""
    remember(_purpose(shop), str(path.absolute().parent))


def _purpose(shop: Shop) -> str:
    return f"folders of {shop.where}"
