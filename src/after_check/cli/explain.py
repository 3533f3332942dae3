"""The command `explain`."""

from __future__ import annotations

import json

from after_check.sources.explain import explain


def explain_command(text: str, as_json: bool) -> int:
    """Explain a text and return 0."""
    lines = explain(text)
    print(json.dumps({"text": text, "says": lines}, indent=1) if as_json else "\n".join(lines))
    return 0
