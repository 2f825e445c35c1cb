"""Questions that a calendar answers: which days they are about."""

from __future__ import annotations

from datetime import date

import pytest

from core.search.schedule import Days, asks_days

WEDNESDAY = date(2026, 3, 11)


@pytest.mark.parametrize(
    ("question", "first", "last"),
    [
        ("What's on today?", "2026-03-11", "2026-03-11"),
        ("what have I got the day after tomorrow", "2026-03-13", "2026-03-13"),
        ("Which meetings do I have this week?", "2026-03-09", "2026-03-15"),
        ("Is there anything planned for next week?", "2026-03-16", "2026-03-22"),
        ("What is on on Monday?", "2026-03-16", "2026-03-16"),
        ("What is on Wednesday?", "2026-03-11", "2026-03-11"),
        ("Have I got anything on 2026-04-01?", "2026-04-01", "2026-04-01"),
        ("What's on my calendar for the 3rd of March?", "2027-03-03", "2027-03-03"),
        ("What is happening on the thirty-first of May?", "2026-05-31", "2026-05-31"),
        ("What's on on 29 February?", "2028-02-29", "2028-02-29"),
    ],
)
def test_what_is_on_is_asked_of_days_to_come(question, first, last):
    assert asks_days(question, WEDNESDAY) == Days("on", date.fromisoformat(first), date.fromisoformat(last))


@pytest.mark.parametrize(
    ("question", "first", "last"),
    [
        ("What did I miss?", "2026-03-04", "2026-03-11"),
        ("Did I miss anything yesterday?", "2026-03-10", "2026-03-10"),
        ("What have I missed last week?", "2026-03-02", "2026-03-08"),
        ("What did I miss on Monday?", "2026-03-09", "2026-03-09"),
        ("What did I miss on Wednesday?", "2026-03-04", "2026-03-04"),
        ("What did I miss on the 20th of November?", "2025-11-20", "2025-11-20"),
        ("What did I miss on 29 February?", "2024-02-29", "2024-02-29"),
    ],
)
def test_what_one_missed_is_asked_of_days_gone_by(question, first, last):
    assert asks_days(question, WEDNESDAY) == Days("missed", date.fromisoformat(first), date.fromisoformat(last))


@pytest.mark.parametrize("question", ["What's on on 31 February?", "What's on on 2026-13-40?", "What is on the second shelf?", "What did Maren miss?", ""])
def test_what_no_calendar_answers_is_asked_of_the_record(question):
    assert asks_days(question, WEDNESDAY) is None
