"""What somebody is to do, or an offer, is not what is fitted now."""

from __future__ import annotations

import pytest

from after_check.domain.readings import Reading
from after_check.language.words.reader import understand
from after_check.language.words.understood import Scope


@pytest.mark.parametrize(
    "text",
    [
        "add 2x8 gb",
        "please fit 2x16",
        "install two 8gb ddr4",
        "upgrade quote: add 1x16GB SO-DIMM to it",
        "estimate for 2x8gb ddr4",
        "2x8 GB einbauen",
        "ajouter 2x8 Go",
        "2x8 GB plaatsen",
        "dodać 2x8 GB",
    ],
)
def test_an_order_is_no_fact_of_now(text):
    found = understand(text)
    assert found.reading == Reading()
    assert Scope.FUTURE in {one.because for one in found.left_aside}


@pytest.mark.parametrize("text", ["added 2x8 gb", "fitted 2x8 gb", "2x8 GB eingebaut", "2x8 gb installed"])
def test_what_was_done_is(text):
    assert len(understand(text).reading.modules) == 2
