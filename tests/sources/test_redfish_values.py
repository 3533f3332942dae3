"""What single resources of a Redfish service say, by the schemas of DMTF DSP2046 (Memory, MemoryMetrics) and DSP0268 (Location, Status)."""

from __future__ import annotations

import pytest

from after_check.domain.boards import Filling
from after_check.domain.facts import Fact, Source
from after_check.domain.modules import Generation
from after_check.domain.readings import ErrorCounter, Reading, corrected_errors, uncorrected_errors
from after_check.judgement.case import view
from after_check.judgement.channels import slot_channel
from after_check.sources.redfish import alarms_of, bank_of, counters_of, name_of, rates_of, slot_of, state_words

DDR4, DDR5 = Generation.DDR4, Generation.DDR5


@pytest.mark.parametrize(
    ("running", "speeds", "generation", "expected"),
    [
        # A list of clocks: 800 to 1467 are no rates of DDR4 (JESD79-4), so 1600 beside them is no rate either: it is DDR4-3200.
        (1600, [1333, 1467, 1600], DDR4, (3200, 3200)),
        (1467, [1333, 1467, 1600], DDR4, (2934, 3200)),
        (2933, [1333, 1467, 1600], DDR4, (2933, 3200)),
        (1200, [1200], DDR4, (2400, 2400)),
        # A list of rates: none is below the slowest one.
        (2400, [1600, 1866, 2133, 2400], DDR4, (2400, 2400)),
        (1200, [1600, 1866, 2133, 2400], DDR4, (2400, 2400)),
        (1600, [1600, 1866, 2133, 2400], DDR4, (1600, 2400)),
        # What runs is the double of what is listed, and is not listed: the list has clocks.
        (3200, [1600], DDR4, (3200, 3200)),
        (6400, [3200], DDR5, (6400, 6400)),
        (2400, [2000, 2200, 2400], DDR5, (4800, 4800)),
        (4800, [4400, 4800], DDR5, (4800, 4800)),
        (2400, [4400, 4800], DDR5, (4800, 4800)),
        # One of them is below the slowest rate and none of the others can be doubled: they are no clocks.
        (3200, [1333, 3200], DDR4, (3200, 3200)),
        (None, [1333, 1600], DDR4, (None, 3200)),
        (1600, [], DDR4, (1600, None)),
        (1200, [], DDR4, (2400, None)),
        (1600, [1600], None, (1600, 1600)),
    ],
)
def test_a_list_of_speeds_is_read_in_one_way(running, speeds, generation, expected):
    assert rates_of(running, speeds, generation) == expected


@pytest.mark.parametrize(
    ("metrics", "expected"),
    [
        ({"CurrentPeriod": {"CorrectableECCErrorCount": 3, "UncorrectableECCErrorCount": 0}}, [ErrorCounter("A1", 3, 0)]),
        ({"CurrentPeriod": {"CorrectableECCErrorCount": None, "UncorrectableECCErrorCount": 1}}, [ErrorCounter("A1", None, 1)]),
        ({"CurrentPeriod": {"CorrectableECCErrorCount": 4}}, [ErrorCounter("A1", 4, None)]),
        ({"CurrentPeriod": {"BlocksRead": 7}}, []),
        ({"CurrentPeriod": None, "LifeTime": None}, []),
        ({}, []),
        (
            {
                "CurrentPeriod": {"CorrectableECCErrorCount": 0, "UncorrectableECCErrorCount": 0},
                "LifeTime": {"CorrectableECCErrorCount": 12, "UncorrectableECCErrorCount": 2},
            },
            [ErrorCounter("A1", 0, 0), ErrorCounter("A1", 12, 2, over_life=True)],
        ),
        (
            {"LifeTime": {"CorrectableECCErrorCount": 5, "CorrectableOtherErrorCount": 1}},
            [ErrorCounter("A1", 6, None, over_life=True)],
        ),
        ({"CurrentPeriod": {"CorrectableECCErrorCount": -1, "UncorrectableECCErrorCount": "x"}}, []),
    ],
)
def test_a_counter_that_is_absent_is_not_known_and_one_over_life_counts_beside(metrics, expected):
    assert counters_of(metrics, "A1") == expected


