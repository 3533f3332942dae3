"""Of what something is said: only what is of now and of this machine becomes a fact; the rest is heard, and told with its reason."""

from __future__ import annotations

import os
import random
import string
import subprocess
import sys
import tomllib
from importlib.resources import files

import pytest
from benchmarks.entries import entries
from benchmarks.words import judged
from hypothesis import given
from hypothesis import strategies as st

from after_check.domain.readings import Reading
from after_check.language.typed_text import said
from after_check.language.words import understand
from after_check.language.words.understood import Scope

LANGUAGES = ("en", "de", "nl", "fr", "es", "it", "pt", "pl")


@pytest.mark.parametrize(
    ("text", "exact", "because"),
    [
        # before
        ("was 8gb, now 2x16gb", "2x16G", Scope.PAST),
        ("vorher 1x4 GB, jetzt 2x8 GB", "2x8G", Scope.PAST),
        ("avant 4 Go, maintenant 2 barrettes de 8 Go", "2x8G", Scope.PAST),
        ("antes 4gb, ahora 2x8gb", "2x8G", Scope.PAST),
        # to be, or hoped for
        ("2x8gb, customer wants 64", "2x8G", Scope.FUTURE),
        ("2x8gb in it, next week 32gb", "2x8G", Scope.FUTURE),
        # the most that is possible
        ("board takes up to 64gb, 2x8gb fitted", "2x8G", Scope.LIMIT),
        # another machine
        ("2x8gb, the same model with 2x16gb ran fine", "2x8G", Scope.ELSEWHERE),
        # taken out again
        ("took out the 4gb stick, 2x8gb in now", "2x8G", Scope.TRIED),
        # another part
        ("2x8gb, graphics card with 6gb vram", "2x8G", Scope.DEVICE),
        # a number of something else
        ("invoice 4711, 2x8gb", "2x8G", Scope.REFERENCE),
        ("2x8gb fitted on 12/03", "2x8G", Scope.REFERENCE),
        # denied, asked, supposed
        ("2x8gb, not 2x16gb", "2x8G", Scope.NEGATED),
        ("16gb in A1, another 16 in A2 or B2", "A1=16G", Scope.SUPPOSED),
        ("2x8gb, maybe 3200", "2x8G", Scope.SUPPOSED),
        # counted once
        ("swapped the 4 for an 8, so 8+8 now", "2x8G", Scope.TOLD_AGAIN),
    ],
)
def test_what_is_not_of_now_is_left_aside_with_its_reason(text, exact, because):
    found = said(text)
    assert found.notation == exact
    assert because in {aside.because for aside in found.left_aside}


@pytest.mark.parametrize(
    ("text", "exact"),
    [
        ("had one 8gb stick, added a 16gb stick", "1x8G; 1x16G"),
        ("had a single 8. added another identical one", "2x8G"),
        ("laptop had a single 8, took it out, 2x16gb in now", "2x16G"),
    ],
)
def test_what_was_there_stays_where_nothing_went_out(text, exact):
    assert said(text).notation == exact


@pytest.mark.parametrize(
    "text",
    [
        "8gb or 16gb",
        "16gb in A2 or B2",
        "bank 2 or 3 is empty",
        "2400 or 2666",
        "two 8s or 16s",
        "ein Riegel 8 oder 16 GB",
        "think it's ddr4",
    ],
)
def test_of_two_that_are_possible_neither_is_stated(text):
    assert said(text).reading == Reading()


def test_entries_are_understood_and_next_to_nothing_is_stated_that_was_not_said():
    score, stated, wrong, number = 0.0, 0, 0, 0
    for entry in entries():
        found = judged(entry, said(entry["text"], entry["kind"] == "promise"))
        score, number = score + found.score, number + 1
        stated, wrong = stated + found.right + len(set(found.wrong)), wrong + len(set(found.wrong))
    assert number >= 800
    assert score / number > 0.85
    assert wrong / stated < 0.03


_CLAUSES = ("2x16gb ddr4 3200", "dual channel", "31.8 GB usable", "4 slots", "profile 1")


@given(st.permutations(_CLAUSES), st.sampled_from((", ", "; ", ". ", "\n", " ")))
def test_neither_order_nor_joiner_changes_what_is_understood(clauses, joiner):
    found = understand(joiner.join(clauses))
    assert not found.asks
    assert not found.not_understood
    # What the clauses say one by one, worked out by hand.
    assert sorted(module.size_bytes.value for module in found.reading.modules) == [16 * 2**30] * 2
    assert (found.reading.channels.value, found.reading.slot_count.value) == (2, 4)
    assert found.reading.usable_bytes.value == round(31.8 * 2**30)
    assert found.reading.profile.value.value == "1"


@given(st.text(alphabet=st.characters(codec="utf-8"), max_size=200))
def test_any_text_is_taken_and_every_place_lies_in_it(text):
    found = said(text)
    for aside in found.left_aside:
        assert 0 <= aside.start <= aside.end <= len(text)
    for start, end in found.not_understood:
        assert 0 <= start <= end <= len(text)


@pytest.mark.parametrize(
    "text",
    [
        "\x00\x01\x02 \x1b[31m",
        "\u202e\u2066 \u200b\u200d",
        "8",
        "x",
        "=" * 500,
        "(" * 2000,
        "".join(random.Random(4).choices(string.printable, k=5000)),
        "".join(chr(number) for number in random.Random(5).choices(range(32, 0x2FF), k=5000)),
    ],
)
def test_what_is_no_text_says_nothing(text):
    found = said(text)
    assert not found.reading.modules
    assert found.reading.total_bytes is None


def test_hidden_marks_between_the_letters_change_nothing():
    assert said("2x\u200b16gb \u202addr4\u202c 3200").notation == said("2x16gb ddr4 3200").notation == "2x16G DDR4-3200"


def test_a_page_of_a_hundred_kilobytes_says_what_was_not_looked_at():
    found = said("2x8gb ddr4 fitted\n" + "nothing about it here. " * 4500)
    assert found.not_understood
    assert found.not_understood[-1][1] >= 100_000


@pytest.mark.parametrize("language", LANGUAGES)
def test_every_language_has_the_words_that_change_what_a_fact_is_of(language):
    words = tomllib.loads((files("after_check.language.words") / "languages" / f"{language}.toml").read_text(encoding="utf-8"))
    kinds = {kind for kind, said_of in words.items() if said_of} | {
        kind for table in words.values() if isinstance(table, dict) for kind in table
    }
    assert kinds >= {
        "module",
        "modules",
        "slot",
        "slots",
        "empty",
        "total",
        "usable",
        "past",
        "now",
        "future",
        "gone",
        "doubt",
        "not",
        "or",
    }


@pytest.mark.parametrize("text", ["both slots 8gb", "both slots have 8gb"])
def test_slots_that_are_all_said_to_hold_a_size_hold_it_each(text):
    assert {module.size_bytes.value for module in said(text).reading.modules} == {8 * 2**30}
    assert len(said(text).reading.modules) == 2


def test_the_same_text_is_understood_the_same_in_every_run():
    """The hash of a word differs from run to run; what covers a text as well as another thing must not hang on it."""
    texts = ("both slots 8gb", "2 of 4 slots 8gb each")
    program = f"from after_check.language.typed_text import said; print([said(text).notation for text in {texts}])"
    runs = set()
    for seed in ("1", "2", "3"):
        known = {**os.environ, "PYTHONHASHSEED": seed}
        runs.add(subprocess.run([sys.executable, "-c", program], env=known, capture_output=True, text=True, check=True).stdout)
    assert len(runs) == 1
