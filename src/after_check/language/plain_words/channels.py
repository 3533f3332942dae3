"""The steps that read ranks and channels off a clause; what "dual" is said of is not always the channels."""

from __future__ import annotations

import itertools

from after_check.domain.quantities import size_text
from after_check.language.plain_words.amounts import AmountSteps
from after_check.language.plain_words.state import Ask
from after_check.language.plain_words.tokens import Token

_TELLS = ("says", "shows", "reads", "reports")


class ChannelSteps(AmountSteps):
    """Reads ranks and channels off clauses."""

    def _ranks(self, clause: list[Token]) -> None:
        """`dual rank`, `1 rank`: before channels, as "dual" alone would be a channel mode."""
        for at, token in enumerate(clause):
            behind = [other for other in clause[at + 1 :] if other.kind != "sign"]
            for beside in (*clause[max(0, at - 1) : at], *behind[:1]):  # "dual rank", "rank: 2"
                count = self._mode(beside) or self._number(beside)
                if not token.used and token.means("rank") and count in (1, 2, 4, 8):
                    self._common("ranks", count)
                    self._use(token, beside)

    def _channels(self, clause: list[Token]) -> None:
        for at, token in enumerate(clause):
            if token.used or not (token.means("channel") or token.means("subchannel")):
                continue
            before = clause[at - 1] if at else None
            count = self._mode(before) if before is not None else None
            if count is None and before is not None:
                count = self._number(before)
            if self._is_one_channel(clause, at):
                continue  # "channel A: 8gb"
            behind = [other for other in clause[at + 1 : at + 4] if other.kind != "sign" and not other.means("noise")]
            following = behind[0] if behind else None
            if count is None and following is not None:
                count = self._mode(following) or (int(following.value) if following.kind == "number" else None)
                before = following
            if self._is_doubted(before, token) or (before is not None and self._is_denied(clause, before)):
                continue
            if count is not None and before is not None and 1 <= count <= 16:
                narrow = token.means("subchannel") and count % 2 == 0
                self.facts["channels"] = count // 2 if narrow else count
                self._use(token, before)
                return
        if self._is_mode_of_amounts(clause):
            return
        for token in clause:
            # "dual" alone says as much; "single" alone may be a single module.
            alone = self._mode(token)
            at = clause.index(token)
            told = at > 0 and clause[at - 1].value in _TELLS
            if self._is_denied(clause, token):
                continue  # "not dual"
            if not token.used and alone is not None and (told or token.means("channel_mode")) and "channels" not in self.facts:
                behind = clause[at + 1 :]
                if behind and (
                    self._is_doubted(token, behind[0] if behind[0].means("channel") else token)
                    or behind[0].means("module")
                    or behind[0].means("slot")
                ):
                    continue  # "dual channel?", "shows single sticks", "quad slots"
                if behind and behind[0].kind == "word" and not behind[0].kinds:
                    continue  # "dual core", "quad display": of something else.
                self.facts["channels"] = alone
                self._use(token)
                return

    def _is_mode_of_amounts(self, clause: list[Token]) -> bool:
        """Read `dual 8gb sticks`, and ask about `dual 8gb`: two modules of it, or 8 GB on two channels?"""
        for mode, size in itertools.pairwise(clause):
            count = self._mode(mode) or 0
            if count < 2 or mode.means("numbers") or size.kind not in ("size", "plural") or size.used:
                continue
            each = size_text(self._size_of(size, True) or 0)
            behind = clause[clause.index(size) + 1 :][:1]
            if behind and behind[0].means("module"):
                mode.kind, mode.value, mode.kinds = "count", count, frozenset()
                return True
            place = (mode.start, size.end)
            answers = (f"{count}x{each}", f"total {each}, {self.text[mode.start : mode.end]} channel")
            self.asks.append(Ask("modules", f"{count} modules of {each}, or {each} on {count} channels?", answers, place))
            self._use(mode, size)
            return True
        return False

    def _is_one_channel(self, clause: list[Token], at: int) -> bool:
        """Return whether a channel is named by its letter or number, and not counted: `channel A: 8`, `channel 1: 8gb`."""
        behind = clause[at + 1] if at + 1 < len(clause) else None
        if behind is None or clause[at].means("channel_mode"):
            return False
        said = self.text[behind.start : behind.end]
        further = clause[at + 2] if at + 2 < len(clause) else None
        parted = further is not None and further.kind == "sign" and str(further.value) in ":="
        lettered = len(said) == 1 and said.casefold() in "abcdefgh"
        return lettered or (behind.kind == "number" and parted)

    def _is_denied(self, clause: list[Token], mode: Token) -> bool:
        """Return whether a channel mode is said not to be: `no dual channel`; beside the other one that is what it is."""
        at = clause.index(mode)
        behind = clause[at + 1 + (at + 1 < len(clause) and clause[at + 1].means("channel")) :]
        if self._mode(mode) is not None and behind and behind[0].means("negations"):
            return True  # "dual channel not working"
        if not at or self._mode(mode) is None or not clause[at - 1].means("negations"):
            return False
        single = next((token for token in self.tokens if self._mode(token) == 1 and token is not mode), None)
        if single is not None and "channels" not in self.facts:  # "not dual, single"
            self.facts["channels"] = 1
            self._use(single, mode, clause[at - 1])
        return True
