"""How much memory is available, and taking it."""

from __future__ import annotations

import pytest

from after_check.files.tree import Tree
from after_check.host import held_memory
from after_check.host.held_memory import NotEnoughMemoryError, WantedMemory, available_memory, hold, usual_reserve_bytes

MIB = 1 << 20
GIB = 1 << 30


@pytest.fixture
def machine(tmp_path):
    """A folder that says what a machine's /proc and /sys would."""

    def make(**files):
        for name, text in files.items():
            path = tmp_path / "root" / name.replace("__", "/")
            path.parent.mkdir(parents=True, exist_ok=True)
            path.write_text(text)
        return Tree(tmp_path / "root")

    return make


def meminfo(total_gib, available_gib):
    return f"MemTotal: {int(total_gib * MIB)} kB\nMemFree: 1 kB\nMemAvailable: {int(available_gib * MIB)} kB\n"


def test_what_the_system_says(machine):
    found = available_memory(machine(proc__meminfo=meminfo(16, 12)))
    assert (found.available_bytes, found.installed_bytes, found.group_limit_bytes) == (12 * GIB, 16 * GIB, None)


def test_an_old_kernel_says_only_what_is_free(machine):
    assert available_memory(machine(proc__meminfo="MemTotal: 2048 kB\nMemFree: 1024 kB\n")).available_bytes == MIB


@pytest.mark.parametrize("text", ["", "MemTotal: much\n", "\0\0\0"])
def test_a_system_that_does_not_say(machine, text):
    with pytest.raises(NotEnoughMemoryError, match="--memory"):
        available_memory(machine(proc__meminfo=text))


def test_no_meminfo_at_all(tmp_path):
    with pytest.raises(NotEnoughMemoryError, match="cannot be read"):
        available_memory(Tree(tmp_path))


def test_the_limit_of_a_control_group(machine):
    tree = machine(
        proc__meminfo=meminfo(16, 12),
        proc__self__cgroup="0::/box/one\n",
        sys__fs__cgroup__box__memory_max="max\n",
        **{"sys__fs__cgroup__box__one__memory.max": f"{2 * GIB}\n", "sys__fs__cgroup__box__one__memory.current": f"{GIB // 2}\n"},
    )
    found = available_memory(tree)
    assert (found.available_bytes, found.group_limit_bytes) == (2 * GIB - GIB // 2, 2 * GIB)


def test_the_tightest_group_above_counts(machine):
    tree = machine(
        proc__meminfo=meminfo(16, 12),
        proc__self__cgroup="0::/box/one\n",
        **{
            "sys__fs__cgroup__box__memory.max": f"{GIB}\n",
            "sys__fs__cgroup__box__memory.current": "0\n",
            "sys__fs__cgroup__box__one__memory.max": f"{4 * GIB}\n",
            "sys__fs__cgroup__box__one__memory.current": "0\n",
        },
    )
    assert available_memory(tree).available_bytes == GIB


def test_an_older_kind_of_group(machine):
    tree = machine(
        proc__meminfo=meminfo(16, 12),
        **{
            "sys__fs__cgroup__memory__memory.limit_in_bytes": f"{3 * GIB}\n",
            "sys__fs__cgroup__memory__memory.usage_in_bytes": f"{GIB}\n",
        },
    )
    assert available_memory(tree).available_bytes == 2 * GIB


def test_an_older_kind_of_group_far_below_the_root(machine):
    tree = machine(
        proc__meminfo=meminfo(16, 12),
        proc__self__cgroup="12:cpu,cpuacct:/\n9:memory:/box/one\n0::/\n",
        **{
            "sys__fs__cgroup__memory__memory.limit_in_bytes": f"{1 << 62}\n",
            "sys__fs__cgroup__memory__box__one__memory.limit_in_bytes": f"{3 * GIB}\n",
            "sys__fs__cgroup__memory__box__one__memory.usage_in_bytes": f"{GIB}\n",
        },
    )
    assert available_memory(tree).available_bytes == 2 * GIB


@pytest.mark.parametrize(
    ("available", "reserve"),
    [(512 * MIB, 48 * MIB), (25 * GIB, GIB), (2048 * GIB, 2 * GIB)],
)
def test_the_usual_reserve(available, reserve):
    # 4 per cent, between 48 MiB and 2 GiB: 4 per cent of 25 GiB is 1 GiB.
    assert usual_reserve_bytes(available) == reserve
    if available >= 2 * GIB:
        assert (available - reserve) / available >= 0.95


def test_taking_leaves_the_reserve_and_says_what_is_out_of_reach(machine):
    told = []
    tree = machine(proc__meminfo=meminfo(1, 0.5))
    held = hold(tree, WantedMemory(reserve_bytes=448 * MIB), tell=lambda *both: told.append(both))
    try:
        assert held.held_bytes == 64 * MIB
        assert told[-1] == (64 * MIB, 64 * MIB)
        assert all(piece.words.sum() == 0 for piece in held.slices)
        assert any("512 MiB are held by the system" in words for words in held.covered.out_of_reach)
        assert held.covered.of_installed == 64 / 1024
    finally:
        held.give_back()
    assert held.held_bytes == 0


def test_no_room(machine):
    with pytest.raises(NotEnoughMemoryError, match="smaller --reserve"):
        hold(machine(proc__meminfo=meminfo(1, 0.05)), WantedMemory(reserve_bytes=48 * MIB))


def test_memory_that_goes_away_while_it_is_taken(machine, monkeypatch):
    tree = machine(proc__meminfo=meminfo(1, 0.5))
    real, calls = held_memory.available_memory, []

    def shrinking(files):
        calls.append(files)
        found = real(files)
        return found if len(calls) < 4 else held_memory.AvailableMemory(10 * MIB, found.installed_bytes)

    monkeypatch.setattr(held_memory, "available_memory", shrinking)
    held = hold(tree, WantedMemory(256 * MIB, 64 * MIB))
    try:
        assert 0 < held.held_bytes < 256 * MIB
        assert any("without its reserve" in words for words in held.covered.out_of_reach)
    finally:
        held.give_back()


def test_a_system_that_refuses_to_lock_is_told_of_once(machine, monkeypatch):
    class Refusing:
        problem = ""

        def lock(self, address, size_bytes):
            self.problem = "memory may not be locked"
            return False

    monkeypatch.setattr(held_memory, "Locker", Refusing)
    held = hold(machine(proc__meminfo=meminfo(1, 0.5)), WantedMemory(32 * MIB))
    held.give_back()
    assert not held.covered.locked
    assert held.covered.out_of_reach[0] == "memory may not be locked"


def test_a_system_that_gives_less(machine, monkeypatch):
    real, taken = held_memory.take_slice, []

    def take(size_bytes, locker):
        taken.append(size_bytes)
        if len(taken) > 5:
            raise OSError(12, "Cannot allocate memory")
        return real(size_bytes, locker)

    monkeypatch.setattr(held_memory, "take_slice", take)
    held = hold(machine(proc__meminfo=meminfo(1, 0.5)), WantedMemory(128 * MIB))
    held.give_back()
    assert 0 < held.covered.held_bytes < 128 * MIB
    assert any("Cannot allocate memory" in words for words in held.covered.out_of_reach)
