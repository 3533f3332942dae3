"""What every screen of the application has."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, TypeVar, cast

from textual.screen import ModalScreen, Screen

from after_check.tui.palette import Palette

if TYPE_CHECKING:
    from after_check.shop.store import Shop
    from after_check.tui.app import AfterCheckApp

Result = TypeVar("Result")


class ShopScreen(Screen[Result]):
    """A screen that knows the application, its shop and its colours."""

    @property
    def shop_app(self) -> AfterCheckApp:
        """The application, as what it is."""
        return cast("AfterCheckApp", self.app)

    @property
    def shop(self) -> Shop:
        """The open shop."""
        return self.shop_app.shop

    @property
    def palette(self) -> Palette:
        """The colours of the present theme."""
        return self.shop_app.palette


class ShopDialog(ModalScreen[Result]):
    """A dialog over a screen."""

    # Named whole, as the classes below are in other folders; read with the first dialog, not before the first frame.
    CSS_PATH = Path(__file__).parent / "dialogs.tcss"

    @property
    def palette(self) -> Palette:
        """The colours of the present theme."""
        return cast("AfterCheckApp", self.app).palette
