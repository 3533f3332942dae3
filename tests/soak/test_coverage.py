"""Which faults the march programs find, against what the literature says of them.

A. J. van de Goor, "Using March Tests to Test SRAMs" (1993), and "Testing Semiconductor Memories" (1991), tables of
chapter 4, for stuck-at to state coupling faults and the linked idempotent ones; S. Hamdioui, A. J. van de Goor and
M. Rodgers, "March SS" (2002), for all simple static faults, which take in RDF, DRDF, IRF and WDF; a program without
pauses finds no retention faults. Only what is published is listed; the rest is left open.
"""

from __future__ import annotations

from itertools import product

import pytest

from after_check.soak.coverage import Found, coverage_of, finds, interpret
from after_check.soak.faults import Coupling, Fault, Memory, Model, ReadFault, StateCoupling, StuckAt, Transition, WriteDisturb, faults_of
from after_check.soak.march import PROGRAMS, RETENTION, Order, parse_march

F, P, N = Found.FULLY, Found.PARTLY, Found.NOT
PUBLISHED = {
    "MATS": {"SAF": F, "TF": P, "AF": P, "CFin": P, "WDF": N},
    "MATS+": {"SAF": F, "AF": F, "TF": P},
    "MATS++": {"SAF": F, "AF": F, "TF": F},
    "March X": {"SAF": F, "AF": F, "TF": F, "CFin": F, "CFid": P},
    "March Y": {"SAF": F, "AF": F, "TF": F, "CFin": F, "CFid": P, "linked TF": F},
    "March C-": {"SAF": F, "AF": F, "TF": F, "CFin": F, "CFid": F, "CFst": F, "linked CFid": P, "DRDF": N, "WDF": N},
    "March A": {"SAF": F, "AF": F, "TF": F, "CFin": F, "CFid": F, "linked CFid": F},
    "March B": {"SAF": F, "AF": F, "TF": F, "CFin": F, "CFid": F, "linked CFid": F, "linked TF": F},
    "March LR": {"SAF": F, "AF": F, "TF": F, "CFin": F, "CFid": F, "CFst": F, "linked CFid": F, "linked TF": F},
    "March SS": {"SAF": F, "TF": F, "CFst": F, "CFid": F, "CFin": F, "RDF": F, "DRDF": F, "IRF": F, "WDF": F},
}


@pytest.mark.parametrize("name", PUBLISHED)
def test_the_table_agrees_with_the_published_one(name):
    found = {covered.model.value: covered.verdict for covered in coverage_of(PROGRAMS[name])}
    assert {model: found[model] for model in PUBLISHED[name]} == PUBLISHED[name]
    assert found["DRF"] is N
    assert (found["RDF"], found["IRF"]) == (F, F)


def test_only_pauses_find_lost_values():
    found = {covered.model: covered.verdict for covered in coverage_of(RETENTION)}
    assert found[Model.DRF] is F
    assert found[Model.DRDF] is N
    one_value = parse_march("{⇕(w1); Del; ⇕(r1)}")
    assert coverage_of(one_value, [Model.DRF])[0].verdict is P


def test_one_more_cell_changes_nothing():
    for name in ("MATS+", "March C-"):
        for model in (Model.SAF, Model.TF, Model.CFIN, Model.CFID, Model.CFST):
            small, large = (coverage_of(PROGRAMS[name], [model], cells)[0] for cells in (3, 4))
            assert small.verdict is large.verdict, (name, model)


def test_how_many_faults_there_are():
    # n cells: 2n single-cell faults of a kind; n(n-1) ordered pairs, by 2 changes (CFin) and by 2 forced values (CFid, CFst).
    counts = {model: len(list(faults_of(model, 3))) for model in Model}
    assert counts[Model.SAF] == counts[Model.TF] == counts[Model.WDF] == 2 * 3
    assert counts[Model.CFIN] == 6 * 2
    assert counts[Model.CFID] == counts[Model.CFST] == 6 * 4


def test_a_sound_memory_passes_every_program():
    for program in (*PROGRAMS.values(), RETENTION):
        for first in product((0, 1), repeat=3):
            for either in (Order.UP, Order.DOWN):
                assert interpret(program, Memory(list(first)), either) is None


def reads(memory, steps):
    """Run steps like `0w1` (write 1 to cell 0) and `1r`; return what the reads gave."""
    found = []
    for step in steps.split():
        if step[1] == "w":
            memory.write(int(step[0]), int(step[2]))
        else:
            found.append(memory.read(int(step[0])))
    return found


@pytest.mark.parametrize(
    ("rule", "steps", "expected"),
    [
        (StuckAt(0, 1), "0w0 0r 1w0 1r", [1, 0]),
        (Transition(0, before=0), "0w0 0w1 0r", [0]),
        (Transition(0, before=1), "0w1 0w0 0r 0w1 0r", [1, 1]),
        (Coupling(0, 1, before=0, forced=None), "0w0 1w0 0w1 1r 0w0 1r 0w1 1r", [1, 1, 0]),
        (Coupling(0, 1, before=1, forced=1), "0w1 1w0 0w0 1r 1w0 0w1 1r", [1, 0]),
        (StateCoupling(0, 1, held=1, forced=0), "0w0 1w1 1r 0w1 1r 1w1 1r", [1, 0, 0]),
        (ReadFault(0, 0, flips=True, lies=True), "0w0 0r 0r", [1, 1]),
        (ReadFault(0, 0, flips=True, lies=False), "0w0 0r 0r", [0, 1]),
        (ReadFault(0, 1, flips=False, lies=True), "0w1 0r 0r", [0, 0]),
        (WriteDisturb(0, 0), "0w1 0w0 0r 0w0 0r", [0, 1]),
    ],
)
def test_the_models_do_what_their_names_say(rule, steps, expected):
    assert reads(Memory([0, 0], (rule,)), steps) == expected


def test_a_fault_that_hides_from_one_first_value_is_not_found_for_certain():
    # WDF of 0: MATS writes 0 over what was there; only over another 0 does it flip.
    fault = Fault(Model.WDF, "cell 0", lambda: (WriteDisturb(0, 0),))
    assert interpret(PROGRAMS["MATS"], fault.memory((0, 0, 0))) is not None
    assert interpret(PROGRAMS["MATS"], fault.memory((1, 1, 1))) is None
    assert not finds(PROGRAMS["MATS"], fault)
