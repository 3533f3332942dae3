"""The steps that read what happened: a memory test that was run elsewhere, how the machine started, what it said of itself."""

from __future__ import annotations

import re
from itertools import pairwise

from after_check.domain.readings import ProfileState, SoakResult, StartOutcome
from after_check.language.plain_words.state import State
from after_check.language.plain_words.tokens import Token

_BITS = re.compile(r"(32|64)\s?-?bit", re.IGNORECASE)
_COUNTED = (("corrected", "ecc_errors"), ("uncorrected", "uncorrected_errors"))
_LONGEST_MINUTES = 60 * 24 * 60


class ResultSteps(State):
    """Reads results off clauses."""

    def _memory_test(self, clause: list[Token]) -> None:
        """`memory test 2 hours, 4 passes, no errors`: what stands in this clause and the next ones, as far as it is of a test."""
        named = next((token for token in clause if token.means("memory_test") and not token.used), None)
        if named is None and self._any(self.tokens, "errors_said"):  # "tested overnight, no errors"
            named = next((token for token in clause if token.means("tested") and not token.used), None)
        tested = named or self._counted_passes(clause)
        if tested is None or self.promise:
            return
        behind = [token for token in self.tokens[self.tokens.index(tested) + 1 :] if not token.used]
        before = [token for token in clause if token.start < tested.start and not token.used]
        said: dict[str, int] = {}
        used: list[Token] = [tested] if named is not None else []
        ends: set[int] = set()
        tokens = [*before, *([tested] if named is None else []), *behind]
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

    def _counted_passes(self, clause: list[Token]) -> Token | None:
        """Return the number of passes where a test is told by them alone: `7 passes, 0 errors`."""
        for number, word in pairwise(clause):
            if word.means("test_passes") and not word.used and self._number_of(number):
                return number
        return None

    def _signs(self, clause: list[Token]) -> None:
        """What is only said to be so: a virtual machine, cleared settings, the firmware's notice, a system of 32 bits."""
        for at, token in enumerate(clause):
            beside = [other for other in (*clause[max(0, at - 1) : at], *clause[at + 1 : at + 2]) if other.means("system")]
            bits = _BITS.match(str(token.value)) if token.kind == "noise" and beside else None
            if bits is not None:
                self.facts["system_bits"] = int(bits[1])
                self._use(token, *beside)
            if not token.used and token.means("profile_locked"):
                self.facts["profile"] = ProfileState.LOCKED
                self._use(token)
            for kind, name in (
                ("virtual", "virtual"),
                ("settings_cleared", "settings_reset"),
                ("off_under_load", "off_under_load"),
                ("amount_changed", "memory_changed"),
            ):
                if not token.used and token.means(kind):
                    self.facts[name] = True
                    self._use(token)

    def _start(self, clause: list[Token]) -> None:
        """`won't boot`; where starting is spoken of too, it starts in some cases, and which one is now is not said."""
        for token in clause:
            if not token.used and token.means("no_start") and not any(other.means("starts") for other in self.tokens):
                self.facts["start"] = StartOutcome.NO
                self._use(token)
            for kind, outcome in (("slow_start", StartOutcome.SLOW), ("power_cycles", StartOutcome.CYCLES)):
                if not token.used and token.means(kind):
                    self.facts["start"] = outcome
                    self._use(token)

    def _starts(self, clause: list[Token]) -> None:
        """`boots fine`: only where nothing else is said with it, as it may start in some cases only."""
        said = [token for token in clause if token.kind != "sign" and not (token.means("noise") and not token.means("starts"))]
        alone = bool(said) and said[0].means("starts") and all(token.means("fine") for token in said[1:])
        told = len(said) == 1 and any(token.means("fine") for token in clause if token is not said[0])
        if alone and (len(said) > 1 or told) and not self._any(self.tokens, "no_start") and "start" not in self.facts and not self.promise:
            self.facts["start"] = StartOutcome.YES
            self._use(*said)

    def _counted_errors(self, clause: list[Token]) -> None:
        """`3 corrected errors`, `uncorrected: 1`: what the machine counted, and not what a test found."""
        said = [token for token in clause if token.kind != "sign"]
        for at, token in enumerate(said):
            name = next((field for kind, field in _COUNTED if token.means(kind)), "")
            near = [other for other in (*said[max(0, at - 1) : at], *said[at + 1 : at + 2]) if self._number_of(other) is not None]
            none = [other for other in said[max(0, at - 1) : at] if other.means("none_of")]
            if token.used or not name or len(near) + len(none) != 1:
                continue
            self.facts[name] = self._number_of(near[0]) if near else 0
            self._use(token, *near, *none)

    def _number_of(self, token: Token) -> int | None:
        whole = token.kind == "number" and float(token.value).is_integer() and token.value < 1_000_000_000
        return int(token.value) if whole else self._number(token)
