"""Plain words about memory: what is certain of now and of this machine, what is asked, left aside, or not understood."""

from after_check.language.words.reader import understand
from after_check.language.words.understood import Ask, LeftAside, Understood

__all__ = ["Ask", "LeftAside", "Understood", "understand"]
