"""Signing, revisions, job files and backups."""

from __future__ import annotations

import io
import json
import os
import random
import signal
import sqlite3
import time
import zipfile
from dataclasses import replace
from hashlib import sha256

import pytest

from after_check.domain.handback import HandBack, Override
from after_check.domain.jobs import JobFacts, Moment
from after_check.files.errors import SourceError
from after_check.shop.checking import check_shop
from after_check.shop.documents import document_text, job_document, parse_document
from after_check.shop.errors import ChangedElsewhereError, ShopError, SignedError
from after_check.shop.exchange import backup, bring_in, handed_out, job_file, move, read_job_file, restore
from after_check.shop.joining import TakenIn
from after_check.shop.shop import Shop
from after_check.sources.open_source import take_notation
from tests.benchmark.test_promised import record as benchmark_record
from tests.helpers.jobs import AFTER, FACTS, keep
from tests.helpers.logs import THREE, A, B


def full(shop):
    """A job with something of everything."""
    from after_check.domain.tries import TryLog

    keep(shop)
    shop.jobs.keep_benchmark("0501", Moment.FITTED, benchmark_record())
    shop.jobs.keep_tries("0501", TryLog((A, B), ("A2", "B2"), THREE), 0)
    return shop.signing.keep_hand_back(
        shop.jobs.job("0501"), HandBack("given back", "two years", overrides=(Override("limit.total", "agreed"),))
    )


def test_a_signed_job_is_frozen_until_a_new_revision(shop):
    job = full(shop)
    signed = shop.signing.sign(job, "I. Skarrow")
    (revision,) = signed.revisions
    assert (signed.frozen, revision.number, revision.signed_by) == (True, 1, "I. Skarrow")
    text = shop.signing.document("0501", 1)
    assert sha256(text.encode()).hexdigest() == revision.sha256
    assert json.loads(text)["hand_back"]["warranty"] == "two years"
    for change in (
        lambda: shop.jobs.add_reading("0501", Moment.FITTED, take_notation(AFTER)),
        lambda: shop.jobs.change_facts(shop.jobs.job("0501"), replace(FACTS, title="other")),
        lambda: shop.jobs.keep_tries("0501", signed.tries.log, signed.tries.version),
        lambda: shop.jobs.keep_benchmark("0501", Moment.FITTED, benchmark_record()),
        lambda: shop.signing.keep_hand_back(shop.jobs.job("0501"), HandBack()),
        lambda: shop.signing.sign(shop.jobs.job("0501"), "again"),
    ):
        with pytest.raises(SignedError, match="is signed"):
            change()
    assert job_document(shop.jobs.job("0501"))["readings"] == json.loads(text)["readings"]
    shop.signing.begin_revision("0501")
    shop.jobs.add_reading("0501", Moment.FITTED, take_notation(AFTER))
    again = shop.signing.sign(shop.jobs.job("0501"), "second hand")
    assert [revision.number for revision in again.revisions] == [1, 2]
    assert shop.signing.document("0501", 1) == text


def test_a_changed_promise_keeps_both(shop):
    job = keep(shop)
    changed = shop.signing.change_promise(job, "2x16G DDR4-2933; dual", "the customer agreed on the phone", "I. Skarrow")
    assert changed.facts.promise == "2x16G DDR4-2933; dual"
    (override,) = changed.hand_back.overrides
    assert (override.code, override.before, override.after) == ("promise", FACTS.promise, "2x16G DDR4-2933; dual")
    assert override.reason == "the customer agreed on the phone"
    with pytest.raises(ChangedElsewhereError):
        shop.signing.change_promise(job, "1x8G", "too late")


def test_a_job_file_comes_back_whole_on_another_bench(shop, tmp_path):
    full(shop)
    shop.signing.sign(shop.jobs.job("0501"), "I. Skarrow")
    file = tmp_path / "job.zip"
    file.write_bytes(job_file(shop, "0501"))
    other = Shop.open(tmp_path / "other.db")
    assert bring_in(other, file)[:2] == ("0501", TakenIn.NEW)
    assert handed_out(other, "0501") == handed_out(shop, "0501")
    assert bring_in(other, file)[:2] == ("0501", TakenIn.SAME)
    # Work goes on at the other bench and comes home: nothing lost, nothing doubled.
    other.signing.begin_revision("0501")
    other.jobs.add_reading("0501", Moment.FITTED, take_notation(f"{AFTER}; soak clean 30min 96%"))
    back = tmp_path / "back.zip"
    back.write_bytes(job_file(other, "0501"))
    assert bring_in(shop, back)[:2] == ("0501", TakenIn.JOINED)
    assert bring_in(shop, back)[:2] == ("0501", TakenIn.SAME)
    job = shop.jobs.job("0501")
    assert [len(job.readings), len(job.benchmarks), len(job.tries.log.tries), len(job.revisions)] == [3, 1, 4, 1]
    assert check_shop(shop).is_sound


