"""Jobs that travel between two benches: whatever is done where, and in whatever order files go to and fro, nothing is lost or doubled."""

from __future__ import annotations

import itertools
from dataclasses import replace
from datetime import timedelta

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from after_check.domain.demand import DemandRecord, DemandSample
from after_check.domain.handback import HandBack
from after_check.domain.jobs import JobFacts, Moment
from after_check.domain.soak import Covered, SoakRecord, SoakState
from after_check.domain.tries import TryLog
from after_check.shop.checking import check_shop
from after_check.shop.documents import document_text, job_document, parse_document
from after_check.shop.job_files import handed_out, job_file, read_job_file
from after_check.shop.store import Shop
from after_check.shop.taking_in import TakenIn
from after_check.sources.errors import SourceError
from after_check.sources.take import take_notation
from tests.gauge.test_promised import WHEN
from tests.gauge.test_promised import record as gauge_record
from tests.tries.test_weights import THREE, A, B

_counter = itertools.count(1)


def soak(minutes):
    return SoakRecord("short", SoakState.FINISHED, WHEN, 60.0 * minutes, ("step",), 1, covered=Covered(1 << 30), fully_swept_bytes=1 << 30)


WORK = {
    "reading": lambda shop, number, at: shop.add_reading(number, Moment.FITTED, take_notation(f"A2=16G serial {at:04d}; run 3200")),
    "gauge": lambda shop, number, at: shop.keep_gauge(number, Moment.FITTED, gauge_record(20.0 + at)),
    "soak": lambda shop, number, at: shop.keep_soak(number, soak(at)),
    "demand": lambda shop, number, at: shop.keep_demand(number, DemandRecord(WHEN, 1 << 34, (DemandSample(0.0, at << 20),))),
}


def contents(shop, number):
    """What a job holds, without its order."""
    document = job_document(shop.job(number))
    return {name: sorted(document_text(one) for one in document[name]) for name in ("readings", "gauges", "soaks", "demands")}


def send(source, target, number):
    document, evidence = read_job_file(job_file(source, number), "file")
    return target.take_in(document, evidence)


@settings(max_examples=12, deadline=None)
@given(st.lists(st.tuples(st.sampled_from(["here", "there"]), st.sampled_from([*WORK, "send"])), max_size=9))
def test_two_benches_end_with_everything_whatever_the_order(tmp_path_factory, done):
    folder = tmp_path_factory.mktemp("benches")
    benches = {name: Shop.open(folder / f"{name}.db") for name in ("here", "there")}
    benches["here"].add_job(JobFacts("1", "desk"), ((Moment.ARRIVAL, take_notation("A2=8G; run 2400")),))
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
    assert {name: len(held[f"{name}s"]) for name in WORK} == {**kept, "reading": kept["reading"] + 1}
    assert send(benches["here"], benches["there"], "1")[1] is not TakenIn.NEW
    for shop in benches.values():
        assert shop.numbers() == ["1"]
        assert check_shop(shop).is_sound
        shop.close()


def test_what_people_wrote_is_taken_from_the_later_one(shop, tmp_path):
    other = Shop.open(tmp_path / "other.db")
    shop.add_job(JobFacts("1", "desk"), ((Moment.ARRIVAL, take_notation("A2=8G; run 2400")),))
    send(shop, other, "1")
    document, evidence = handed_out(other, "1")
    parsed = parse_document(document_text(document).encode(), "x")
    later = parsed.model_copy(update={"title": "later name", "changed_at": parsed.changed_at + timedelta(hours=1)})
    assert shop.take_in(later, evidence) == ("1", TakenIn.JOINED)
    assert shop.job("1").facts.title == "later name"
    earlier = parsed.model_copy(update={"title": "earlier name", "changed_at": parsed.changed_at - timedelta(hours=1)})
    assert shop.take_in(earlier, evidence) == ("1", TakenIn.SAME)
    assert shop.job("1").facts.title == "later name"


def test_tries_and_additions_travel(shop, tmp_path):
    shop.add_job(JobFacts("1", "desk"), ((Moment.ARRIVAL, take_notation("A2=8G; run 2400")),))
    shop.keep_tries("1", TryLog((A, B), ("A2", "B2"), THREE), 0)
    shop.keep_hand_back(shop.job("1"), HandBack("kept", "two years", "buy more", "thank you"))
    other = Shop.open(tmp_path / "other.db")
    send(shop, other, "1")
    assert other.job("1").tries.log == shop.job("1").tries.log
    assert other.job("1").hand_back == HandBack("kept", "two years", "buy more", "thank you")


def test_evidence_that_is_missing_stops_everything(shop, tmp_path):
    shop.add_job(JobFacts("1", "desk"), ((Moment.ARRIVAL, take_notation("A2=8G; run 2400")),))
    document, evidence = handed_out(shop, "1")
    parsed = parse_document(document_text(document).encode(), "x")
    other = Shop.open(tmp_path / "other.db")
    with pytest.raises(SourceError, match="missing or damaged"):
        other.take_in(parsed, {})
    with pytest.raises(SourceError, match="missing or damaged"):
        other.take_in(parsed, dict.fromkeys(evidence, b"other"))
    assert other.numbers() == []


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
    shop.add_job(JobFacts("1", "desk"), ((Moment.ARRIVAL, take_notation("A2=8G; run 2400")),))
    document, evidence = handed_out(shop, "1")
    document |= {"title": "\x1b[31mred\x07", "number": "1\u202e2", "uid": "0" * 36}
    other = Shop.open(tmp_path / "other.db")
    number, became = other.take_in(parse_document(document_text(document).encode(), "x"), evidence)
    assert (number, became) == ("12", TakenIn.NEW)
    assert other.job("12").facts.title == "[31mred"


def test_a_new_number_is_found_when_many_have_it(shop, tmp_path):
    shop.add_job(JobFacts("1", "desk"))
    document, evidence = handed_out(shop, "1")
    numbers = []
    for at in range(3):
        other = parse_document(document_text({**document, "uid": f"{at:036d}"}).encode(), "x")
        numbers.append(shop.take_in(other, evidence)[0])
    assert numbers == ["1-2", "1-3", "1-4"]
    assert replace(shop.job("1-3").facts, number="1") == shop.job("1").facts
