"""Several sources of one machine: what is believed, what stays visible, what contradicts."""

from __future__ import annotations

from dataclasses import replace

import pytest

from after_check.domain.boards import Filling, Slot
from after_check.domain.case_files import CaseFile
from after_check.domain.facts import Fact, Source
from after_check.domain.modules import Generation, Module
from after_check.domain.readings import Reading, SpdEntry
from after_check.judgement.case import view
from after_check.judgement.judge import judge
from after_check.judgement.reconcile import combined, contradictions, fitted_since, reconciled, with_system
from after_check.language.short_form import parse
from after_check.sources.open_source import take_notation, take_promise
from after_check.sources.spd_image import module_from_spd
from after_check.standards.spd import decode
from after_check.texts import words_of
from tests.standards import spd_images as images

GIB = 1 << 30


def firmware(value, where="type 17"):
    return Fact(value, Source.FIRMWARE, where)


def seen(size_gib=16, serial="0A1B2C3D", part="QM5-4800-16", running=4800):
    return Module(
        size_bytes=firmware(size_gib * GIB),
        generation=firmware(Generation.DDR5),
        rated_mts=firmware(4800),
        running_mts=firmware(running),
        serial=firmware(serial),
        part=firmware(part),
    )


def own(image=None):
    return module_from_spd(decode(bytes(image or images.ddr5_profiles(images.ddr5()))), "eeprom")


def board(*modules, spd=()):
    slots = tuple(Slot(name, Filling.FILLED, module) for name, module in zip(("A2", "B2"), modules, strict=False))
    return Reading(slots=slots, spd=tuple(SpdEntry(f"0-005{index}", module) for index, module in enumerate(spd)))


def test_the_modules_own_word_counts_for_what_it_is():
    (module,) = reconciled(board(seen(), spd=[own()])).modules
    # The firmware's 4800 is the standard rate; the module states 6400 by its profile.
    assert (module.rated_mts.value, module.rated_mts.source) == (6400, Source.SPD)
    assert [(other.value, other.source) for other in module.rated_mts.others] == [(4800, Source.FIRMWARE)]
    assert module.standard_mts.value == 4800
    assert (module.size_bytes.source, module.running_mts.value) == (Source.FIRMWARE, 4800)


def test_entries_find_their_module_by_serial_and_not_by_order():
    other = images.ddr5()
    other[517:521] = b"\x99\x88\x77\x66"
    reading = board(seen(serial="99887766"), seen(serial="0A1B2C3D"), spd=[own(), own(other)])
    first, second = reconciled(reading).modules
    assert first.profiles.value == ()
    assert len(second.profiles.value) == 2
    assert contradictions(reconciled(reading)) == ()


def test_a_different_serial_is_a_contradiction_with_both_values():
    reading = reconciled(board(seen(serial="DEADBEEF"), spd=[own()]))
    (found,) = contradictions(reading)
    assert "0A1B2C3D (SPD)" in str(found)
    assert "DEADBEEF (firmware table)" in str(found)
    assert "source.disagree" in {finding.code for finding in judge(CaseFile(board(seen(serial="DEADBEEF"), spd=[own()]))).findings}


def test_blanks_zeros_and_case_are_no_contradiction():
    assert contradictions(reconciled(board(seen(serial="a1b2c3d", part="QM5-4800-16 "), spd=[own()]))) == ()


def test_a_module_that_is_seen_half_is_short_by_its_own_word():
    judgement = judge(CaseFile(board(seen(size_gib=8), spd=[own()])))
    short = next(finding for finding in judgement.findings if finding.code == "module.short")
    assert words_of(short).title == "The module in A2 shows 8 GiB of 16 GiB"
    assert "half" in words_of(short).reason


def test_an_unsound_spd_loses_against_the_firmware():
    image = images.ddr5()
    image[20] ^= 1
    (module,) = reconciled(board(seen(running=4800), spd=[own(image)])).modules
    assert module.rated_mts.source is Source.FIRMWARE


def test_spd_alone_makes_the_board():
    assert len(reconciled(Reading(spd=(SpdEntry("spd", own()),))).loose) == 1


