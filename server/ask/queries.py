"""Answers: found in the record as it stands, each time."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from core.record.model import Participant, Record
from core.search import Answer, Asker
from server.ask.models import Question
from server.meetings.models import Meeting
from server.minutes.keep import load_turns
from server.minutes.queries import stated
from server.pipeline.ear import encoder
from server.record.keep import load_record
from server.record.live import live_record, live_turns, runs_still

_THREAD = 8
"""Questions back along a thread that count."""


def answers(meeting: Meeting, questions: Sequence[Question]) -> list[Answer]:
    """One answer a question, in order."""
    if not questions:
        return []
    record = with_roles(meeting)
    turns = live_turns(meeting, record) if runs_still(meeting) else load_turns(meeting)
    asker = Asker(record, encoder(), turns, stated(meeting, record))
    return [asker.go_on(question.text, asked_before(question)) for question in questions]


def asked_before(question: Any) -> list[str]:
    """What was asked before a row with `text` and `after`, the one it goes on from; along the thread, the first one first."""
    before: list[str] = []
    while question.after and len(before) < _THREAD:
        question = question.after
        before.insert(0, question.text)
    return before


def with_roles(meeting: Meeting) -> Record:
    """The record, with where people are from as what they may be called by: "what did the glazing firm say". Of a meeting that runs, so far."""
    if runs_still(meeting):
        return live_record(meeting)
    people = tuple(Participant(person.name, person.organisation) for person in meeting.people.order_by("attendee__id"))
    return replace(load_record(meeting), participants=people)
