"""Throws mutated input at every reader: `.venv/bin/python benchmarks/fuzz.py [COUNT] [SEED] [READER...]`.

Images and tables, notation and plain words, promises, labels, data sheets, saved readings, JSON of other systems, a
service's resources, logs of tries, job files, records of tests, scores, programs of tests. A million in all by default.
Stops with the input of the first one that crashes a reader or takes more than a second of processor time.
"""

from __future__ import annotations

import copy
import json
import random
import sys
import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

sys.path.insert(0, str(Path(__file__).parent.parent))

from tests.standards import spd_images as images

from after_check.benchmark.scores import parse_scores
from after_check.domain.case_files import CaseFile
from after_check.domain.jobs import JobFacts, Moment
from after_check.files.errors import SourceError
from after_check.judgement.judge import judge
from after_check.language.typed_text import read_line, read_promise
from after_check.shop.documents import document_text, job_document, parse_document
from after_check.shop.shop import Shop
from after_check.soak.march import parse_march
from after_check.soak.soak_json import record_from_json
from after_check.sources import redfish, saved
from after_check.sources.card_file import parse_card, write_card
from after_check.sources.cim import take_cim
from after_check.sources.explain import explain
from after_check.sources.firmware_table import reading_from_tables
from after_check.sources.hardware_report import take_hardware_report
from after_check.sources.open_source import take_notation, take_promise, take_result
from after_check.standards.spd import decode
from after_check.standins.firmware_tables import tables
from after_check.standins.machines import MACHINES
from after_check.tries.file import parse_tries
from after_check.tries.log_json import log_from_json

SLOWEST_SECONDS = 1.0
HOSTILE = (
    *("\x00", "\x1b[31m", "\u202e", "\ufeff", "９", "٣", "½", "²", "ſ", "İ", "\ud800", "\n", "\t", "'", '"', "\\", "[/]", "{", "}"),
    *(
        "1e999",
        "NaN",
        "-",
        "--",
        "9" * 400,
        "0x",
        "=",
        ";",
        ",",
        "x",
        "GB",
        "MHz",
        "ddr5",
        "lpddr",
        "A1",
        "-1",
        "0",
        "." * 50,
        " " * 200,
        "%s",
    ),
)
VALUES: tuple[Any, ...] = (
    None,
    True,
    -1,
    0,
    1 << 70,
    1.5,
    float("nan"),
    float("inf"),
    "",
    "x" * 5000,
    "\x1b]0;x\x07",
    "9" * 400,
    [],
    {},
    [[]],
    [None],
)


@dataclass(frozen=True)
class Reader:
    """What is read, how its input is changed, and what it may raise."""

    read: Callable[[Any], object]
    samples: tuple[Any, ...]
    kind: str
    may_raise: tuple[type[Exception], ...] = (SourceError,)


def mutated_bytes(chance: random.Random, sample: bytes) -> bytes:
    """Return bytes with some others in their places, cut somewhere."""
    raw = bytearray(sample)
    for _ in range(chance.randint(1, 30)):
        raw[chance.randrange(len(raw))] = chance.randrange(256)
    return bytes(raw[: chance.randint(0, len(raw))])


def mutated_text(chance: random.Random, sample: str) -> str:
    """Return a text with pieces taken out, doubled, swapped and put in."""
    text = sample
    for _ in range(chance.randint(1, 6)):
        at, to = sorted((chance.randint(0, len(text)), chance.randint(0, len(text))))
        how = chance.randrange(5)
        if how == 0:
            text = text[:at] + text[min(to, at + 6) :]
        elif how == 1:
            text = text[:at] + chance.choice(HOSTILE) + text[at:]
        elif how == 2:
            text = text[:to] + text[at:to][:40] + text[to:]
        elif how == 3:
            text = (
                text[:at]
                + chr(chance.choice((chance.randrange(32, 127), chance.randrange(0x2500), chance.randrange(0x10FFFF))))
                + text[at:]
            )
        else:
            text = text[:at] + text[at:to][::-1][:30] + text[to:]
    return text[:4000]


