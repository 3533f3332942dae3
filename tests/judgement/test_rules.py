"""Rules whose facts have no notation, and what findings say in words."""

from __future__ import annotations

from dataclasses import replace

import pytest

from after_check.domain.boards import Filling, Slot
from after_check.domain.case_files import CaseFile
from after_check.domain.codes import Severity
from after_check.domain.facts import Fact, Source
from after_check.domain.modules import Generation, Module
from after_check.domain.readings import FirmwareChannel, Machine, Notice, NoticeKind, Reading
from after_check.domain.tries import Blame, NamedClass, Suspect, SuspectKind
from after_check.judgement.case import view
from after_check.judgement.judge import judge
from after_check.judgement.timings import clocks_at, module_times
from after_check.sources.card_file import parse_card
from after_check.sources.open_source import take_notation, take_promise
from after_check.sources.spd_image import module_from_spd
from after_check.standards.spd import decode
from after_check.texts import words_of
from tests.standards import spd_images as images

GIB = 1 << 30


def findings(after, promise="", before="", card=""):
    judgement = judge(
        CaseFile(
            after if isinstance(after, Reading) else take_notation(after).reading,
            (before if isinstance(before, Reading) else take_notation(before).reading) if before else None,
            take_promise(promise) if promise else None,
            parse_card(card) if card else None,
        )
    )
    return {finding.code: finding for finding in judgement.findings}


def with_notice(kind, what):
    return replace(take_notation("2x8G").reading, notices=(Notice(kind, what, "some/file", "read as root"),))


def test_what_could_not_be_read_is_said_with_what_would_help():
    rights = findings(with_notice(NoticeKind.RIGHTS, "the tables may not be read"))["source.rights"]
    assert words_of(rights).reason == "The tables may not be read (some/file)."
    assert words_of(rights).next == "Read as root."
    damaged = findings(with_notice(NoticeKind.DAMAGED, "the table is cut off"))["source.damaged"]
    assert damaged.severity is Severity.NOTE
    assert "cut off" in words_of(damaged).reason


def test_another_firmware_version_is_noted():
    def machine(version):
        base = take_notation("2x8G").reading
        return replace(base, machine=Machine(firmware_version=Fact(version, Source.FIRMWARE)))

    assert words_of(findings(machine("1.2"), before=machine("1.1"))["firmware.updated"]).title == "The firmware changed from 1.1 to 1.2"
    assert "firmware.updated" not in findings(machine("1.1"), before=machine("1.1"))


def test_a_missing_module_names_its_slot_and_points_at_it():
    found = findings("A1=8G; B1=-; run 2400", "A1=8G; B1=8G")["module.missing"]
    assert found.slots == ("B1",)
    assert words_of(found).title == "One module not seen: B1 is empty"
    assert "latches" in words_of(found).next


def test_without_a_named_slot_the_empty_ones_are_listed():
    found = findings("A1=8G; A2=-; B1=-; B2=-; total 8G", "2x8G")["module.missing"]
    assert found.slots == ()
    assert "A2, B1 and B2" in words_of(found).reason
    assert found.sure < 0.95


def test_the_move_that_mends_wrong_slots():
    found = findings("A1=8G; A2=8G; B1=-; B2=-; total 16G", "2x8G; dual")["channels.wrong_slots"]
    assert words_of(found).next == "Power off and move the module from A1 to B2; then read again."
    card = '[card]\nname = "M"\n' + "".join(
        f'[[memory.slot]]\nname = "{name}"\nchannel = "{name[0]}"\n' for name in ("A1", "B1", "A2", "B2")
    )
    by_card = findings("A1=8G; A2=8G; B1=-; B2=-; total 16G", "2x8G; dual", card=card)["channels.wrong_slots"]
    assert words_of(by_card).next == "Power off and move the module from A2 to B1; then read again."


def test_a_slow_module_is_named_in_the_reason():
    found = findings("A1=8G DDR4-2400 noprof; B1=8G DDR4-3200 noprof; run 2400", "2x8G; run 3200")["rate.slowest_module"]
    assert found.slots == ("A1",)
    assert words_of(found).reason.startswith("The module in A1 goes no faster than 2400 MT/s")
    assert "3200" in words_of(found).next


