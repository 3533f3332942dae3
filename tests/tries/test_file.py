"""Files of tries, in; and the command."""

from __future__ import annotations

import json
from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from after_check.domain.tries import SoakSaid, Started, SuspectKind
from after_check.files.errors import SourceError
from after_check.tries.blame import blame, says_with
from after_check.tries.file import parse_tries, read_tries
from after_check.tries.log_json import log_from_json, log_to_json
from after_check.tries.next_try import next_try
from tests.conftest import SAMPLES
from tests.helpers.commands import run_here as run

EXAMPLE = """
modules = ["a", "b"]
slots = ["A2", "B2"]
[[try]]
fitted = { A2 = "a", B2 = "b" }
profile = 1
start = "yes"
seen = ["A2"]
soak = "errors"
errors_in = ["A2"]
signs = ["fans stay fast"]
"""


def test_the_example_is_read():
    log, card = parse_tries(EXAMPLE.encode())
    (one,) = log.tries
    assert card is None
    assert one.arrangement.module_in == {"A2": "a", "B2": "b"}
    assert (one.arrangement.profile, one.started, one.seen, one.unseen) == ("1", Started.YES, ("A2",), ("B2",))
    assert (one.soak, one.errors_in, one.signs) == (SoakSaid.ERRORS, ("A2",), ("fans stay fast",))


def test_modules_with_words_and_a_card(tmp_path):
    (tmp_path / "box.toml").write_text('[card]\nname = "Cairnbox 2"\n[memory]\necc = "required"\n')
    file = tmp_path / "tries.toml"
    file.write_text(
        'card = "box.toml"\n[module.a]\nwords = "16G DDR4-2400 sodimm"\necc = false\nold = true\n'
        '[module.b]\nsize = "4G"\nmaker = "Ostrel"\npart = "OS4E 1"\n[[try]]\nfitted = { A1 = "a" }\nstart = false\n'
        'signs = ["switches off after a minute"]\n'
    )
    log, card = read_tries(file)
    assert card.name == "Cairnbox 2"
    a, b = log.modules
    assert (a.letter, a.old, a.size_bytes, a.module.ecc.value) == ("a", True, 16 << 30, False)
    assert (b.module.maker.value, b.module.part.value) == ("Ostrel", "OS4E 1")
    assert log.tries[0].started is Started.NO
    assert log.tries[0].off_under_load is True
    assert log_from_json(log_to_json(log)) == log


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("modules = [", "no TOML"),
        ("[[try]]\nstart = 'yes'", "try.1.fitted: is missing"),
        ("[[try]]\nfitted = {A1='a'}\nstarted = 'yes'", "try.1.started: is not known here (did you mean 'start'?)"),
        ("[[try]]\nfitted = ['a']", "try.1.fitted: has to be a table"),
        ("slots = 'A1'", "slots: has to be a list"),
        ("[[try]]\nfitted = {A1='a'}\ncelsius = 'hot'", "try.1.celsius: has to be a number"),
        ("[[try]]\nfitted = {A1='a'}\nminutes = -3", "try.1.minutes: has to be 0 or more"),
        ("[[try]]\nfitted = {A1='a'}\nsettings_reset = 'so'", "try.1.settings_reset: has to be true or false"),
        ("[[try]]\nfitted = {A1='a'}\nstart = 'perhaps'", "try.1.start: has to be 'yes', 'no' or 'cycles'"),
        ("[[try]]\nfitted = {A1='a'}\nstart = 'maybe'", "try.1.start"),
        ("[[try]]\nfitted = {A1='a'}\nsoak = 'good'", "try.1.soak"),
        ("[[try]]\nfitted = {A1='a'}\ncolour = 'red'", "try.1.colour"),
        ("[[try]]\nfitted = {A1='a', B1='a'}", "module a sits in two slots"),
        ("modules=['a']\n[[try]]\nfitted = {A1='z'}", "module z is not in modules"),
        ("slots=['A1']\n[[try]]\nfitted = {A1='a'}\nseen=['Q9']", "slot Q9 is not in slots"),
        ("[module.a]\nwords = 'sixteen of them'\n", "module.a: "),
        ("[module.a]\ncolour = 'red'\n", "module.a.colour is not understood"),
        ("[[try]]\nfitted = {A1='a'}\ntotal='lots'", "is no amount of memory"),
        ("modules = ['a']\nelsewhere = {a = 'blue'}", "elsewhere.a: 'blue' does not say whether it works there"),
        ("modules = ['a']\nelsewhere = {b = 'fails'}", "elsewhere.b: b is not in modules"),
        ("soldered = ['z']\nelsewhere = {z = ['fails']}", "elsewhere.z: z is soldered"),
        ("elsewhere = {a = 3}", "elsewhere.a"),
        ("modules = [" + ",".join(f"'m{n}'" for n in range(40)) + "]", "modules"),
    ],
)
def test_what_does_not_fit_is_named_with_its_place(text, said):
    with pytest.raises(SourceError) as caught:
        parse_tries(text.encode())
    assert said in str(caught.value)


