"""The steps that read modules and slots off a clause: counts, sums, lone sizes, and where they sit."""

from __future__ import annotations

from collections.abc import Iterator

from after_check.domain.modules import Form
from after_check.domain.quantities import size_text
from after_check.sources.words.facts import FactSteps
from after_check.sources.words.figures import as_size_bytes, is_module_size
from after_check.sources.words.state import ATTRIBUTE_WORDS, Ask, Described
from after_check.sources.words.tokens import Token, vocabulary

_MOST_MODULES = 64
_FEW = 16


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
        if at > 1 and free[at - 1].means("of") and self._number(free[at - 2]) is not None:
            count = None  # "3 of 4 sticks": some of them.
        if count is not None and 1 <= count <= _MOST_MODULES:
            rest = self._skip(free, at + 1, ("times", "module", "of", "noise", "each"))
            sure = token.kind == "count" or any(part.means("times") or part.means("module") for part in free[at + 1 : rest])
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
                return len(used), self._draft(count, size)
            if sure and rest > at + 1 and any(part.means("module") for part in free[at + 1 : rest]) and size is None and count > 1:
                self._use(*free[at:rest])
                self.drafts.append(Described(count))
                return rest - at, None
        following = free[at + 1] if at + 1 < len(free) else None
        if token.means("each") and following is not None and following.kind == "size":
            self.each_bytes = following.value
            self._use(token, following)
            return 2, None
        bare = self._size_of(token, True) if following is not None and following.means("each") else None
        if bare is not None and following is not None:
            self.each_bytes = bare
            self._use(token, following)
            return 2, None
        return self._sized_module(free, at) if token.kind == "size" else (0, None)

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
            return rest == at + 1 and 2 <= token.value <= _FEW
        return token.means("numbers") and not token.means("noise") and all(part.means("of") for part in free[at + 1 : rest])

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
        joined = at > 0 and free[at - 1].kind == "sign" and free[at - 1].value == "+" and bool(self.drafts_so_far)
        form = next((value for kind, _, value in ATTRIBUTE_WORDS[2:] if behind is not None and behind.means(kind)), None)
        if behind is not None and behind.means("each"):
            self.each_bytes = token.value
            self._use(token, behind)
            return 2, None
        if behind is not None and behind.means("soldered"):
            form = Form.SOLDERED
        is_module = behind is not None and (form is not None or behind.means("module"))
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
        soldered_sizes: list[Token] = []
        while here < len(free):
            token = free[here]
            if self._size_of(token, True) is None:
                break
            with_unit = with_unit or token.kind == "size"
            sizes.append(token)
            used.append(token)
            joint = free[here + 1] if here + 1 < len(free) else None
            soldered = joint if joint is not None and joint.means("soldered") else None
            if soldered is not None:
                soldered_sizes.append(token)
                used.append(soldered)
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
        if used[-1] is not sizes[-1] and not used[-1].means("soldered"):
            used.pop()
        drafts: list[Described] = []
        for token in sizes:
            draft = self._draft(1, self._size_of(token, True) or 0)
            if draft is not None and token in soldered_sizes:
                draft.facts["form"] = Form.SOLDERED
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
        """`A1 8`: a bare number directly behind the slot, where no other figure stands."""
        said = [token for token in clause if token.kind != "sign"]
        said = said[1:] if len(said) > 1 and said[0].means("slot") and said[1].kind == "slot_name" else said
        figures = [token for token in said if token.kind in ("number", "count", "count_after") and not token.used]
        size = self._size_of(said[1], True) if len(said) > 1 and said[0].kind == "slot_name" and figures == [said[1]] else None
        if size is None:
            return []
        self._use(said[1])
        draft = self._draft(1, size)
        return [draft] if draft is not None else []

    def _draft(self, count: int, size_bytes: int) -> Described | None:
        if is_module_size(size_bytes):
            return Described(count, size_bytes)
        self.asks.append(Ask("modules", f"No module has {size_text(size_bytes)}: what is the size of each module?"))
        return None

    @staticmethod
    def _is_dashes(clause: list[Token]) -> bool:
        """Return whether nothing but dashes is left of a clause: a row of a table without anything in it."""
        rest = [token for token in clause if not token.used and token.kind != "noise"]
        return bool(rest) and all(token.kind == "sign" and token.value in "-–" for token in rest)

    def _added(self, clause: list[Token]) -> None:
        """`2x4, another 8 added`: what is added to modules is a module."""
        for token in clause:
            size = self._size_of(token, True)
            if size is not None and is_module_size(size):
                self.drafts.append(Described(1, size))
                self._use(token)

    def _slot_names(self, clause: list[Token]) -> list[str]:
        """Return the slots that a clause names: `slot 2`, `A2`, `the second slot`, `the other one`."""
        _, values = vocabulary()
        names: list[str] = []
        free = [token for token in clause if not token.used]
        for at, token in enumerate(clause):
            if token.used:
                continue
            following = clause[at + 1] if at + 1 < len(clause) else None
            mark = following if following is not None and following.value == "#" and at + 2 < len(clause) else None
            following = clause[at + 2] if mark is not None else following
            if token.kind == "slot_name":
                names.append(str(token.value))
                self._use(token)
            elif token.means("slot") and following is not None and following.kind == "number" and following.value <= 64:
                names.append(f"{int(following.value)}")
                self._use(token, following, *([mark] if mark is not None else []))
                names += self._further_slots(clause, clause.index(following) + 1)
            elif token.means("ordinals") and following is not None and following.means("slot"):
                names.append(str(values["ordinals"].get(token.value, token.value)))
                self._use(token, following)
            elif token.means("one_other") and self._any(clause, "empty"):
                names.append("other")
                self._use(token)
        if any(token.means("other") and not token.used for token in clause) and self._any(clause, "empty") and not names:
            # "the rest empty": how many these are is not said, and what is fitted is said elsewhere.
            self._use(*(token for token in clause if token.means("other") or token.means("empty")))
        self.slot_tokens = [token for token in free if token.used]
        return names

    def _further_slots(self, clause: list[Token], at: int) -> Iterator[str]:
        """`slot 3 and 4`, `slot 3 and slot 4`: the numbers behind the first."""
        while at + 1 < len(clause):
            joint, *behind = clause[at : at + 3]
            number = behind[1] if len(behind) > 1 and behind[0].means("slot") else behind[0]
            if not (joint.means("and") or (joint.kind == "sign" and joint.value in "+&")) or number.kind != "number" or number.value > 64:
                return
            yield f"{int(number.value)}"
            said = clause[at : clause.index(number) + 1]
            self._use(*said)
            at += len(said)

    def _place(self, clause: list[Token], slots: list[str], drafts: list[Described]) -> None:
        empty = [token for token in clause if not token.used and token.means("empty")]
        figures = [token for token in clause if not token.used and token.kind in ("number", "size", "count", "count_after")]
        times = [token for token in figures if token.kind == "count_after"]
        if len(times) == len(drafts) == 1 and drafts[0].count == 1 and 1 <= times[0].value <= _MOST_MODULES and not slots:
            drafts[0].count = times[0].value
            self._use(*times)
        if slots and not drafts and ((empty and not figures) or self._is_dashes(clause)):
            self.empty_slots += slots
            self._use(*empty)
        elif len(slots) == len(drafts) == 1 and drafts[0].count == 1:
            drafts[0].slot = slots[0]
        elif len(slots) > 1 and not drafts and self.each_bytes is not None and self._any(clause, "each"):
            drafts = [Described(1, self.each_bytes, {}, slot) for slot in slots]
        elif len(slots) > 1 and len(drafts) == 1 and drafts[0].count in (1, len(slots)):
            drafts = [Described(1, drafts[0].size_bytes, dict(drafts[0].facts), slot) for slot in slots]
        elif len(slots) == len(drafts) > 1 and all(draft == drafts[0] and draft.count == 1 for draft in drafts):
            drafts = [Described(1, draft.size_bytes, dict(draft.facts), slot) for draft, slot in zip(drafts, slots, strict=True)]
        elif slots:
            for token in self.slot_tokens:
                token.used = False  # Named, and nobody knows with what: pointed at.
        self.drafts += drafts
        self._loose(clause)

    def _loose(self, clause: list[Token]) -> None:
        """Keep the amounts of a clause that are no modules yet: what they are is settled with the other clauses."""
        counting = any(self._any(clause, kind) for kind in ("add", "keep"))
        if not self.promise and self.drafts and (counting or self._any(clause, "still_there")):
            self._added(clause)
        for token in clause:
            if not token.used and token.kind == "size":
                self.loose_sizes.append((token.value, token))
                token.used = True
                if counting:
                    token.facts["module"] = True
            elif not token.used and counting and token.kind == "number" and as_size_bytes(token.value) is not None:
                self.loose_sizes.append((as_size_bytes(token.value) or 0, token))
                token.used = True
                token.facts["module"] = True
