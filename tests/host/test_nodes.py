"""Machines with several memory nodes: planned for one of 128 cores and a terabyte, and run with two made-up nodes on these cores."""

from __future__ import annotations

from collections import Counter
from types import SimpleNamespace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from after_check.domain.soak import SoakState
from after_check.files.tree import KeptFiles
from after_check.host.nodes import NumaNode, Turns, memory_nodes, shared_out
from after_check.host.processors import core_numbers
from after_check.soak.backgrounds import SOLID
from after_check.soak.march import parse_march
from after_check.soak.plans import custom
from after_check.soak.soak_run import MachineUnderTest, Soak, Wishes

GIB, MIB = 1 << 30, 1 << 20


def machine(cores_of, free_bytes=128 * GIB, folder="sys/devices/system/node"):
    """The files of a machine whose nodes have these cores."""
    files = {f"{folder}/has_normal_memory": f"0-{len(cores_of) - 1}\n".encode()}
    for number, cores in enumerate(cores_of):
        files[f"{folder}/node{number}/cpulist"] = f"{cores}\n".encode()
        files[f"{folder}/node{number}/meminfo"] = (
            f"Node {number} MemTotal: {1 << 28} kB\nNode {number} MemFree:  {free_bytes // 1024} kB\nNode {number} Inactive(file): 0 kB\n"
        ).encode()
    return files


EIGHT = [f"{first}-{first + 7},{first + 64}-{first + 71}" for first in range(0, 64, 8)]


def taken(nodes, pieces, size_bytes=128 * MIB):
    """Pieces as they would be taken, without the memory."""
    turns = Turns(nodes)
    found = []
    for _ in range(pieces):
        node = turns.next(size_bytes)
        found.append(SimpleNamespace(node=node.number if node is not None else None))
    return found


def test_nodes_are_read_with_the_cores_that_may_be_used():
    nodes = memory_nodes(KeptFiles(machine(EIGHT)), range(128))
    assert [node.number for node in nodes] == list(range(8))
    assert nodes[1] == NumaNode(1, (*range(8, 16), *range(72, 80)), 128 * GIB)
    # Limited to some cores, only their nodes are near; with one node left, or nothing told, there is nothing to plan.
    assert [node.number for node in memory_nodes(KeptFiles(machine(EIGHT)), range(4, 12))] == [0, 1]
    assert memory_nodes(KeptFiles(machine(EIGHT)), range(8)) == ()
    assert memory_nodes(KeptFiles({}), range(8)) == ()
    assert memory_nodes(KeptFiles({"sys/devices/system/node/online": b"x,-,9-\xff,0-99999999999\n"}), range(8)) == ()


def test_a_terabyte_is_taken_and_tested_where_it_lies():
    nodes = memory_nodes(KeptFiles(machine(EIGHT)), range(128))
    slices = taken(nodes, 8000)
    assert Counter(piece.node for piece in slices) == dict.fromkeys(range(8), 1000)
    shares = shared_out(slices, 128, nodes, range(128))
    assert len(shares) == 128
    assert {share.core for share in shares} == set(range(128))
    home = {core: node.number for node in nodes for core in node.cores}
    assert all(piece.node == home[share.core] for share in shares for _, piece in share.numbered)
    # 1,000 slices of a node for 16 threads: 62 or 63 each.
    assert {len(share.numbered) for share in shares} == {62, 63}


def test_a_node_with_more_memory_gives_more():
    nodes = (NumaNode(0, (0, 1), 96 * GIB), NumaNode(1, (2, 3), 32 * GIB))
    # 1,024 pieces of 128 MiB are all of it: three quarters and one quarter.
    assert Counter(piece.node for piece in taken(nodes, 1024)) == {0: 768, 1: 256}


@given(
    st.lists(st.integers(0, 40), min_size=1, max_size=5),
    st.integers(1, 20),
    st.integers(1, 4),
)
def test_every_slice_is_tested_once_and_by_a_core_of_its_node(counts, threads, cores):
    nodes = tuple(NumaNode(number, tuple(range(number * cores, number * cores + cores)), GIB) for number in range(len(counts)))
    slices = [SimpleNamespace(node=number) for number, count in enumerate(counts) for _ in range(count)]
    shares = shared_out(slices, threads, nodes, range(len(counts) * cores))
    assert sorted(number for share in shares for number, _ in share.numbered) == list(range(len(slices)))
    assert all(slices[number] is piece for share in shares for number, piece in share.numbered)
    assert len({len(share.numbered) for share in shares}) <= 2 or sum(count > 0 for count in counts) > 1
    if sum(count > 0 for count in counts) > 1:
        assert all(share.core // cores == piece.node for share in shares for _, piece in share.numbered)


def test_without_nodes_neighbours_stay_together():
    slices = [SimpleNamespace(node=None) for _ in range(10)]
    shares = shared_out(slices, 4, (), (5, 7))
    assert [[number for number, _ in share.numbered] for share in shares] == [[0, 1], [2, 3, 4], [5, 6], [7, 8, 9]]
    assert [share.core for share in shares] == [5, 7, 5, 7]
    assert [share.core for share in shared_out(slices, 4, (), ())] == [None] * 4


@pytest.mark.skipif(len(core_numbers()) < 2, reason="two nodes need two cores")
def test_a_soak_on_two_nodes_covers_both():
    one, other = core_numbers()[:2]
    files = machine([str(one), str(other)], GIB)
    files["proc/meminfo"] = b"MemTotal: 8388608 kB\nMemAvailable: 4194304 kB\n"
    plan = custom((parse_march("{any(w0); ^(r0,w1); v(r1)}"),), (SOLID,))
    soak = Soak(plan, Wishes(memory_bytes=64 * MIB), machine=MachineUnderTest(KeptFiles(files)))
    record = soak.run()
    assert (record.state, record.errors, record.fully_swept_bytes) == (SoakState.FINISHED, 0, 64 * MIB)
    assert [worker.core for worker in soak.workers] == [one, other]
    by_worker = [{piece.node for _, piece in worker.slices} for worker in soak.workers]
    assert by_worker == [{0}, {1}]
