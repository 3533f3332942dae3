"""Readings and judgements as text."""

from __future__ import annotations

from after_check.cli.report_lines import judgement_lines, reading_lines, shown
from after_check.domain.case_files import CaseFile
from after_check.judgement.judge import judge
from after_check.sources.open_source import take, take_notation, take_promise
from tests.conftest import SAMPLES
from tests.standards import spd_images


def test_a_reading_says_where_each_value_is_from():
    text = "\n".join(reading_lines(take(str(SAMPLES / "0419" / "fitted")).reading))
    assert "machine    Holm R6  [firmware table]" in text
    assert "D1         empty" in text
    assert "A1         32 GiB, DDR4-3200, runs 3200, RDIMM, 2 ranks, ECC, Ostrel, OS4R-32G32, 05A10E40  [firmware table]" in text
    assert "usable     220.1 GiB  [system]" in text


def test_a_typed_reading():
    text = "\n".join(reading_lines(take_notation("2x8G DDR4-2400; A1=?; run 1200MHz; dual; profile off; CL 17; reset; pending").reading))
    for part in (
        "running rate 1200 MHz  [typed]",
        "channels shown 2",
        "profile    off",
        "timings    CL17",
        "settings cleared yes",
        "A1         not known",
    ):
        assert part in text


def test_a_judgement():
    judgement = judge(
        CaseFile(
            take_notation("A2=8G DDR4-2400 noprof; B2=8G DDR4-3200 noprof; run 2400").reading, None, take_promise("2x8G; run 3200; dual")
        )
    )
    text = "\n".join(judgement_lines(judgement))
    assert text.startswith("✗ NOT READY: 1 to fix")
    assert "Speed       ○ –        ◇ 3200     ● 2400     MT/s      short" in text
    assert "▲ fix   Runs at 2400, promised 3200 MT/s: the slowest module sets the pace  (rate.slowest_module, 95% sure)" in text
    assert "slowest module 2400 << this is the limit" in text


def test_values_of_tracks():
    assert [shown(value) for value in (None, "off", 48.0, 31.75)] == ["–", "off", "48", "31.8"]


def test_a_modules_own_data_in_clocks_and_in_ns(tmp_path):
    path = tmp_path / "module.bin"
    path.write_bytes(bytes(spd_images.ddr4_profiles(spd_images.ddr4())))
    lines = list(reading_lines(take(str(path)).reading))
    text = "\n".join(lines)
    assert lines[0].startswith("module     16 GiB, DDR4-")
    # 22 clocks of 625 ps are 13.75 ns.
    assert "standard   3200 MT/s at 22-22-22-52, 13.75 / 13.75 / 13.75 / 32.5 ns" in text
    assert "profile 1" in text
    assert "made" in text
    assert max(map(len, lines)) <= 110


def test_a_label_as_it_stands_on_the_module():
    text = "\n".join(reading_lines(take("16GB 2Rx8 PC4-3200AA-SE1-11").reading))
    assert text.startswith("module     16 GiB, DDR4-3200, SODIMM, 2 ranks  [label]")