def test_timings_are_compared_in_ns_in_a_sentence_for_the_customer():
    # CL25 at 3200 is 15.625 ns, CL22 13.75 ns: 1.875 ns, which nobody notices.
    found = findings("A2=8G DDR4-3200 CL22; B2=8G DDR4-3200 CL25; run 3200")["timings.mixed"]
    assert words_of(found).customer == "The slower modules make all of them wait 1.9 ns longer for the first word. Nobody will notice."
    assert found.severity is Severity.NOTE
    # CL16 at 3200 is 10.0 ns, CL22 13.75 ns.
    felt = findings("2x8G DDR4-3200; run 3200; CL 22", before="2x8G DDR4-3200; run 3200; CL 16")["timings.slower"]
    assert words_of(felt).customer == "The new memory waits 3.8 ns longer for the first word. Some programs may feel it."
    assert felt.severity is Severity.TELL


def test_clocks_at_a_common_rate():
    assert clocks_at(13.75, 3200) == 22
    assert clocks_at(13.75, 2933) == 21
    assert clocks_at(13.75, 2400) == 17


@pytest.mark.parametrize(
    ("line", "mts"),
    [
        ("run 2666MHz", 2666),  # No memory runs at 5332.
        ("run 1467MHz", 2933),
        ("run 1333MHz", None),  # DDR3-1333, or the clock of DDR4-2666.
        ("2x8G DDR4; run 1333MHz", 2666),
        ("2x8G DDR4-2666; run 2666MHz", 2666),
    ],
)
def test_a_figure_in_megahertz_whose_kind_of_memory_may_not_be_known(line, mts):
    assert view(take_notation(line).reading).rate_mts == mts


def test_an_spds_times_count_at_its_standard_rate_and_typed_ones_at_what_it_is_sold_as():
    own = module_times(module_from_spd(decode(bytes(images.ddr4_profiles(images.ddr4()))), "f"))
    assert own is not None
    assert own.first_word_ns == pytest.approx(13.75)
    (typed,) = take_notation("16G DDR4-3600 CL18 std 2400").reading.modules
    times = module_times(typed)
    assert times is not None
    assert times.first_word_ns == pytest.approx(10.0)
    assert module_times(take_notation("16G DDR4-3600").reading.modules[0]) is None


def test_channels_from_the_firmwares_list_where_names_tell_none():
    module = Module(size_bytes=Fact(8 * GIB, Source.FIRMWARE), generation=Fact(Generation.DDR4, Source.FIRMWARE))
    slots = tuple(Slot(f"Slot {number}", Filling.FILLED, module) for number in (1, 2))
    plain = Reading(slots=slots)
    assert view(plain).channels.count is None
    listed = replace(plain, firmware_channels=(FirmwareChannel("channel 1", ("Slot 1",)), FirmwareChannel("channel 2", ("Slot 2",))))
    channels = view(listed).channels
    assert channels.count == 2
    assert channels.basis == "worked out from the firmware's list of channels"


def test_a_module_that_is_too_many_is_told():
    found = findings("A1=4G; A2=16G; B2=16G", "A1=-; A2=16G; B2=16G")["module.unexpected"]
    assert words_of(found).title == "A module not promised in A1"
    assert found.slots == ("A1",)


def test_locked_by_the_card_only_where_nothing_else_was_read():
    card = '[card]\nname = "K"\n[memory]\nprofile = "locked"\n'
    reading = take_notation("2x16G DDR4-3600 prof1 3600 std 2400; run 3600; dual; profile 1").reading
    promise = take_promise("2x16G DDR4-3600; dual; profile 1")
    assert judge(CaseFile(reading, None, promise, parse_card(card))).verdict.value == "ready"


@pytest.mark.parametrize(
    ("after", "promise", "code"),
    [
        ("A1=8G; B1=8G; run 2400; virtual", "2x8G; dual", "source.virtual"),
        ("2x8G DDR4-2400; run 2400; dual; reset", "2x8G DDR4-2400", "firmware.reset"),
        ("2x8G; soak errors 2", "2x8G", "soak.errors"),
        ("2x8G; off-under-load", "2x8G", "cause.outside"),
    ],
)
def test_customers_are_told_without_jargon(after, promise, code):
    customer = words_of(findings(after, promise)[code]).customer
    for word in ("SPD", "JEDEC", "hypervisor", "CRC", "rank", "MT/s", "DIMM"):
        assert word not in customer


def blame(kind, name, works_now=False, fitted_now=2, settled=True, fitted_gib=None):
    return Blame(
        (Suspect(kind, name, 0.97),),
        settled,
        f"It is {name} (97% sure).",
        (),
        4,
        False,
        ("B2",),
        works_now,
        fitted_now,
        fitted_gib and fitted_gib * GIB,
    )


