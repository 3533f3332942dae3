"""The steps that read modules and slots off a clause: counts, sums, lone sizes, and where they sit."""

from __future__ import annotations

from after_check.domain.modules import Form
from after_check.domain.quantities import size_text
from after_check.language.plain_words.facts import FactSteps
from after_check.language.plain_words.figures import as_size_bytes, is_module_size
from after_check.language.plain_words.state import ATTRIBUTE_WORDS, Ask, Described
from after_check.language.plain_words.terms import vocabulary
from after_check.language.plain_words.tokens import Token

_MOST_MODULES = 64
_FEW = 16
_NEAR = 4
"""Tokens between a number and the kits that it counts."""
_LEAST_SOLDERED_GIB = 4
"""A bare number beside "soldered" that is an amount; a smaller one may count."""


def _form_of(word: Token | None) -> Form | None:
    """Return the form that a word says, of a module in a slot or of soldered memory; None where it says none."""
    if word is None:
        return None
    if word.means("soldered"):
        return Form.SOLDERED
    return next((value for kind, _, value in ATTRIBUTE_WORDS[2:] if word.means(kind) and isinstance(value, Form)), None)


class ModuleSteps(FactSteps):
    """Reads modules and slots off clauses."""

    def _modules(self, clause: list[Token]) -> list[Described]:
        found: list[Described] = []
        free = [token for token in clause if not token.used]
        at = 0
        while at < len(free):
            taken, draft = self._counted_module(free, at)
            if draft is None and not taken:
                taken, some = self._sum(free, at)
                if not taken:
                    taken, some = self._listed(free, at)
                found += some
            elif draft is not None:
                found.append(draft)
            self.drafts_so_far += len(found)
            at += taken or 1
        return found

    def _counted_module(self, free: list[Token], at: int) -> tuple[int, Described | None]:
        """`2x8`, `2 x 8GB`, `2 by 8`, `two sticks of 8 GB`, `8GB x 2`, `16GBx2`, `two 8GB sticks`, `8GB stick`."""
        token = free[at]
        if token.kind == "size_times":
            self._use(token)
            return 1, self._draft(token.facts["count"], token.value)
        count = token.value if token.kind == "count" else self._number(token)
        if token.kind == "count" and count is not None and not 1 <= count <= _MOST_MODULES:
            self.asks.append(Ask("modules", f"{count} modules are not possible: how many are there?"))
            self._use(token, *free[at + 1 : at + 2])
            return 2, None
        some = self._some_of_them(free, at)
        if some is not None and count is not None and 1 <= count <= _MOST_MODULES:
            self._use(*free[at : at + some[0]])
            return some[0], self._draft(count, some[1])
        of = at - 1
        while of > 0 and free[of].means("noise") and not free[of].means("of"):
            of -= 1
        if of > 0 and free[of].means("of") and self._number(free[of - 1]) is not None:
            count = None  # "3 of 4 sticks": some of them.
        if count is not None and 1 <= count <= _MOST_MODULES:
            rest = self._skip(free, at + 1, ("times", "module", "of", "noise", "each"))
            sure = token.kind == "count" or any(part.means("times") or part.means("module") for part in free[at + 1 : rest])
            sure = sure or (rest == at + 1 and self._is_spoken_one(token) and self._is_lone_number(free, rest))  # "one 8"
            size = self._size_of(free[rest], sure) if rest < len(free) else None
            behind = free[rest + 1] if rest + 1 < len(free) else None
            counted = self._counts(free, at, rest)
            if token.kind == "count" and size is not None and free[rest].kind == "number" and self._may_be_turned(count, free[rest]):
                self._use(*free[at : rest + 1])
                return rest + 1 - at, None
            if size is not None and (sure or counted or (behind is not None and behind.means("module"))):
                used = [
                    *free[at : rest + 1],
                    *([behind] if behind is not None and (behind.means("module") or behind.means("each")) else []),
                ]
                self._use(*used)
                draft = self._draft(count, size)
                form = _form_of(behind)
                if draft is not None and form is not None and behind is not None:
                    draft.facts["form"] = form
                    used += [] if behind.used else [behind]
                    self._use(behind)
                return len(used), draft
            if sure and rest > at + 1 and any(part.means("module") for part in free[at + 1 : rest]) and size is None and count > 1:
                self._use(*free[at:rest])
                self.drafts.append(Described(count))
                return rest - at, None
        following = free[at + 1] if at + 1 < len(free) else None
        if token.means("each") and following is not None and following.kind == "size":
            self.each_bytes = following.value
            self._use(token, following)
            return 2, None
        soldered = self._soldered(free, at)
        if soldered is not None:
            return soldered
        bare = self._size_of(token, True) if following is not None and following.means("each") else None
        if bare is not None and following is not None:
            self.each_bytes = bare
            self._use(token, following)
            return 2, None
        return self._sized_module(free, at) if token.kind == "size" else (0, None)

    def _soldered(self, free: list[Token], at: int) -> tuple[int, Described | None] | None:
        """`soldered 8`, `onboard: 4 GB`, `4 onboard`: a bare number too; None for anything else."""
        token, behind = free[at], [other for other in free[at + 1 : at + 5] if not (other.kind == "sign" and other.value in ":=")]
        if at and free[at - 1].means("slot"):
            return None
        between = self._skip(behind, 0, ("of", "noise"))
        if token.means("soldered"):
            figure, end = (behind[0], behind[0]) if behind else (None, token)
            following = behind[1] if len(behind) > 1 else None
        else:
            figure, end, following = (token, behind[between], None) if between < len(behind) else (None, token, None)
        size = self._size_of(figure, True) if figure is not None and (token.means("soldered") or end.means("soldered")) else None
        if figure is None or size is None or (figure.kind == "number" and figure.value < _LEAST_SOLDERED_GIB):
            return None
        if following is not None and (following.means("soldered") or following.means("module")):
            return None  # Of the figure behind: "onboard 4 modules"; and "ram onboard 8gb soldered" says it twice.
        joint = free[free.index(end) + 1 : free.index(end) + 2] if end is not figure else []
        if joint and (joint[0].means("and") or joint[0].kind == "sign"):
            return None  # "8 on board + 16" is a sum.
        said = free[at : free.index(end) + 1]
        self._use(*said)
        draft = self._draft(1, size)
        if draft is not None:
            draft.facts["form"] = Form.SOLDERED
        return len(said), draft

    def _counts(self, free: list[Token], at: int, rest: int) -> bool:
        """Return whether a number stands before a size as its count: `two 8gb`, `two 8s`, `2 8gb`; `DIMM 2 8gb` is a slot."""
        token = free[at]
        if (
            rest >= len(free)
            or free[rest].kind not in ("size", "plural")
            or (at > 0 and (free[at - 1].means("module") or free[at - 1].means("slot")))
        ):
            return False
        if token.kind == "number":
            return all(part.means("are") for part in free[at + 1 : rest]) and 2 <= token.value <= _FEW
        return token.means("numbers") and not token.means("noise") and all(part.means("of") for part in free[at + 1 : rest])

    @staticmethod
    def _is_spoken_one(token: Token) -> bool:
        return token.kind == "word" and token.means("numbers") and not token.means("noise")

    def _is_lone_number(self, free: list[Token], at: int) -> bool:
        """Return whether a bare number is the size of a module, and counts nothing: of 4 up, and no strange word behind it."""
        if at >= len(free):
            return False
        behind = free[at + 1] if at + 1 < len(free) else None
        counts = behind is not None and (behind.kind in ("number", "count", "of") or (behind.kind == "word" and not behind.kinds))
        return self._bare(free[at]) >= _LEAST_SOLDERED_GIB and not counts

    def _some_of_them(self, free: list[Token], at: int) -> tuple[int, int] | None:
        """`2 of the 4 sticks are 8gb`: how many tokens say so, and the size; None for anything else."""
        rest = at + 1
        for kinds in (("of", "noise"), ("number",), ("module",), ("are", "each", "noise", "of")):
            start = rest
            rest = self._skip(free, rest, kinds) if kinds != ("number",) else rest + (rest < len(free) and free[rest].kind == "number")
            if rest == start or rest >= len(free):
                return None
        size = self._size_of(free[rest], True)
        return (rest + 1 - at, size) if size is not None and any(token.means("of") for token in free[at + 1 : rest]) else None

    def _listed(self, free: list[Token], at: int) -> tuple[int, list[Described]]:
        """`sticks 8 8 4`: bare numbers behind the word, to the end of the clause."""
        rest = [token for token in free[at + 1 :] if token.kind != "sign"]
        sizes = [self._size_of(token, True) if self._bare(token) else None for token in rest]
        if not free[at].means("module") or free[at].used or len(rest) < 2 or None in sizes:
            return 0, []
        self._use(free[at], *rest)
        return len(free) - at, [draft for size in sizes if (draft := self._draft(1, size or 0)) is not None]

    def _kits(self, clause: list[Token], drafts: list[Described]) -> list[Described]:
        """`two kits of 2x8` are four modules; how many are in each of `two 16gb kits` nobody knows."""
        kits = next((token for token in clause if token.means("kits")), None)
        if kits is None or len(drafts) > 1 or any(draft.slot for draft in drafts):
            return drafts
        before = reversed(clause[max(0, clause.index(kits) - _NEAR) : clause.index(kits)])
        number, counting = next(((value, token) for token in before if (value := self._spoken_count(token)) > 1), (0, kits))
        sizes = [token for token in clause if token.kind == "size"]
        if number and drafts and drafts[0].size_bytes is not None and not counting.used:
            of_one = drafts[0].count * drafts[0].size_bytes
            drafts[0].count *= number
            self._use(counting, kits, *(token for token in sizes if token.value == of_one))
        elif number and sizes:
            each = size_text(sizes[0].value)
            place = (min(counting.start, sizes[0].start), max(kits.end, sizes[0].end))
            answers = tuple(f"{number * count}x{size_text(sizes[0].value // count)}" for count in (2, 1, 4))
            self.asks.append(Ask("modules", f"{number} kits of {each}: which modules are these?", answers, place))
            self._use(counting, kits, *sizes)
            return []
        return drafts

    @staticmethod
    def _spoken_count(token: Token) -> int:
        """Return a small number, also one that something was made of; 0 where a token is none."""
        if token.kind in ("number", "count") and token.value <= _FEW // 2:
            return int(token.value)
        return vocabulary()[1]["numbers"].get(token.value, 0) if token.means("numbers") and not token.means("noise") else 0

    def _may_be_turned(self, count: int, figure: Token) -> bool:
        """`16x2`: sixteen modules of 2 GB, or two of 16 GB? Asked, as both are said."""
        number = int(figure.value)
        if not (count > number and count > _FEW // 2 - 1 and as_size_bytes(count) is not None and number <= _FEW // 2):
            return False
        answers = (f"{number}x{count} GB", f"{count}x{number} GB")
        before = self.tokens[max(0, self.tokens.index(figure) - 1)]
        place = (before.start, figure.end) if before.kind in ("count", "count_after", "number") else None
        self.asks.append(Ask("modules", f"{number} × {count} GiB, or {count} × {number} GiB?", answers, place))
        return True

    def _sized_module(self, free: list[Token], at: int) -> tuple[int, Described | None]:
        """A size, and what behind it says that it is a module: `8GB stick`, `8GB x 2`, `8 GB RDIMM x 4`, `8 GB each`, `ein 8er`."""
        token = free[at]
        behind = free[at + 1] if at + 1 < len(free) else None
        times = [other for other in free if other.kind == "count_after" and not other.used]
        count = times[0].value if len(times) == 1 and sum(other.kind == "size" for other in free) == 1 else 1
        pieces = free[at + 1 : at + 3]
        if len(pieces) == 2 and (number := self._number(pieces[0])) and pieces[1].means("pieces"):  # "8 GB 2 pcs"
            self._use(token, *pieces)
            return 3, self._draft(number, token.value)
        joined = at > 0 and free[at - 1].kind == "sign" and free[at - 1].value == "+" and bool(self.drafts_so_far)
        form = _form_of(behind)
        if form is None and at > 1 and free[at - 1].kind == "sign" and free[at - 1].value in ":=":  # "sodimm: 16 GB"
            form = _form_of(free[at - 2])
            self._use(*(free[at - 2 : at] if form is not None else ()))
            behind = free[at - 2] if form is not None else behind
        if behind is not None and behind.means("each"):
            self.each_bytes = token.value
            self._use(token, behind)
            return 2, None
        is_module = behind is not None and (form is not None or behind.means("module") or behind.means("plugged"))
        if not (is_module or joined or count > 1 or (behind is not None and behind.kind == "count_after") or token.facts.get("stick")):
            return 0, None
        if behind is not None and behind.kind == "count_after":
            count, times = behind.value, [behind]
        self._use(token, *([behind] if is_module and behind is not None else []), *(times if count != 1 else []))
        draft = self._draft(count, token.value)
        if draft is not None and form is not None:
            draft.facts["form"] = form
        return 1 + is_module, draft

    def _sum(self, free: list[Token], at: int) -> tuple[int, list[Described]]:
        """`8 + 4`, `8 GB and 4 GB`: a module each."""
        sizes: list[Token] = []
        used: list[Token] = []
        here = at
        with_unit = False
        forms: dict[int, Form] = {}
        while here < len(free):
            token = free[here]
            if self._size_of(token, True) is None:
                break
            with_unit = with_unit or token.kind == "size"
            sizes.append(token)
            used.append(token)
            joint = free[here + 1] if here + 1 < len(free) else None
            form = _form_of(joint)
            if form is not None and joint is not None:
                forms[token.start] = form
                used.append(joint)
                here += 1
                joint = free[here + 1] if here + 1 < len(free) else None
            plus = joint is not None and joint.kind == "sign" and joint.value in "+&"
            if joint is None or not (plus or joint.means("and")):
                break
            following = free[here + 2] if here + 2 < len(free) else None
            if not plus and (not with_unit or following is None or following.kind != "size"):
                break  # "8 GB and 4 GB"; of a bare number behind "and" nobody knows what it counts.
            used.append(joint)
            here += 2
        if len(sizes) < 2:
            return 0, []
        if used[-1] is not sizes[-1] and _form_of(used[-1]) is None:
            used.pop()
        drafts: list[Described] = []
        for token in sizes:
            draft = self._draft(1, self._size_of(token, True) or 0)
            if draft is not None and token.start in forms:
                draft.facts["form"] = forms[token.start]
            drafts += [draft] if draft is not None else []
        self._use(*used)
        return len(used), drafts

    def _lone_size(self, clause: list[Token]) -> list[Described]:
        for token in clause:
            size = self._size_of(token, False) if not token.used else None
            if size is not None:
                self._use(token)
                draft = self._draft(1, size)
                return [draft] if draft is not None else []
        return []

    def _behind_slot(self, clause: list[Token]) -> list[Described]:
        """`A1 8`, `first slot 8`: a bare number directly behind the slot, where no other figure stands."""
        said = [token for token in clause if token.kind != "sign"]
        figures = [token for token in said if token.kind in ("number", "count", "count_after") and not token.used]
        if len(figures) != 1 or not said.index(figures[0]) or said[said.index(figures[0]) - 1] not in self.slot_tokens:
            return []
        size = self._size_of(figures[0], True)
        named = said[said.index(figures[0]) - 1].kind == "slot_name"
        if size is None or not (named or figures[0].value >= _LEAST_SOLDERED_GIB):
            return []
        self._use(figures[0])
        draft = self._draft(1, size)
        return [draft] if draft is not None else []

    def _draft(self, count: int, size_bytes: int) -> Described | None:
        if is_module_size(size_bytes):
            return Described(count, size_bytes)
        self.asks.append(Ask("modules", f"No module has {size_text(size_bytes)}: what is the size of each module?"))
        return None
