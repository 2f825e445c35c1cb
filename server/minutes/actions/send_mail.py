"""A follow-up mail: drafted from chosen lines, sent to chosen people."""

from __future__ import annotations

from collections.abc import Sequence
from zoneinfo import ZoneInfo

from core.minutes.mail import Mail, draft_mail
from core.reading.base import all_said
from core.text import one_line, prose
from server.accounts.models import Membership
from server.acting import acting
from server.languages import alongside, translated
from server.mail.post import post
from server.mail.wording import Kind
from server.meetings.models import Meeting, Person
from server.minutes.models import MinutesLine
from server.minutes.queries import standing
from server.problems import Refused
from server.record.keep import load_record
from server.sharing.policy import Can


def address_of(person: Person) -> str:
    """Where a person's mail goes, "" where that is not known."""
    return person.user.email if person.user else person.email


def draft(membership: Membership, meeting: Meeting, lines: Sequence[int], people: Sequence[int], tone: str) -> Mail:
    """A draft, in the language of the meeting; nothing is sent. Raises InputProblem."""
    said = all_said(load_record(meeting))
    chosen = [(line, _kind(row)) for row, line in standing(meeting, said, removed=False) if row.pk in set(lines)]
    names = {person.pk: person.name for person in Person.objects.filter(workspace=meeting.workspace, pk__in=people)}
    with alongside(meeting.language):
        return draft_mail(
            meeting.title,
            meeting.started_at.astimezone(ZoneInfo(meeting.time_zone)),
            membership.user.called,
            [names[key] for key in people if key in names],
            chosen,
            tone,
            translated,
        )


def _kind(row: MinutesLine) -> str:
    """Under which heading of a mail a line goes."""
    if row.finding:
        return row.finding.kind if row.finding.kind in ("action", "question") else "decision"
    return {"actions": "action", "questions": "question"}.get(row.section, "decision")


def send(membership: Membership, meeting: Meeting, people: Sequence[int], subject: str, body: str) -> list[str]:
    """Put a mail as it was worded on its way to people whose address is known; answers go to whoever sends it. Returns their names.

    Raises Refused.
    """
    with acting(membership, Can.SEND, "send minutes by mail", meeting) as act:
        if not one_line(subject) or not prose(body).strip():
            raise Refused(422, "A mail needs a subject and a text.")
        chosen = list(Person.objects.filter(workspace=membership.workspace, pk__in=people).select_related("user"))
        if not chosen:
            raise Refused(422, "Choose who is to get it.")
        if without := [person.name for person in chosen if not address_of(person)]:
            raise Refused(422, f"There is no e-mail address of {', '.join(without)}. Add it under People and sharing, or leave them out.")
        act.note(to=len(chosen))
        # One mail each: nobody learns who else has got it.
        for person in chosen:
            post(
                Kind.FOLLOW_UP,
                address_of(person),
                meeting=meeting,
                by=membership.user,
                reply_to=membership.user.email,
                subject=subject,
                body=prose(body).strip(),
            )
    return [person.name for person in chosen]
