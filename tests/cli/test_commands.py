"""The commands as a shell sees them: output, exit codes, errors without a traceback."""

from __future__ import annotations

import json
import os
import subprocess
import sys

import pytest

from tests.conftest import SAMPLES
from tests.helpers.commands import run, run_here

AFTER = "A2=16G DDR4-3466 prof1 3466@CL18/1.35V std 2400; B2=16G DDR4-3466 prof1 3466@CL18/1.35V std 2400; run 2400; dual; profile off"


def test_judge_of_the_first_example_names_the_profile_as_binding():
    done = run(
        *("judge", "--before", "A2=8G DDR4-2400; run 2400; single", "--after", AFTER),
        *("--promise", "2x16G DDR4-3466; dual; profile 1", "--json"),
    )
    assert done.returncode == 1
    assert done.stderr == ""
    document = json.loads(done.stdout)
    assert document["verdict"] == "not ready"
    reasons = [finding["code"] for finding in document["findings"] if finding["code"].startswith("rate.")]
    assert reasons == ["rate.profile_off"]
    (binding,) = [ceiling for ceiling in document["ceilings"] if ceiling["binding"]]
    assert binding == {"name": "modules, standard", "rate_mts": 2400, "binding": True}
    rate = next(track for track in document["tracks"] if track["quantity"] == "rate")
    assert (rate["before"], rate["promised"], rate["now"], rate["unit"], rate["status"]) == (2400, 3466, 2400, "MT/s", "short")
    for finding in document["findings"]:
        assert set(finding) >= {"code", "severity", "title", "reason", "next", "sure"}


@pytest.mark.parametrize(
    ("after", "promise", "code"),
    [("2x8G DDR4-3200; run 3200; dual", "2x8G DDR4-3200; dual", 0), ("2x8G; run 2400", "2x8G; run 3200", 1), ("2x8G", "2x8G; dual", 2)],
)
def test_exit_codes_of_judge(after, promise, code):
    assert run_here("judge", "--after", after, "--promise", promise).returncode == code


def test_a_promise_of_judge_may_speak_of_what_was_there():
    # 8 GB there, and a 16 in the free slot: 24 GB are promised, and 8 GB are missing.
    arguments = ("judge", "--before", "A1=8G DDR4-2666; A2=-", "--after", "A1=8G DDR4-2666; A2=8G DDR4-2666; total 16G")
    done = run(*arguments, "--promise", "16gb in the free slot", "--json")
    assert done.returncode == 1
    assert {track["quantity"]: track["promised"] for track in json.loads(done.stdout)["tracks"]}["capacity"] == 24


def test_judge_takes_folders_and_saved_readings(tmp_path):
    saved = tmp_path / "arrival.json"
    assert run("read", str(SAMPLES / "0418" / "arrival"), "--out", str(saved)).returncode == 0
    done = run("judge", "--before", str(saved), "--after", str(SAMPLES / "0418" / "fitted"), "--promise", "2x8G DDR4-3200; dual")
    assert done.returncode == 0, done.stdout
    assert done.stdout.startswith("? AS PROMISED, NOT TESTED")  # The exit code is of the promise.


def test_read_of_this_machine_is_one_json_document():
    done = run("read", "--json")
    assert done.returncode == 0
    assert json.loads(done.stdout)["format"] == "after-check reading"


@pytest.mark.parametrize(
    ("arguments", "parts"),
    [
        (("explain", "PC4-21300"), ("DDR4-2666", "21328")),
        (("explain", "PC3-8500"), ("1066",)),
        (("explain", "PC2-4200"), ("533",)),
        (("explain", "1467MHz"), ("2933",)),
        (("explain", "2021-W11"), ("Monday 15 March 2021", "Sunday 21 March 2021")),
        (("explain", "16GB", "2Rx8", "PC4-3200AA-SE1-11"), ("16 GiB", "SODIMM", "22-22-22", "13.75 ns")),
        (("explain", "2x16G DDR4-3200 CL22; dual"), ("Together 32 GiB", "13.75 ns")),
    ],
)
def test_explain(arguments, parts):
    done = run_here(*arguments)
    assert done.returncode == 0
    for part in parts:
        assert part in done.stdout


@pytest.mark.parametrize(
    ("arguments", "code", "part"),
    [
        (("nonsense",), 64, "No such command"),
        (("judge",), 64, "--after"),
        (("handback", "1"), 64, "--pdf"),
        (("read", "A1=8G; duel"), 65, "did you mean 'dual'"),
        (("read", "/no/such/place"), 65, "file or a folder"),
        (("judge", "--after", "2x8G", "--promise", "2x8G; total 8G"), 65, "add up to 16 GiB"),
        (("read", "ssh://root@127.0.0.1:1"), 65, "connection failed"),
        (("read", "redfish+https://127.0.0.1:1"), 65, "no secure connection"),
        (("read", "ssh://root"), 65, "no user"),
        ((), 64, "needs a terminal"),
    ],
)
def test_errors_are_sentences(arguments, code, part):
    done = run_here(*arguments)
    assert done.returncode == code
    assert part in done.stderr
    assert "Traceback" not in done.stderr
    assert done.stdout == ""


def test_a_line_of_a_hundred_kilobytes_is_an_error_of_one_screen():
    done = run("read", "A1=16G; " * 12_500)
    assert done.returncode == 65
    assert "100,000 characters" in done.stderr
    assert len(done.stderr) < 1000


def test_handback_writes_sheet_and_drawings(tmp_path):
    done = run("handback", "0417", "--demo", "--pdf", str(tmp_path / "s.pdf"), "--svg", str(tmp_path / "d"))
    assert done.returncode == 0, done.stderr
    assert (tmp_path / "s.pdf").read_bytes().startswith(b"%PDF")
    assert len(list((tmp_path / "d").iterdir())) == 8
    assert run_here("handback", "9999", "--demo", "--pdf", str(tmp_path / "t.pdf")).returncode == 74
    failed = run_here("handback", "0417", "--demo", "--pdf", str(tmp_path / "no" / "s.pdf"))
    assert failed.returncode == 74
    assert "No such file" in failed.stderr


def test_version_does_without_the_slow_parts():
    code = (
        "import sys; from after_check.cli.entry import main; main(['--version']);"
        "print(sorted(set(sys.modules) & {'typer', 'textual', 'sqlalchemy', 'pydantic'}))"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.splitlines() == ["after-check 0.1.0", "[]"]


def test_a_sheet_does_without_what_reads_and_measures():
    code = (
        "import sys; import after_check.cli.handback;"
        "print(sorted(set(sys.modules) & {'numpy', 'numba', 'asyncssh', 'httpx', 'textual', 'after_check.sources.linux'}))"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "[]"


def test_a_closed_pipe_is_no_error():
    out, into = os.pipe()
    os.close(out)
    done = subprocess.run(
        [sys.executable, "-m", "after_check", "explain", "PC4-21300"], stdout=into, stderr=subprocess.PIPE, text=True, check=False
    )
    os.close(into)
    assert "Traceback" not in done.stderr