def mutated_json(chance: random.Random, sample: Any) -> Any:
    """Return a document with other values, other keys, or parts missing."""
    document = json.loads(json.dumps(sample))
    for _ in range(chance.randint(1, 4)):
        node, trail = document, []
        while isinstance(node, dict | list) and node:
            key = chance.choice(list(node)) if isinstance(node, dict) else chance.randrange(len(node))
            trail.append((node, key))
            if chance.random() < 0.25:
                break
            node = node[key]
        if not trail:
            continue
        parent, key = trail[-1]
        if chance.random() < 0.2:
            del parent[key]
        elif isinstance(parent[key], str) and chance.random() < 0.5:
            parent[key] = mutated_text(chance, parent[key])
        else:
            parent[key] = copy.deepcopy(chance.choice(VALUES))  # Its own: a list put into itself is no document.
    return document


def _as_json(read: Callable[[bytes], object]) -> Callable[[Any], object]:
    return lambda document: read(json.dumps(document).encode("utf-8", "surrogatepass"))


def _member(document: Any) -> object:
    if not isinstance(document, dict):
        return None
    slot = redfish.slot_of(document, redfish.name_of(document, 0))
    redfish.bank_of(document)
    redfish.redundancy_of(document.get("summary"), [document])
    redfish.counters_of(document, "x")
    redfish.working_bytes([document])
    return slot


def _typed(text: str) -> object:
    return judge(CaseFile(take_notation(text).reading))


def readers() -> dict[str, Reader]:
    """Return every reader with samples of what it reads."""
    spd = (images.ddr2(), images.ddr3_profiles(images.ddr3()), images.ddr4_profiles(images.ddr4()), images.ddr5_profiles(images.ddr5()))
    lines = (
        "A2=16G DDR4-3200; B2=16G DDR4-3200; run 3200; dual; total 32G",
        'S1=8G DDR4-3200 sodimm serial 12AB date 2021-W11 part "QM 1"; run 3200; profile 1; cl 16-18-18-38',
        "two sticks of sixteen gig ddr4 3200, dual channel, slots 2 and 4, xmp off, runs at 2133",
        "8gb soldered lpddr4x 4266, slot free, one stick of 16 gb in slot 1, shows 15.8 gb usable",
    )
    shop = Shop.open(Path("/dev/shm" if Path("/dev/shm").is_dir() else "/tmp") / f"fuzz-{time.time_ns()}.db")
    shop.jobs.add(JobFacts("0501", "Tide desk", promise="2x16G DDR4-3200"), ((Moment.ARRIVAL, take_notation(lines[0])),))
    document = json.loads(document_text(job_document(shop.jobs.job("0501"))))
    shop.close()
    Path(shop.where).unlink()
    cards = tuple(path.read_text(encoding="utf-8") for path in sorted((Path(saved.__file__).parents[1] / "samples/cards").glob("*.toml")))
    reading = json.loads(json.dumps(saved.dump(take_notation(lines[0]))))
    module = {"Capacity": 17179869184, "Speed": 3200, "ConfiguredClockSpeed": 3200, "SMBIOSMemoryType": 26, "DeviceLocator": "DIMM 0"}
    cim = {
        "Win32_PhysicalMemory": [module, module],
        "Win32_ComputerSystem": {"Model": "Larkfield S1", "TotalPhysicalMemory": "34200000000"},
    }
    report = {"SPMemoryDataType": [{"_items": [{"_name": "DIMM0", "dimm_size": "16 GB", "dimm_speed": "3200 MHz", "dimm_type": "DDR4"}]}]}
    member = {
        "CapacityMiB": 16384,
        "OperatingSpeedMhz": 3200,
        "AllowedSpeedsMHz": [3200],
        "MemoryDeviceType": "DDR4",
        "Name": "A1",
        "Id": "1",
    }
    tries = 'modules = ["a", "b"]\nslots = ["A2", "B2"]\n[[try]]\nA2 = "a"\nstarted = "yes"\n[[try]]\nB2 = "b"\nstarted = "no"\n'
    log = {"modules": [{"letter": "a"}], "slots": ["A2"], "tries": [{"arrangement": [["A2", "a"]], "started": "yes"}]}
    record = {"plan": "short", "state": "finished", "begun_at": "2026-01-01T00:00:00+00:00", "steps": ["x"], "steps_done": 1, "errors": 0}
    text = "text"
    return {
        "images": Reader(decode, tuple(bytes(image) for image in spd), "bytes"),
        "tables": Reader(
            lambda raw: judge(CaseFile(reading_from_tables(raw, None, "fuzz"))),
            tuple(tables(make().machine) for make in MACHINES.values()),
            "bytes",
        ),
        "lines": Reader(_typed, lines, text),
        "lines as they are typed": Reader(read_line, lines, text, ()),
        "promises as they are typed": Reader(read_promise, lines, text, ()),
        "promises": Reader(take_promise, ("2x16G DDR4-3200; dual", "32gb ddr4 3200 in two channels"), text),
        "results": Reader(take_result, ("clean 2 h 4 passes by stick", "12 errors after 20 min"), text),
        "labels": Reader(explain, ("PC4-23400", "2021-W11", "8GB 2Rx8 PC4-2666V-UB1-11", "1467MHz", "DDR5-6400"), text),
        "data sheets": Reader(parse_card, cards, text),
        "data sheets written again": Reader(lambda sheet: write_card(parse_card(sheet)), cards, text),
        "scores": Reader(parse_scores, ("Export 61.2 60.8 s\nFrames: 58fps 57fps", "Startup 1 min 20 s", "Export froze"), text, ()),
        "programs": Reader(parse_march, ("{any(w0); ^(r0,w1); v(r1,w0)}", "^(r0,w1,r1,w0); del"), text, (ValueError,)),
        "tries": Reader(lambda words: parse_tries(words.encode("utf-8", "surrogatepass")), (tries,), text),
        "saved readings": Reader(_as_json(lambda raw: saved.load(raw, "fuzz")), (reading,), "json"),
        "job files": Reader(_as_json(lambda raw: parse_document(raw, "fuzz")), (document,), "json"),
        "classes": Reader(_as_json(lambda raw: take_cim(raw, "fuzz")), (cim,), "json"),
        "reports": Reader(_as_json(lambda raw: take_hardware_report(raw, "fuzz")), (report,), "json"),
        "resources": Reader(_member, (member,), "json"),
        "kept tries": Reader(lambda kept: log_from_json(json.dumps(kept)), (log,), "json", (ValueError,)),
        "records": Reader(lambda kept: record_from_json(json.dumps(kept)), (record,), "json", (ValueError,)),
    }


