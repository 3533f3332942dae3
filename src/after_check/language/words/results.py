"""What happened: a memory test that was run elsewhere, how the machine started, what it said of itself."""

from __future__ import annotations

from after_check.domain.readings import SoakResult, StartOutcome
from after_check.language.words.clauses import Clause
from after_check.language.words.state import State, count_of
from after_check.language.words.token import Token
from after_check.language.words.understood import Phrase, Scope

_STARTS = {"no_start": StartOutcome.NO, "slow_start": StartOutcome.SLOW, "power_cycles": StartOutcome.CYCLES}
_LONGEST_MINUTES = 60 * 24 * 60


def read_results(state: State) -> None:
    """Read results off every clause."""
    for clause in state.clauses:
        for item in clause.items:
            if item.scope is Scope.NOW:
                _sign(state, clause, item)
    if not state.promise:
        _memory_test(state)


def _sign(state: State, clause: Clause, item: Phrase) -> None:
    if item.says == "sign":
        for name in item.parts:
            if name in _STARTS:
                if not any(token.means("starts") for token in state.tokens):
                    state.facts["start"] = _STARTS[name]
                    item.used = True
            else:
                state.facts[name] = True
                item.used = True
    elif item.says == "bits":
        bits = int(item.parts["b"].value)
        beside = any(state.tokens[at].means("system") for at in range(max(0, item.first - 2), min(len(state.tokens), item.last + 3)))
        item.used = True
        if bits in (32, 64) and beside:
            state.facts["system_bits"] = bits
    elif item.says == "starts" and not state.promise and not any(other.says == "sign" for one in state.clauses for other in one.items):
        state.facts["start"] = StartOutcome.YES
        item.used = True
    elif item.says in ("corrected", "uncorrected"):
        number = 0 if "none" in item.parts else int(item.parts["n"].value)
        state.facts["ecc_errors" if item.says == "corrected" else "uncorrected_errors"] = number
        item.used = True


def _memory_test(state: State) -> None:
    """`memory test 2 hours, 4 passes, no errors`: what is behind the word, as far as it is of a test."""
    start = next((at for at, token in enumerate(state.tokens) if token.means("memory_test")), None)
    errors_said = any(token.means("no_errors", "errors") for token in state.tokens)
    if start is None and errors_said:
        start = next(
            (
                at
                for at, token in enumerate(state.tokens)
                if token.means("tested") or (token.means("passes") and at and count_of(state.tokens[at - 1]))
            ),
            None,
        )
    if start is None:
        return
    clause = next((one for one in state.clauses if one.first <= start < one.end), None)
    if clause is None or clause.scope not in (Scope.NOW, Scope.PAST, Scope.TRIED):
        return
    said: dict[str, int] = {}
    ends: set[int] = set()
    used: list[int] = [start]
    for at in range(clause.first, len(state.tokens)):
        token, before = state.tokens[at], state.tokens[at - 1] if at else None
        number = count_of(before) if before is not None and before.means("number", "number_word") else None
        number = (
            int(before.value)
            if number is None and before is not None and before.means("number", "zero") and isinstance(before.value, float)
            else number
        )
        if token.means("duration") and token.value <= _LONGEST_MINUTES:
            said["minutes"] = int(token.value)
        elif token.means("passes") and number:
            said["passes"] = number
            used.append(at - 1)
        elif token.means("percent") and 0 < token.value <= 100:
            said["covered_percent"] = int(token.value)
        elif token.means("no_errors"):
            ends.add(0)
        elif token.means("errors"):
            ends.add(1 if number is None else number)
            used += [at - 1] if number is not None else []
        elif token.means("overnight"):
            pass
        else:
            continue
        used.append(at)
    if not ends or (0 in ends and len(ends) > 1):
        return  # A test without an outcome, or with two, says nothing; it is pointed at.
    state.facts["soak"] = SoakResult(max(ends), said.get("minutes"), said.get("covered_percent"), said.get("passes"))
    _take(state, used)


def _take(state: State, used: list[int]) -> None:
    """Take tokens out of what other phrases are made of."""
    for clause in state.clauses:
        for item in clause.items:
            if any(item.first <= at <= item.last for at in used):
                item.scope, item.used = Scope.REFERENCE, True
    for at in used:
        token = state.tokens[at]
        state.tokens[at] = Token(frozenset({"noise"}), token.value, token.start, token.end, token.text)
