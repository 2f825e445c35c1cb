"""Between the record as core knows it and the record as it is kept."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import replace
from datetime import datetime
from typing import Any
from zoneinfo import ZoneInfo

from django.db.models import QuerySet

from core.record import model
from core.record.timeline import Span
from core.text import folded
from server.meetings.models import Attendee, Meeting, Person
from server.meetings.people import find_people
from server.record.actions.remember_voice import recognise
from server.record.models import Line, Turn, Voice, voice_name
from server.record.resting import all_resting


def keep_record(meeting: Meeting, record: model.Record, embeddings: dict[str, list[float]]) -> None:
    """Replace the meeting's record. A voice whose label is an attendee's name is that person; a transcript names its people.

    What people said of the record before stands: a voice they named keeps its name where it is heard again at the same times, and
    lines of the minutes and findings that rested on lines rest on those now said at their times.
    """
    named = [(turn.voice.person, Span(turn.start, turn.end)) for turn in _named_turns(meeting) if turn.voice.person]
    rested = _rested(meeting)
    Turn.objects.filter(meeting=meeting).delete()
    Voice.objects.filter(meeting=meeting).delete()
    people = {person.folded: person for person in Person.objects.filter(workspace=meeting.workspace_id)}
    voices = {}
    recognised = recognise(meeting.workspace_id, embeddings)
    for label in record.speakers:
        person = people.get(folded(label)) or _named_before([turn for turn in record.turns if turn.speaker == label], named)
        if person is None and not embeddings and not _is_label(label):
            [person] = find_people(meeting.workspace, [label])
        if person:
            Attendee.objects.get_or_create(meeting=meeting, person=person)
        by_voice = person is None and label in recognised
        person = person or recognised.get(label)
        voices[label] = Voice.objects.create(
            meeting=meeting, label=label[:120], person=person, embedding=embeddings.get(label), recognised=by_voice
        )
    turns = Turn.objects.bulk_create(
        [
            Turn(
                meeting=meeting,
                number=turn.id,
                voice=voices[turn.speaker],
                start=turn.start,
                end=turn.end,
                language=turn.language or "",
                english=turn.english,
                written=turn.written,
            )
            for turn in record.turns
        ]
    )
    flat = [(row, line) for row, turn in zip(turns, record.turns, strict=True) for line in turn.lines]
    Line.objects.bulk_create(
        [
            Line(
                meeting=meeting,
                turn=row,
                number=number,
                start=line.start,
                end=line.end,
                text=line.text,
                words=[replace(word, voice=None).packed() for word in line.words],
            )
            for number, (row, line) in enumerate(flat, start=1)
        ],
        batch_size=500,
    )
    _rest_again(meeting, rested)
    Meeting.objects.filter(pk=meeting.pk).update(language=record.language or meeting.language)


_JOTTING = 8.0  # seconds: one writes down what was said just before


def _named_turns(meeting: Meeting) -> QuerySet[Turn]:
    return Turn.objects.filter(meeting=meeting, voice__person__isnull=False).select_related("voice__person")


def _named_before(turns: list[model.Turn], named: list[tuple[Person, Span]]) -> Person | None:
    """Whom people took a voice for: the person heard longest at its times, if that is for at least half of them."""
    shared: dict[Person, float] = defaultdict(float)
    for turn in turns:
        for person, span in named:
            shared[person] += (span & Span(turn.start, turn.end)).duration
    heard = max(shared, key=lambda one: shared[one], default=None)
    return heard if heard and shared[heard] >= 0.5 * sum(turn.end - turn.start for turn in turns) else None


def _rested(meeting: Meeting) -> list[tuple[Any, list[Span]]]:
    """What rests on lines, each with the times of these; what was jotted down, on what was being said."""
    rested = []
    for one in all_resting(meeting):
        spans = [Span(start, end) for start, end in one.row.lines.values_list("start", "end")]
        if not spans and one.jotted is not None:
            spans = [Span(max(0.0, one.jotted - _JOTTING), one.jotted)]
        rested.append((one.row, spans))
    return rested


def resting_on(spans: list[Span], said: Sequence[tuple[int, Span]]) -> list[int]:
    """Keys of the lines that are said when others were: for each span the line that shares most of it."""
    best = {_most_of(span, said) for span in spans} if said else set()
    return [key for key, line in best if any(line.overlaps(span) for span in spans)]


def _most_of(span: Span, said: Sequence[tuple[int, Span]]) -> tuple[int, Span]:
    return max(said, key=lambda line: (line[1] & span).duration)


def spoken(meeting: Meeting) -> list[tuple[int, Span]]:
    """Key and time of every line."""
    return [(key, Span(start, end)) for key, start, end in Line.objects.filter(meeting=meeting).values_list("pk", "start", "end")]


def _rest_again(meeting: Meeting, rested: list[tuple[Any, list[Span]]]) -> None:
    said = spoken(meeting)
    for one, spans in rested:
        one.lines.set(resting_on(spans, said))


def _is_label(speaker: str) -> bool:
    """Is this a voice's label rather than a name?"""
    return len(speaker) <= 2 and speaker.isupper() or speaker.lower().startswith(("speaker", "voice"))


def load_record(meeting: Meeting, *, words: bool = False, turns: QuerySet[Turn] | None = None) -> model.Record:
    """The record with people's names where voices are named. words: with each line's words. turns: only these of its turns."""
    wanted = Turn.objects.filter(meeting=meeting) if turns is None else turns
    lines: dict[int, list[model.Line]] = defaultdict(list)
    said = Line.objects.filter(meeting=meeting) if turns is None else Line.objects.filter(turn__in=wanted)
    # Values, not rows as objects: of a long meeting, or of ten, that is most of the time.
    for turn, text, start, end, *own in said.order_by("number").values_list("turn", "text", "start", "end", *(["words"] if words else [])):
        lines[turn].append(model.Line(text, start, end, tuple(model.Word.unpacked(word) for word in own[0]) if words else ()))
    columns = ("pk", "number", "voice__person__name", "voice__label", "language", "english", "written")
    found = [
        model.Turn(number, voice_name(person, label), tuple(lines[key]), language or None, english, written)
        for key, number, person, label, language, english, written in wanted.order_by("number").values_list(*columns)
    ]
    participants = tuple(model.Participant(name) for name in meeting.people.order_by("attendee__id").values_list("name", flat=True))
    return model.Record(str(meeting.pk), tuple(found), meeting.duration, meeting.language or None, local_start(meeting), participants)


def local_start(meeting: Meeting) -> datetime:
    """When it began on the clocks of the place where it was held, without a zone."""
    return meeting.started_at.astimezone(ZoneInfo(meeting.time_zone)).replace(tzinfo=None)
