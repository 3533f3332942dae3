"""Making room, against a folder as the kernel's control groups give it."""

from __future__ import annotations

from after_check.host.reclaim import make_room


def test_every_group_is_asked_until_it_gives_no_more(tmp_path):
    for name in ("system.slice", "user.slice"):
        (tmp_path / name).mkdir()
        (tmp_path / name / "memory.reclaim").touch()
    (tmp_path / "system.slice/memory.reclaim").chmod(0o200)
    assert make_room(tmp_path) == 2 * 64 * (8 << 20)
    assert (tmp_path / "user.slice/memory.reclaim").read_text() == str(8 << 20)


def test_a_group_that_refuses_and_a_system_without_them_are_no_trouble(tmp_path):
    assert make_room(tmp_path / "none") == 0
    (tmp_path / "a.slice/memory.reclaim").mkdir(parents=True)  # What cannot be written to.
    assert make_room(tmp_path) == 0
