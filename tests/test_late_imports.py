"""Imports inside functions serve the start-up and nothing else: they bring what is slow to import, and are listed here.

`benchmarks/start_up.py` measures what they spare. The commands, the views and the opening of the shop are left out: that they
import late is what these files are for (`docs/architecture.md`).
"""

from __future__ import annotations

import ast
from pathlib import Path

SOURCE = Path(__file__).parent.parent / "src" / "after_check"
LATE_BY_PURPOSE = {"cli/entry.py", "cli/app.py", "cli/shop_app.py", "cli/stick_app.py", "tui/views.py", "tui/app.py", "shop/database.py"}
SLOW = (
    "numba",  # kernels that are compiled
    "after_check.soak.soak_run",
    "after_check.benchmark.measuring",
    "after_check.host.held_memory",  # numpy, on a screen that is drawn before it
    "httpx",
    "after_check.soak.appliance",
    "after_check.sources.redfish",
    "after_check.sources.open_source",  # all readers, and the notation
    "after_check.sources.ssh",  # asyncssh
    "after_check.sources.ssh_files",
    "after_check.sources.saved",  # pydantic
    "after_check.sources.linux",  # all readers of a machine
    "after_check.sources.photo",  # Pillow, numpy
    "after_check.shop.exchange",
    "after_check.shop.demo",  # all that reads and measures
    "after_check.tries.blame",  # numpy, which a job without tries does not need
    "after_check.tries.next_try",
    "after_check.shop.unsaved_results",  # the database's libraries
    "after_check.language.words.tokens",  # the reader of plain words, which weighing does not need
    "after_check.stick",  # the store's libraries
    "after_check.remote",  # asyncssh
    "after_check.handback",  # reportlab, matplotlib
    "after_check.tui.app",  # Textual
    "after_check.tui.stick_app",
    "keyring",
    "pydantic",
    "psycopg",
    "tomlkit",
    "tomllib",  # its patterns; seldom is there a file of settings
    "hashlib",  # OpenSSL
    "difflib",  # for a name that is not known
    "logging.handlers",  # sockets and queues
)


def late_imports(path: Path) -> set[str]:
    found: set[str] = set()
    for function in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
        if isinstance(function, ast.FunctionDef | ast.AsyncFunctionDef):
            for inner in ast.walk(function):
                if isinstance(inner, ast.ImportFrom):
                    found.add(inner.module or "")
                elif isinstance(inner, ast.Import):
                    found |= {alias.name for alias in inner.names}
    return found


def test_only_what_is_slow_is_imported_late():
    files = [path for path in SOURCE.rglob("*.py") if path.relative_to(SOURCE).as_posix() not in LATE_BY_PURPOSE]
    late = {(path.name, module) for path in files if "versions" not in path.parts for module in late_imports(path)}
    assert len(late) > 10  # It finds them at all.
    assert {(name, module) for name, module in late if not any(module == slow or module.startswith(f"{slow}.") for slow in SLOW)} == set()
