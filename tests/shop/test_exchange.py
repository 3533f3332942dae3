"""Jobs that travel between two benches: whatever is done where, and in whatever order files go to and fro, nothing is lost or doubled."""

from __future__ import annotations

import itertools
from dataclasses import replace
from datetime import timedelta

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from after_check.domain.demand import DemandRecord, DemandSample
from after_check.domain.handback import HandBack, Override
from after_check.domain.jobs import JobFacts, Moment
from after_check.domain.soak import Covered, SoakRecord, SoakState
from after_check.domain.tries import Arrangement, Elsewhere, Started, Try, TryLog, TryModule
from after_check.files.errors import SourceError
from after_check.shop.checking import check_shop
from after_check.shop.documents import document_text, job_document, parse_document
from after_check.shop.exchange import handed_out, job_file, read_job_file
from after_check.shop.joining import TakenIn, merged
from after_check.shop.shop import Shop
from after_check.sources.open_source import take_notation
from tests.benchmark.test_promised import WHEN
from tests.benchmark.test_promised import record as benchmark_record
from tests.helpers.logs import THREE, A, B

_counter = itertools.count(1)


def soak(minutes):
    begun = WHEN + timedelta(minutes=minutes)
    return SoakRecord("short", SoakState.FINISHED, begun, 60.0 * minutes, ("step",), 1, covered=Covered(1 << 30), fully_swept_bytes=1 << 30)


WORK = {
    "reading": lambda shop, number, at: shop.jobs.add_reading(number, Moment.FITTED, take_notation(f"A2=16G serial {at:04d}; run 3200")),
    "benchmark": lambda shop, number, at: shop.jobs.keep_benchmark(number, Moment.FITTED, benchmark_record(20.0 + at)),
    "soak": lambda shop, number, at: shop.jobs.keep_soak(number, soak(at)),
    "demand": lambda shop, number, at: shop.jobs.keep_demand(number, DemandRecord(WHEN, 1 << 34, (DemandSample(0.0, at << 20),))),
}


def contents(shop, number):
    """What a job holds, in its order."""
    document = job_document(shop.jobs.job(number))
    return {name: [document_text(item) for item in document[name]] for name in ("readings", "gauges", "soaks", "demands")}


def send(source, target, number):
    document, evidence = read_job_file(job_file(source, number), "file")
    return target.jobs.take_in(document, evidence)


@settings(max_examples=12, deadline=None)
@given(st.lists(st.tuples(st.sampled_from(["here", "there"]), st.sampled_from([*WORK, "send"])), max_size=9))
def test_two_benches_end_with_everything_whatever_the_order(tmp_path_factory, done):
    folder = tmp_path_factory.mktemp("benches")
    benches = {name: Shop.open(folder / f"{name}.db") for name in ("here", "there")}
    benches["here"].jobs.add(JobFacts("1", "desk"), ((Moment.ARRIVAL, take_notation("A2=8G; run 2400")),))
    send(benches["here"], benches["there"], "1")
    kept = dict.fromkeys(WORK, 0)
    for at, (where, what) in enumerate(done, 1):
        other = "there" if where == "here" else "here"
        if what == "send":
            send(benches[where], benches[other], "1")
        else:
            WORK[what](benches[where], "1", at)
            kept[what] += 1
    send(benches["here"], benches["there"], "1")
    send(benches["there"], benches["here"], "1")
    assert contents(benches["here"], "1") == contents(benches["there"], "1")
    held = contents(benches["here"], "1")
    in_files = {"benchmark": "gauges"}  # Files keep the name that it had from the first.
    assert {name: len(held[in_files.get(name, f"{name}s")]) for name in WORK} == {**kept, "reading": kept["reading"] + 1}
    assert send(benches["here"], benches["there"], "1")[1] is not TakenIn.NEW
    for shop in benches.values():
        assert shop.jobs.numbers() == ["1"]
        assert check_shop(shop).is_sound
        shop.close()


def reading_at(hour, serial, rate=3200):
    return replace_taken(take_notation(f"A2=16G serial {serial}; run {rate}"), WHEN + timedelta(hours=hour))