def test_what_a_module_counts_twice_is_counted_once_and_an_unknown_sum_is_unknown():
    counters = [ErrorCounter("A1", 2, None), ErrorCounter("A1", 9, 1, over_life=True), ErrorCounter("B1", 4, None)]
    assert (corrected_errors(counters), uncorrected_errors(counters)) == (13, 1)
    assert (corrected_errors([ErrorCounter("A1", None, 0)]), uncorrected_errors([])) == (None, None)
    assert corrected_errors([ErrorCounter("DIMM", 1, 0), ErrorCounter("DIMM", 2, 0)]) == 3


def member(controller, channel, **more):
    place = {"Socket": 0, "MemoryController": controller, "Channel": channel, "Slot": 0}
    return {"MemoryLocation": place, "CapacityMiB": 16384, "MemoryDeviceType": "DDR4", "Status": {"State": "Enabled"}, **more}


def test_channels_of_three_controllers_are_six():
    members = [member(controller, channel) for controller in range(3) for channel in range(2)]
    slots = tuple(slot_of(one, f"DIMM {at}") for at, one in enumerate(members))
    reading = Reading(slots=slots)
    assert len({slot_channel(slot, None, reading) for slot in slots}) == 6
    assert view(reading).channels.count == 6


def test_a_controller_of_two_digits_is_told_from_one_of_one():
    slots = (slot_of(member(1, 10), "DIMM 0"), slot_of(member(11, 0), "DIMM 1"))
    assert len({slot_channel(slot, None, Reading(slots=slots)) for slot in slots}) == 2


def test_what_is_printed_beside_a_slot_is_its_name_and_the_rest_is_beneath():
    one = member(0, 1, DeviceLocator="PROC 1 DIMM 3", Location={"PartLocation": {"ServiceLabel": "Slot 3"}})
    assert name_of(one, 0) == "Slot 3"
    assert bank_of(one) == "P0 MC0 channel 1, PROC 1 DIMM 3"
    assert bank_of(member(None, 1)) == "P0 channel 1"
    assert bank_of({"MemoryLocation": {"Channel": 2}}) == "channel 2"
    assert bank_of({"MemoryLocation": {"Slot": 2}}) == ""


def test_an_enabled_module_without_a_capacity_keeps_who_made_it():
    slot = slot_of({"Status": {"State": "Enabled"}, "SerialNumber": "5A1", "Manufacturer": "Ostrel"}, "A1")
    assert slot.filling is Filling.FILLED
    assert (slot.module.serial, slot.module.maker, slot.module.size_bytes) == (
        Fact("5A1", Source.FIRMWARE, "Redfish, A1"),
        Fact("Ostrel", Source.FIRMWARE, "Redfish, A1"),
        None,
    )
    assert slot_of({"Status": {"State": "Enabled"}}, "A1").filling is Filling.UNKNOWN


@pytest.mark.parametrize(
    ("resource", "words"),
    [
        ({"Status": {"State": "Enabled", "Health": "OK"}}, ""),
        ({"Status": {"State": "Disabled"}}, "the service says that it is switched off"),
        ({"Enabled": False, "Status": {"State": "Enabled"}}, "the service says that it is switched off"),
        ({"Status": {"State": "Enabled", "Health": "Critical"}}, "the service says that its health is Critical"),
        ({"Status": {"State": "Absent", "Health": "Critical"}}, ""),
        ({"Status": None}, ""),
    ],
)
def test_a_module_that_is_not_in_use_or_not_well_is_told(resource, words):
    assert state_words(resource) == words


def test_alarms_of_a_module_are_told():
    assert alarms_of({"HealthData": {"AlarmTrips": {"UncorrectableECCError": True, "Temperature": False}}}) == [
        "its alarm for errors that could not be corrected went off"
    ]
    assert alarms_of({"HealthData": {"AlarmTrips": None}}) == []
