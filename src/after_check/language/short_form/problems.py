"""What could not be understood in a line of notation, and where."""

from __future__ import annotations

from dataclasses import dataclass

from after_check.domain.outside_text import clean


@dataclass(frozen=True, slots=True)
class Problem:
    """One thing that was not understood, or that is asked: `start` and `end` are character positions in the line, from 0.

    `answers` are those that one key gives: in words, and the whole line with it.
    """

    start: int
    end: int
    message: str
    suggestion: str = ""
    asked: bool = False
    answers: tuple[tuple[str, str], ...] = ()

    def __str__(self) -> str:
        hint = f" ({self.suggestion})" if self.suggestion else ""
        return f"{self.message}{hint}" if self.asked else f"at character {self.start + 1}: {self.message}{hint}"


def pointed_out(line: str, problem: Problem, width: int = 76) -> str:
    """Return the part of the line around a problem with a mark under it, for a terminal of `width` columns."""
    start = max(0, min(problem.start, len(line)) - width // 2)
    shown = "".join(c if c.isprintable() else " " for c in line[start : start + width])
    marks = max(1, min(problem.end, start + width) - problem.start)
    return f"{shown}\n{' ' * (problem.start - start)}{'^' * marks}"


def quoted(text: str) -> str:
    """Return outside text for a message: clean, short and in quotes."""
    return f"'{clean(text, 40)}'"
