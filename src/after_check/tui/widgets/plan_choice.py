"""What can be started: the plans, in words, with what they would cover."""

from __future__ import annotations

from rich.text import Text

from after_check.soak.plans import PLANS, Plan
from after_check.tui.charts.cells import wrapped
from after_check.tui.theme import Ink
from after_check.tui.widgets.drawn import Drawn

_RESULT = "what a test said that ran on the customer's machine"


class PlanChoice(Drawn):
    """The plans and their keys; beneath them what a test under a running system can and cannot say."""

    memory_words = ""
    not_this_one = ""
    """Why this is not the job's machine, where it is not: then what can be done for that one comes first."""
    resumable = ""
    usable_bytes = 0
    rate_bytes_per_s = 0.0
    """How fast it is likely to be; 0 where nothing says so."""
    rate_words = ""

    def lines(self, cells: int, rows: int) -> list[Text]:
        """Draw the choice; where there is no room for all of it every choice is there, with how long it takes, and no more."""
        lines = self._all(cells, roomy=True)
        return lines if len(lines) <= rows else self._all(cells, roomy=False)[:rows]

    def _all(self, cells: int, roomy: bool) -> list[Text]:
        gap = [Text("")] if roomy else []
        lines = [Text("WHICH MEMORY TEST?", f"bold {Ink.PROMISED}"), Text("")]
        if self.not_this_one:
            lines += [Text(part, f"bold {Ink.SHORT}") for part in wrapped(f"▲ {self.not_this_one}", cells)]
            lines += [Text("  What is tested here says nothing of it.", Ink.TEXT), Text("")]
            lines += [_entry("r", "result", _RESULT), *gap]
        if self.resumable:
            lines += [_entry("t", "take up", self.resumable), *gap]
        for key, plan in zip("123", PLANS.values(), strict=True):
            if roomy:
                lines.append(_entry(key, plan.name, plan.words))
                details = wrapped(_steps_words(plan) + self._time_words(plan), max(20, cells - 15))
                lines += [*(Text(f"{'':15}{part}", Ink.MUTED) for part in details), Text("")]
            else:
                time = self._time_words(plan).removeprefix(", ")
                lines.append(_entry(key, plan.name, f"{time}: {plan.words}" if time else plan.words))
        lines += [
            *(() if self.not_this_one else (_entry("r", "result", _RESULT), *gap)),
            *(_entry("m", "minutes", "say how long you have: what finds most in that time"), *gap),
            *(_entry("p", "program", "a march program of your own, like {⇕(w0); ⇑(r0,w1); ⇓(r1,w0)}"), *gap),
            *(_entry("a", "elsewhere", "an appliance tests itself, or a machine over SSH is tested"), Text("")),
        ]
        if self.memory_words:
            lines += [Text(part, Ink.TEXT) for part in wrapped(f"{self.memory_words} {self.rate_words}".strip(), cells)]
        honest = (
            "It runs beside the system on this computer: what the system and other programs hold is not tested. "
            "The machine stays usable, and slower, while it runs. docs/memory-tests.md says what each test can find."
        )
        return [*lines, Text(""), *(Text(part, Ink.MUTED) for part in wrapped(honest, cells))]

    def _time_words(self, plan: Plan) -> str:
        if not self.usable_bytes or not self.rate_bytes_per_s:
            return ""
        minutes = self.usable_bytes * sum(step.sweeps for step in plan.steps) / self.rate_bytes_per_s / 60
        time = f"{max(1, round(minutes))} min" if minutes < 100 else f"{minutes / 60:.0f} h"
        return f", {'a pass in ' if plan.repeats else ''}about {time}"


def _steps_words(plan: Plan) -> str:
    """Return the programs of a plan with their number of backgrounds, and the passes over the memory that they make."""
    counts: dict[str, int] = {}
    for step in plan.steps:
        name = step.program.name if step.program is not None else step.work.value
        counts[name] = counts.get(name, 0) + 1
    programs = ", ".join(f"{name} on {count} backgrounds" if count > 1 else name for name, count in counts.items())
    passes = round(sum(step.sweeps for step in plan.steps))
    return f"{programs}: every byte {passes} times" + (", again and again" if plan.repeats else "")


def _entry(key: str, name: str, words: str) -> Text:
    text = Text(no_wrap=True, overflow="ellipsis")
    text.append(f" {key}  ", f"bold {Ink.PROMISED}")
    text.append(f"{name:<11}", f"bold {Ink.TEXT}")
    text.append(words, Ink.MUTED)
    return text
