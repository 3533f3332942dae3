"""Words that two benches may both write: who knew the other's wrote later; what both wrote is asked, and no clock decides."""

from __future__ import annotations

import json
import subprocess
import sys
from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from after_check.domain.handback import HandBack
from after_check.domain.jobs import JobFacts
from after_check.domain.tries import Arrangement, Started, Try, TryLog, TryModule
from after_check.shop.documents import document_text, parse_document
from after_check.shop.exchange import backup as write_backup
from after_check.shop.exchange import handed_out, job_file, restore
from after_check.shop.joining import TakenIn
from after_check.shop.lineages import WORDS, Later, grown, joined, later_of
from after_check.shop.shop import Shop

CLOCKS = (-4000, 0, 4000)


@pytest.fixture
def benches(tmp_path):
    """Two benches that have the same job, handed from the first to the second."""
    shops = [Shop.open(tmp_path / f"{name}.db") for name in ("here", "there")]
    shops[0].jobs.add(JobFacts("1", "desk", promise="2x8G"))
    hand_over(*shops)
    yield shops
    for shop in shops:
        shop.close()


def hand_over(source, target, days=0, **how):
    """The job as a file whose clock is some days off."""
    document, evidence = handed_out(source, "1")
    document["changed_at"] = (datetime.now(UTC) + timedelta(days=days)).isoformat()
    return target.jobs.take_in(parse_document(document_text(document).encode(), "x"), evidence, **how)


def write(shop, name, text):
    job = shop.jobs.job("1")
    if name == "conclusion":
        tried = Try(Arrangement((("A1", "a"),)), Started.NO)
        log = TryLog((TryModule("a", "8G"),), ("A1",), (tried,), conclusion=text)
        shop.jobs.keep_tries("1", log, job.tries.version if job.tries else 0)
    elif hasattr(job.facts, name):
        shop.jobs.change_facts(job, replace(job.facts, **{name: text}))
    else:
        shop.signing.keep_hand_back(job, replace(job.hand_back, **{name: text}))


def word(shop, name):
    job = shop.jobs.job("1")
    return job.tries.log.conclusion if name == "conclusion" else getattr(job.facts, name, None) or getattr(job.hand_back, name)


@pytest.mark.parametrize("name", WORDS)
@pytest.mark.parametrize("days", CLOCKS)
def test_what_one_bench_wrote_is_taken_and_goes_back_whatever_the_clock(benches, name, days):
    here, there = benches
    write(there, name, "first")
    write(there, name, "second")
    arrived = hand_over(there, here, days)
    assert (word(here, name), arrived.became, arrived.both_wrote) == ("second", TakenIn.JOINED, ())
    write(here, name, "third")
    assert hand_over(there, here, days).became is TakenIn.SAME
    assert word(here, name) == "third"
    hand_over(here, there, -days)
    assert word(there, name) == "third"


@pytest.mark.parametrize("name", WORDS)
@pytest.mark.parametrize("days", CLOCKS)
@pytest.mark.parametrize("taken", [True, False])
def test_what_both_wrote_is_asked_once_and_the_answer_goes_to_the_other_bench(benches, name, days, taken):
    here, there = benches
    write(here, name, "ours")
    write(there, name, "theirs")
    for _ in range(2):  # Asked again until it is answered.
        asked = hand_over(there, here, days).both_wrote
        assert [(both.name, both.here, both.there) for both in asked] == [(name, "ours", "theirs")]
        assert word(here, name) == "ours"
    assert hand_over(there, here, days, chosen={name: taken}).both_wrote == ()
    stands = "theirs" if taken else "ours"
    assert word(here, name) == stands
    assert hand_over(there, here, days) == ("1", TakenIn.SAME, ())
    assert hand_over(here, there, days).both_wrote == ()
    assert word(there, name) == stands


def test_a_word_that_was_taken_back_is_later_than_what_it_was(benches):
    here, there = benches
    write(there, "note", "thank you")
    hand_over(there, here)
    write(here, "note", "")
    hand_over(here, there)
    assert there.jobs.job("1").hand_back.note == ""


