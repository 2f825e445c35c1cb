"""Give a link, change what is said of it, take it back."""

from __future__ import annotations

import secrets
from collections.abc import Sequence
from datetime import datetime

from django.contrib.auth.hashers import make_password
from django.utils import timezone

from core.text import one_line
from server.accounts.models import Membership
from server.acting import acting
from server.excerpts.models import Excerpt
from server.excerpts.models import Sequence as Row
from server.links.models import Link, LinkRules, Scope
from server.links.queries import digest_of, rules_of
from server.meetings.models import Meeting
from server.problems import Refused
from server.removals.ledger import note_removal, replays
from server.sealing import seal
from server.sharing.policy import Can, require
from server.sharing.visibility import visible_meetings

_SHORTEST = 8
_MOST = 1000
"""Links of a workspace that lead somewhere at a time."""


def give_link(
    membership: Membership, target: Meeting | Excerpt | Row, scope: Scope, *, sound: bool, whom: str, passphrase: str, until: datetime | None
) -> Link:
    """For who governs every meeting that something of is shown. Raises Refused."""
    with acting(membership, Can.SEND, "give link", target if isinstance(target, Meeting) else None, scope=scope) as act:
        for meeting in meetings_of(membership, target):
            require(membership, Can.GOVERN, meeting)
        if Link.objects.filter(workspace=membership.workspace, revoked_at=None).count() >= _MOST:
            raise Refused(409, f"{_MOST} links lead somewhere, which is as many as there can be. Take some back first.")
        token = secrets.token_urlsafe(32)
        link = Link(
            workspace=membership.workspace,
            scope=scope,
            sound=sound and scope != Scope.MINUTES,
            token=seal(token),
            digest=digest_of(token),
            made_by=membership,
            **{"meeting" if isinstance(target, Meeting) else "excerpt" if isinstance(target, Excerpt) else "sequence": target},
        )
        _say(link, whom, until)
        if passphrase:
            link.passphrase = _hashed(passphrase)
        _keeps_to_the_rules(link)
        link.save()
        act.note(link=str(link.pk))
    return link


def meetings_of(membership: Membership, target: Meeting | Excerpt | Row) -> Sequence[Meeting]:
    """The meetings that something of is shown. Raises Refused where one of them is not to be seen."""
    keys = {target.pk} if isinstance(target, Meeting) else {target.meeting_id} if isinstance(target, Excerpt) else set(target.excerpts.values_list("meeting", flat=True))
    found = list(visible_meetings(membership).filter(pk__in=keys))
    if len(found) != len(keys) or not keys:
        raise Refused(403, "A link to this is given by somebody who sees all of it. Ask whoever made the meeting.")
    return found


def change_link(membership: Membership, link: Link, *, whom: str, until: datetime | None) -> Link:
    """For whom it is, and until when. Raises Refused."""
    with acting(membership, Can.SEND, "change link", link.meeting, link=str(link.pk)):
        link = Link.objects.select_for_update().get(pk=link.pk)
        if link.revoked_at:
            raise Refused(409, "This link was taken back. Give another one.")
        _say(link, whom, until)
        _keeps_to_the_rules(link)
        link.save(update_fields=["whom", "until"])
    return link


def revoke_link(membership: Membership, link: Link) -> None:
    """From now on it leads nowhere; that cannot be undone, but another one can be given."""
    with acting(membership, None, "revoke link", link.meeting, link=str(link.pk)):
        note_removal("link", link=str(link.pk))
        Link.objects.filter(pk=link.pk, revoked_at=None).update(revoked_at=timezone.now(), token="")


@replays("link")
def _revoke_again(facts: dict) -> None:
    Link.objects.filter(pk=facts["link"], revoked_at=None).update(revoked_at=timezone.now(), token="")


def set_rules(membership: Membership, *, allowed: bool, must_end: bool, must_have_passphrase: bool) -> LinkRules:
    """What the workspace wants of links; those that do not keep to it lead nowhere as long as it is wanted."""
    with acting(membership, Can.MANAGE, "link rules", allowed=allowed, must_end=must_end, must_have_passphrase=must_have_passphrase):
        wanted = {"allowed": allowed, "must_end": must_end, "must_have_passphrase": must_have_passphrase}
        return LinkRules.objects.update_or_create(workspace=membership.workspace, defaults=wanted)[0]


def _say(link: Link, whom: str, until: datetime | None) -> None:
    if until is not None and until <= timezone.now():
        raise Refused(422, "A link ends in the time to come. Choose a later day.")
    link.whom, link.until = one_line(whom)[:120], until


def _hashed(passphrase: str) -> str:
    if len(passphrase.strip()) < _SHORTEST:
        raise Refused(422, f"A passphrase has {_SHORTEST} signs at least; a few words are best.")
    return make_password(passphrase.strip())


def _keeps_to_the_rules(link: Link) -> None:
    rules = rules_of(link.workspace)
    if not rules.allowed:
        raise Refused(403, "This workspace gives no links. Ask one of those who manage it.")
    if rules.must_end and link.until is None:
        raise Refused(422, "In this workspace a link has a day on which it ends. Choose one.")
    if rules.must_have_passphrase and not link.passphrase:
        raise Refused(422, "In this workspace a link has a passphrase. Choose one, and say it on another way than the link.")