def replace_taken(taken, at):
    return replace(taken, reading=replace(taken.reading, taken_at=at))


def test_what_comes_later_stays_the_state_now_whichever_file_comes_last(shop, tmp_path):
    """Read on one bench at eight and ten, on the other at nine: ten o'clock is now, on both, and each order stays."""
    other = Shop.open(tmp_path / "other.db")
    shop.jobs.add(JobFacts("1", "desk"), ((Moment.ARRIVAL, reading_at(0, "a")),))
    send(shop, other, "1")
    shop.jobs.add_reading("1", Moment.FITTED, reading_at(8, "b"))
    shop.jobs.add_reading("1", Moment.FITTED, reading_at(10, "d", 2933))
    other.jobs.add_reading("1", Moment.FITTED, reading_at(9, "c"))
    assert send(other, shop, "1").became is TakenIn.JOINED
    assert send(shop, other, "1").became is TakenIn.JOINED
    for bench in (shop, other):
        job = bench.jobs.job("1")
        assert [kept.taken_at.hour for kept in job.readings] == [0, 8, 9, 10]
        assert job.now.reading.modules[0].serial.value.casefold() == "d"
        assert all(bench.jobs.evidence(kept.id) for kept in job.readings)
        assert check_shop(bench).is_sound


def test_a_wrong_clock_does_not_turn_a_benchs_own_order_round(shop, tmp_path):
    """The second reading was taken after the settings were cleared, with a clock of years ago; it stays the second."""
    other = Shop.open(tmp_path / "other.db")
    shop.jobs.add(JobFacts("1", "desk"))
    send(shop, other, "1")
    shop.jobs.add_reading("1", Moment.FITTED, reading_at(8, "b"))
    shop.jobs.add_reading("1", Moment.FITTED, reading_at(-100_000, "c", 2400))
    send(shop, other, "1")
    for bench in (shop, other):
        assert bench.jobs.job("1").now.reading.modules[0].serial.value.casefold() == "c"


def test_a_soak_that_went_on_elsewhere_takes_the_place_of_what_it_was(shop, tmp_path):
    other = Shop.open(tmp_path / "other.db")
    shop.jobs.add(JobFacts("1", "desk"))
    kept = shop.jobs.keep_soak("1", replace(soak(5), state=SoakState.PAUSED, seconds=10.0))
    send(shop, other, "1")
    later = document_with_soak(shop, kept)
    assert other.jobs.take_in(parse_document(later.encode(), "x"), {}).became is TakenIn.JOINED
    assert [item.record.state for item in other.jobs.job("1").soaks] == [SoakState.FINISHED]


def document_with_soak(shop, kept):
    """The job's document once its soak has finished, a minute later."""
    shop.jobs.keep_soak("1", soak(5), kept)
    document = job_document(shop.jobs.job("1"))
    later = shop.jobs.job("1").soaks[0].changed_at + timedelta(minutes=1)
    document["soaks"][0]["at"] = later.isoformat()
    return document_text(document)


def test_a_soak_that_runs_here_is_written_on_although_a_job_file_moved_it(shop, tmp_path):
    """The other bench's earlier soak comes in before the running one, which gets another row; its program knows the old one."""
    other = Shop.open(tmp_path / "other.db")
    shop.jobs.add(JobFacts("1", "desk"))
    send(shop, other, "1")
    other.jobs.keep_soak("1", soak(1))
    running = shop.jobs.keep_soak("1", replace(soak(5), state=SoakState.PAUSED))
    send(other, shop, "1")
    shop.jobs.keep_soak("1", soak(5), running)
    assert [item.record.seconds for item in shop.jobs.job("1").soaks] == [60.0, 300.0]
    assert shop.jobs.job("1").soak.record.state is SoakState.FINISHED


