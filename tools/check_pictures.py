"""Finds pictures that show nothing: of one colour, or nearly so. Without names, it looks through docs/screenshots.

A window that did not open in time makes a black picture, which nobody notices until somebody reads the page.
"""

from __future__ import annotations

import sys
from pathlib import Path

from PIL import Image

SCREENSHOTS = Path(__file__).parent.parent / "docs" / "screenshots"
LEAST_SHARE = 0.01
"""A screen with a few lines of text has this share of its points in another colour than the most frequent one."""


def shows_something(path: Path) -> bool:
    """Return whether a picture has more in it than one colour."""
    with Image.open(path) as picture:
        small = picture.convert("RGB")
        counts = small.getcolors(small.width * small.height) or []
    most = max((count for count, _ in counts), default=0)
    return most <= (1 - LEAST_SHARE) * sum(count for count, _ in counts)


def main(names: list[str]) -> int:
    """Say which pictures show nothing; returns 1 where there is one."""
    paths = [Path(name) for name in names] or sorted(SCREENSHOTS.glob("*.png"))
    empty = [path for path in paths if not shows_something(path)]
    for path in empty:
        print(f"{path}: a picture of one colour; take it again (tools/take_pictures.sh {path.stem})", file=sys.stderr)
    return 1 if empty else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
