"""Send what is prepared for a meeting to those who come."""

from __future__ import annotations

from functools import partial

from django.utils import timezone

from server.accounts.models import Membership
from server.acting import acting
from server.calendars.ahead import prepared_of, takers_of
from server.calendars.models import Planned
from server.languages import HOUR, at
from server.mail.post import post
from server.mail.wording import Kind
from server.problems import Refused
from server.sharing.policy import Can


def send_agenda(membership: Membership, planned: Planned) -> None:
    """A letter each, with the points and their minutes; answers go to whoever sends it. Raises Refused."""
    with acting(membership, Can.SEND, "send agenda") as act:
        prepared, takers = prepared_of(membership, planned), takers_of(membership, planned)
        if prepared is None or not prepared.points:
            raise Refused(422, "There is no agenda yet. Set one first.")
        if not takers:
            raise Refused(422, "Nobody else who comes has an address in the invitation.")
        points = "\n".join(f"{number}. {text} ({minutes} min)" for number, (text, minutes) in enumerate(prepared.points, start=1))
        when = partial(at, planned.start, HOUR, planned.zone or membership.user.time_zone or "UTC")
        for one in takers:
            post(
                Kind.AGENDA,
                one["address"],
                workspace=membership.workspace,
                by=membership.user,
                reply_to=membership.user.email,
                by_name=membership.user.called,
                title=planned.title,
                when=when,
                points=points,
                place=planned.place or planned.link,
            )
        prepared.sent_at = timezone.now()
        prepared.save(update_fields=["sent_at"])
        act.note(letters=len(takers))
