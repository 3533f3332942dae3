"""What a stick carries: whole files whatever is pulled out, and jobs that come back joined to where they left."""

from __future__ import annotations

import contextlib
import json
import os
import subprocess
from dataclasses import replace
from datetime import UTC, datetime, timedelta
from io import BytesIO
from zipfile import ZipFile

import pytest

from after_check.domain.handback import HandBack
from after_check.domain.soak import SoakRecord, SoakState
from after_check.local.settings import Settings
from after_check.shop.errors import NotFoundError
from after_check.shop.exchange import bring_in, handed_out, job_file
from after_check.shop.shop import Shop
from after_check.shop.zip_files import zipped
from after_check.stick.contents import StickError, StickFolder, env_block
from after_check.stick.load import collect_stick, find_stick, load_stick
from tests.helpers.commands import run_here
from tests.helpers.jobs import FACTS, keep
from tests.helpers.needs import needs

SOAK = SoakRecord("short", SoakState.FINISHED, datetime(2026, 11, 2, 9, tzinfo=UTC), 60.0, ("a",), 1, 1, fully_swept_bytes=1 << 30)


@pytest.fixture
def stick(tmp_path):
    (tmp_path / "stick" / "after-check").mkdir(parents=True)
    return StickFolder(tmp_path / "stick")


def test_a_stick_without_its_folder_is_none(tmp_path):
    with pytest.raises(StickError, match="no stick of After Check"):
        StickFolder(tmp_path)


def test_jobs_go_out_and_come_back_joined(shop, stick, tmp_path):
    keep(shop)
    loaded = load_stick(shop, stick, ("0501",), False, Settings(shop_name="The corner"))
    assert (loaded.jobs, stick.whose()[1]) == (1, "The corner")
    # On the machine: another store, the same job, a test.
    there = Shop.open(tmp_path / "there.db")
    (on_stick,), problems = stick.jobs()
    assert not problems
    bring_in(there, on_stick.path)
    there.jobs.keep_soak("0501", SOAK)
    stick.put_job(on_stick.uid, job_file(there, "0501"))
    there.close()
    # Back at the bench, where meanwhile a note was written; twice is once.
    job = shop.jobs.job("0501")
    shop.jobs.change_facts(job, replace(job.facts, title="Tide desk, left"))
    for _ in range(2):
        assert collect_stick(shop, stick).problems == ()
    job = shop.jobs.job("0501")
    assert [kept.record.fully_swept_bytes for kept in job.soaks] == [1 << 30]
    assert job.facts.title == "Tide desk, left"
    assert len(job.readings) == 2


@pytest.mark.parametrize("clock", [timedelta(days=-4000), timedelta(0), timedelta(days=4000)])
def test_what_the_bench_changed_meanwhile_stays_whatever_the_sticks_clock(shop, stick, tmp_path, clock):
    """A stick carries promise, customer and notes out and changes none of them; its clock may be set to any day."""
    keep(shop)
    load_stick(shop, stick, ("0501",), False, Settings())
    there = Shop.open(tmp_path / "there.db")
    (on_stick,), _ = stick.jobs()
    bring_in(there, on_stick.path)
    there.jobs.keep_soak("0501", SOAK)
    document = json.loads(ZipFile(BytesIO(job_file(there, "0501"))).read("job.json"))
    document["changed_at"] = (datetime.now(UTC) + clock).isoformat()
    stick.put_job(on_stick.uid, zipped(document, handed_out(there, "0501")[1]))
    there.close()
    job = shop.jobs.job("0501")
    job = shop.jobs.change_facts(job, replace(job.facts, promise="2x32G", customer="somebody else", title="Tide desk, left"))
    shop.signing.keep_hand_back(job, HandBack(note="the charger is in the bag"))
    collect_stick(shop, stick)
    after = shop.jobs.job("0501")
    assert (after.facts.promise, after.facts.customer, after.facts.title) == ("2x32G", "somebody else", "Tide desk, left")
    assert after.hand_back.note == "the charger is in the bag"
    assert len(after.soaks) == 1
    assert after.changed_at <= datetime.now(UTC)


