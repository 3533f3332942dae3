"""One job says one thing: how it stands, its five answers and its next step are the same on the bench, in its views and on paper."""

from __future__ import annotations

import pytest
from rich.text import Text

from after_check.casework.answers import answers_of
from after_check.casework.next_step import next_step_of
from after_check.casework.snapshot import take_snapshot
from after_check.casework.verdict_words import OUTCOME_WORDS
from after_check.handback.content import content_of
from after_check.handback.page import customer_page_of
from after_check.tui.charts.answer_line import answers_in_short, answers_line
from after_check.tui.charts.bench import column_names, job_text
from after_check.tui.charts.paper import paper_lines
from after_check.tui.widgets.job_sheet_panes import JobHeader

MARKS = frozenset("✓✗?–≈")


def marks_of(text: Text | str) -> str:
    return "".join(sign for sign in (text if isinstance(text, str) else text.plain) if sign in MARKS)


@pytest.mark.parametrize("cells", [80, 128, 200])
def test_bench_views_and_paper_have_one_set_of_answers(demo_shop, cells):
    lines = {line.number: line for line in demo_shop.jobs.lines()}
    assert len(lines) == 13
    for number, line in lines.items():
        job = demo_shop.jobs.job(number)
        snapshot, content = take_snapshot(job), content_of(job)
        answers = answers_of(snapshot)
        marks = "".join(one.kind.mark for one in answers)
        assert line.answers == marks
        assert marks_of(job_text(line, False, cells)).endswith(marks)
        assert marks_of(answers_in_short(answers, cells)) == marks
        assert marks_of(answers_line(answers, 60)) == marks
        page = customer_page_of(content)
        assert marks_of(page.answers) == marks
        assert page.answers in "\n".join(text.plain for text in paper_lines(page, content, "Skarrow Bench", 90))
        assert (line.outcome, page.outcome) == (snapshot.outcome, snapshot.outcome)
        assert line.next_step == next_step_of(snapshot).words
        header = JobHeader()
        header.set_reactive(JobHeader.snapshot, snapshot)
        drawn = "\n".join(text.plain for text in header.lines(128, 2))
        assert OUTCOME_WORDS[snapshot.outcome] in drawn
        assert marks_of(drawn.splitlines()[1].rsplit("all there", 1)[1]) == marks


def test_the_five_answers_are_named_above_their_marks():
    assert column_names(128).plain.split()[-5:] == ["there", "pace", "trust", "help", "told"]
    assert "all there" in column_names(200).plain
    assert column_names(80).plain.split()[-1] == "answers"
