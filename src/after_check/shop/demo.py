"""The demo shop: jobs of the made-up Skarrow Bench, taken in through the code that real input takes."""

from __future__ import annotations

import tomllib
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

from after_check.benchmark.benchmark_json import benchmark_from_json
from after_check.domain.benchmark import BenchmarkRecord
from after_check.domain.jobs import JobFacts, Moment
from after_check.domain.soak import SoakRecord
from after_check.domain.tries import TryLog
from after_check.shop.errors import AlreadyExistsError
from after_check.shop.shop import Shop
from after_check.soak.soak_json import read_record
from after_check.sources.card_file import read_card_file
from after_check.sources.evidence import Taken
from after_check.sources.open_source import take
from after_check.tries.file import parse_tries

SAMPLES = Path(__file__).parent.parent / "samples"


def fill(shop: Shop) -> None:
    """Put the sample cards and jobs that a shop does not have yet into it."""
    now = datetime.now(UTC).replace(microsecond=0)  # One moment for all, so that jobs of one age stay in one order.
    known = {card.name for card in shop.cards.all()}
    for path in sorted((SAMPLES / "cards").glob("*.toml")):
        card = read_card_file(path)
        if card.name not in known:
            shop.cards.keep(card)
    for folder in sorted(path for path in SAMPLES.iterdir() if (path / "job.toml").is_file()):
        described = tomllib.loads((folder / "job.toml").read_text(encoding="utf-8"))
        facts = JobFacts(folder.name, described["title"], described["machine"], described["customer"], described["promise"])
        readings = tuple(_taken(folder, reading, now) for reading in described["reading"])
        try:
            shop.jobs.add(facts, readings)
        except AlreadyExistsError:
            continue  # The job is there from an earlier start, perhaps with changes worth keeping.
        if "soak" in described:
            shop.jobs.keep_soak(folder.name, _soaked(folder, described["soak"], now))
        for measured in described.get("benchmark", ()):
            shop.jobs.keep_benchmark(folder.name, Moment(measured["moment"]), _measured(folder, measured, now))
        if "tries" in described:
            shop.jobs.keep_tries(folder.name, _tried(folder, described["tries"], now), 0)


def demo_numbers() -> tuple[str, ...]:
    """Return the numbers of the sample jobs."""
    return tuple(sorted(path.parent.name for path in SAMPLES.glob("*/job.toml")))


def _soaked(folder: Path, described: dict[str, Any], now: datetime) -> SoakRecord:
    """Return a sample's soak, dated some hours before now."""
    record = read_record(folder / described["source"])
    return replace(record, begun_at=now - timedelta(hours=described["hours_ago"]))


def _measured(folder: Path, described: dict[str, Any], now: datetime) -> BenchmarkRecord:
    """Return one of a sample's benchmarks, dated some hours before now."""
    record = benchmark_from_json((folder / described["source"]).read_bytes())
    return replace(record, begun_at=now - timedelta(hours=described["hours_ago"]))


def _tried(folder: Path, described: dict[str, Any], now: datetime) -> TryLog:
    """Return a sample's log of tries, each dated some hours before now."""
    log, _ = parse_tries((folder / described["source"]).read_bytes(), described["source"])
    dated = zip(log.tries, described["hours_ago"], strict=True)
    return replace(log, tries=tuple(replace(tried, at=now - timedelta(hours=hours)) for tried, hours in dated))


def _taken(folder: Path, described: dict[str, Any], now: datetime) -> tuple[Moment, Taken]:
    """Take one reading from the sample's own file or folder, dated some hours before now."""
    taken = take(str(folder / described["source"]))
    taken_at = now - timedelta(hours=described["hours_ago"])
    reading = replace(taken.reading, taken_at=taken_at, origin=f"samples/{folder.name}/{described['source']}")
    return Moment(described["moment"]), replace(taken, reading=reading)
