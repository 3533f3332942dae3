"""What slot names tell, in the styles that boards and firmware use."""

from __future__ import annotations

import pytest

from after_check.domain.boards import Place, place_of


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
    ],
)
def test_styles(locator, bank, place):
    assert place_of(locator, bank) == Place(*place)


@pytest.mark.parametrize("locator", ["DIMM 3", "Slot 1", "", "XMM1", "Bottom - on board", "J6H1x"])
def test_names_that_tell_no_channel(locator):
    assert place_of(locator) is None
