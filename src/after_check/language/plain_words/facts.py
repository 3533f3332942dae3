"""The steps that read facts off a clause: labels, names, slots used, profile, rates, attributes."""

from __future__ import annotations

import itertools

from after_check.domain.modules import Generation
from after_check.domain.outside_text import clean
from after_check.domain.readings import ProfileState, RateUnit, ShownRate
from after_check.language.plain_words.channels import ChannelSteps
from after_check.language.plain_words.figures import Meaning, is_usual_rate, may_be_sold_as, meaning_in_mhz
from after_check.language.plain_words.state import ATTRIBUTE_WORDS, Ask, Described, is_configured
from after_check.language.plain_words.tokens import Token
from after_check.language.short_form.modules import label_facts
from after_check.standards.rates import same_rate, snap_rate

_SPEED = ("speed", "memory speed")
_MOST_OF_A_LABEL = 64
_ALSO_A_PLACE = ("on", "an", "ein", "aan")
"""Words for "switched on" that say where something is as well."""
_LOWEST_MTS, _HIGHEST_MTS = 100, 12_000


class FactSteps(ChannelSteps):
    """Reads facts off clauses."""

    def _labels(self, clause: list[Token]) -> None:
        for token in clause:
            if token.kind == "label":
                facts = dict(label_facts(token.value))
                size = facts.pop("size_bytes", None)
                at = clause.index(token)
                beside = [
                    other for other in (*clause[at + 1 : at + 2], *clause[max(0, at - 1) : at]) if other.kind in ("count", "count_after")
                ]
                count = int(beside[0].value) if len(beside) == 1 and 1 <= beside[0].value <= _MOST_OF_A_LABEL else 1
                self.drafts.append(Described(count, size if isinstance(size, int) else None, facts))
                self._use(token, *(beside if count > 1 else []))

    def _names(self, clause: list[Token]) -> None:
        """Part, serial number and maker, where they are called so."""
        for at, token in enumerate(clause):
            for kind in ("part", "serial", "maker"):
                rest = [other for other in clause[at + 1 :] if other.kind != "sign"]
                if token.means(kind) and not token.used and not token.means("noise") and rest:
                    end = rest[0].end
                    while end < len(self.text) and not self.text[end].isspace() and self.text[end] not in ",;":
                        end += 1
                    self._common(kind, clean(self.text[rest[0].start : end], 60))
                    for other in clause:
                        if token.start <= other.start < end:
                            other.used = True
                    break

    def _slot_summary(self, clause: list[Token]) -> None:
        """`2 of 4 slots used`, `slots used: 1 of 2`, `4 slots`."""
        free = [token for token in clause if not token.used and token.kind != "sign"]
        filled = self._number(free[0]) if len(free) > 1 and free[1].means("used") and self.slot_count is not None else None
        behind = [token for token in free[2:] if not token.means("with") and not token.means("each")]
        each = [token for token in behind if token.kind in ("size", "plural")]
        if filled is not None and len(behind) == len(each) < 2:  # "2 used", "2 full with 8s"
            self.used_slots = filled
            self.each_bytes = self._size_of(each[0], True) if each else self.each_bytes
            self._use(*free)
            return
        if self._so_many_slots(clause, free):
            return
        if len(free) > 1 and free[-2].means("slot") and not free[-2].means("one_slot") and (there := self._number(free[-1])):
            self.slot_count = there  # "slots: 4"
            self._use(*free[-2:])
            return
        for at in range(len(free) - 4):
            first, slot, used, middle, last = free[at : at + 5]
            filled, there = self._number(first), self._number(last)
            if slot.means("slot") and used.means("used") and middle.means("of") and filled is not None and there is not None:
                self.used_slots, self.slot_count = filled, there
                self._use(first, slot, used, middle, last)
                return
        for at, token in enumerate(free):
            number = self._number(token)
            following = free[at + 1] if at + 1 < len(free) else None
            if number is None or following is None or not following.means("slot"):
                continue
            if self._any(clause, "used") or self._any(clause, "empty"):
                if self._any(clause, "used"):
                    self.used_slots = number
                    self._filled_with(clause)
                elif not self._any(clause, "ordinals"):
                    self.free_slots += number
                    self._use(*(other for other in clause if other.means("empty")))
                else:
                    continue
            elif number > 1 and not token.means("all") and not self._is_of_each(free, at):
                self.slot_count = number
            else:
                continue
            self._use(token, following, *(other for other in clause if other.means("used")))
            return

    def _filled_with(self, clause: list[Token]) -> None:
        """`8 of 16 slots populated with 32gb rdimms`: what sits in each of them."""
        for joint, size in itertools.pairwise(clause):
            if joint.means("with") and size.kind in ("size", "plural") and not size.used:
                self.each_bytes = self._size_of(size, True)
                self._use(joint, size)

    def _is_of_each(self, clause: list[Token], at: int) -> bool:
        """Return whether an amount stands beside so many slots, and nothing says that it is their sum: `4 slots 8gb`, `8gb in 2 slots`."""
        said = [token for token in clause[at + 2 :] if not token.means("noise") and not token.means("with")]
        if said and said[0].kind in ("size", "plural"):
            return not any(self._any(said[1:2], kind) for kind in ("total", "each"))
        lead = clause[: at - 1] if at and clause[at - 1].means("all") else clause[:at]
        before = [token for token in lead[:-1] if not token.means("module")] if lead and lead[-1].means("inside") else []
        return before[-1:] != [] and before[-1].kind == "size" and not any(self._is_count(token) for token in before[:-1])

    def _is_count(self, token: Token) -> bool:
        return token.kind in ("count", "number") or (token.means("numbers") and not token.means("noise"))

    def _so_many_slots(self, clause: list[Token], free: list[Token]) -> bool:
        """Read `2 of 4 slots used`, and the slot of `slot 2 of 4`; returns whether it was one of these."""
        if self._any(clause, "channel") and not self._any(clause, "slot"):
            return False  # "channels used: 1 of 2"
        for at in range(len(free) - 2):
            first, middle, last = free[at : at + 3]
            if not (first.kind == last.kind == "number" and middle.means("of")):
                continue
            if at and free[at - 1].means("one_slot"):
                self.slot_count = int(last.value)  # "slot 2 of 4": one of them.
                self._use(middle, last)
                return True
            if self._speaks_of_slots(clause, first):
                self.used_slots, self.slot_count = int(first.value), int(last.value)
                self._use(first, middle, last, *(token for token in clause if token.means("slot") or token.means("used")))
                self._filled_with(clause)
                return True
        return False

    def _profile(self, clause: list[Token]) -> None:
        for at, token in enumerate(clause):
            if token.used or not token.means("profile"):
                continue
            near = [other for other in clause[max(0, at - 1) : at + 4] if other is not token and not other.used and other.kind != "sign"]
            number = next(
                (other for other in near if other.kind == "number" and other.value in (1, 2, 3) and other.start > token.start), None
            )
            if at and clause[at - 1].means("none_of"):
                near = [other for other in near if not other.means("on")]  # "no xmp on this board"
            for kind, state in (
                ("off", ProfileState.OFF),
                ("locked", ProfileState.LOCKED),
                ("auto", ProfileState.AUTO),
                ("on", ProfileState.ON),
            ):
                said = next((other for other in near if other.means(kind)), None)
                if said is not None:
                    on = state is ProfileState.ON and number is not None
                    self.facts["profile"] = ProfileState(str(int(number.value))) if on and number is not None else state
                    self._use(token, said, *([number] if number is not None else []))
                    return
            negative = next((other for other in near if other.means("none_of") and other.start < token.start), None)
            if number is not None:
                self.facts["profile"] = ProfileState(str(int(number.value)))
            elif negative is not None:
                self.facts["profile"] = ProfileState.OFF
            self._use(token, *(other for other in (number, negative) if other is not None))
            return

    def _rates(self, clause: list[Token]) -> None:
        generation = self.common.get("generation")
        self._only_instead(clause)
        for at, token in enumerate(clause):
            if token.used:
                continue
            if token.kind == "rate":
                number, unit = token.value
            elif token.kind == "number" and token.value >= 200 and self._is_rate(clause, at, token):
                number, unit = token.value, ""
            else:
                continue
            if at and clause[at - 1].means("rather_than") and "running_rate" in self.facts:
                self._use(clause[at - 1])
            word = self._run_word(clause, at)
            if word is None and not self.promise:
                word = self._stands_for(clause, at, generation)
            runs = self.facts.get("running_rate")
            if word is None and unit == "MHz" and isinstance(runs, ShownRate) and same_rate(2 * number, runs.number):
                self._use(token)  # "1333 (666 MHz)": the clock of what was said.
                continue
            if word is None:
                self._sold_as(number, unit, generation, token)
            else:
                self._running(number, unit, word, token)
                self._use(word)
            self._use(token)

    def _is_rate(self, clause: list[Token], at: int, token: Token) -> bool:
        before = clause[at - 1] if at else None
        instead = before is not None and before.means("rather_than") and "running_rate" in self.facts  # "2133 instead of 3200"
        if before is not None and not instead and (before.kind == "count" or (before.kind == "word" and not self._explains_a_rate(before))):
            return False
        return is_usual_rate(token.value, self.common.get("generation")) and (token.value >= 800 or "generation" in self.common)

    def _explains_a_rate(self, token: Token) -> bool:
        kinds = (
            "run",
            "clock",
            "noise",
            "and",
            "module",
            "each",
            "all",
            "profile",
            "channel",
            "modes",
            "rank",
            "on",
            "off",
            "soldered",
            *(kind for kind, _, _ in ATTRIBUTE_WORDS),
        )
        return not token.kinds or any(token.means(kind) for kind in kinds)

    def _run_word(self, clause: list[Token], at: int) -> Token | None:
        """Return the word that says that a rate runs: in front of it, or directly behind."""
        for other in reversed(clause[max(0, at - 4) : at]):
            if other.value in _SPEED and other.means("run") and self.says_configured and not any(is_configured(word) for word in clause):
                return None  # Beside a configured speed, the plain one is what the modules are sold with.
            if not other.used and (other.means("run") or other.means("clock")):
                return other
            if other.kind in ("volts", "timings", "generation"):
                continue  # "running 1.2 V 2133"
            if other.kind not in ("sign", "word") or (other.kinds and not other.means("noise")):
                break
        before = clause[at - 1] if at else None
        if before is not None and not before.used and (before.means("firmware_shows") or before.means("system_shows")):
            return before  # "bios 2933"
        following = clause[at + 1] if at + 1 < len(clause) else None
        if following is None or following.used:
            return None
        return following if any(following.means(kind) for kind in ("clock", "now", "shown")) else None

    def _only_instead(self, clause: list[Token]) -> None:
        """`instead of 3200 only 2133`: the first one is what the modules are sold as, the second one runs."""
        generation = self.common.get("generation")
        for at, word in enumerate(clause[:-3]):
            first, only, second = clause[at + 1 : at + 4]
            both = [token for token in (first, second) if token.kind in ("number", "rate")]
            figures = [token.value if token.kind == "number" else token.value[0] for token in both]
            rates = len(figures) == 2 and all(is_usual_rate(figure, generation) for figure in figures)
            if self.promise or not word.means("rather_than") or not only.means("only") or not rates:
                continue
            self._sold_as(figures[0], first.value[1] if first.kind == "rate" else "", generation, first)
            self._running(figures[1], second.value[1] if second.kind == "rate" else "", word, second)
            self._use(word, first, only, second)

    def _stands_for(self, clause: list[Token], at: int, generation: Generation | None) -> Token | None:
        """Return the word between a rate and the one that was to be: `2933 instead of 3200`, `2666 not 3200`."""
        if at + 2 >= len(clause):
            return None
        word, other = clause[at + 1 : at + 3]
        if not word.means("rather_than") or word.used or other.kind not in ("number", "rate"):
            return None
        return word if is_usual_rate(other.value if other.kind == "number" else other.value[0], generation) else None

    def _running(self, number: float, unit: str, word: Token, token: Token) -> None:
        generation = self.common.get("generation")
        if word.means("clock"):
            self.facts["running_rate"] = ShownRate(float(snap_rate(number * 2, generation)), RateUnit.MTS)
            return
        shown = {"MHz": RateUnit.MHZ, "MT/s": RateUnit.MTS}.get(unit, RateUnit.NONE)
        self.facts["running_rate"] = ShownRate(number, shown)
        if unit == "MHz" and meaning_in_mhz(number, generation) is Meaning.EITHER:
            self._ask_rate("running_rate", "Does the memory run at", number, token)

    def _sold_as(self, number: float, unit: str, generation: Generation | None, token: Token) -> None:
        meaning = meaning_in_mhz(number, generation) if unit == "MHz" else Meaning.RATE
        if not _LOWEST_MTS <= number <= _HIGHEST_MTS:
            self.asks.append(Ask("rated_mts", f"{number:g} is no rate of any memory: which one is it?"))
        elif unit != "MHz" and generation is not None and not may_be_sold_as(number, generation):
            doubled = is_usual_rate(2 * number, generation)
            kind = f"{token.value} " if token.kind == "generation" else ""
            answers = (f"{kind}{2 * number:g} MT/s",) if doubled else ()
            place = (token.start, token.end) if doubled else None
            self.asks.append(Ask("rated_mts", f"{generation} is not sold as {number:g} MT/s: which rate is it?", answers, place))
        elif meaning is Meaning.EITHER:
            self._ask_rate("rated_mts", "Are the modules sold as", number, token)
        elif meaning is Meaning.NEITHER:
            self.asks.append(Ask("rated_mts", f"{generation} is not sold as {number:g} MHz: which rate is it?"))
        else:
            self._common("rated_mts", snap_rate(number * 2 if meaning is Meaning.CLOCK else number, generation))

    def _ask_rate(self, about: str, question: str, number: float, token: Token) -> None:
        whole = f"{question} {number:g} MT/s, or is {number:g} MHz the clock of {2 * number:g} MT/s?"
        kind = f"{token.value} " if token.kind == "generation" else ""
        answers = (f"{kind}{number:g} MT/s", f"{kind}{2 * number:g} MT/s")
        self.asks.append(Ask(about, whole, answers, (token.start, token.end)))

    def _is_form(self, token: Token) -> bool:
        return any(token.means(kind) for kind, _, _ in ATTRIBUTE_WORDS[2:])

    def _error_correction(self, clause: list[Token]) -> None:
        """`ecc off`, `ecc disabled in bios`: whether the machine corrects errors, beside what the modules can."""
        for at, token in enumerate(clause):
            rest = [other for other in clause[at + 1 :] if not other.means("are") and other.kind != "sign"]
            said = rest[0] if rest else None
            if token.used or not token.means("ecc") or said is None or said.used or not (said.means("on") or said.means("off")):
                continue
            if self.promise:
                return  # What is promised is the kind of the modules.
            if str(said.value) in _ALSO_A_PLACE and len(rest) > 1:
                continue  # "ecc on A1"
            self.facts["ecc_on"] = said.means("on")
            self._use(token, said)

    def _attributes(self, clause: list[Token]) -> None:
        for at, token in enumerate(clause):
            before = clause[at - 1] if at else None
            if token.used or (before is not None and before.kind == "size" and not before.used and self._is_form(token)):
                continue  # A form behind a size is that module's own.
            if self._is_form(token) and [other.kind for other in clause[at + 1 : at + 3]] == ["sign", "size"]:
                continue  # "sodimm: 16 GB"
            if token.kind == "generation":
                self._of_generation(token)
            elif token.kind in ("pc", "ranks"):
                for name, value in token.facts.items():
                    self._common(name, value)
            elif token.kind in ("timings", "volts"):
                self._common("timings" if token.kind == "timings" else "voltage_mv", token.value)
            elif token.kind == "unclear":
                self.asks.append(Ask("rated_mts", f"{token.facts['unclear']} cannot be read: which rate is it?"))
                self._common("generation", token.value)
            else:
                known = next(((name, value) for kind, name, value in ATTRIBUTE_WORDS if token.means(kind)), None)
                if known is None:
                    continue
                self._common(*known)
            self._use(token)

    def _of_generation(self, token: Token) -> None:
        self._common("generation", token.value)
        if "voltage_mv" in token.facts:
            self._common("voltage_mv", token.facts["voltage_mv"])
        if "shown" in token.facts:
            number, unit = token.facts["shown"]
            self._sold_as(number, unit, token.value, token)
