"""Texts from outside lose what could do harm before the store holds them, in whatever field of a job file they stand."""

from __future__ import annotations

import io
import json
import unicodedata
import zipfile

import pytest

from after_check.domain.outside_text import stripped
from after_check.files.errors import SourceError
from after_check.shop.documents import parse_document
from after_check.shop.exchange import job_file
from after_check.shop.shop import Shop
from tests.helpers.demo import put_demo

HARM = "\x1b]0;x\x07\x9b31m\u202e\u2066\ud800[/][T2]"


@pytest.fixture(scope="module")
def documents(tmp_path_factory):
    shop = Shop.open(put_demo(tmp_path_factory.mktemp("door") / "shop.db"))
    return {number: json.loads(zipfile.ZipFile(io.BytesIO(job_file(shop, number))).read("job.json")) for number in ("0419", "0425", "0426")}


def texts(node, place=()):
    """Yield the place of every text in a document, the first two of each list."""
    if isinstance(node, str):
        yield place
    for key, value in node.items() if isinstance(node, dict) else enumerate(node[:2]) if isinstance(node, list) else ():
        yield from texts(value, (*place, key))


def is_harmful(text):
    return any(unicodedata.category(sign) in ("Cc", "Cf", "Cs") and sign not in "\t\n" for sign in text)


@pytest.mark.parametrize("number", ["0419", "0425", "0426"])
def test_no_field_of_a_job_file_lets_harm_in(documents, number):
    taken, refused, seen = 0, [], set()
    for place in texts(documents[number]):
        field = tuple(part for part in place if isinstance(part, str))
        if field in seen:
            continue  # The same field of another module or error is read the same way.
        seen.add(field)
        changed = json.loads(json.dumps(documents[number]))
        node = changed
        for key in place[:-1]:
            node = node[key]
        node[place[-1]] += HARM
        try:
            found = parse_document(json.dumps(changed).encode(), "a file")
        except SourceError as problem:
            refused.append(str(problem))
            continue
        taken += 1
        assert not any(is_harmful(text) for text in _strings(found.model_dump(mode="json"))), place
    assert not any(is_harmful(words) for words in refused)
    assert taken > 12  # Most texts are free ones, and are taken without what could do harm.


def _strings(node):
    if isinstance(node, str):
        yield node
    for value in node.values() if isinstance(node, dict) else node if isinstance(node, list) else ():
        yield from _strings(value)


def test_what_is_stripped_and_what_stays():
    assert stripped("a\x1b[31mb") == "a[31mb"
    assert stripped("two\nlines\tand — a dash") == "two\nlines\tand — a dash"
    assert stripped("\u202eevil\u200b") == "evil"
