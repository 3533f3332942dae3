"""The command `soak` as a shell sees it."""

from __future__ import annotations

import json
import signal
import subprocess
import sys
import time

import pytest

from after_check.standins.appliance_service import ApplianceService
from tests.helpers.commands import run


def test_a_small_soak_is_one_json_document_with_bytes_and_rate(tmp_path):
    done = run("soak", "--memory", "32M", "--program", "MATS+", "--background", "solid", "--record", str(tmp_path / "s.json"), "--json")
    assert done.returncode == 0, done.stderr
    document = json.loads(done.stdout)
    assert (document["state"], document["errors"], document["result"]) == ("finished", 0, "clean")
    assert document["covered"]["held_bytes"] == document["fully_swept_bytes"] == 32 << 20
    assert document["bytes_done"] == (5 + 1 + 2) * (32 << 20)  # Five operations a word, a look at what they left, and the first look.
    assert document["rate_bytes_per_s"] > 0
    assert json.loads((tmp_path / "s.json").read_text())["state"] == "finished"


def test_a_time_is_given_and_what_finds_most_in_it_is_done(tmp_path):
    record = tmp_path / "s.json"
    done = run("soak", "--within", "0.05", "--memory", "32M", "--threads", "1", "--record", str(record), "--json")
    assert done.returncode == 0, done.stderr
    document = json.loads(done.stdout)
    assert document["plan"] == "0.05-minute"
    assert document["steps"][0] == "March X · random a11"
    # On a busy machine the time is over first, after no step or after some, and that is said.
    assert document["state"] in ("finished", "stopped")
    assert document["state"] == "stopped" or (document["steps_done"] and document["looked"][0] == 1.0)  # All stuck bits,
    assert document["looked"][7] == 0.0  # and no values lost in time: its pauses alone take longer than three seconds.
    for refused in (("--minutes", "3"), ("--program", "MATS")):
        assert "leave --minutes and --program out" in run("soak", "--within", "8", *refused).stderr


def test_what_cannot_be_had_is_not_covered_as_asked(tmp_path):
    done = run("soak", "--reserve", "900000G", "--record", str(tmp_path / "s.json"))
    assert done.returncode == 2
    assert "not covered as asked" in done.stdout
    assert "close programs" in done.stdout


def test_coverage_of_a_typed_program():
    done = run("soak", "--coverage", "--program", "{any(w0); ^(r0,w1); v(r1,w0)}", "--json")
    (program,) = json.loads(done.stdout)["programs"]
    assert program["program"] == "{⇕(w0); ⇑(r0,w1); ⇓(r1,w0)}"
    assert program["operations_per_cell"] == 5
    assert program["finds"]["AF"] == "fully"
    assert program["finds"]["TF"] == "in part"
    assert program["finds"]["WDF"] == "not"


def test_coverage_as_a_table():
    done = run("soak", "--coverage", "--program", "March SS", "--program", "MATS")
    assert done.returncode == 0
    assert [line.split()[0] for line in done.stdout.splitlines()[1:3]] == ["March", "MATS"]
    assert "22n" in done.stdout


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (("--program", "{^(w0); x}"), "'x' is no element"),
        (("--program", "March Z9"), "no program is named 'March Z9'"),
        (("--program", "MATS", "--background", "tartan"), "no background is named 'tartan'"),
        (("--plan", "lunch"), "no plan is named 'lunch'"),
        (("--memory", "some"), "no amount of memory"),
        (("--memory", "1M"), "16M at the least"),
        (("--continue", "--record", "/nonexistent/soak.json"), "no soak was interrupted here"),
    ],
)
def test_bad_input_gets_a_sentence(arguments, words):
    done = run("soak", *arguments)
    assert done.returncode == 65
    assert words in done.stderr
    assert "Traceback" not in done.stderr


def test_stopped_by_a_signal_and_taken_up_again(tmp_path):
    record = tmp_path / "s.json"
    program = ("--memory", "32M", "--program", "MATS", "--program", "{any(w0); Del 30s; any(r0)}", "--background", "solid")
    process = subprocess.Popen(
        [sys.executable, "-m", "after_check", "soak", *program, "--record", str(record)], stdout=subprocess.PIPE, stderr=subprocess.DEVNULL
    )
    deadline = time.monotonic() + 60
    while not (record.exists() and json.loads(record.read_text())["steps_done"] == 1):
        assert time.monotonic() < deadline
        time.sleep(0.1)
    process.send_signal(signal.SIGTERM)
    assert process.wait(30) == 2, "one whole step was clean, and no whole pass was done"
    assert json.loads(record.read_text())["state"] == "stopped"
    other = run("soak", "--memory", "32M", "--program", "March X", "--continue", "--record", str(record))
    assert other.returncode == 65
    assert "Name the same plan" in other.stderr
    again = run("soak", *program, "--minutes", "0.05", "--continue", "--record", str(record), "--json")
    document = json.loads(again.stdout)
    assert document["steps_done"] >= 1
    assert document["seconds"] > 3


def test_an_appliance_says_how_it_is(tmp_path):
    service = ApplianceService(errors=3, away_seconds=0.5, test_seconds=1.0)
    address = f"http://127.0.0.1:{service.start()}"
    done = run("soak", "--at", address, "--record", str(tmp_path / "s.json"))
    service.stop()
    assert done.returncode == 1
    assert "in the machine's own words" in done.stdout
    assert "Cairnbox 2 (CB2-0422)" in done.stdout
