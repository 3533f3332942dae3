"""Throws a million mutated images at the decoders: `.venv/bin/python benchmarks/fuzz.py [COUNT] [SEED]`.

Stops with the bytes of the first image that crashes a decoder or takes more than a second.
"""

from __future__ import annotations

import random
import sys
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent.parent))

from tests.standards import spd_images as images

from after_check.domain.case_files import CaseFile
from after_check.judgement.judge import judge
from after_check.sources.firmware_table import reading_from_tables
from after_check.standards.spd import decode
from after_check.standins.firmware import tables
from after_check.standins.machines import MACHINES

SLOWEST_SECONDS = 1.0


def main(count: int, seed: int) -> int:
    """Mutate and decode; returns 1 after a failure."""
    chance = random.Random(seed)
    spd = [images.ddr2(), images.ddr3_profiles(images.ddr3()), images.ddr4_profiles(images.ddr4()), images.ddr5_profiles(images.ddr5())]
    firmware = [tables(make().machine) for make in MACHINES.values()]
    begun = time.perf_counter()
    for number in range(count):
        is_table = number % 10 == 0
        raw = bytearray(chance.choice(firmware if is_table else [bytes(image) for image in spd]))
        for _ in range(chance.randint(1, 30)):
            raw[chance.randrange(len(raw))] = chance.randrange(256)
        data = bytes(raw[: chance.randint(0, len(raw))])
        before = time.perf_counter()
        try:
            judge(CaseFile(reading_from_tables(data, None, "fuzz"))) if is_table else decode(data)
        except Exception as error:
            print(f"image {number} of seed {seed} crashes with {error!r}:\n{data.hex()}")
            return 1
        if time.perf_counter() - before > SLOWEST_SECONDS:
            print(f"image {number} of seed {seed} takes too long:\n{data.hex()}")
            return 1
        if number % 10_000 == 9_999:
            rate = (number + 1) / (time.perf_counter() - begun)
            print(f"\r{number + 1:,} of {count:,}, {rate:,.0f} a second, {(count - number) / rate:.0f} s left ", end="", flush=True)
    print(f"\n{count:,} images, none failed")
    return 0


if __name__ == "__main__":
    raise SystemExit(main(int(sys.argv[1]) if len(sys.argv) > 1 else 1_000_000, int(sys.argv[2]) if len(sys.argv) > 2 else 1))
