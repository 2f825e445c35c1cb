"""Which of the meetings that one sees: by who was there, series, days, place, language, and what came of them."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, datetime, time, timedelta
from zoneinfo import ZoneInfo

from django.db.models import Exists, OuterRef, QuerySet, TextChoices

from server.accounts.models import Membership
from server.library.shelves import shelves_of
from server.meetings.models import Attendee, Meeting, Person, Place, Reader, Series, Shelf, Shelved
from server.minutes.models import Finding, FindingKind, FindingStatus
from server.record.models import Voice
from server.sharing.visibility import listed_meetings


class Holds(TextChoices):
    """What there is in a meeting."""

    DECISIONS = "decisions"
    OPEN_ACTIONS = "open actions"
    OPEN_QUESTIONS = "questions"
    SOUND = "sound"


class Whose(TextChoices):
    """Who made a meeting: I did; somebody who let me in by name."""

    MINE = "mine"
    SHARED = "shared"


@dataclass(frozen=True)
class Narrowed:
    """What is wanted; what is not said does not matter. speaking: the person says something in it. since, until: days of a zone, both included.
    ready_since: it could first be read after that. only: the keys of some, chosen one by one."""

    person: int | None = None
    speaking: bool = False
    series: int | None = None
    shelf: int | None = None
    since: date | None = None
    until: date | None = None
    zone: str = "UTC"
    place: str = ""
    language: str = ""
    holds: tuple[str, ...] = ()
    whose: str = ""
    ready_since: datetime | None = None
    only: tuple[str, ...] = ()


def narrowed(membership: Membership, wanted: Narrowed) -> QuerySet[Meeting]:
    """Of the meetings that stand in lists, those that are wanted."""
    found = listed_meetings(membership)
    if wanted.person is not None:
        there = Voice if wanted.speaking else Attendee
        found = found.filter(Exists(there.objects.filter(meeting=OuterRef("pk"), person=wanted.person)))
    if wanted.only:
        found = found.filter(pk__in=wanted.only)
    if wanted.series is not None:
        found = found.filter(series=wanted.series)
    if wanted.shelf is not None:
        found = found.filter(Exists(Shelved.objects.filter(meeting=OuterRef("pk"), shelf__in=shelves_of(membership).filter(pk=wanted.shelf))))
    zone = ZoneInfo(wanted.zone)
    if wanted.since:
        found = found.filter(started_at__gte=datetime.combine(wanted.since, time(), zone))
    if wanted.until:
        found = found.filter(started_at__lt=datetime.combine(wanted.until + timedelta(days=1), time(), zone))
    if wanted.place:
        found = found.filter(place=wanted.place)
    if wanted.language:
        found = found.filter(language=wanted.language)
    if wanted.ready_since:
        found = found.filter(ready_at__gt=wanted.ready_since)
    if wanted.whose == Whose.MINE:
        found = found.filter(created_by=membership.user)
    elif wanted.whose == Whose.SHARED:
        found = found.filter(Exists(Reader.objects.filter(meeting=OuterRef("pk"), user=membership.user))).exclude(created_by=membership.user)
    for one in wanted.holds:
        found = found.filter(recording__isnull=False).exclude(recording__listening="") if one == Holds.SOUND else found.filter(_stands(one))
    return found


def _stands(holds: str) -> Exists:
    standing = Finding.objects.filter(meeting=OuterRef("pk"), status=FindingStatus.STANDING)
    kind = {Holds.DECISIONS: FindingKind.DECISION, Holds.OPEN_ACTIONS: FindingKind.ACTION, Holds.OPEN_QUESTIONS: FindingKind.QUESTION}[Holds(holds)]
    return Exists(standing.filter(kind=kind, done_at=None) if holds != Holds.DECISIONS else standing.filter(kind=kind))


@dataclass(frozen=True)
class Choices:
    """By what one can narrow what one sees: nothing that is in no meeting of theirs."""

    people: list[Person]
    series: list[Series]
    shelves: list[Shelf]
    languages: list[str]
    places: list[str]


def choices_for(membership: Membership) -> Choices:
    """From the meetings that this member sees."""
    meetings = listed_meetings(membership)
    people = Person.objects.filter(Exists(Attendee.objects.filter(person=OuterRef("pk"), meeting__in=meetings)), workspace=membership.workspace)
    series = Series.objects.filter(Exists(meetings.filter(series=OuterRef("pk"))), workspace=membership.workspace)
    languages = meetings.exclude(language="").order_by("language").values_list("language", flat=True).distinct()
    places = set(meetings.order_by().values_list("place", flat=True).distinct())
    return Choices(list(people.order_by("name")), list(series.order_by("name")), list(shelves_of(membership)), list(languages), [one.value for one in Place if one in places])
