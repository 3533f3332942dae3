"""Draws the parts of the package into `docs/architecture.md`, from the import contracts and each part's own first sentence.

Run it after changing either; `tests/test_house.py` finds a picture that is not the contracts' own.
"""

from __future__ import annotations

import ast
import textwrap
import tomllib
from pathlib import Path

HOUSE = Path(__file__).parent.parent
PAGE = HOUSE / "docs" / "architecture.md"
BEGIN = "<!-- drawn by tools/draw_contracts.py from pyproject.toml -->\n```\n"
END = "```\n<!-- end of the drawing -->"
_LAYERS = "A part imports only from the parts above it"
_WIDTH = 118


def layers() -> list[list[str]]:
    """Return the parts of the package from the lowest up; parts of one layer are neighbours, and may not import each other."""
    contracts = tomllib.loads((HOUSE / "pyproject.toml").read_text())["tool"]["importlinter"]["contracts"]
    lines = next(contract["layers"] for contract in contracts if contract["name"] == _LAYERS)
    return [[name.strip().removeprefix("after_check.") for name in line.split(":")] for line in reversed(lines)]


def about(part: str) -> str:
    """Return what a part says of itself: the first paragraph of its docstring."""
    words = ast.get_docstring(ast.parse((HOUSE / "src" / "after_check" / part / "__init__.py").read_text())) or ""
    return " ".join(words.partition("\n\n")[0].split())


def picture() -> str:
    """Return the drawing: a line a part, what it is about beside it, neighbours with a brace."""
    lines = []
    for names in layers():
        for number, name in enumerate(names):
            brace = " " if len(names) == 1 else "┐" if number == 0 else "┘" if number == len(names) - 1 else "┤"
            beside = textwrap.wrap(about(name), _WIDTH - 18)
            lines.append(f"  {name + '/':<13}{brace} {beside[0]}")
            lines += [" " * 17 + more for more in beside[1:]]
    return "\n".join(line.rstrip() for line in lines) + "\n"


def drawn(page: str) -> str:
    """Return a page with its drawing made again."""
    before, _, rest = page.partition(BEGIN)
    _, _, after = rest.partition(END)
    return before + BEGIN + picture() + END + after


if __name__ == "__main__":
    PAGE.write_text(drawn(PAGE.read_text()))
    print(PAGE)
