"""What a person adds to the sheet, as JSON text for a store."""

from __future__ import annotations

from after_check.domain.handback import HandBack
from after_check.files.codec import Codec

_HAND_BACKS = Codec(HandBack)


def hand_back_to_json(added: HandBack) -> str:
    """Return it as JSON text."""
    return _HAND_BACKS.to_json(added)


def hand_back_from_json(text: str) -> HandBack:
    """Return what `hand_back_to_json` wrote. Raises ValueError."""
    return _HAND_BACKS.from_json(text)
