"""Everything that is kept on one person: said by them, written by them, about them, their voice, mails to them, links for them."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from allauth.socialaccount.models import SocialAccount
from django.db.models import Q, QuerySet
from django.utils import timezone

from core.record.nameless import Names
from server.accounts.models import Membership
from server.audit.models import Entry
from server.capture.models import Consent, Participant
from server.links.models import Link
from server.mail.models import Letter
from server.meetings.models import Meeting, Person
from server.minutes.models import Finding, MinutesLine
from server.notes.models import Comment, Note
from server.record.models import KnownVoice, Line


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
    for meeting in meetings_with(person):
        voices = set(meeting.voices.filter(person=person).values_list("pk", flat=True))
        lines = list(meeting.lines.select_related("turn__voice__person").order_by("number"))
        minutes = MinutesLine.objects.filter(meeting=meeting)
        actions = Finding.objects.filter(meeting=meeting, owner=person)
        own = Q(user=person.user_id) if person.user_id else Q(pk=None)
        yield {
            "id": meeting.pk,
            "title": meeting.title,
            "at": meeting.started_at,
            "was_there": meeting.people.filter(pk=person.pk).exists(),
            "said": [{"at": one.start, "text": one.text} for one in lines if one.turn.voice_id in voices],
            "named": [{"at": one.start, "by": one.turn.voice.name, "text": one.text} for one in lines if one.turn.voice_id not in voices and names.among(one.text)],
            "minutes": [one.text for one in minutes if names.among(one.text) or person.user_id and one.hand_id == person.user_id],
            "actions": [{"text": one.text, "due": one.due, "done_at": one.done_at} for one in actions],
            "notes": [{"at": one.at, "text": one.text} for one in Note.objects.filter(own, meeting=meeting)],
            "comments": [{"at": one.start, "text": one.text} for one in Comment.objects.filter(own, meeting=meeting)],
            "questions": list(meeting.questions.filter(own).values_list("text", flat=True)),
            "answers_to_the_notice": list(Consent.objects.filter(meeting=meeting, name__iexact=person.name).values_list("agreed", flat=True)),
        }


def counted(known: dict[str, Any]) -> dict[str, int]:
    """How much of what, for a preview."""
    kinds = ("said", "named", "minutes", "actions", "notes", "comments", "questions")
    found = {kind: sum(len(one[kind]) for one in known["meetings"]) for kind in kinds}
    return {"meetings": len(known["meetings"]), **found, "voice": int(known["voice"] is not None), "mails": len(known["mails"]), "links": len(known["links_for_them"])}
