"""Plain words about memory, as people say and paste them: what is certain, what is to be asked, what is not understood."""

from after_check.language.plain_words.reader import Understood, understand
from after_check.language.plain_words.state import Ask

__all__ = ["Ask", "Understood", "understand"]