@settings(max_examples=80, deadline=None)
@given(st.binary(max_size=200))
def test_any_bytes_are_read_or_refused(data):
    try:
        log, _ = parse_tries(data)
    except SourceError:
        return
    assert log_from_json(log_to_json(log)) == log


def test_the_command_says_who_it_is(tmp_path):
    done = run("tries", str(SAMPLES / "0425" / "tries.toml"), "--json")
    assert done.returncode == 0, done.stderr
    document = json.loads(done.stdout)
    assert document["suspects"][0]["kind"] == "module"
    assert document["suspects"][0]["name"] == "b"
    assert document["suspects"][0]["weight"] > 0.9
    assert (document["settled"], document["next"]) == (True, None)
    file = tmp_path / "one.toml"
    file.write_text(EXAMPLE)
    proposal = json.loads(run("tries", str(file), "--json").stdout)["next"]
    assert set(proposal["fitted"]) <= {"A2", "B2"}
    assert proposal["why"]
    assert proposal["cost"] > 0
    words = run("tries", str(file)).stdout
    assert "try 1: a in A2, b in B2; B2 not seen, memory test errors in A2" in words
    refused = run("tries", str(tmp_path / "none.toml"))
    assert refused.returncode == 65
    assert "cannot be read" in refused.stderr


ONE_SLOT = """
slots = ["S0", "A1"]
modules = ["a", "z"]
soldered = { S0 = "z" }
known_good = ["k"]
"""


def laptop(*ends):
    """A laptop with soldered memory and one slot: each end is the letter in the slot, and whether the machine sees it."""
    reported = {True: '["S0", "A1"]', False: '["S0"]'}
    tries = "".join(
        f'[[try]]\nfitted = {{ S0 = "z", A1 = "{letter}" }}\nstart = "yes"\nseen = {reported[seen]}\nreseated = true\n'
        for letter, seen in ends
    )
    return parse_tries((ONE_SLOT + tries).encode())[0]


def test_where_the_modules_at_hand_do_not_tell_one_is_to_be_borrowed():
    log = laptop(*[("a", False)] * 5)
    log = replace(log, modules=tuple(module for module in log.modules if not module.known_good))
    said = blame(log)
    assert not said.settled
    assert said.borrow_for == "A1"
    assert "Borrow a module that is known to be good, and fit it in A1" in says_with(said, found_next=False)
    # Where a next try is there, it comes first.
    assert "Borrow" not in says_with(said, found_next=True)


def test_the_command_says_what_to_borrow_beside_a_try_that_only_repeats(tmp_path):
    file = tmp_path / "tries.toml"
    with_it, without = (
        "[[try]]\nfitted = { S0 = 'z', A1 = 'a' }\nstart = 'no'\n",
        "[[try]]\nfitted = { S0 = 'z' }\nstart = 'yes'\nseen = ['S0']\n",
    )
    file.write_text("modules = ['a', 'z']\nslots = ['S0', 'A1']\nsoldered = ['z']\n" + (with_it + without) * 2)
    said = run("tries", str(file)).stdout
    assert "as in try 3" in said
    assert "Or borrow a module that is known to be good, and fit it in A1" in said
    assert "Or fit a alone in another machine that takes it" in said
    document = json.loads(run("tries", str(file), "--json").stdout)
    assert (document["borrow_for"], document["elsewhere_for"]) == ("A1", "a")
    # It fails there too: it is the module, and nothing is asked for any more.
    file.write_text("elsewhere = { a = ['no start', 'does not start'] }\n" + file.read_text())
    said = run("tries", str(file)).stdout
    assert "module a: fails in another machine 2 of 2 times" in said
    document = json.loads(run("tries", str(file), "--json").stdout)
    assert (document["settled"], document["next"], document["elsewhere_for"]) == (True, None, "")
    assert (document["suspects"][0]["kind"], document["suspects"][0]["name"]) == ("module", "a")


def test_a_borrowed_module_is_proposed_and_tells_module_from_slot():
    asked = laptop(*[("a", False)] * 5)
    assert blame(asked).borrow_for == ""
    proposal = next_try(asked)
    assert proposal is not None
    assert proposal.arrangement.module_in == {"S0": "z", "A1": "k"}
    cleared = blame(laptop(*[("a", False)] * 5, ("k", True)))
    assert (cleared.first.kind, cleared.first.name) == (SuspectKind.MODULE, "a")
    blamed = blame(laptop(*[("a", False)] * 5, ("k", False)))
    assert next(s.weight for s in blamed.suspects if s.name == "A1") > 0.3
    assert next((s.weight for s in blamed.suspects if s.name == "a"), 0.0) < 0.05