def test_tries_of_two_benches_are_one_log_and_no_letter_means_two_modules(shop, tmp_path):
    """Both benches call their spare module c; the one that comes in gets the next free letter, and its try follows it."""
    other = Shop.open(tmp_path / "other.db")
    shop.jobs.add(JobFacts("1", "desk"))
    first = Try(Arrangement((("A2", "a"),)), Started.YES, at=WHEN)
    shop.jobs.keep_tries("1", TryLog((A, B), ("A2", "B2"), (first,)), 0)
    send(shop, other, "1")
    here = Try(Arrangement((("A2", "c"),)), Started.NO, at=WHEN + timedelta(minutes=20))
    there = Try(Arrangement((("B2", "c"), ("A2", "b"))), Started.CYCLES, at=WHEN + timedelta(minutes=10), reseated=("c",))
    fails, works = Elsewhere(True), Elsewhere(False, 40.0)
    ours, theirs = TryModule("c", "8G DDR4-3200 serial 77"), TryModule("c", "16G DDR4-2400 serial 88")
    shop.jobs.keep_tries("1", TryLog((A, replace(B, elsewhere=(fails,)), ours), ("A2", "B2"), (first, here)), 1)
    their_log = TryLog((A, replace(B, elsewhere=(works,)), theirs), ("A2", "B2", "D1"), (first, there), order=("B2", "A2"))
    other.jobs.keep_tries("1", their_log, 1)
    send(other, shop, "1")
    log = shop.jobs.job("1").tries.log
    assert [tried.started for tried in log.tries] == [Started.YES, Started.CYCLES, Started.NO]
    assert log.tries[1].arrangement.fitted == (("B2", "d"), ("A2", "b"))
    assert log.tries[1].reseated == ("d",)
    assert log.order == ("B2", "A2")
    assert log.by_letter["b"].elsewhere == (works, fails)
    assert {module.letter: module.words for module in log.modules}["d"] == "16G DDR4-2400 serial 88"
    assert {module.letter: module.words for module in log.modules}["c"] == "8G DDR4-3200 serial 77"
    assert log.slots == ("A2", "B2", "D1")
    assert send(other, shop, "1").became is TakenIn.SAME
    assert len(shop.jobs.job("1").tries.log.tries) == 3


def test_two_signatures_of_one_number_both_stay(shop, tmp_path):
    other = Shop.open(tmp_path / "other.db")
    shop.jobs.add(JobFacts("1", "desk"), ((Moment.ARRIVAL, reading_at(0, "a")),))
    send(shop, other, "1")
    other.jobs.add_reading("1", Moment.FITTED, reading_at(1, "b"))
    for bench, name in ((shop, "I. Skarrow"), (other, "T. Bench")):
        bench.signing.sign(bench.jobs.job("1"), name)
    send(other, shop, "1")
    assert [(item.number, item.signed_by) for item in shop.jobs.job("1").revisions] == [(1, "I. Skarrow"), (2, "T. Bench")]
    assert check_shop(shop).is_sound


def test_words_that_both_wrote_are_told_and_agreements_of_both_stay(shop, tmp_path):
    other = Shop.open(tmp_path / "other.db")
    shop.jobs.add(JobFacts("1", "desk"))
    send(shop, other, "1")
    shop.signing.keep_hand_back(shop.jobs.job("1"), HandBack("kept at the shop", "a year", overrides=(Override("rate.load", "by phone"),)))
    document, _ = handed_out(other, "1")
    document |= {
        "title": "radio desk",
        "hand_back": {"old_modules": "given back", "overrides": [{"code": "mix.maker", "reason": "by letter"}]},
    }
    document["changed_at"] = (shop.jobs.job("1").changed_at + timedelta(hours=1)).isoformat()
    arrived = shop.jobs.take_in(parse_document(document_text(document).encode(), "x"), {})
    job = shop.jobs.job("1")
    assert (job.facts.title, job.hand_back.old_modules, job.hand_back.warranty) == ("radio desk", "kept at the shop", "a year")
    assert {override.code for override in job.hand_back.overrides} == {"rate.load", "mix.maker"}
    assert [(both.name, both.here, both.there) for both in arrived.both_wrote] == [("old_modules", "kept at the shop", "given back")]


