"""A run counts for a job only where it ran on the job's own machine; what tells them apart, and what is asked."""

from __future__ import annotations

from dataclasses import replace
from datetime import UTC, datetime, timedelta

import pytest
from hypothesis import given
from hypothesis import strategies as st

from after_check.casework.judging import case_file_of
from after_check.casework.same_machine import agreement_with, counts, why_not
from after_check.domain.benchmark import BenchmarkRecord, Series
from after_check.domain.demand import DemandRecord, DemandSample
from after_check.domain.facts import Fact, Source
from after_check.domain.identity import Agreement, MachineIdentity, agreement, is_a_default
from after_check.domain.jobs import Job, JobFacts, KeptReading, KeptSoak, Moment
from after_check.domain.readings import Machine
from after_check.domain.soak import Covered, SoakRecord, SoakState
from after_check.sources.open_source import take_notation

GIB = 1 << 30
NOON = datetime(2026, 5, 4, 12, 0, tzinfo=UTC)


@pytest.mark.parametrize(
    ("ran_on", "of_job", "expected"),
    [
        # The machine's own numbers decide, whatever else differs.
        (MachineIdentity(uuid="AB", usable_bytes=4 * GIB), MachineIdentity(uuid="ab", usable_bytes=16 * GIB), Agreement.SAME),
        (MachineIdentity(uuid="ab"), MachineIdentity(uuid="cd"), Agreement.DIFFERENT),
        (MachineIdentity(serial="S1"), MachineIdentity(serial="s1"), Agreement.SAME),
        (MachineIdentity(serial="S1", is_the_jobs=True), MachineIdentity(serial="S2"), Agreement.DIFFERENT),
        # An installed system that is known again proves it; another one proves nothing, as systems are reinstalled.
        (MachineIdentity(installation="aa"), MachineIdentity(installation="aa"), Agreement.SAME),
        (MachineIdentity(installation="aa"), MachineIdentity(installation="bb"), Agreement.OPEN),
        # Other boards and other amounts speak against it, whatever a person says.
        (MachineIdentity(board="B1", is_the_jobs=True), MachineIdentity(board="B2"), Agreement.DIFFERENT),
        (MachineIdentity(model="Larkfield T1"), MachineIdentity(model="LARKFIELD T1"), Agreement.OPEN),
        (MachineIdentity(usable_bytes=15 * GIB), MachineIdentity(installed_bytes=16 * GIB), Agreement.OPEN),
        (MachineIdentity(usable_bytes=int(13.5 * GIB)), MachineIdentity(installed_bytes=16 * GIB), Agreement.DIFFERENT),
        (MachineIdentity(usable_bytes=int(6.1 * GIB)), MachineIdentity(installed_bytes=8 * GIB), Agreement.OPEN),
        (MachineIdentity(usable_bytes=17 * GIB), MachineIdentity(installed_bytes=16 * GIB), Agreement.DIFFERENT),
        (MachineIdentity(installed_bytes=16 * GIB), MachineIdentity(installed_bytes=24 * GIB), Agreement.DIFFERENT),
        # A 32-bit system that uses 3.2 of 8 GiB: what both systems count agrees.
        (
            MachineIdentity(usable_bytes=int(3.2 * GIB)),
            MachineIdentity(installed_bytes=8 * GIB, usable_bytes=int(3.3 * GIB)),
            Agreement.OPEN,
        ),
        # Modules of the job speak for it, and may have been carried over into a machine like it: alone they are asked about.
        (MachineIdentity(module_serials=("7A", "7B")), MachineIdentity(module_serials=("7B",)), Agreement.OPEN),
        (MachineIdentity(module_serials=("7A", "7B")), MachineIdentity(module_serials=("7B", "7A")), Agreement.OPEN),
        (
            MachineIdentity(board="B1", module_serials=("7A", "7B")),
            MachineIdentity(board="B1", module_serials=("7B", "7A")),
            Agreement.SAME,
        ),
        (MachineIdentity(board="B1", module_serials=("7A",)), MachineIdentity(board="B1", module_serials=("7A", "7B")), Agreement.OPEN),
        (MachineIdentity(board="B1", module_serials=("7A",)), MachineIdentity(board="B2", module_serials=("7A",)), Agreement.DIFFERENT),
        # Numbers that a maker gives to thousands are worth nothing.
        *(
            (MachineIdentity(uuid=number, serial=serial), MachineIdentity(uuid=number, serial=serial), Agreement.OPEN)
            for number, serial in (
                ("03000200-0400-0500-0006-000700080009", "TBD"),
                ("00000000-0000-0000-0000-000000000000", "00000001"),
                ("FFFFFFFF-FFFF-FFFF-FFFF-FFFFFFFFFFFF", "Chassis Serial Number"),
                ("12345678-1234-5678-90AB-CDDEEFAABBCC", "1111111"),
                ("", "To be filled by O.E.M."),
                ("", "Default string"),
                ("", "0123456789"),
                ("", "System Serial Number"),
                ("", "N/A"),
            )
        ),
        # A number of its own that differs decides, whatever else is equal; so one default beside it changes nothing.
        (
            MachineIdentity(uuid="6d1f0c3a-92b7-4e58-8a41-c07e5d2b9f16", serial="7QX1", board="B1"),
            MachineIdentity(uuid="6d1f0c3a-92b7-4e58-8a41-c07e5d2b9f16", serial="7QX2", board="B1"),
            Agreement.DIFFERENT,
        ),
        # Marks that contradict each other: an equal serial number with another board and amount, one installation on two boards.
        (
            MachineIdentity(serial="7QX1", board="B1", installed_bytes=16 * GIB),
            MachineIdentity(serial="7QX1", board="B2", installed_bytes=32 * GIB),
            Agreement.DIFFERENT,
        ),
        (MachineIdentity(serial="7QX1", board="B1"), MachineIdentity(serial="7QX1", board="B2"), Agreement.OPEN),
        (MachineIdentity(installation="aa", board="B1"), MachineIdentity(installation="aa", board="B2"), Agreement.DIFFERENT),
        # What a person answered decides what is left open.
        (MachineIdentity(is_the_jobs=True), MachineIdentity(), Agreement.SAME),
        (MachineIdentity(is_the_jobs=False), MachineIdentity(), Agreement.DIFFERENT),
        (MachineIdentity(), MachineIdentity(serial="S1", uuid="ab"), Agreement.OPEN),
    ],
)
def test_what_tells_machines_apart(ran_on, of_job, expected):
    found, why = agreement(ran_on, (of_job,))
    assert found is expected
    assert why


