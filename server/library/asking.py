"""Questions put to the library, or a part of it: answered by lines of the meetings that whoever asks may see, found anew each time."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Collection
from dataclasses import dataclass, field
from datetime import datetime, time, timedelta
from math import log
from typing import Any
from uuid import UUID
from zoneinfo import ZoneInfo

import numpy as np
from django.db.models import Avg, Count, Exists, OuterRef, QuerySet

from core.frequency import zipf
from core.reading.reader import Read
from core.reading.words import content_words, terms
from core.record.model import Participant
from core.search import Library
from core.search.question import Question, understand_last
from core.search.schedule import Days, asks_days
from core.search.together import AGAINST
from server.accounts.models import Membership
from server.ask.queries import asked_before, with_roles
from server.calendars.queries import Entry, day_of_sheet
from server.library.fusion import best_first, fuse
from server.library.kept import unpacked
from server.library.missed import missed
from server.library.models import Inquiry
from server.library.narrow import narrowed
from server.library.senses import load_senses, meetings_of, nearest
from server.library.vocabulary import asked_in_forms, languages_of
from server.meetings.models import Meeting, Person
from server.minutes.keep import load_turns
from server.minutes.queries import stated
from server.pipeline.ear import encoder
from server.record.models import Line, Voice
from server.sharing.visibility import listed_meetings

_READ = 10
"""Meetings whose every turn is weighed: those that are the most about what is asked."""
_WORDS, _HELD = 6, 3000
"""The rarest words of a question are looked for; of each so many lines at the most."""
_K1, _B, _SPOT = 1.2, 0.75, 1
"""Of BM25, as its authors have them; and lines before and after one that are the same spot."""
_COUNTED = 500
"""Lines of a count that are shown at the most."""


@dataclass(frozen=True)
class Cited:
    """A turn that answers, with its meeting and the numbers of its lines."""

    meeting: Meeting
    speaker: str
    text: str
    start: float
    lines: list[int]


@dataclass(frozen=True)
class Told:
    """What is answered: turns, the best first, or in the order in which they were said (course). times: how often, where that was asked, in how many
    meetings. opening: a sentence of the minutes of the first, that rests on the line cited. days: what is on them, or was missed on them, where that was asked."""

    cited: list[Cited] = field(default_factory=list)
    course: bool = False
    times: int | None = None
    meetings: int = 0
    opening: str = ""
    asks: str = "lines"
    days: list[Entry] = field(default_factory=list)


def answer(membership: Membership, inquiry: Inquiry, now: datetime, zone: ZoneInfo) -> Told:
    """In what this member may see. zone: where they are, for the days that are asked for."""
    if asked := asks_days(inquiry.text, now.astimezone(zone).date()):
        return _of_days(membership, asked, zone)
    meetings = narrowed(membership, unpacked(inquiry.wanted)).filter(ready_at__isnull=False)
    question, languages = _understood(membership, inquiry), languages_of(membership.workspace_id)
    if question.counted:
        return _count(meetings, question, languages)
    return _lines(meetings, question, languages)


def _of_days(membership: Membership, asked: Days, zone: ZoneInfo) -> Told:
    if asked.asks == "missed":
        first, end = (datetime.combine(day, time(), zone) for day in (asked.first, asked.last + timedelta(days=1)))
        held = missed(membership, listed_meetings(membership).filter(started_at__gte=first, started_at__lt=end)).prefetch_related("people")[:_COUNTED]
        return Told(asks="missed", days=[Entry(one.started_at, one.started_at + timedelta(seconds=one.duration), meeting=one) for one in held])
    days = [asked.first + timedelta(days=ahead) for ahead in range((asked.last - asked.first).days + 1)]
    entries = [entry for day in days for entry in day_of_sheet(membership, day, zone)]
    return Told(asks="on", days=[entry for entry in entries if entry.counts])


def _understood(membership: Membership, inquiry: Inquiry) -> Question:
    people = [Participant(name) for name in Person.objects.filter(workspace=membership.workspace_id).values_list("name", flat=True)]
    return understand_last([*asked_before(inquiry), inquiry.text], people)


def _count(meetings: QuerySet[Meeting], question: Question, languages: Collection[str]) -> Told:
    """Every line that holds all the words, in order of time."""
    words = content_words(question.counted)
    if not words:
        return Told(times=0)
    held = Line.objects.filter(meeting__in=meetings, search=asked_in_forms(" ".join(words), languages)).select_related("turn__voice__person", "meeting")
    if question.speakers:
        held = held.filter(turn__voice__person__name__in=question.speakers)
    wanted = set(terms(question.counted))
    shown = list(held.order_by("meeting__started_at", "meeting", "number")[:_COUNTED])
    said = [Counter(terms(line.text)) for line in shown]
    # A line that holds it holds it once at least: the database's stems are not ours in every word.
    times = held.count() - len(shown) + sum(max(1, min((bag[term] for term in wanted), default=1)) for bag in said)
    cited = [Cited(line.meeting, line.turn.voice.name, line.text, line.start, [line.number]) for line in shown]
    return Told(cited, course=True, times=times, meetings=held.order_by().values("meeting").distinct().count())


def _lines(meetings: QuerySet[Meeting], question: Question, languages: Collection[str]) -> Told:
    if question.speakers:
        heard = Voice.objects.filter(meeting=OuterRef("pk"), person__name__in=question.speakers)
        meetings = meetings.filter(Exists(heard))
    chosen = likely(meetings, question.text, languages)
    by_key = {meeting.pk: meeting for meeting in Meeting.objects.filter(pk__in=chosen).order_by("started_at", "pk")}
    senses = load_senses(list(by_key.values()))
    read: list[Read] = []
    for key, meeting in by_key.items():
        turns = load_turns(meeting)
        if turns is not None and key in senses and len(senses[key]) == len(turns.likely):
            record = with_roles(meeting)
            read.append(Read(record, stated(meeting, record), turns))
    if not read:
        return Told()
    library = Library(read, encoder(), np.concatenate([senses[UUID(one.record.id)] for one in read]))
    [told] = library.ask([question.text], by=question.speakers)
    places = [(by_key[UUID(one.meeting)], one.turn, one.share) for one in told.cited]
    if told.course and places:
        # How something came about is told by the meetings of its series; another that only speaks of the like has to say it as clearly.
        series = places[0][0].series_id
        places = [one for one in places if one[2] >= AGAINST or series is not None and one[0].series_id == series]
    numbers: dict[tuple[Any, int], list[int]] = defaultdict(list)
    lines = Line.objects.filter(meeting__in={meeting.pk for meeting, *_ in places}, turn__number__in={turn.id for _, turn, _ in places})
    for key, turn, number in lines.order_by("number").values_list("meeting", "turn__number", "number"):
        numbers[key, turn].append(number)
    cited = [Cited(meeting, turn.speaker, turn.text, turn.start, numbers[meeting.pk, turn.id]) for meeting, turn, _ in places]
    if told.course:
        cited.sort(key=lambda one: (one.meeting.started_at, one.start))
    return Told(cited, told.course, opening=told.opening)


def likely(meetings: QuerySet[Meeting], question: str, languages: Collection[str] = ()) -> list[UUID]:
    """The keys of the meetings that are the most about a question: by its rarest words, in the forms that these languages give them, and by
    meaning, fused by reciprocal ranks."""
    near = nearest(meetings, encoder().plain([question])[0])
    scores: dict[UUID, float] = defaultdict(float)
    for ranking in (*_by_words(meetings, question, languages), meetings_of(near)):
        fuse(scores, ranking)
    return best_first(scores)[:_READ]


def _by_words(meetings: QuerySet[Meeting], question: str, languages: Collection[str]) -> tuple[list[UUID], list[UUID]]:
    """The meetings by how much they speak of the rarest words of a question (BM25, Robertson and Walker 1994; how long a meeting took stands for
    how long its record is), and by how many of these come up in one spot."""
    known = meetings.aggregate(count=Count("pk"), length=Avg("duration"))
    spoken: dict[UUID, float] = defaultdict(float)
    spots: dict[UUID, float] = defaultdict(float)
    length = known["length"] or 1.0
    at: dict[tuple[UUID, int], dict[str, float]] = defaultdict(dict)
    for word in sorted(set(content_words(question)), key=lambda word: (zipf(word, "en"), word))[:_WORDS]:
        asked = asked_in_forms(word, languages)
        rows = list(Line.objects.filter(meeting__in=meetings, search=asked).values_list("meeting", "number", "meeting__duration")[:_HELD])
        if len(rows) == _HELD:
            continue  # a word that more hold tells no meeting from another
        titled = meetings.filter(search=asked).values_list("pk", "duration")[:_HELD]
        took = {key: duration for key, _, duration in rows} | dict(titled)
        times = Counter([*(key for key, *_ in rows), *(key for key, _ in titled)])
        rarity = log(1.0 + (known["count"] - len(times) + 0.5) / (len(times) + 0.5))
        for key, held in times.items():
            spoken[key] += rarity * held * (_K1 + 1) / (held + _K1 * (1 - _B + _B * took[key] / length))
        for key, number, _ in rows:
            for beside in range(-_SPOT, _SPOT + 1):
                at[key, number + beside][word] = rarity
    for (key, _), words in at.items():
        spots[key] = max(spots[key], sum(words.values()))
    return best_first(spoken)[:_HELD], best_first(spots)[:_HELD]
