"""Many machines against one promise."""

from __future__ import annotations

import csv
import io
import json

import pypdf
import pytest

from after_check.casework.batch import Batch, JudgedMachine, Terms, batch_of
from after_check.casework.on_all_cores import is_worth_it, judged_on_all_cores
from after_check.domain.case_files import CaseFile
from after_check.domain.standing import Verdict
from after_check.files.errors import SourceError
from after_check.handback.batch_sheet import batch_csv, batch_pdf
from after_check.host.processors import usable_cores
from after_check.judgement.judge import judge
from after_check.local.paths import settings_path
from after_check.sources.evidence import Taken
from after_check.sources.many import Named, is_batch, sources_in, take_many
from after_check.sources.open_source import take_notation, take_promise
from tests.conftest import SAMPLES
from tests.helpers.commands import run_here as run

GOOD = "A2=16G DDR4-3200; B2=16G DDR4-3200; run 3200; total 32G"
ONE_CHANNEL = "A1=16G DDR4-3200; A2=16G DDR4-3200; B1=-; B2=-; run 3200; total 32G"
ONE_MISSING = "A2=16G DDR4-3200; B2=-; run 3200; total 16G"
PROMISE = "2x16G DDR4-3200; dual"


@pytest.fixture
def folder(tmp_path):
    batch = tmp_path / "batch"
    batch.mkdir()
    for number in range(1, 31):
        (batch / f"desk-{number:02d}.txt").write_text({7: ONE_CHANNEL, 13: ONE_MISSING}.get(number, GOOD))
    (batch / "desk-21.txt").write_text("no notation at all")
    return batch


def judged(name, line):
    return JudgedMachine(name, judge(CaseFile(take_notation(line).reading, None, take_promise(PROMISE))))


def test_the_three_that_differ_are_found(folder):
    done = run("judge", "--after", str(folder), "--promise", PROMISE, "--json")
    assert done.returncode == 1, done.stderr
    document = json.loads(done.stdout)
    assert (document["ready"], document["not_ready"], document["cant_tell"]) == (27, 2, 1)
    assert document["different"] == ["desk-07", "desk-13", "desk-21"]
    words = run("judge", "--after", str(folder), "--promise", PROMISE).stdout
    assert words.count("◂ differs") == 3
    assert "desk-07: Wrong slots: 2 modules on one channel" in words
    assert "30 machines: 0 ready, 27 as promised, not tested, 2 not ready, 1 can't be told" in words


def test_all_cores_say_what_one_says(folder):
    sources = sources_in(folder)
    terms = Terms(take_promise(PROMISE))
    serial = batch_of(((named.name, taken) for named, taken in take_many(sources)), {}, terms)
    told = []
    assert Batch(judged_on_all_cores(sources, {}, terms, lambda done, whole: told.append((done, whole)))) == serial
    assert told[-1] == (30, 30)
    many = tuple(Named(f"m{number}", sources[0].source) for number in range(100))
    assert not is_worth_it(sources)
    assert is_worth_it(many) or usable_cores() == 1
    assert not is_worth_it((*many, Named("far", "ssh://root@192.0.2.9")))


def test_exit_codes_of_batches(folder, tmp_path):
    for name in ("desk-07.txt", "desk-13.txt"):
        (folder / name).unlink()
    assert run("judge", "--after", str(folder), "--promise", PROMISE).returncode == 2
    (folder / "desk-21.txt").unlink()
    assert run("judge", "--after", str(folder), "--promise", PROMISE).returncode == 0
    empty = tmp_path / "empty"
    empty.mkdir()
    refused = run("judge", "--batch", "--after", str(empty), "--promise", PROMISE)
    assert refused.returncode == 65
    assert "names no machine" in refused.stderr


@pytest.mark.parametrize(("soak", "code"), [("", 2), ("; soak clean 3 passes", 2), ("; soak clean 4 passes 2h", 0)])
def test_what_the_shop_asks_for_holds_for_one_machine_and_for_many(soak, code, tmp_path):
    settings = settings_path()
    settings.parent.mkdir(parents=True)
    settings.write_text("[ready]\nsoak_passes = 4\n")
    many = tmp_path / "many"
    many.mkdir()
    (many / "desk.txt").write_text(GOOD + soak)
    for after in (GOOD + soak, str(many)):
        assert run("judge", "--after", after, "--promise", PROMISE).returncode == code


def test_without_two_alike_nobody_differs_from_the_rest():
    batch = Batch((judged("a", GOOD), judged("b", ONE_CHANNEL), JudgedMachine("c", None, "no answer")))
    assert batch.usual is None
    assert batch.verdict is Verdict.NOT_READY
    assert [item.name for item in Batch((judged("a", GOOD), judged("b", GOOD), judged("c", ONE_MISSING))).different] == ["c"]


def test_the_summary_sheet_and_the_table():
    batch = Batch((judged("one", GOOD), judged("two", GOOD), judged("=three", ONE_MISSING)))
    text = " ".join(pypdf.PdfReader(io.BytesIO(batch_pdf(batch, take_promise(PROMISE)))).pages[0].extract_text().split())
    assert "3 machines: 0 ready" in text
    assert "=three: One module not seen" in text
    rows = list(csv.reader(batch_csv(batch).decode("utf-8-sig").splitlines()))
    assert rows[0][:3] == ["machine", "verdict", "capacity"]
    assert rows[3][0] == "'=three"
    assert rows[3][rows[0].index("module.missing")] == "x"
    assert rows[1][rows[0].index("module.missing")] == ""


def test_a_list_of_sources(folder, tmp_path):
    listed = tmp_path / "list.txt"
    listed.write_text("# the batch\nfirst = batch/desk-01.txt\nbatch/desk-02.txt\nfar = ssh://nobody@127.0.0.1:1\n")
    sources = sources_in(listed)
    assert [source.name for source in sources] == ["first", "batch/desk-02.txt", "far"]
    seen = []
    taken = take_many(sources, tell=lambda done, whole: seen.append((done, whole)))
    assert [isinstance(result, Taken) for _, result in taken] == [True, True, False]
    assert seen[-1] == (3, 3)
    listed.write_text("nowhere/at-all\n")
    with pytest.raises(SourceError, match="no address and no file"):
        sources_in(listed)


def test_a_copied_tree_is_one_machine_and_not_a_batch(folder):
    assert is_batch(folder)
    assert not is_batch(SAMPLES / "0417" / "arrival")
    assert not is_batch(folder / "desk-01.txt")
    assert not is_batch(folder / ("x" * 400))