@given(st.permutations(range(8)), st.sets(st.integers(0, 7)), st.sets(st.integers(0, 7)))
def test_merging_keeps_both_orders_and_is_the_same_from_either_side(order, left, right):
    """Both lists are parts of one history, whose times say nothing of its order."""
    here, theirs = [number for number in order if number in left], [number for number in order if number in right]

    def at(one):
        return WHEN + timedelta(minutes=one % 3)

    whole = merged(here, theirs, lambda item: item, at)
    assert whole == merged(theirs, here, lambda item: item, at)
    assert sorted(whole) == sorted(left | right)
    for part in (here, theirs):
        assert [item for item in whole if item in part] == part


def test_orders_that_contradict_each_other_lose_nothing():
    assert merged([1, 2, 3], [3, 1, 4], lambda item: item, lambda item: WHEN + timedelta(minutes=item)) == [1, 2, 3, 4]


def test_tries_and_additions_travel(shop, tmp_path):
    shop.jobs.add(JobFacts("1", "desk"), ((Moment.ARRIVAL, take_notation("A2=8G; run 2400")),))
    shop.jobs.keep_tries("1", TryLog((A, B), ("A2", "B2"), THREE), 0)
    shop.signing.keep_hand_back(shop.jobs.job("1"), HandBack("kept", "two years", "buy more", "thank you"))
    other = Shop.open(tmp_path / "other.db")
    send(shop, other, "1")
    assert other.jobs.job("1").tries.log == shop.jobs.job("1").tries.log
    assert other.jobs.job("1").hand_back == HandBack("kept", "two years", "buy more", "thank you")


def test_evidence_that_is_missing_stops_everything(shop, tmp_path):
    shop.jobs.add(JobFacts("1", "desk"), ((Moment.ARRIVAL, take_notation("A2=8G; run 2400")),))
    document, evidence = handed_out(shop, "1")
    parsed = parse_document(document_text(document).encode(), "x")
    other = Shop.open(tmp_path / "other.db")
    with pytest.raises(SourceError, match="missing or damaged"):
        other.jobs.take_in(parsed, {})
    with pytest.raises(SourceError, match="missing or damaged"):
        other.jobs.take_in(parsed, dict.fromkeys(evidence, b"other"))
    assert other.jobs.numbers() == []


@settings(max_examples=60, deadline=None)
@given(
    st.recursive(
        st.one_of(st.none(), st.booleans(), st.integers(), st.floats(allow_nan=False), st.text(max_size=8)),
        lambda inner: st.one_of(st.lists(inner, max_size=3), st.dictionaries(st.text(max_size=8), inner, max_size=3)),
        max_leaves=12,
    )
)
def test_any_json_in_a_documents_place_is_refused_in_words_or_fits(found):
    import json

    for data in (found, {"format": "after-check job", "version": 1, "readings": found}, {"format": "after-check job", "uid": found}):
        with pytest.raises(SourceError) as caught:
            parse_document(json.dumps(data).encode(), "file")
        assert "file" in str(caught.value)


def test_names_that_travel_are_cleaned(shop, tmp_path):
    shop.jobs.add(JobFacts("1", "desk"), ((Moment.ARRIVAL, take_notation("A2=8G; run 2400")),))
    document, evidence = handed_out(shop, "1")
    document |= {"title": "\x1b[31mred\x07", "number": "1\u202e2", "uid": "0" * 36}
    other = Shop.open(tmp_path / "other.db")
    number, became, _ = other.jobs.take_in(parse_document(document_text(document).encode(), "x"), evidence)
    assert (number, became) == ("12", TakenIn.NEW)
    assert other.jobs.job("12").facts.title == "[31mred"


def test_a_new_number_is_found_when_many_have_it(shop, tmp_path):
    shop.jobs.add(JobFacts("1", "desk"))
    document, evidence = handed_out(shop, "1")
    numbers = []
    for at in range(3):
        other = parse_document(document_text({**document, "uid": f"{at:036d}"}).encode(), "x")
        numbers.append(shop.jobs.take_in(other, evidence)[0])
    assert numbers == ["1-2", "1-3", "1-4"]
    assert replace(shop.jobs.job("1-3").facts, number="1") == shop.jobs.job("1").facts
