"""The words of findings, evidence and verdicts, by language: templates with named values, read by Project Fluent's library.

Each language is a folder with the same files (`en/findings.ftl`). A finding's message has its title, and the parts `.reason`,
`.next`, `.customer` and, where it may be less than sure, `.disproof`. Fluent: https://projectfluent.org (syntax 1.0).
"""

from after_check.texts.catalogue import FindingWords, TextError, Texts, link_words, say, words_of

__all__ = ["FindingWords", "TextError", "Texts", "link_words", "say", "words_of"]
