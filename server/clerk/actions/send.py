"""Send the clerk to a call that runs, or is about to."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import timedelta

from django.conf import settings
from django.utils import timezone

from core.planning.attending import ENDS
from core.planning.joining import Reason, Verdict
from core.planning.links import Link, Source, conferences, link_in
from server.accounts.models import Membership
from server.acting import acting
from server.capture.queries import check_allowance
from server.clerk.conferences import ADAPTERS
from server.clerk.models import Visit
from server.problems import Refused
from server.sharing.policy import Can, require
from server.sharing.usual import let_in


def send_clerk(membership: Membership, said: Sequence[Source], passcode: str, title: str, minutes: int) -> Visit:
    """Send it there now. said: the link, or the invitation that it stands in. minutes: it stays no longer. Raises Refused.

    Where it is in that call already, or on its way, it is there for this member too: there is never a second one.
    """
    require(membership, Can.ADD)
    check_allowance(membership)
    link = _known(link_in(said, conferences(settings.CONFERENCES)))
    now = timezone.now()
    with acting(membership, Can.ADD, "send clerk") as act:
        why = Verdict(Reason.BY_HAND, membership.user.called).words
        visit = Visit.objects.select_for_update(of=("self",)).filter(workspace=membership.workspace, call=link.call).exclude(state__in=ENDS).first()
        if visit is None:
            visit = Visit.objects.create(
                workspace=membership.workspace,
                asked_by=membership,
                call=link.call,
                address=link.address,
                passcode=passcode or link.passcode,
                adapter=link.adapter,
                title=title,
                starts_at=now,
                until=now + timedelta(minutes=minutes),
                why=why[:200],
            )
        elif visit.starts_at > now:
            visit.starts_at, visit.why = now, why[:200]
            visit.save(update_fields=["starts_at", "why"])
        else:
            act.note(there=True)
        visit.wanted_by.add(membership)
        if visit.meeting and visit.asked_by_id != membership.pk:
            let_in(visit.asked_by, visit.meeting, {membership.user_id})
    return visit


def _known(link: Link | None) -> Link:
    if link is None:
        raise Refused(422, "There is no link to a call in that. Paste the address that one joins by, beginning with https://.")
    if link.adapter not in ADAPTERS:
        raise Refused(422, "The clerk cannot go to a conference of this kind. Join it yourself, and capture it from this computer.", unknown=True)
    return link
