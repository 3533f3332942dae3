"""Writes `docs/reading.schema.json`, the JSON schema of a saved reading. Run after changing the domain's readings."""

from __future__ import annotations

import json
from pathlib import Path

from after_check.sources.saved import schema

PATH = Path(__file__).parent.parent / "docs" / "reading.schema.json"

if __name__ == "__main__":
    PATH.write_text(json.dumps(schema(), indent=1, sort_keys=True) + "\n")
    print(PATH)