def test_another_job_of_the_same_number_is_kept_beside(shop, tmp_path):
    keep(shop)
    other = Shop.open(tmp_path / "other.db")
    keep(other, replace(FACTS, title="quite another"))
    file = tmp_path / "job.zip"
    file.write_bytes(job_file(other, "0501"))
    assert bring_in(shop, file)[:2] == ("0501-2", TakenIn.NEW)
    assert (shop.jobs.job("0501").facts.title, shop.jobs.job("0501-2").facts.title) == ("Tide desk", "quite another")


def zipped(parts):
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in parts:
            archive.writestr(name, data)
    return stream.getvalue()


def altered(shop, change):
    document, evidence = handed_out(shop, "0501")
    change(document)
    return zipped([("job.json", document_text(document)), *((f"evidence/{digest}", data) for digest, data in evidence.items())])


@pytest.mark.parametrize(
    ("make", "said"),
    [
        (lambda shop: b"PK\x03\x04 no zip at all", "no zip file"),
        (lambda shop: zipped([("readme.txt", "x")]), "no job.json"),
        (lambda shop: zipped([("job.json", "{")]), "no JSON"),
        (lambda shop: zipped([("job.json", '{"format": "other"}')]), "no job of After Check"),
        (lambda shop: altered(shop, lambda item: item.update(version=3)), "newer After Check"),
        (lambda shop: altered(shop, lambda item: item.update(uid="../../etc/passwd")), "uid"),
        (lambda shop: altered(shop, lambda item: item.update(surprise=1)), "surprise"),
        (lambda shop: altered(shop, lambda item: item["readings"][0].update(reading={"slots": 5})), "readings.0"),
        (lambda shop: altered(shop, lambda item: item["readings"][0].update(taken_at="yesterday")), "taken_at"),
        (lambda shop: zipped([("job.json", document_text(handed_out(shop, "0501")[0]))]), "missing or damaged"),
        (lambda shop: zipped([("job.json", "{}"), ("../../tmp/x", "x")]), "no part of a job"),
        (lambda shop: zipped([("job.json", "{}"), ("evidence/" + "0" * 64, "x")]), "no job of After Check"),
        (lambda shop: zipped([("job.json", b"\0" * (200 << 20))]), "far more than any job"),
    ],
)
def test_job_files_that_are_not_taken_in(shop, tmp_path, make, said):
    keep(shop)
    file = tmp_path / "bad.zip"
    file.write_bytes(make(shop))
    other = Shop.open(tmp_path / "other.db")
    with pytest.raises(SourceError) as caught:
        bring_in(other, file)
    assert said in str(caught.value)
    assert other.jobs.lines() == []


def test_evidence_that_was_changed_is_noticed(shop):
    keep(shop)
    document, evidence = handed_out(shop, "0501")
    digest = next(iter(evidence))
    data = zipped([("job.json", document_text(document)), (f"evidence/{digest}", b"changed")])
    with pytest.raises(SourceError, match="not what its name says"):
        read_job_file(data, "x")


def test_damaged_bytes_never_come_in_as_something_else(shop, tmp_path):
    """Whatever a bit does to a job file: it is refused, or what comes in is what went out."""
    full(shop)
    data = job_file(shop, "0501")
    whole = document_text(job_document(shop.jobs.job("0501")))
    chance = random.Random(7)
    for _ in range(150):
        broken = bytearray(data)
        for _ in range(chance.randint(1, 3)):
            broken[chance.randrange(len(broken))] ^= 1 << chance.randrange(8)
        try:
            document, _ = read_job_file(bytes(broken), "x")
        except SourceError:
            continue
        assert document == parse_document(whole.encode(), "x")


def test_backup_restore_and_move(shop, tmp_path):
    full(shop)
    shop.jobs.add(JobFacts("0502", "second"))
    file = tmp_path / "backup.zip"
    assert backup(shop, file).new == 2
    again = Shop.open(tmp_path / "again.db")
    assert restore(again, file).new == 2
    assert restore(again, file).same == 2
    assert [handed_out(again, number) for number in sorted(again.jobs.numbers())] == [
        handed_out(shop, number) for number in shop.jobs.numbers()
    ]
    third = Shop.open(tmp_path / "third.db")
    assert (move(shop, third).new, move(shop, third).same) == (2, 2)
    with pytest.raises(SourceError, match="no backup"):
        restore(again, _written(tmp_path, zipped([("job.json", "{}")])))


def _written(folder, data):
    path = folder / "other.zip"
    path.write_bytes(data)
    return path


def test_a_damaged_store_is_found_and_the_rest_is_saved(shop, shop_path, tmp_path):
    keep(shop)
    keep(shop, replace(FACTS, number="0502"))
    keep(shop, replace(FACTS, number="0503"))
    assert check_shop(shop).is_sound
    shop.close()
    with sqlite3.connect(shop_path) as connection:
        connection.execute("UPDATE readings SET reading = '{\"slots\": 7' WHERE job_id = (SELECT id FROM jobs WHERE number = '0502')")
    damaged = Shop.open(shop_path)
    found = check_shop(damaged)
    assert [problem for problem in found.problems if "job 0502: a reading is damaged and was decoded again" in problem]
    # What is left of it is saved, and it is said what is not whole.
    saved = backup(damaged, tmp_path / "saved.zip")
    assert (saved.new, len(saved.problems)) == (3, 1)
    again = Shop.open(tmp_path / "again.db")
    restore(again, tmp_path / "saved.zip")
    assert sorted(again.jobs.numbers()) == ["0501", "0502", "0503"]


