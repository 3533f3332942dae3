"""What is measured beside a soak: temperatures, error counters, throttling, sleep."""

from __future__ import annotations

import pytest

from after_check.files.tree import Tree
from after_check.host import sensors
from after_check.host.sensors import Watch


@pytest.fixture
def machine(tmp_path):
    def say(**files):
        for name, text in files.items():
            path = tmp_path / name.replace("__", "/")
            path.parent.mkdir(parents=True, exist_ok=True)
            path.write_text(f"{text}\n")
        return Tree(tmp_path)

    return say


def test_a_machine_that_tells_nothing(tmp_path):
    seen = Watch(Tree(tmp_path)).look(1.0, None)
    assert (seen.module_celsius, seen.processor_celsius, seen.corrected, seen.uncorrected, seen.throttled) == (None,) * 5


def test_the_hottest_zone_counts_and_nonsense_does_not(machine):
    tree = machine(
        sys__class__thermal__thermal_zone0__temp=47000,
        sys__class__thermal__thermal_zone1__temp=61500,
        sys__class__thermal__thermal_zone2__temp=-273000,
        sys__class__thermal__thermal_zone3__temp="hot",
        sys__class__thermal__cooling_device0__temp=99000,
    )
    assert Watch(tree).look(1.0, None).processor_celsius == 61.5


def test_error_counters_count_from_the_beginning_of_the_soak(machine):
    edac = "sys__devices__system__edac__mc__mc0"
    tree = machine(
        **{
            f"{edac}__dimm0__dimm_ce_count": 5,
            f"{edac}__dimm0__dimm_ue_count": 0,
            f"{edac}__dimm0__dimm_label": "DIMM_A1",
            f"{edac}__dimm1__dimm_ce_count": 2,
            f"{edac}__dimm1__dimm_ue_count": 0,
            f"{edac}__dimm1__dimm_label": "DIMM_B1",
        }
    )
    watch = Watch(tree)
    assert (watch.look(1.0, None).corrected, watch.risen()) == (0, ())
    machine(**{f"{edac}__dimm1__dimm_ce_count": 9, f"{edac}__dimm1__dimm_ue_count": 1})
    seen = watch.look(2.0, 5e9)
    assert (seen.corrected, seen.uncorrected, seen.rate_bytes_per_s) == (7, 1, 5e9)
    assert watch.risen() == ("DIMM_B1",)


def test_throttling_counts_over_all_cores_from_the_beginning(machine):
    count = "thermal_throttle__core_throttle_count"
    tree = machine(**{f"sys__devices__system__cpu__cpu0__{count}": 10, f"sys__devices__system__cpu__cpu1__{count}": 4})
    watch = Watch(tree)
    assert watch.look(1.0, None).throttled == 0
    machine(**{f"sys__devices__system__cpu__cpu1__{count}": 7})
    assert watch.look(2.0, None).throttled == 3


def test_sleep_is_the_clocks_drawing_apart(tmp_path, monkeypatch):
    apart = iter((100.0, 100.5, 160.5, 160.5))
    monkeypatch.setattr(sensors, "time_asleep", lambda: next(apart))
    watch = Watch(Tree(tmp_path))
    assert watch.slept_seconds() == 0.0, "half a second is no sleep"
    assert watch.slept_seconds() == 60.0
    assert watch.slept_seconds() == 0.0
