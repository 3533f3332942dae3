"""The product's short notation for readings and promises; `docs/notation.md` describes it."""

from after_check.sources.notation.parser import Parsed, parse
from after_check.sources.notation.problems import Problem
from after_check.sources.notation.promise import parse_promise
from after_check.sources.notation.writer import write

__all__ = ["Parsed", "Problem", "parse", "parse_promise", "write"]
