"""What commands do by themselves: they speak with no other machine that nobody named, and with any terminal."""

from __future__ import annotations

import os
import subprocess
import sys

import pytest

from after_check.shop.shop import Shop

WATCHED = """
import sys
spoken = []
def hook(event, arguments):
    if event in ("socket.connect", "socket.sendto", "socket.getaddrinfo"):
        spoken.append((event, str(arguments[1:])))
sys.addaudithook(hook)
from after_check.cli.entry import main
code = main(sys.argv[1:])
print(f"code {code}, spoken {spoken}", file=sys.stderr)
"""
LOG = """
[[try]]
fitted = { A1 = "a" }
start = "no"
"""


def watched(*arguments, folder):
    return subprocess.run(
        [sys.executable, "-c", WATCHED, *arguments], capture_output=True, text=True, timeout=120, check=False, cwd=folder
    ).stderr


@pytest.mark.parametrize(
    ("arguments", "code"),
    [
        (("explain", "2x16G DDR4-3200; run 2400"), 0),
        (("judge", "--after", "2x16G DDR4-3200; run 2400", "--promise", "2x16G DDR4-3200; run 3200"), 1),
        (("handback", "0417", "--demo", "--pdf", "sheet.pdf", "--csv", "tables", "--json", "job.json"), 0),
        (("tries", "tries.toml"), 0),
        (("shop", "check", "--shop", "shop.db"), 0),
        (("read",), 0),
    ],
)
def test_nothing_leaves_this_computer_that_is_not_asked_for(arguments, code, tmp_path):
    """Each command does its work, so that the silence is not that of one that gave up."""
    (tmp_path / "tries.toml").write_text(LOG)
    Shop.open(tmp_path / "shop.db").close()
    said = watched(*arguments, folder=tmp_path)
    assert f"code {code}, spoken []" in said


def test_the_watch_would_see_a_connection(tmp_path):
    """The same watch over a reading by SSH, which does speak: it is not blind."""
    said = watched("read", "ssh://nobody@127.0.0.1:1", folder=tmp_path)
    assert "127.0.0.1" in said
    assert "spoken []" not in said


@pytest.mark.parametrize("encoding", ["ascii", "latin-1", "cp437", "koi8-r"])
def test_a_terminal_of_another_encoding_shows_another_sign_and_the_rest(encoding, tmp_path):
    plain = {**os.environ, "PYTHONIOENCODING": encoding, "PYTHONUTF8": "0", "PYTHONCOERCECLOCALE": "0", "LC_ALL": "C"}
    command = [sys.executable, "-m", "after_check", "judge", "--after", "2x16G DDR4-3200; run 2400", "--promise", "32G; 3200"]
    done = subprocess.run(command, capture_output=True, timeout=60, check=False, cwd=tmp_path, env=plain)
    text = done.stdout.decode(encoding)
    assert done.returncode == 1
    assert "NOT READY" in text
    assert b"Traceback" not in done.stderr
