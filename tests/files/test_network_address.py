"""Addresses through one door: what RFC 3986 allows is taken apart by it, the rest is refused in a sentence that shows no password."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from after_check.files.errors import SourceError
from after_check.files.network_address import NetworkAddress, parse_network_address
from after_check.shop.shop import Shop
from after_check.soak.appliance import ApplianceSoak, NoServiceError
from after_check.sources.redfish import RedfishAddress, parse_redfish_address
from after_check.sources.ssh import SshAddress, parse_ssh_address

# Taken apart by hand from RFC 3986, 3.2.
GOOD = (
    ("ssh://bench@desk", NetworkAddress("desk", None, "bench")),
    ("ssh://bench@desk.shop.example:2222/", NetworkAddress("desk.shop.example", 2222, "bench")),
    ("ssh://bench@192.0.2.7:65535", NetworkAddress("192.0.2.7", 65535, "bench")),
    ("ssh://bench@[2001:db8::7]:22/tree/one", NetworkAddress("2001:db8::7", 22, "bench", "/tree/one")),
    ("  ssh://DESK  ", NetworkAddress("desk")),
)
NO_ADDRESS = (
    "", "desk", "ssh:", "ssh://", "ssh:///x", "ssh://bench@", "ssh://desk:0", "ssh://desk:65536", "ssh://desk:99999", "ssh://desk:-1",
    "ssh://desk:x", "ssh://desk:²", "ssh://[::1", "ssh://[::1]x", "ssh://[::g]", "ssh://de sk", "ssh://desk\n", "ssh://de\x1b[31msk",
    "ssh://desk?x=1", "ssh://desk#x", "http://desk", "ssh://-oProxyCommand=x", "ssh://bench@-x", "ssh://b;rm@desk", "ssh://" + "a" * 3000,
)  # fmt: skip


@pytest.mark.parametrize(("text", "parts"), GOOD)
def test_an_address_is_taken_apart(text, parts):
    assert parse_network_address(text, "ssh", "ssh://USER@HOST") == parts


@pytest.mark.parametrize("text", [text for text in NO_ADDRESS if text != "ssh://desk\n"])
def test_what_is_no_address_is_refused_and_says_how_one_is_written(text):
    with pytest.raises(SourceError, match=r"(?i)write ssh://USER@HOST"):
        parse_network_address(text, "ssh", "ssh://USER@HOST")


DOORS = {
    "ssh": lambda at: parse_ssh_address(f"ssh://bench@{at}"),
    "redfish": lambda at: parse_redfish_address(f"redfish+https://{at}"),
    "appliance": lambda at: ApplianceSoak(f"http://{at}"),
}


@pytest.mark.parametrize("door", DOORS)
@pytest.mark.parametrize("at", ["[::1", "desk:99999", "desk:-1", "desk:0", "desk:x", "de sk", "", "desk:٣", "[::1]:", "a" * 3000])
def test_every_door_refuses_the_same(door, at):
    if at == "[::1]:":  # RFC 3986, 3.2.3: an empty port is none.
        DOORS[door](at)
        return
    with pytest.raises((SourceError, NoServiceError)):
        DOORS[door](at)


@pytest.mark.parametrize("door", DOORS)
def test_no_door_takes_or_shows_a_password(door):
    with pytest.raises((SourceError, NoServiceError)) as caught:
        DOORS[door]("desk:geheim@host" if door != "ssh" else "x:geheim@host")
    assert "geheim" not in str(caught.value)


def test_an_address_comes_back_as_it_is_written():
    assert str(SshAddress("bench", "2001:db8::7", 2222)) == "ssh://bench@[2001:db8::7]:2222"
    assert RedfishAddress("2001:db8::7").place == "[2001:db8::7]"


@pytest.mark.parametrize("port", ["99999", "-1", "x"])
def test_a_shop_at_a_port_that_there_is_not_is_said(port):
    from after_check.shop.errors import ShopError

    with pytest.raises(ShopError):
        Shop.open(f"postgresql://bench@127.0.0.1:{port}/skarrow")


@given(st.text(max_size=60))
def test_any_text_is_an_address_or_refused(text):
    for line in (text, f"ssh://{text}", f"ssh://bench@{text}"):
        try:
            found = parse_network_address(line, "ssh", "ssh://USER@HOST")
        except SourceError:
            continue
        assert found.host
        assert found.port is None or 1 <= found.port <= 65535
