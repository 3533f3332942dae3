"""The command `tries`: suspects and the next try, from a file of tries."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from after_check.domain.tries import Blame, NextTry
from after_check.tries.blame import blame, other_help, says_with, supports
from after_check.tries.file import read_tries
from after_check.tries.next_try import next_try
from after_check.tries.try_words import elsewhere_words, facts_of, outcome_words

_BAR_CELLS = 24
_SHOWN = 8


def tries_command(path: Path, as_json: bool) -> int:
    """Print what the tries in a file say; returns 0."""
    log, card = read_tries(path)
    said, following = blame(log, card), next_try(log, card)
    if as_json:
        print(json.dumps(blame_document(said, following, log.conclusion), indent=1))
        return 0
    for number, attempt in enumerate(log.tries, 1):
        fitted = ", ".join(f"{letter} in {slot}" for slot, letter in attempt.arrangement.fitted) or "nothing fitted"
        beside = [words for name, words in facts_of(attempt) if name in ("errors at", "heat", "put right", "note")]
        print(f"try {number}: {'; '.join([fitted, outcome_words(attempt), *beside])}")
    for module in log.modules:
        if module.elsewhere:
            print(f"module {module.letter}: {elsewhere_words(module)}")
    print(("\n" if log.tries else "") + says_with(said, following is not None))
    for suspect in said.suspects[:_SHOWN]:
        print(f"  {'█' * max(1, round(suspect.weight * _BAR_CELLS)):<{_BAR_CELLS}} {suspect.weight:5.1%}  {suspect.words}")
    for line in said.contradictions:
        print(f"  ! {line}")
    for question in said.asks:
        print(f"  ? {question}")
    if log.conclusion:
        words = {True: "the log supports it", False: "the log says otherwise", None: "the log cannot say"}[supports(said, log.conclusion)]
        print(f"concluded: {log.conclusion} ({words})")
    if following is not None:
        print(f"\n{following.why}\nAbout {following.cost_minutes:.0f} minutes.")
        other = other_help(following.or_borrow_for, following.or_elsewhere_for, beside=True)
        if other:
            print(other)
    return 0


def blame_document(said: Blame, proposal: NextTry | None, conclusion: str = "") -> dict[str, Any]:
    """Return what tries say as data for a JSON document; `docs/file-formats.md` describes it."""
    return {
        "suspects": [{"kind": suspect.kind.value, "name": suspect.name, "weight": suspect.weight} for suspect in said.suspects],
        "next": None
        if proposal is None
        else {
            "fitted": dict(proposal.arrangement.fitted),
            "profile": _profile(proposal.arrangement.profile),
            "soak": proposal.with_soak,
            "minutes": proposal.soak_minutes,
            "starts": proposal.starts,
            "why": proposal.why,
            "cost": proposal.cost_minutes,
            "moves": proposal.moves,
            "outcomes": [
                {"if": outcome.what, "chance": outcome.chance, "then": outcome.then, "weight": outcome.weight}
                for outcome in proposal.outcomes
            ],
        },
        "named": None
        if said.named is None
        else {
            "suspects": [{"kind": suspect.kind.value, "name": suspect.name, "weight": suspect.weight} for suspect in said.named.suspects],
            "modules": list(said.named.letters),
            "act": said.named.act,
            "weight": said.named.weight,
        },
        "concluded": _concluded(conclusion, said),
        "asks": list(said.asks),
        "borrow_for": "" if said.settled else said.borrow_for if proposal is None else proposal.or_borrow_for,
        "elsewhere_for": "" if said.settled else said.elsewhere_for if proposal is None else proposal.or_elsewhere_for,
        "settled": said.settled,
        "two_faults": said.two_faults,
        "says": says_with(said, proposal is not None),
        "contradictions": list(said.contradictions),
    }


def _concluded(conclusion: str, said: Blame) -> dict[str, Any] | None:
    """Return what the technician concludes, and whether the log supports it (null: it names nothing that the log could)."""
    return {"says": conclusion, "supported": supports(said, conclusion)} if conclusion else None


def _profile(text: str) -> int | str | None:
    return int(text) if text.isdigit() else text or None