def test_changed_evidence_in_the_store_is_found(shop, shop_path):
    keep(shop)
    with sqlite3.connect(shop_path) as connection:
        connection.execute("UPDATE evidence SET data = x'00'")
    assert any("missing or damaged" in problem for problem in check_shop(shop).problems)


def test_the_archive_takes_a_job_from_the_bench_and_gives_it_back(shop):
    keep(shop)
    shop.jobs.archive("0501")
    assert [entry.waits_for for entry in shop.jobs.entries()] == ["archive"]
    shop.jobs.archive("0501", False)
    assert [entry.waits_for for entry in shop.jobs.entries()] == ["you"]


def test_a_hundred_kills_at_random_moments_lose_nothing_that_was_confirmed(shop_path):
    """A child keeps jobs and says each that was confirmed; it is killed at a random moment, a hundred times."""
    Shop.open(shop_path).close()
    chance, confirmed, whole = random.Random(11), 0, 0
    for round_number in range(100):
        reader, writer = os.pipe()
        child = os.fork()
        if not child:
            os.close(reader)
            _keep_on(shop_path, writer)
        os.close(writer)
        stream = os.fdopen(reader)
        # Every other child is killed shortly after its first confirmed job, the others at any moment from their beginning on.
        first = stream.readline() if round_number % 2 else ""
        time.sleep(chance.uniform(0.0, 0.02 if round_number % 2 else 0.12))
        os.kill(child, signal.SIGKILL)
        os.waitpid(child, 0)
        with stream:
            said = [int(line) for line in (first + stream.read()).split()]
        confirmed = max([confirmed, *said])
        with sqlite3.connect(shop_path) as connection:
            numbers = sorted(int(row[0]) for row in connection.execute("SELECT number FROM jobs"))
        assert numbers == list(range(1, len(numbers) + 1))
        assert confirmed <= len(numbers) <= confirmed + 1
        whole = len(numbers)
        confirmed = whole
    shop = Shop.open(shop_path)
    assert whole >= 50
    assert check_shop(shop).is_sound


def _keep_on(shop_path, writer):
    """Keep one job after another; runs in a forked child and ends it."""
    try:
        shop = Shop.open(shop_path)
        number = int(shop.jobs.next_number())
        while True:
            shop.jobs.add(JobFacts(f"{number:04d}", "t"), ((Moment.ARRIVAL, take_notation(f"A2=16G serial {number:06d}")),))
            os.write(writer, f"{number}\n".encode())
            number += 1
    except ShopError:
        pass
    finally:
        os._exit(0)


def test_the_published_schema_is_the_one_that_is_checked():
    from pathlib import Path

    from after_check.shop.documents import JobDocument

    published = json.loads((Path(__file__).parents[2] / "docs" / "job.schema.json").read_text())
    assert published == JobDocument.model_json_schema()
    assert {"uid", "number", "format", "version"} <= set(published["required"])


def test_a_later_reading_overtakes_the_tries_and_errors_need_a_clean_soak(shop):
    from datetime import UTC, datetime, timedelta

    from after_check.casework.judging import judge_job
    from after_check.domain.tries import TryLog
    from tests.helpers.logs import tried

    def severity(now):
        before = datetime.now(UTC) - timedelta(hours=2)
        job = shop.jobs.job("0501")
        version = job.tries.version if job.tries else 0
        log = TryLog((A, B), ("A2", "B2"), tuple(replace(item, at=before) for item in now))
        shop.jobs.keep_tries("0501", log, version)
        found = [item for item in judge_job(shop.jobs.job("0501")).findings if item.code == "cause.found"]
        return [item.severity.value for item in found]

    shop.jobs.add(FACTS, ((Moment.FITTED, take_notation(AFTER)),))
    unseen = [tried({"A2": "a", "B2": "b"}, "yes", ("A2",)), tried({"A2": "b", "B2": "a"}, "yes", ("B2",))]
    unseen.append(tried({"A2": "a"}, "yes", ("A2",)))  # And without it the machine works: then it is named.
    assert severity(unseen) == ["note"]
    errors = [
        tried({"A2": "a", "B2": "b"}, "yes", ("A2", "B2"), "errors", ("B2",)),
        tried({"A2": "b", "B2": "a"}, "yes", None, "errors", ("A2",)),
        tried({"A2": "a"}, "yes", ("A2",), "clean"),
    ]
    assert severity(errors) == ["fix"]
    shop.jobs.add_reading("0501", Moment.FITTED, take_notation(f"{AFTER}; soak clean 60min 96%"))
    assert severity(errors) == ["note"]