def test_a_file_of_before_has_no_lineage_and_gives_way_to_who_knew_its_words(benches):
    here, there = benches
    old, evidence = handed_out(there, "1")
    del old["lineages"]
    old["version"] = 1
    write(here, "promise", "4x8G")
    file = parse_document(document_text(old).encode(), "x")
    assert here.jobs.take_in(file, evidence).both_wrote == ()
    assert here.jobs.job("1").facts.promise == "4x8G"
    unknown = parse_document(document_text({**old, "promise": "1x16G"}).encode(), "x")
    assert [both.there for both in here.jobs.take_in(unknown, evidence).both_wrote] == ["1x16G"]


def test_a_signature_stays_where_the_other_side_knew_it_and_adds_nothing(benches):
    here, there = benches
    here.signing.sign(here.jobs.job("1"), "I. Skarrow")
    assert hand_over(there, here, 4000).became is TakenIn.SAME
    assert here.jobs.job("1").frozen
    hand_over(here, there, -4000)
    assert there.jobs.job("1").frozen
    there.signing.begin_revision("1")
    hand_over(there, here, -4000)
    assert not here.jobs.job("1").frozen


def test_the_command_asks_and_takes_the_answer(benches, tmp_path):
    here, there = benches
    write(here, "promise", "2x16G")
    write(there, "promise", "4x8G")
    file = tmp_path / "job.zip"
    file.write_bytes(job_file(there, "1"))

    def command(*more):
        place = str(tmp_path / "here.db")
        said = [sys.executable, "-m", "after_check", "shop", "bring-in", str(file), "--shop", place, *more]
        return subprocess.run(said, capture_output=True, text=True, timeout=120, check=False)

    asked = command()
    assert asked.returncode == 1
    assert "promise: both benches wrote it; here '2x16G', in the file '4x8G'" in asked.stdout
    assert command("--take", "colour").returncode == 64
    assert command("--take", "promise").returncode == 0
    assert here.jobs.job("1").facts.promise == "4x8G"


def test_a_backup_that_says_otherwise_is_told_and_takes_nothing(benches, tmp_path):
    here, there = benches
    write(here, "promise", "2x16G")
    write(there, "promise", "4x8G")
    write_backup(there, tmp_path / "backup.zip")
    told = restore(here, tmp_path / "backup.zip")
    assert len(told.problems) == 1
    assert "here '2x16G', in the file '4x8G'; what is here stays" in told.problems[0]
    assert here.jobs.job("1").facts.promise == "2x16G"


def test_a_damaged_job_takes_no_words(benches):
    from sqlalchemy import text

    here, there = benches
    here.signing.keep_hand_back(here.jobs.job("1"), HandBack(note="ours"))
    with here.jobs._database.writing() as connection:
        connection.execute(text("UPDATE hand_backs SET record = '{'"))
    write(there, "note", "theirs")
    assert hand_over(there, here).both_wrote == ()
    with here.jobs._database.reading() as connection:
        assert connection.execute(text("SELECT record FROM hand_backs")).scalar() == "{"
        assert json.loads(connection.execute(text("SELECT lineages FROM jobs")).scalar())["note"]


@pytest.mark.parametrize("damaged", ["", "{", "[]", "7", '{"note": 7}'])
def test_damaged_lineages_lose_no_word_and_grow_again(benches, damaged):
    from sqlalchemy import text

    here, there = benches
    with here.jobs._database.writing() as connection:
        connection.execute(text("UPDATE jobs SET lineages = :damaged"), {"damaged": damaged})
    assert here.jobs.job("1").damaged == ()
    write(here, "note", "ours")
    write(there, "note", "theirs")
    assert [both.name for both in hand_over(there, here).both_wrote] == ["note"]
    assert here.jobs.job("1").hand_back.note == "ours"
    hand_over(there, here, chosen={"note": True})
    hand_over(here, there)
    assert there.jobs.job("1").hand_back.note == here.jobs.job("1").hand_back.note == "theirs"


texts = st.lists(st.sampled_from("abcd"), min_size=1, max_size=6)


@given(texts, texts)
def test_a_joined_lineage_knows_both_and_ends_like_the_last(first, last):
    one, other = (), ()
    for text in first:
        one = grown(one, text)
    for text in last:
        other = grown(other, text)
    both = joined(one, other)
    assert both[-1] == other[-1]
    for part in (one, other):
        assert later_of(both, part) in (Later.HERE, Later.SAME)
    assert later_of(one, one) is Later.SAME
