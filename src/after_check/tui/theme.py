"""The product's own colours, by what they mean. Whatever a colour says, a shape or a word says too.

Drawings name an `Ink`; what colour that is, the theme says: to style sheets as a variable (`$kept`), to drawn text as a
named style of the console. A theme that is chosen while the program runs needs nothing but to be drawn again.
"""

from __future__ import annotations

from enum import StrEnum
from functools import lru_cache
from typing import NamedTuple

from rich.color import Color
from rich.style import Style, StyleType
from rich.text import Span, Text
from rich.theme import Theme as NamedStyles
from textual.theme import Theme

from after_check.domain.standing import JobOutcome


class Ink(StrEnum):
    """The colours by what they mean, as the names of styles: `Text("kept", f"bold {Ink.KEPT}")`."""

    BACKGROUND = "background"
    BAND = "band"
    TEXT = "text"
    MUTED = "muted"
    LINE = "line"
    KEPT = "kept"
    PROMISED = "promised"
    SHORT = "short"
    ON_COLOUR = "on_colour"
    CHOSEN = "chosen"
    MODULE = "module"

    @property
    def on_paper(self) -> str:
        """The name of the same colour on a sheet of paper."""
        return f"paper_{self.value}"


class Palette(NamedTuple):
    """Colours by what they mean, as hexadecimal RGB."""

    background: str
    band: str
    text: str
    muted: str
    line: str
    kept: str
    promised: str
    short: str
    on_colour: str
    chosen: str
    module: str


NIGHT = Palette("#0e1816", "#182521", "#ece7d9", "#94a19a", "#45544e", "#5fcab0", "#f2b64c", "#f47b60", "#0c1412", "#22332e", "#b7c4cc")
DAY = Palette("#f7f3e8", "#ece6d6", "#1b1f24", "#525a52", "#b9b29d", "#0a6054", "#754a00", "#a32c16", "#fffdf6", "#e2dbc8", "#47555e")
CONTRAST = Palette("#000000", "#1a1a1a", "#ffffff", "#e0e0e0", "#a8a8a8", "#3dffd2", "#ffd83d", "#ff9a85", "#000000", "#333333", "#ffffff")

CONSOLE = Palette("#000000", "#800080", "#ffffff", "#aaaaaa", "#555555", "#00ffff", "#ffff00", "#ff0000", "#000000", "#000080", "#aaaaaa")
"""For a console of sixteen colours: each ink is one that the kernel takes for another of the sixteen, and the stick gives
these the colours of the night (`stick/files/colours`)."""

CONSOLE_THEME = "skarrow-console"
PALETTES = {"skarrow-night": NIGHT, "skarrow-day": DAY, "skarrow-contrast": CONTRAST, CONSOLE_THEME: CONSOLE}
PAPER = Palette("#fbf8f0", "#efe9da", "#1b1f24", "#565d57", "#c4bda9", "#0a6054", "#7c4d00", "#a32c16", "#fffdf6", "#e2dbc8", "#47555e")
"""Ink on paper, for what will be printed."""

THEME_WORDS = {"skarrow-night": "dark", "skarrow-day": "light", "skarrow-contrast": "high contrast"}
DEFAULT_THEME = "skarrow-night"


@lru_cache(maxsize=8)
def named_styles(theme: str) -> NamedStyles:
    """Return every ink of a theme as named styles for drawn text: plain, bold, and each on each."""
    palette = PALETTES.get(theme, NIGHT)
    paper = _paper(palette)
    on_screen = {ink.value: getattr(palette, ink.value) for ink in Ink}
    on_sheet = {ink.on_paper: getattr(paper, ink.value) for ink in Ink}
    return NamedStyles(_styles(on_screen) | _styles(on_sheet))


def _styles(colours: dict[str, str]) -> dict[str, StyleType]:
    parsed = {name: Color.parse(colour) for name, colour in colours.items()}
    bold, overline = Style(bold=True), Style(overline=True)
    bold_reverse = Style(bold=True, reverse=True)
    styles: dict[str, StyleType] = {}
    for name, colour in parsed.items():
        plain = Style.from_color(colour)
        styles[name] = plain
        styles[f"bold {name}"] = plain + bold
        styles[f"bold reverse {name}"] = plain + bold_reverse
        styles[f"{name} overline"] = plain + overline
        styles[f"on {name}"] = Style.from_color(bgcolor=colour)
        for other, behind in parsed.items():
            both = Style.from_color(colour, behind)
            styles[f"{name} on {other}"] = both
            styles[f"bold {name} on {other}"] = both + bold
    return styles


def _paper(palette: Palette) -> Palette:
    """Return the colours of a sheet of paper within a theme; high contrast keeps its own."""
    return CONTRAST if palette is CONTRAST else PAPER


def outcome_colour(outcome: JobOutcome) -> str:
    """Return the colour that a job's outcome is drawn in; the words beside it say the same."""
    return {JobOutcome.READY: Ink.KEPT, JobOutcome.NOT_READY: Ink.SHORT}.get(outcome, Ink.PROMISED)


def on_paper(text: Text) -> Text:
    """Return drawn text in the inks of a sheet of paper, which looks the same in the dark theme and in the light one."""
    drawn = text.copy()
    drawn.style = _on_paper(str(text.style))
    drawn.spans = [Span(span.start, span.end, _on_paper(str(span.style))) for span in text.spans]
    return drawn


def _on_paper(style: str) -> str:
    inks = {ink.value: ink.on_paper for ink in Ink}
    return " ".join(inks.get(word, word) for word in style.split(" "))


def themes() -> list[Theme]:
    """Return the product's themes for Textual."""
    return [
        Theme(
            name=name,
            primary=palette.kept,
            secondary=palette.promised,
            accent=palette.promised,
            warning=palette.promised,
            error=palette.short,
            success=palette.kept,
            foreground=palette.text,
            background=palette.background,
            surface=palette.band,
            panel=palette.band,
            dark=palette is not DAY,
            variables={
                **{f"ink-{name.replace('_', '-')}": colour for name, colour in palette._asdict().items()},
                **{f"paper-{name.replace('_', '-')}": colour for name, colour in _paper(palette)._asdict().items()},
                "band": palette.band,
                "line": palette.line,
                "muted": palette.muted,
                "chosen": palette.chosen,
                "footer-background": palette.band,
                "footer-foreground": palette.muted,
                "footer-key-foreground": palette.promised,
                "footer-key-background": palette.band,
                "footer-description-foreground": palette.muted,
                "footer-description-background": palette.band,
                "footer-item-background": palette.band,
                "input-cursor-background": palette.promised,
                "input-cursor-foreground": palette.on_colour,
                "input-selection-background": f"{palette.line}",
                "block-cursor-background": palette.chosen,
                "block-cursor-foreground": palette.text,
                "scrollbar": palette.line,
                "scrollbar-background": palette.background,
                "scrollbar-corner-color": palette.background,
                "scrollbar-hover": palette.muted,
                "scrollbar-active": palette.promised,
                "scrollbar-background-hover": palette.background,
                "scrollbar-background-active": palette.background,
            },
        )
        for name, palette in PALETTES.items()
    ]