def test_typed_settings_are_added_to_a_reading_of_the_machine():
    base = board(seen(), seen(serial="1"))
    whole = combined(base, parse("profile off; reset; run 2400MHz").reading)
    assert whole.slots == base.slots
    assert whole.profile.value == "off"
    again = combined(whole, parse("profile 1").reading)
    assert (again.profile.value, again.profile.others[0].value) == ("1", "off")
    slots = combined(base, parse("B2=-; C2=8G").reading).slots
    assert [(slot.name, slot.filling) for slot in slots] == [("A2", "filled"), ("B2", "empty"), ("C2", "filled")]


def test_the_profile_is_found_off_from_spd_and_firmware_alone():
    reading = board(seen(), replace(seen(), serial=firmware("77")), spd=[own(), own()])
    judgement = judge(CaseFile(reading, None, take_promise("2x16G DDR5-6400; dual; profile 1")))
    assert "rate.profile_off" in {finding.code for finding in judgement.findings}


@pytest.mark.parametrize(("shown", "contradicts"), [("run 4800", False), ("run 2400MHz", False), ("run 5600", True)])
def test_a_shown_rate_against_the_firmwares(shown, contradicts):
    reading = combined(board(seen()), parse(shown).reading)
    assert bool(contradictions(reading)) is contradicts


@pytest.mark.parametrize(
    ("firmware", "system", "field", "value", "beside"),
    [
        ("2x8G; total 16G", "total 15.8G", "usable_bytes", 15.8, None),
        ("2x8G; total 16G", "total 16G; usable 15.8G", "usable_bytes", 15.8, None),
        ("2x8G; run 3200", "run 2933", "running_rate", 3200, 2933),
        ("2x8G", "dual", "channels", 2, None),
    ],
)
def test_what_the_system_shows_stands_beside_the_firmware_page(firmware, system, field, value, beside):
    reading = with_system(take_notation(firmware).reading, take_notation(system).reading)
    fact = getattr(reading, field)

    def plain(found):
        return round(found / 2**30, 1) if field.endswith("bytes") else found.number if field == "running_rate" else found

    assert plain(fact.value) == value
    assert [plain(other.value) for other in fact.others] == ([beside] if beside else [])
    assert len(reading.modules) == 2


def test_a_slot_that_is_typed_holds_another_module_than_was_read_there():
    base = board(seen(), seen(), spd=[own(), own()])
    changed = combined(base, parse("A2=48G DDR5-5600 part NEW-48").reading)
    module = view(changed).reading.slots[0].module
    assert (module.size_bytes.value, module.rated_mts.value, module.part.value, module.serial) == (48 * GIB, 5600, "NEW-48", None)
    assert module.profiles is None
    assert not contradictions(view(changed).reading)
    # The other one is as it was read, with its own word.
    assert changed.slots[1].module.profiles is not None
    # Words that agree are added to what was read, and nothing is lost.
    added = combined(base, parse("A2=16G").reading)
    assert added.spd == base.spd


def test_what_was_read_on_arrival_proves_nothing_of_other_modules():
    arrival = take_notation("A2=8G DDR4-2400; B2=-; run 2400; CL 17; single; total 8G; usable 7.9G; profile off; bits 64").reading
    now = fitted_since(arrival, take_notation("A2=16G DDR4-3200; B2=16G DDR4-3200").reading)
    assert [slot.module.size_bytes.value for slot in now.slots] == [16 * GIB, 16 * GIB]
    assert now.system_bits.value == 64
    judgement = judge(CaseFile(now, arrival, take_promise("2x16G DDR4-3200; dual")))
    assert judgement.verdict.value == "can't tell yet"
    assert {track.quantity.value for track in judgement.tracks if track.status is not None and track.status.value == "kept"} == set()
    seen_now = fitted_since(arrival, take_notation("A2=16G DDR4-3200; B2=16G DDR4-3200; run 3200; total 32G; dual").reading)
    assert judge(CaseFile(seen_now, arrival, take_promise("2x16G DDR4-3200; dual"))).verdict.value == "ready"
