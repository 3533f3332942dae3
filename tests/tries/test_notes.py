"""A note tells the same on the screen, in a file of tries and to the command."""

from __future__ import annotations

import pytest

from after_check.domain.tries import Try
from after_check.tries.error_places import bits_of
from after_check.tries.file import parse_tries
from after_check.tries.notes import noted
from tests.helpers.commands import run_here

READ = ("rate_mts", "total_bytes", "channels", "errors_at", "celsius", "starts", "starts_failed", "put_right", "note")


def in_file(note, more=""):
    log, _ = parse_tries(
        f"""[[try]]
fitted = {{ A1 = "a" }}
note = "{note}"
{more}""".encode()
    )
    return log.tries[0]


@pytest.mark.parametrize(
    "note",
    [
        "bit 17, 91 °C",
        "started 5 times, 2 failed",
        "runs at 2400, total 16gb, dual channel",
        "put right: the fan was not plugged in",
        "the fan was loud",
    ],
)
def test_a_file_knows_of_a_note_what_the_screen_knows(note):
    screen, file = noted(Try(), note), in_file(note)
    assert [getattr(file, name) for name in READ] == [getattr(screen, name) for name in READ]


def test_what_a_note_of_a_file_says_is_weighed():
    assert bits_of(in_file("bits 5 and 37")) == {"bit 5", "bit 37"}
    assert (in_file("started 5 times, 2 failed").starts, in_file("started 5 times, 2 failed").starts_failed) == (5, 2)


def test_a_key_of_the_file_stands_before_its_note():
    assert in_file("91 °C", "celsius = 60.0").celsius == 60.0
    assert in_file("started 5 times, 2 failed", "starts = 3").starts_failed is None


def test_the_command_says_what_a_note_tells(tmp_path):
    path = tmp_path / "tries.toml"
    path.write_text('modules = ["a"]\n[[try]]\nfitted = { A1 = "a" }\nstart = "yes"\nsoak = "errors"\nnote = "bit 17, 91 °C"\n')
    said = run_here("tries", str(path)).stdout
    assert "91 °C" in said
    assert "bit 17" in said