MUTATED: dict[str, Callable[[random.Random, Any], Any]] = {"bytes": mutated_bytes, "text": mutated_text, "json": mutated_json}


def main(count: int, seed: int, only: tuple[str, ...]) -> int:
    """Mutate and read; returns 1 after a failure."""
    chance = random.Random(seed)
    chosen = {name: reader for name, reader in readers().items() if not only or name in only}
    names = list(chosen)
    begun = time.perf_counter()
    for number in range(count):
        name = names[number % len(names)]
        reader = chosen[name]
        given = MUTATED[reader.kind](chance, chance.choice(reader.samples))
        before = time.process_time()
        try:
            reader.read(given)
        except reader.may_raise:
            pass
        except Exception as error:
            print(f"input {number} of seed {seed} ends {name} with {error!r}:\n{given!r}")
            return 1
        if time.process_time() - before > SLOWEST_SECONDS:
            print(f"input {number} of seed {seed} takes {name} {time.process_time() - before:.1f} s:\n{given!r}")
            return 1
        if number % 10_000 == 9_999:
            rate = (number + 1) / (time.perf_counter() - begun)
            print(f"\r{number + 1:,} of {count:,}, {rate:,.0f} a second, {(count - number) / rate:.0f} s left ", end="", flush=True)
    print(f"\n{count:,} inputs to {len(names)} readers, none failed")
    return 0


if __name__ == "__main__":
    numbers = [int(word) for word in sys.argv[1:] if word.isdigit()]
    named = tuple(word for word in sys.argv[1:] if not word.isdigit())
    count, seed = (*numbers, *(1_000_000, 1)[len(numbers) :])[:2]
    raise SystemExit(main(count, seed, named))
