"""The product's own colours. Whatever a colour says, a shape or a word says too."""

from __future__ import annotations

from dataclasses import dataclass

from textual.theme import Theme


@dataclass(frozen=True, slots=True)
class Palette:
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


NIGHT = Palette("#0e1816", "#182521", "#ece7d9", "#94a19a", "#45544e", "#5fcab0", "#f2b64c", "#f47b60", "#0c1412", "#22332e")
DAY = Palette("#f7f3e8", "#ece6d6", "#1b1f24", "#525a52", "#b9b29d", "#0a6054", "#754a00", "#a32c16", "#fffdf6", "#e2dbc8")
CONTRAST = Palette("#000000", "#1a1a1a", "#ffffff", "#e0e0e0", "#a8a8a8", "#3dffd2", "#ffd83d", "#ff9a85", "#000000", "#333333")

PALETTES = {"skarrow-night": NIGHT, "skarrow-day": DAY, "skarrow-contrast": CONTRAST}
PAPER = Palette("#fbf8f0", "#efe9da", "#1b1f24", "#565d57", "#c4bda9", "#0a6054", "#7c4d00", "#a32c16", "#fffdf6", "#e2dbc8")
"""Ink on paper, for what will be printed: the sheet looks the same in the dark theme and in the light one."""

THEME_WORDS = {"skarrow-night": "dark", "skarrow-day": "light", "skarrow-contrast": "high contrast"}
DEFAULT_THEME = "skarrow-night"


def palette_of(theme: str) -> Palette:
    """Return the palette of a theme; an unknown name gets the dark one."""
    return PALETTES.get(theme, NIGHT)


def paper_of(theme: str) -> Palette:
    """Return the palette of a sheet of paper within a theme; high contrast keeps its own."""
    return CONTRAST if palette_of(theme) is CONTRAST else PAPER


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
