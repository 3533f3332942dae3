"""The step that reads what a memory test said that was run elsewhere: how it ended, how long, how many passes, how much."""

from __future__ import annotations

from after_check.domain.readings import SoakResult
from after_check.sources.words.state import State
from after_check.sources.words.tokens import Token

_LONGEST_MINUTES = 60 * 24 * 60


class ResultSteps(State):
    """Reads results off clauses."""

    def _memory_test(self, clause: list[Token]) -> None:
        """`memory test 2 hours, 4 passes, no errors`: what stands in this clause and the next ones, as far as it is of a test."""
        tested = next((token for token in clause if token.means("memory_test") and not token.used), None)
        if tested is None or self.promise:
            return
        behind = [token for token in self.tokens[self.tokens.index(tested) + 1 :] if not token.used]
        before = [token for token in clause if token.start < tested.start and not token.used]
        said: dict[str, int] = {}
        used: list[Token] = [tested]
        ends: set[int] = set()
        tokens = [*before, *behind]
        for at, token in enumerate(tokens):
            earlier = tokens[at - 1] if at > 0 else None
            number = self._number_of(earlier) if earlier is not None and earlier not in used else None
            if token.kind == "duration" and token.value <= _LONGEST_MINUTES:
                said["minutes"] = token.value
            elif token.means("test_passes") and number:
                said["passes"] = number
            elif token.kind == "odd" and token.value == "%" and number is not None and 0 < number <= 100:
                said["covered_percent"] = number
            elif token.means("no_errors"):
                ends.add(0)
                number = None
            elif token.means("test_errors"):
                ends.add(1 if number is None else number)
            elif token.means("test_filler"):
                number = None
            else:
                continue
            used += [token, *([earlier] if earlier is not None and number is not None else [])]
        if not ends or (0 in ends and len(ends) > 1):
            return  # A test without an outcome, or with two, says nothing; it is pointed at.
        minutes, passes, percent = (said.get(name) for name in ("minutes", "passes", "covered_percent"))
        self.facts["soak"] = SoakResult(max(ends), minutes, percent, passes)
        self._use(*used)

    def _number_of(self, token: Token) -> int | None:
        whole = token.kind == "number" and float(token.value).is_integer() and token.value < 1_000_000_000
        return int(token.value) if whole else self._number(token)
