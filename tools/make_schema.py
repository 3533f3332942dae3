"""Writes the JSON schemas of `docs/`: of a saved reading and of a job's document. Run after changing either."""

from __future__ import annotations

import json
from pathlib import Path

from after_check.shop.documents import JobDocument
from after_check.sources.saved import schema

DOCS = Path(__file__).parent.parent / "docs"
SCHEMAS = {"reading.schema.json": schema, "job.schema.json": JobDocument.model_json_schema}

if __name__ == "__main__":
    for name, make in SCHEMAS.items():
        (DOCS / name).write_text(json.dumps(make(), indent=1, sort_keys=True) + "\n")
        print(DOCS / name)