@given(st.builds(MachineIdentity, uuid=st.text(max_size=3), serial=st.text(max_size=3), board=st.text(max_size=3)))
def test_a_machine_is_never_another_than_itself(identity):
    assert agreement(identity, (identity,))[0] is not Agreement.DIFFERENT


def job(*readings, promise=""):
    kept = tuple(
        KeptReading(number, moment, NOON + timedelta(hours=number), take_notation(line).reading)
        for number, (moment, line) in enumerate(readings)
    )
    return Job(1, JobFacts("1", promise=promise), kept, NOON, NOON, 1)


FITTED = job((Moment.ARRIVAL, "2x8G DDR4-3200; total 16G"), (Moment.FITTED, "2x24G DDR5-6400; run 6400; dual; total 48G"))
LATER = NOON + timedelta(hours=3)


def soak(installed_bytes, machine=None, at=LATER):
    covered = Covered(held_bytes=installed_bytes, installed_bytes=installed_bytes)
    return SoakRecord(
        "short", SoakState.FINISHED, at, 600.0, ("a",), 1, covered=covered, fully_swept_bytes=installed_bytes, machine=machine
    )


def with_soak(kept):
    return replace(FITTED, soaks=(KeptSoak(1, kept.begun_at, kept),))


def test_a_test_of_another_computer_is_not_on_this_sheet():
    here = MachineIdentity(usable_bytes=15 * GIB, is_the_jobs=True)
    assert not counts(FITTED, soak(15 * GIB, here))
    assert "another computer: it has 15 GiB of memory, the job's machine 48 GiB" in why_not(FITTED, soak(15 * GIB, here))
    assert case_file_of(with_soak(soak(15 * GIB, here))).soak is None
    right = soak(47 * GIB, MachineIdentity(usable_bytes=47 * GIB, is_the_jobs=True))
    assert case_file_of(with_soak(right)).soak.value.errors == 0
    nobody_said = soak(47 * GIB, MachineIdentity(usable_bytes=47 * GIB))
    assert case_file_of(with_soak(nobody_said)).soak is None
    assert why_not(FITTED, nobody_said) == "nobody said whether this was the job's machine"


def test_records_from_before_machines_were_told_apart():
    assert counts(FITTED, soak(47 * GIB))
    assert not counts(FITTED, soak(15 * GIB))
    assert not counts(FITTED, DemandRecord(LATER, 15 * GIB, (DemandSample(0, GIB),)))
    assert counts(FITTED, BenchmarkRecord(LATER))


def test_scores_that_a_person_read_off_count():
    typed = BenchmarkRecord(LATER, series=(Series((61.0,), "s", name="Export", typed=True),))
    assert counts(FITTED, typed)


def test_the_amount_of_the_moment_is_meant():
    """Tested before the machine was read again: as on arrival, or as promised, and nothing else."""
    arrived = job((Moment.ARRIVAL, "2x8G DDR4-3200; total 16G"), promise="2x16G")
    for usable, agreed in ((15, Agreement.OPEN), (31, Agreement.OPEN), (47, Agreement.DIFFERENT)):
        assert agreement_with(arrived, MachineIdentity(usable_bytes=usable * GIB))[0] is agreed
    # On arrival 16 GiB were right, though the machine has 48 now.
    assert agreement_with(FITTED, MachineIdentity(usable_bytes=15 * GIB), NOON + timedelta(minutes=5))[0] is Agreement.OPEN
    assert agreement_with(FITTED, MachineIdentity(usable_bytes=15 * GIB), LATER)[0] is Agreement.DIFFERENT


def test_the_serial_number_of_any_reading_is_the_machines():
    first = FITTED.readings[0]
    numbered = replace(first.reading, machine=Machine(serial=Fact("S1", Source.FIRMWARE)))
    known = replace(FITTED, readings=(replace(first, reading=numbered), *FITTED.readings[1:]))
    assert agreement_with(known, MachineIdentity(serial="S1", usable_bytes=15 * GIB))[0] is Agreement.SAME
    assert agreement_with(known, MachineIdentity(serial="S9", usable_bytes=47 * GIB))[0] is Agreement.DIFFERENT


@pytest.mark.parametrize(
    "number", ["7QX1", "S1", "PF2K9ABC", "5CD1234XYZ", "6d1f0c3a-92b7-4e58-8a41-c07e5d2b9f16", "CN-0J8H4R-74261-2B3-0A1B", "MXL0000ABC"]
)
def test_a_number_that_is_one_is_no_default(number):
    assert not is_a_default(number)


@pytest.mark.parametrize(
    "number", ["", " ", "0", "00000001", "TBD", "t.b.d.", "xxxxxxx", "AAAAAAA", "1111111111", "None", "Asset-1234567890"]
)
def test_a_number_that_tells_nothing_is_a_default(number):
    assert is_a_default(number)
