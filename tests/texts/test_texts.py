"""The words of findings: none missing, none unused, and every value that a text names is given."""

from __future__ import annotations

import ast
from pathlib import Path

import pytest
from fluent.syntax import FluentParser
from fluent.syntax.ast import Message as Parsed
from fluent.syntax.ast import MessageReference

from after_check.domain.codes import SEVERITIES, Code
from after_check.domain.findings import finding
from after_check.domain.messages import message
from after_check.texts import TextError, say, words_of
from after_check.texts.catalogue import LANGUAGES
from tests.helpers.cases import CASES, judged

SOURCE = Path(__file__).parent.parent.parent / "src" / "after_check"
PARTS = {"reason", "next", "customer"}


def parsed(language):
    found = {}
    for path in sorted((SOURCE / "texts" / language).glob("*.ftl")):
        resource = FluentParser().parse(path.read_text(encoding="utf-8"))
        assert not [entry for entry in resource.body if type(entry).__name__ == "Junk"], path
        for entry in resource.body:
            if isinstance(entry, Parsed):
                assert entry.id.name not in found, f"{entry.id.name} stands twice"
                found[entry.id.name] = entry
    return found


def references(entry):
    from fluent.syntax.visitor import Visitor

    names = set()

    class Looking(Visitor):
        def visit_MessageReference(self, node: MessageReference) -> None:
            names.add(node.id.name)

    Looking().visit(entry)
    return names


def key(code: Code) -> str:
    return code.value.replace(".", "-").replace("_", "-")


@pytest.mark.parametrize("language", LANGUAGES)
def test_every_finding_has_its_words(language):
    found = parsed(language)
    lacking = {code for code in Code if key(code) not in found or not {part.id.name for part in found[key(code)].attributes} >= PARTS}
    assert not lacking


@pytest.mark.parametrize("language", LANGUAGES)
def test_no_text_is_left_over(language):
    found = parsed(language)
    literals = {
        node.value
        for path in SOURCE.rglob("*.py")
        for node in ast.walk(ast.parse(path.read_text(encoding="utf-8")))
        if isinstance(node, ast.Constant) and isinstance(node.value, str)
    }
    used = {key(code) for code in Code} | set().union(*(references(entry) for entry in found.values()))
    # `shown` puts evidence- before its key, and what may be the reason is may-be- and a name.
    named = literals | {f"evidence-{text}" for text in literals} | {f"may-be-{text}" for text in literals}
    # A chain's links are of a code, or of a group of codes.
    named |= {f"link-{name}" for code in Code for name in (key(code), code.group)}
    assert not set(found) - used - named


@pytest.mark.parametrize("name", CASES)
def test_the_words_of_every_worked_case_can_be_said(name):
    judgement = judged(CASES[name])
    assert say(judgement.why)
    for one in judgement.findings:
        words = words_of(one)
        for text in (words.title, words.reason, words.next, words.customer, *(say(part.says) for part in one.evidence)):
            assert text
            assert "{" not in text
            assert "  " not in text
            assert " ." not in text


def test_a_value_that_is_not_given_is_said_at_once():
    with pytest.raises(TextError, match=r"capacity-over.*promised"):
        words_of(finding(Code.CAPACITY_OVER, 0.9, now_bytes=8 << 30, more_bytes=1 << 30, kept_back=False))
    with pytest.raises(TextError, match="there is no text 'nothing-like-it'"):
        say(message("nothing-like-it"))


def test_values_are_written_with_their_units():
    over = finding(Code.CAPACITY_OVER, 0.9, now_bytes=48 << 30, promised_bytes=32 << 30, more_bytes=16 << 30, kept_back=False)
    assert words_of(over).title == "48 GiB, 16 GiB more than promised"
    assert words_of(over).customer == "The machine has 48 GiB of memory, more than the 32 GiB agreed on."
    high = finding(Code.VOLTAGE_HIGH, 0.85, runs_mv=1350, asked_mv=1200)
    assert words_of(high).title == "Runs at 1.35 V, 1.2 V asked for"


def test_doubt_is_said_below_ninety_per_cent_only():
    sure, less = (finding(Code.ECC_ON_DIE, share) for share in (0.95, 0.85))
    assert words_of(sure).disproof == ""
    assert words_of(less).disproof == "The modules' labels or part numbers say ECC."


def test_a_finding_keeps_to_the_severities_of_its_code():
    for code in Code:
        assert SEVERITIES[code]
    with pytest.raises(ValueError, match=r"soak\.none is never to fix"):
        finding(Code.SOAK_NONE, 1.0, severity=SEVERITIES[Code.SOAK_ERRORS][0])


def test_a_customer_is_not_told_that_correction_is_gone_where_it_never_was():
    """Only where it was on at arrival it is "not any more": what was promised and never there is said so."""
    gone = words_of(finding(Code.ECC_OFF, 1.0, (), why="arrival"))
    assert "any more" in gone.customer
    for why in ("promised", "inside", "contradicted"):
        said = words_of(finding(Code.ECC_OFF, 1.0, (), why=why))
        assert "any more" not in said.customer + said.reason
        assert "agreed on" in said.customer