def test_a_file_that_was_cut_short_gives_way_to_the_one_before(shop, stick):
    keep(shop)
    data = job_file(shop, "0501")
    for cut in (len(data), len(data), len(data) // 2):
        stick.put_job(shop.jobs.job("0501").uid, data[:cut])
    files = sorted((stick.folder / "jobs").iterdir())
    assert [path.name.split(".")[1] for path in files] == ["2", "3"]
    (found,), problems = stick.jobs()
    assert found.path == files[0]
    assert "no zip file, or a damaged one" in problems[0]
    # The next one is whole again, and counts.
    stick.put_job(shop.jobs.job("0501").uid, data)
    assert stick.jobs()[0][0].path.name.split(".")[1] == "4"


def test_how_far_something_is_survives_a_cut(stick):
    stick.put_running("run", {"second": False})
    stick.put_running("run", {"second": True})
    newest = max((stick.folder / "running").iterdir(), key=lambda path: path.name)
    newest.write_bytes(newest.read_bytes()[:5])
    assert stick.running("run") == {"second": False}
    stick.forget_running("run")
    assert stick.running("run") is None


def test_a_stick_of_another_shop_is_refused(shop, stick, tmp_path):
    other = Shop.open(tmp_path / "other.db")
    keep(other)
    load_stick(other, stick, (), True, Settings(shop_name="Next door"))
    keep(shop)
    with pytest.raises(StickError, match=r"another shop \(Next door\) loaded this stick"):
        collect_stick(shop, stick)
    with pytest.raises(StickError, match="1 job of it are still on it"):
        load_stick(shop, stick, ("0501",), False, Settings())
    assert [became for _, became in collect_stick(shop, stick, any_shop=True).jobs] == ["new"]


def test_all_open_jobs_without_those_handed_back(shop, stick):
    keep(shop)
    keep(shop, replace(FACTS, number="0502"))
    shop.jobs.archive("0502")
    assert load_stick(shop, stick, (), True, Settings()).jobs == 1
    with pytest.raises(NotFoundError, match="no job 0999"):
        load_stick(shop, stick, ("0999",), False, Settings())


@needs(os.geteuid() == 0, "root, to mount a small file system")
def test_a_full_stick_keeps_what_was_there(shop, tmp_path):
    place = tmp_path / "small"
    place.mkdir()
    subprocess.run(["mount", "-t", "tmpfs", "-o", "size=64k", "tmpfs", str(place)], check=True)
    try:
        (place / "after-check").mkdir()
        stick = StickFolder(place)
        keep(shop)
        data = job_file(shop, "0501")
        stick.put_job(shop.jobs.job("0501").uid, data)
        with pytest.raises(StickError, match="the stick is full"):
            stick.put_job(shop.jobs.job("0501").uid, data + bytes(80 << 10))
        (found,), problems = stick.jobs()
        assert (found.path.read_bytes(), problems) == (data, ())
    finally:
        subprocess.run(["umount", str(place)], check=True)


def test_a_stick_is_found_by_where_it_is_mounted(tmp_path):
    mounts = tmp_path / "mounts"
    place = tmp_path / "my stick"
    (place / "after-check").mkdir(parents=True)
    written = str(place).replace(" ", "\\040")
    mounts.write_text(f"proc /proc proc rw 0 0\n/dev/sdz1 {written} vfat rw 0 0\n")
    assert find_stick(mounts, tmp_path / "no-labels") == place
    mounts.write_text("")
    with pytest.raises(StickError, match="no stick of After Check is plugged in"):
        find_stick(mounts, tmp_path / "no-labels")


def test_the_block_that_the_starting_program_reads():
    # The GRUB manual, "load_env": 1024 bytes, a head, lines, then #; a backslash is written twice.
    block = env_block({"next": "second", "second": r"memmap=511M$1M \x"})
    assert len(block) == 1024
    assert block.startswith(b"# GRUB Environment Block\nnext=second\nsecond=memmap=511M$1M \\\\x\n###")
    with pytest.raises(ValueError, match="too long"):
        env_block({"second": "x" * 1024})


def test_the_commands(shop, shop_path, stick):
    keep(shop)
    assert run_here("stick", "load", "--stick", str(stick.root), "--shop", str(shop_path)).returncode == 65
    loaded = run_here("stick", "load", "0501", "--stick", str(stick.root), "--shop", str(shop_path))
    assert "1 job and" in loaded.stdout
    collected = run_here("stick", "collect", "--stick", str(stick.root), "--shop", str(shop_path))
    assert (collected.returncode, collected.stdout) == (0, "job 0501 was here already, and is the same\n")
    nothing = run_here("stick", "collect", "--stick", str(stick.root / "none"), "--shop", str(shop_path))
    assert nothing.returncode == 65
    assert "no stick of After Check" in nothing.stderr


@pytest.mark.parametrize(
    "place", ["after-check", "after-check/jobs", "after-check/data-sheets", "after-check/running", "after-check/settings.toml"]
)
def test_no_link_of_a_prepared_stick_is_followed(shop, tmp_path, place):
    """A link to a folder or a file of the user: nothing there is read, written or taken away, and the stick says so."""
    keep(shop)
    root, own = tmp_path / "stick", tmp_path / "own"
    (root / "after-check").mkdir(parents=True)
    own.mkdir()
    (own / "settings.toml").write_text('theme = "mine"')
    for name in ("0123456789abcdef.1.zip", "0123456789abcdef.1.json", "x.toml"):
        (own / name).write_bytes(b"mine")
    before = {path.name: path.read_bytes() for path in own.iterdir()}
    link = root / place
    if link.exists():
        link.rmdir()
    link.symlink_to(own / "settings.toml" if link.suffix else own)
    with pytest.raises(StickError, match="link") if link.suffix != ".toml" else contextlib.nullcontext():
        folder = StickFolder(root)
        load_stick(shop, folder, ("0501",), False, Settings())
        folder.cards(), folder.running("x"), folder.settings_path
        folder.put_running("x", {})
    assert {path.name: path.read_bytes() for path in own.iterdir()} == before


@pytest.mark.parametrize("name", ["shop.json", "settings.toml.new", "jobs/0123456789abcdef.1.zip"])
def test_a_link_in_the_place_of_a_file_is_neither_read_nor_written(shop, stick, tmp_path, name):
    keep(shop)
    own = tmp_path / "own.txt"
    own.write_bytes(b"mine")
    link = stick.folder / name
    link.parent.mkdir(exist_ok=True)
    link.symlink_to(own)
    with contextlib.suppress(StickError):
        load_stick(shop, stick, ("0501",), False, Settings())
    assert own.read_bytes() == b"mine"


def test_another_jobs_file_under_this_jobs_name_is_left_out_and_told(shop, stick):
    keep(shop)
    uid = shop.jobs.job("0501").uid
    stick.put_job(uid, job_file(shop, "0501"))
    other = json.loads(ZipFile(BytesIO(job_file(shop, "0501"))).read("job.json")) | {"uid": "0" * 8 + uid[8:], "number": "0666"}
    stick.put_job(uid, zipped(other, handed_out(shop, "0501")[1]))
    (found,), problems = stick.jobs()
    assert found.uid == uid
    assert any("holds job 0666" in words for words in problems)
