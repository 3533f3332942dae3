"""Plain words about memory, as people say and paste them: what is certain, what is to be asked, what is not understood."""

from after_check.sources.words.reader import Understood, understand
from after_check.sources.words.state import Ask

__all__ = ["Ask", "Understood", "understand"]
