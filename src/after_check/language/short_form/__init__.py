"""The product's short notation for readings and promises; `docs/notation.md` describes it."""

from after_check.language.short_form.parser import Parsed, parse
from after_check.language.short_form.problems import Problem
from after_check.language.short_form.promise import parse_promise
from after_check.language.short_form.writer import write

__all__ = ["Parsed", "Problem", "parse", "parse_promise", "write"]
