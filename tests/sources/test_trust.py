"""What was accepted is kept where only its owner reads it; passwords are kept nowhere of ours."""

from __future__ import annotations

import pytest

from after_check.files.errors import SourceError
from after_check.sources import trust
from after_check.sources.trust import Access, TrustNeededError, add_line, lines_of


@pytest.fixture(autouse=True)
def folder(tmp_path, monkeypatch):
    monkeypatch.setenv("AFTER_CHECK_TRUST", str(tmp_path / "trust"))
    return tmp_path / "trust"


def test_lines_are_added_and_read_by_their_owner_only(folder):
    assert lines_of("known_hosts") == []
    add_line("known_hosts", "a")
    add_line("known_hosts", "b")
    assert lines_of("known_hosts") == ["a", "b"]
    assert (folder / "known_hosts").stat().st_mode & 0o777 == 0o600


def test_a_place_that_cannot_be_written_to_is_said(folder):
    folder.parent.mkdir(exist_ok=True)
    folder.write_text("a file where the folder should be")
    with pytest.raises(SourceError, match="cannot be kept"):
        add_line("known_hosts", "a")


def test_a_question_shows_host_and_fingerprint():
    needed = TrustNeededError("host:22", "host key", "SHA256:abc")
    assert "host:22 shows a host key that is not known here: SHA256:abc" in str(needed)
    assert needed.fingerprint == "SHA256:abc"


def test_a_system_without_a_keyring_keeps_no_password(monkeypatch):
    import keyring
    from keyring.backends.fail import Keyring

    monkeypatch.setattr(keyring, "get_keyring", Keyring)
    keyring.set_keyring(Keyring())
    assert trust.kept_password("ssh://a@b") is None
    with pytest.raises(SourceError, match="no keyring"):
        trust.keep_password("ssh://a@b", "secret")
    trust.forget_password("ssh://a@b")


def test_access_says_nothing_of_itself_by_default():
    assert Access() == Access(None, None, None)
