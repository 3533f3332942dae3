"""Prints the tests that belong to what was changed since the last commit: those of the same part, and those that were changed.

Tests in a terminal, on a stick and of servers take minutes; they are left to ./check.
"""

from __future__ import annotations

import subprocess
from pathlib import Path

SLOW = ("terminal", "stick", "remote", "tui")
_ELSEWHERE = {"language": ["sources/test_notation.py", "sources/test_words.py"], "domain": ["judgement"], "files": ["sources"]}
"""Parts whose tests stand with another one."""


def changed() -> list[Path]:
    """Return the files that differ from the last commit, new ones as well."""
    asked = (["git", "diff", "--name-only", "HEAD"], ["git", "ls-files", "--others", "--exclude-standard"])
    return [Path(line) for words in asked for line in subprocess.run(words, capture_output=True, text=True, check=True).stdout.split()]


def tests_for(path: Path) -> list[Path]:
    """Return the tests of a changed file that are there and quick."""
    if path.suffix != ".py" and path.suffix not in (".toml", ".ftl"):
        return []
    if path.parts[0] == "tests":
        return [path] if path.name.startswith("test_") and path.parts[1] not in SLOW else []
    if path.parts[:2] != ("src", "after_check") or len(path.parts) < 4 or path.parts[2] in SLOW:
        return []
    part = path.parts[2]
    return [Path("tests") / name for name in _ELSEWHERE.get(part, [part])]


def main() -> None:
    """Print them, one to a line."""
    found = {test for path in changed() for test in tests_for(path) if test.exists()}
    for test in sorted(found):
        print(test)


if __name__ == "__main__":
    main()
