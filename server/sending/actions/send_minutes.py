"""Send the minutes to those who get them: a document that shows the moment it is of."""

from __future__ import annotations

from collections.abc import Collection

from django.conf import settings
from django.utils import timezone

from core.formats.writers import MEDIA_TYPES
from server.accounts.models import Membership
from server.acting import acting
from server.mail.models import Letter
from server.mail.post import ATTACHED, Attached, post
from server.mail.wording import Kind
from server.meetings.attachment import file_name
from server.meetings.models import Going, Meeting, Person
from server.minutes.export import minutes_file
from server.notify import Part
from server.problems import Refused
from server.sending.models import Plan
from server.sending.queries import Receiver, way_of
from server.sharing.policy import Can

SENT_AS = ("pdf", "docx", "html")
"""The forms in which they are sent."""


def send_minutes(membership: Membership, meeting: Meeting, people: Collection[int], form: str = SENT_AS[0]) -> list[str]:
    """To some of those who get them, by keys of people; once more where they had them already. Returns their names. Raises Refused."""
    with acting(membership, Can.SEND, "send minutes", meeting, tells=(Part.MEETING,), form=form) as act:
        if form not in SENT_AS:
            raise Refused(422, f"Minutes are sent as {', '.join(SENT_AS)}.")
        if meeting.ready_at is None:
            raise Refused(409, "The minutes are not ready yet. Send them when they can be read.")
        chosen = [one for one in way_of(meeting).receivers if one.person.pk in set(people)]
        if len(chosen) != len(set(people)):
            raise Refused(422, "One of those is not among the people who get these minutes (any more). Look at the list again.")
        if not chosen:
            raise Refused(422, "Choose who is to get them.")
        if without := [one.person.name for one in chosen if not one.address]:
            raise Refused(422, f"There is no e-mail address of {', '.join(without)}. Add it under People and sharing, or leave them out.")
        act.note(to=len(chosen))
        _post(meeting, chosen, form, membership)
    return [one.person.name for one in chosen]


def send_when_ready(meeting: Meeting) -> frozenset[str]:
    """Called once, when a meeting can be read: to those who get its minutes at once, in the transaction that is open. Returns their addresses."""
    way = way_of(meeting)
    if way.going != Going.AT_ONCE or not way.waiting:
        return frozenset()
    with acting(None, None, "send minutes", meeting, to=len(way.waiting), form=SENT_AS[0]):
        _post(meeting, way.waiting, SENT_AS[0], None)
    return frozenset(one.address for one in way.waiting)


def say_plan(membership: Membership, meeting: Meeting, people: Collection[int], going: str) -> None:
    """Who gets the minutes of this meeting, and when; instead of what is usual. Raises Refused."""
    with acting(membership, Can.GOVERN, "say who gets minutes", meeting, tells=(Part.MEETING,), people=len(people), going=going):
        found = Person.objects.filter(workspace=membership.workspace, pk__in=people)
        if found.count() != len(set(people)):
            raise Refused(422, "One of those is not known here (any more). Look at the list again.")
        plan, _ = Plan.objects.update_or_create(meeting=meeting, defaults={"going": going, "said_by": membership.user, "said_at": timezone.now()})
        plan.people.set(found)


def forget_plan(membership: Membership, meeting: Meeting) -> None:
    """As is usual, again."""
    with acting(membership, Can.GOVERN, "say who gets minutes", meeting, tells=(Part.MEETING,), usual=True):
        Plan.objects.filter(meeting=meeting).delete()


def _post(meeting: Meeting, receivers: Collection[Receiver], form: str, membership: Membership | None) -> None:
    by = membership.user if membership else meeting.created_by
    for one in receivers:  # a mail each: nobody learns who else has got it
        post(
            Kind.MINUTES,
            one.address,
            meeting=meeting,
            link=f"{settings.BASE_URL}/meetings/{meeting.pk}" if one.sees else "",
            by=membership.user if membership else None,
            reply_to=by.email if by else "",
            attached=f"minutes {form}",
            by_name=by.called if by else meeting.workspace.name,
        )


def _attached(letter: Letter, form: str) -> Attached:
    meeting = letter.meeting
    assert meeting is not None  # minutes are of one
    return Attached(file_name(meeting, "minutes", form), minutes_file(meeting, form), MEDIA_TYPES[form].split(";")[0])


ATTACHED["minutes"] = _attached
