"""What is no JSON, and figures and times that nothing can be reckoned with, are refused with what is wrong."""

import json
import zipfile
from io import BytesIO

import pytest

from after_check.casework.judging import judge_job
from after_check.domain.errors import AfterCheckError
from after_check.domain.jobs import JobFacts, Moment
from after_check.files.strict_json import parse_json
from after_check.shop.documents import parse_document
from after_check.shop.exchange import job_file
from after_check.shop.shop import Shop
from after_check.sources.open_source import take_notation
from tests.shop.test_exchange import soak

WILD_FIGURES = ("1e999", "-1e999", "NaN", "Infinity", "-Infinity", "9" * 400, "1e300", "-1e300", "47223664828696452136960")
WILD_TIMES = (
    "0001-01-01T00:00:00+14:00",
    "9999-12-31T23:59:59-14:00",
    "0001-01-01T00:00:00+00:00",
    "9999-12-31T23:59:59+00:00",
)


@pytest.mark.parametrize("figure", WILD_FIGURES)
@pytest.mark.parametrize("form", ["{}", "[{}]", '{{"a": {{"b": [1, {}]}}}}'])
def test_a_figure_that_is_none_is_refused(figure, form):
    with pytest.raises(ValueError, match="figure"):
        parse_json(form.format(figure))


@pytest.mark.parametrize("text", ["18446744073709551615", "-1", "0", "1.5e18", '"NaN"', "null", "[1.25e-30]"])
def test_what_is_a_figure_is_read_as_it_stands(text):
    assert parse_json(text) == json.loads(text)


def test_nesting_without_end_is_refused():
    with pytest.raises(ValueError, match="deep"):
        parse_json("[" * 200_000)


@pytest.fixture
def document(tmp_path):
    """The document of a job with a reading and a memory test."""
    shop = Shop.open(tmp_path / "here.db")
    number = shop.jobs.add(JobFacts("0501", "Tide desk", promise="2x8G")).facts.number
    shop.jobs.add_reading(number, Moment.FITTED, take_notation("2x8G DDR4-3200; run 3200"))
    shop.jobs.keep_soak(number, soak(30))
    return json.loads(zipfile.ZipFile(BytesIO(job_file(shop, number))).read("job.json"))


def places(node, wanted, path=()):
    """Every place of a document at which something of a kind stands."""
    parts = node.items() if isinstance(node, dict) else enumerate(node) if isinstance(node, list) else ()
    for key, value in parts:
        if wanted(value):
            yield (*path, key)
        yield from places(value, wanted, (*path, key))


def is_figure(value):
    return isinstance(value, (int, float)) and not isinstance(value, bool)


def is_time(value):
    return isinstance(value, str) and value[4:5] == "-" and value[10:11] == "T"


def with_value(document, path, raw):
    """A document's text with other text at one place."""
    copy = json.loads(json.dumps(document))
    node = copy
    for key in path[:-1]:
        node = node[key]
    node[path[-1]] = "@here@"
    return json.dumps(copy).replace('"@here@"', raw).encode()


@pytest.mark.parametrize(("wanted", "values"), [(is_figure, WILD_FIGURES), (is_time, [f'"{time}"' for time in WILD_TIMES])])
def test_a_job_file_with_one_wild_value_is_refused_wherever_it_stands(document, wanted, values):
    found = list(places(document, wanted))
    assert len(found) > 4
    for path in found:
        for value in values:
            with pytest.raises(AfterCheckError):
                parse_document(with_value(document, path, value), "file")


@pytest.mark.parametrize("figure", ["-1", "0", "1.5", "1e18", "18446744073709551615"])
def test_a_job_file_with_an_unusual_figure_is_refused_or_judged(document, tmp_path, figure):
    """Whatever comes in can be worked with: nothing fails later, at a place that nobody connects with the file."""
    shop = Shop.open(tmp_path / "there.db")
    for path in places(document, is_figure):
        try:
            number, *_ = shop.jobs.take_in(parse_document(with_value(document, path, figure), "file"), {})
        except AfterCheckError:
            continue
        assert judge_job(shop.jobs.job(number)).verdict is not None


def test_a_time_without_a_zone_in_a_record_is_refused(document):
    path = next(path for path in places(document, is_time) if "record" in path)
    with pytest.raises(AfterCheckError, match="zone"):
        parse_document(with_value(document, path, '"2026-01-01T00:00:00"'), "file")