@pytest.mark.parametrize(
    ("tried", "codes", "severity"),
    [
        (blame(SuspectKind.MODULE, "b"), ["cause.found", "start.none"], Severity.FIX),
        (blame(SuspectKind.OUTSIDE, "heat"), ["cause.outside", "start.none"], Severity.FIX),
        (blame(SuspectKind.MODULE, "b", works_now=True), ["cause.found", "start.none"], Severity.NOTE),
        (blame(SuspectKind.MODULE, "b", works_now=True, fitted_now=1), ["cause.found", "start.none"], Severity.FIX),
        (blame(SuspectKind.MODULE, "b", works_now=True, fitted_gib=16), ["cause.found", "start.none"], Severity.FIX),
        (blame(SuspectKind.MODULE, "b", works_now=True, fitted_gib=32), ["cause.found", "start.none"], Severity.NOTE),
        (blame(SuspectKind.MODULE, "b", settled=False), ["cause.open", "start.none"], Severity.FIX),
        (blame(SuspectKind.MODULE, "b", settled=False, works_now=True), ["cause.open", "start.none"], Severity.NOTE),
        (blame(SuspectKind.MODULE, "b", settled=False, works_now=True, fitted_now=1), ["cause.open", "start.none"], Severity.FIX),
        (blame(SuspectKind.MARGINAL, "b"), ["cause.found", "start.none"], Severity.FIX),
        (blame(SuspectKind.ORDER, "A2"), ["cause.found", "start.none"], Severity.FIX),
        (blame(SuspectKind.CHANNEL, "A"), ["cause.found", "start.none"], Severity.FIX),
        (blame(SuspectKind.NOTHING, "came once", works_now=True), ["cause.found", "start.none"], Severity.NOTE),
    ],
)
def test_what_the_tries_say_is_a_finding(tried, codes, severity):
    reading = take_notation("A2=16G DDR4-3200; B2=16G DDR4-3200; start no").reading
    found = judge(CaseFile(reading, None, take_promise("2x16G DDR4-3200; dual"), tried=tried)).findings
    wanted = [item for item in found if item.code.startswith(("cause", "start"))]
    assert sorted(named.code for named in wanted) == codes
    assert all(tried.says in words_of(named).reason for named in wanted)
    if "cause" in codes[0]:
        assert next(named for named in wanted if named.code.startswith("cause")).severity is severity


@pytest.mark.parametrize("kind", SuspectKind)
def test_every_suspect_has_an_act_and_words_for_the_customer(kind):
    reading = take_notation("A2=16G DDR4-3200; B2=16G DDR4-3200").reading
    found = judge(CaseFile(reading, None, take_promise("2x16G DDR4-3200; dual"), tried=blame(kind, "B2"))).findings
    named = next(finding for finding in found if finding.code.startswith("cause"))
    assert words_of(named).next.endswith(".")
    assert words_of(named).customer.endswith(".")
    assert "{" not in words_of(named).next + words_of(named).customer


def test_modules_that_one_act_mends_are_named_with_that_act():
    suspects = (Suspect(SuspectKind.MODULE, "a", 0.6), Suspect(SuspectKind.MIX, "a + z", 0.36))
    one = NamedClass(suspects, ("a",), "module a does not go into this machine: fit others in its place", 0.96)
    tried = replace(blame(SuspectKind.MODULE, "a"), suspects=suspects, named=one)
    reading = take_notation("A2=16G DDR4-3200; B2=16G DDR4-3200").reading
    found = judge(CaseFile(reading, None, take_promise("2x16G DDR4-3200; dual"), tried=tried)).findings
    named = next(finding for finding in found if finding.code == "cause.found")
    assert words_of(named).title == "The tries show: module a or a + z together"
    assert words_of(named).next.startswith("Module a does not go into this machine")
    assert named.sure == 0.96


def test_what_is_kept_back_is_told_as_exactly_as_it_was_read():
    """12 - 11.9 is 0.1 of a figure with one decimal, and no 102.4 MiB."""
    told = words_of(findings("1x8G DDR4; 1x4G DDR4; total 12G; usable 11.9G", "12G")["capacity.reserved"])
    assert told.title.startswith("About 0.1 GiB kept")
    assert "about 0.1 GiB is kept" in told.customer
