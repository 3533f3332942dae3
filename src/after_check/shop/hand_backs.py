"""What a person adds to the sheet, as JSON text for a store."""

from __future__ import annotations

import functools

from pydantic import TypeAdapter

from after_check.domain.handback import HandBack


@functools.cache
def _adapter() -> TypeAdapter[HandBack]:
    return TypeAdapter(HandBack)


def hand_back_to_json(added: HandBack) -> str:
    """Return it as JSON text."""
    return _adapter().dump_json(added, exclude_defaults=True).decode()


def hand_back_from_json(text: str) -> HandBack:
    """Return what `hand_back_to_json` wrote. Raises ValueError."""
    return _adapter().validate_json(text)
