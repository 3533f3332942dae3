"""The command `shop`, settings and the log, as a person would use them."""

from __future__ import annotations

import json
import sqlite3

import pytest

from after_check.local.paths import log_path
from after_check.local.settings import shop_place
from after_check.shop.shop import Shop
from tests.helpers.commands import run, run_here
from tests.helpers.jobs import keep


def test_out_of_one_shop_and_into_another(tmp_path):
    one, two = str(tmp_path / "one.db"), str(tmp_path / "two.db")
    keep(Shop.open(tmp_path / "one.db"))
    assert "1 job and 2 pieces of evidence: sound" in run_here("shop", "check", "--shop", one).stdout
    assert run_here("shop", "hand-out", "0501", str(tmp_path / "job.zip"), "--shop", one).returncode == 0
    assert "job 0501 new" in run_here("shop", "bring-in", str(tmp_path / "job.zip"), "--shop", two).stdout
    assert run_here("shop", "backup", str(tmp_path / "all.zip"), "--shop", one).returncode == 0
    assert "0 new, 1 were here already" in run_here("shop", "restore", str(tmp_path / "all.zip"), "--shop", two).stdout
    moved = run_here("shop", "move", str(tmp_path / "three.db"), "--shop", one)
    assert "every job arrived as it left" in moved.stdout
    document = tmp_path / "job.json"
    assert run_here("handback", "0501", "--json", str(document), "--csv", str(tmp_path / "tables"), "--shop", one).returncode == 0
    assert json.loads(document.read_text())["number"] == "0501"
    assert (tmp_path / "tables" / "modules.csv").exists()


def test_a_damaged_shop_exits_1_and_saves_the_rest(tmp_path):
    path = tmp_path / "shop.db"
    shop = Shop.open(path)
    keep(shop)
    shop.close()
    with sqlite3.connect(path) as connection:
        connection.execute("UPDATE readings SET reading = '{'")
    found = run_here("shop", "check", "--save", str(tmp_path / "saved.zip"), "--shop", str(path))
    assert found.returncode == 1
    # What was typed is kept beside the reading: it is read again, and said.
    assert "! job 0501: a reading is damaged and was decoded again" in found.stdout
    assert "1 jobs saved" in found.stdout


def test_where_the_jobs_are_kept(tmp_path, monkeypatch):
    settings = tmp_path / "config" / "after-check"
    settings.mkdir(parents=True)
    (settings / "settings.toml").write_text('shop = "postgresql://bench@server/skarrow"\n')
    assert shop_place(None) == "postgresql://bench@server/skarrow"
    assert shop_place("here.db").name == "here.db"
    monkeypatch.setenv("AFTER_CHECK_SHOP", str(tmp_path / "named.db"))
    assert shop_place(None) == tmp_path / "named.db"


def test_a_failure_of_the_store_is_logged(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    failed = run("handback", "1", "--pdf", "x.pdf", "--shop", "postgresql://bench@127.0.0.1:1/none")
    assert failed.returncode == 74
    assert "does not answer" in failed.stderr
    assert "does not answer" in log_path().read_text()


def test_the_shop_is_named_in_either_place(tmp_path):
    """Before the command or behind it; behind it counts where both stand."""
    here, other, sheet = tmp_path / "here.db", tmp_path / "other.db", str(tmp_path / "job.json")
    for path in (here, other):
        shop = Shop.open(path)
        if path is here:
            keep(shop)
        shop.close()
    assert run_here("--shop", str(here), "handback", "0501", "--json", sheet).returncode == 0
    assert run_here("--shop", str(other), "handback", "0501", "--json", sheet, "--shop", str(here)).returncode == 0
    assert "no job 0501" in run_here("--shop", str(other), "handback", "0501", "--json", sheet).stderr
    assert run_here("--shop", str(here), "shop", "check").stdout.startswith("1 job")
    assert not (tmp_path / "data").exists(), "the usual shop was not made on the way"


def test_a_job_of_the_demo_is_not_looked_for_in_vain(tmp_path):
    failed = run_here("handback", "0417", "--pdf", str(tmp_path / "s.pdf"))
    assert failed.returncode == 74
    assert "add --demo" in failed.stderr
    assert "--demo" not in run_here("handback", "9999", "--pdf", str(tmp_path / "s.pdf")).stderr


def test_an_output_never_replaces_what_is_no_plain_file(tmp_path, shop, shop_path):
    keep(shop)
    kept, link = tmp_path / "kept", tmp_path / "link"
    kept.write_text("kept")
    link.symlink_to(kept)
    for arguments in (
        ("read", "A1=8G DDR4-2400", "--out", str(link)),
        ("handback", "0417", "--demo", "--pdf", str(link)),
        ("shop", "backup", str(link), "--shop", str(shop_path)),
    ):
        failed = run_here(*arguments)
        assert failed.returncode == 74, failed
        assert "this is a link and is not replaced" in failed.stderr
    assert (kept.read_text(), link.is_symlink()) == ("kept", True)


@pytest.mark.parametrize("command", [("check",), ("backup", "B"), ("hand-out", "0501", "B"), ("move", "T")])
def test_looking_at_a_shop_never_makes_one(tmp_path, command):
    words = [str(tmp_path / word) if word in ("B", "T") else word for word in command]
    yesterday = tmp_path / "B"
    yesterday.write_bytes(b"yesterday's backup")
    typo, empty = tmp_path / "shpo.db", tmp_path / "empty.db"
    empty.touch()
    for place, said in ((typo, "there is no shop at"), (empty, "is empty and no shop")):
        done = run_here("shop", *words, "--shop", str(place))
        assert done.returncode == 74
        assert said in done.stderr
    assert not typo.exists()
    assert empty.stat().st_size == 0
    assert yesterday.read_bytes() == b"yesterday's backup"
