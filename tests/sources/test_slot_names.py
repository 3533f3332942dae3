"""What slot names tell, in the styles that boards and firmware use."""

from __future__ import annotations

import pytest

from after_check.domain.boards import Filling, Place, Slot, place_of
from after_check.domain.case_files import CaseFile
from after_check.domain.facts import typed
from after_check.domain.modules import Form, Generation, Module
from after_check.domain.readings import RateUnit, Reading, ShownRate
from after_check.domain.standing import Quantity
from after_check.judgement.case import view
from after_check.judgement.judge import judge
from after_check.sources.open_source import take_notation


@pytest.mark.parametrize(
    ("locator", "bank", "place"),
    [
        ("A1", "", ("0", "A", 1)),
        ("B2", "", ("0", "B", 2)),
        ("DIMM_A1", "", ("0", "A", 1)),
        ("DIMM A", "", ("0", "A", 0)),
        ("DIMMA2", "", ("0", "A", 2)),
        ("ChannelA-DIMM0", "BANK 0", ("0", "A", 0)),
        ("ChannelB-DIMM1", "", ("0", "B", 1)),
        ("Controller0-ChannelA-DIMM0", "BANK 0", ("0.0", "A", 0)),
        ("Controller1-ChannelA-DIMM0", "BANK 0", ("0.1", "A", 0)),
        ("DIMM 0", "P0 CHANNEL A", ("0", "A", 0)),
        ("DIMM 1", "P0 CHANNEL B", ("0", "B", 1)),
        ("DIMM 0", "Channel A", ("0", "A", 0)),
        ("CPU1_DIMM_A2", "", ("1", "A", 2)),
        ("P1-DIMMB1", "", ("1", "B", 1)),
        ("Channel B Slot 1", "", ("0", "B", 1)),
        ("SODIMM A1", "", ("0", "A", 1)),
        ("DDR4_A1", "", ("0", "A", 1)),
        ("P0_A1", "", ("0", "A", 1)),
        ("CPU1_DIMM_A1", "", ("1", "A", 1)),
        ("DIMMC1", "", ("0", "C", 1)),
        ("DIMM000 J11", "", ("0", "0", 0)),
        ("DIMM121", "", ("1", "2", 1)),
        ("A", "", ("0", "A", 0)),
    ],
)
def test_styles(locator, bank, place):
    assert place_of(locator, bank) == Place(*place)


@pytest.mark.parametrize("locator", ["DIMM 3", "Slot 1", "", "XMM1", "A1_DIMM0", "Node0_Dimm1", "Bottom - on board", "J6H1x"])
def test_names_that_tell_no_channel(locator):
    assert place_of(locator) is None


@pytest.mark.parametrize(
    ("slots", "channels"),
    [
        ("A1 A2 B1 B2", 2),
        ("A1 B1 C1 D1 E1 F1 G1 H1", 8),
        ("A1 A2 A3 B1 B2 B3", 2),
        ("M1 M2", None),  # A board's own names.
        (" ".join(f"{letter}{number}" for letter in "AB" for number in range(1, 17)), None),  # The letter is the processor.
        ("A9 B9", None),
        ("A1_DIMM0 A1_DIMM1", None),
        ("DIMM000 DIMM010 DIMM020 DIMM030", 4),
    ],
)
def test_whether_letters_are_channels(slots, channels):
    """A channel has at most three slots; where names do not settle it, it is not known."""
    line = "; ".join(f'"{name}"=16G DDR4-2933' for name in slots.split())
    assert view(take_notation(f"{line}; run 2933").reading).channels.count == channels


@pytest.mark.parametrize(
    ("devices", "width", "shown", "channels"),
    [(8, 16, None, 2), (4, 32, None, 2), (8, None, None, 2), (4, None, None, 2), (4, 16, None, 1), (8, 16, 8, 2), (2, None, 2, 2)],
)
def test_soldered_channels_count_by_their_bits(devices, width, shown, channels):
    """8 x 16 and 4 x 32 bits are a memory of 128 bits, as wide as two channels of modules (JESD209-4, JESD209-5)."""
    module = Module(
        **{name: typed(value) for name, value in (("size_bytes", 2 << 30), ("generation", Generation.LPDDR5), ("form", Form.SOLDERED))},
        data_width_bits=typed(width) if width else None,
    )
    slots = tuple(
        Slot(f"DIMM {number}", Filling.FILLED, module, f"P0 CHANNEL {letter}") for number, letter in enumerate("ABCDEFGH"[:devices])
    )
    reading = Reading(slots=slots, channels=typed(shown) if shown else None, running_rate=typed(ShownRate(6400, RateUnit.MTS)))
    judgement = judge(CaseFile(reading))
    assert judgement.track(Quantity.CHANNELS).now == channels
    # 6400 MT/s over 128 bits are 102.4 GB/s.
    assert judgement.track(Quantity.PEAK).now == 51.2 * channels
    assert "source.disagree" not in {finding.code for finding in judgement.findings}
