"""Everything that is kept on one person: said by them, written by them, about them, their voice, mails to them, links for them."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator
from typing import Any

from allauth.socialaccount.models import SocialAccount
from django.db.models import Q, QuerySet
from django.utils import timezone

from core.record.nameless import Names
from server.accounts.models import Membership
from server.ask.models import Question
from server.audit.models import Entry
from server.capture.models import Consent, Participant
from server.links.models import Link
from server.mail.models import Letter
from server.meetings.models import Meeting, Person
from server.minutes.models import Finding, MinutesLine
from server.notes.models import Comment, Note
from server.record.models import KnownVoice, Line

_AT_ONCE = 100


def names_of(person: Person) -> Names:
    """How they are called and reached; a name that somebody else here has as well is not taken for theirs."""
    others = Person.objects.filter(workspace=person.workspace_id).exclude(pk=person.pk).values_list("name", flat=True)
    return Names(person.name, others, addresses_of(person))


def addresses_of(person: Person) -> list[str]:
    """Under which they are written to."""
    return list(dict.fromkeys(filter(None, (person.email, person.user.email if person.user else ""))))


def meetings_with(person: Person, account: int | None = None) -> QuerySet[Meeting]:
    """Those in which they were, spoke, wrote, were given something or are named. account: theirs, where it is not tied to them any more."""
    user = account or person.user_id
    words = [word for word in person.name.split() if len(word) > 2]
    named = Q()
    for rows in (Line.objects, MinutesLine.objects, Finding.objects, Note.objects, Comment.objects):
        for word in words:
            named |= Q(pk__in=rows.filter(text__icontains=word).values("meeting"))
    there = Q(people=person) | Q(voices__person=person) | Q(findings__owner=person) | Q(title__icontains=person.name)
    named |= Q(pk__in=Participant.objects.filter(name__iexact=person.name).values("capture__meeting"))
    named |= Q(pk__in=Consent.objects.filter(name__iexact=person.name).values("meeting"))
    if user:
        there |= Q(created_by=user) | Q(readers__user=user) | Q(comments__user=user) | Q(notes__user=user) | Q(questions__user=user)
    return Meeting.objects.filter(there | named, workspace=person.workspace_id, going_at=None).distinct().order_by("started_at", "pk")


def known_of(person: Person) -> dict[str, Any]:
    """As one document (JSON). It holds what others said about them in confidence, too: it is for the person, and given with care."""
    names, user = names_of(person), person.user
    letters = Letter.objects.filter(workspace=person.workspace_id, to__in=addresses_of(person)).order_by("queued_at")
    voice = KnownVoice.objects.filter(person=person).first()
    return {
        "made_at": timezone.now(),
        "person": {"name": person.name, "email": person.email, "organisation": person.organisation},
        "account": user and {"email": user.email, "name": user.name, "time_zone": user.time_zone, "since": user.date_joined, "last_signed_in": user.last_login, "comes_by": list(SocialAccount.objects.filter(user=user).values_list("provider", flat=True))},
        "place": user and Membership.objects.filter(user=user, workspace=person.workspace_id).values_list("role", flat=True).first(),
        "voice": voice and {"kept_at": voice.at, "numbers": voice.vector},
        "meetings": list(_in_meetings(person, names)),
        "mails": [{"kind": one.kind, "subject": one.subject, "at": one.sent_at or one.queued_at, "state": one.state} for one in letters],
        "links_for_them": [{"for": one.whom, "until": one.until, "opened": one.opened, "last": one.opened_at} for one in Link.objects.filter(workspace=person.workspace_id) if names.among(one.whom)],
        "links_by_them": Link.objects.filter(workspace=person.workspace_id, made_by__user=user).count() if user else 0,
        "done": [{"at": one.at, "what": one.verb, "detail": one.detail} for one in Entry.objects.filter(workspace=person.workspace_id, actor=user).order_by("at")] if user else [],
    }


def _in_meetings(person: Person, names: Names) -> Iterator[dict[str, Any]]:
    """A hundred meetings at a time: somebody who has been here for years was in thousands."""
    keys = list(meetings_with(person).values_list("pk", flat=True))
    own = Q(user=person.user_id) if person.user_id else Q(pk=None)
    for start in range(0, len(keys), _AT_ONCE):
        some = keys[start : start + _AT_ONCE]
        here = {"meeting__in": some}
        there = set(Meeting.objects.filter(pk__in=some, people=person).values_list("pk", flat=True))
        lines = _by_meeting(Line.objects.filter(**here).select_related("turn__voice__person").order_by("number"))
        minutes = _by_meeting(MinutesLine.objects.filter(**here))
        actions = _by_meeting(Finding.objects.filter(owner=person, **here))
        notes, comments, questions = (_by_meeting(rows.filter(own, **here)) for rows in (Note.objects, Comment.objects, Question.objects))
        answers = _by_meeting(Consent.objects.filter(name__iexact=person.name, **here))
        for meeting in Meeting.objects.filter(pk__in=some).order_by("started_at", "pk"):
            key = meeting.pk
            yield {
                "id": key,
                "title": meeting.title,
                "at": meeting.started_at,
                "was_there": key in there,
                "said": [{"at": one.start, "text": one.text} for one in lines[key] if one.turn.voice.person_id == person.pk],
                "named": [
                    {"at": one.start, "by": one.turn.voice.name, "text": one.text}
                    for one in lines[key]
                    if one.turn.voice.person_id != person.pk and names.among(one.text)
                ],
                "minutes": [one.text for one in minutes[key] if names.among(one.text) or person.user_id and one.hand_id == person.user_id],
                "actions": [{"text": one.text, "due": one.due, "done_at": one.done_at} for one in actions[key]],
                "notes": [{"at": one.at, "text": one.text} for one in notes[key]],
                "comments": [{"at": one.start, "text": one.text} for one in comments[key]],
                "questions": [one.text for one in questions[key]],
                "answers_to_the_notice": [one.agreed for one in answers[key]],
            }


def _by_meeting(rows: QuerySet[Any]) -> dict[Any, list[Any]]:
    found: dict[Any, list[Any]] = defaultdict(list)
    for row in rows:
        found[row.meeting_id].append(row)
    return found


def counted(known: dict[str, Any]) -> dict[str, int]:
    """How much of what, for a preview."""
    kinds = ("said", "named", "minutes", "actions", "notes", "comments", "questions")
    found = {kind: sum(len(one[kind]) for one in known["meetings"]) for kind in kinds}
    return {"meetings": len(known["meetings"]), **found, "voice": int(known["voice"] is not None), "mails": len(known["mails"]), "links": len(known["links_for_them"])}
