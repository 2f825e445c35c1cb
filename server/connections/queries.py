"""Connections as somebody sees them, as whom they see, and how they are opened."""

from __future__ import annotations

import json
from typing import Any
from uuid import UUID

from django.db.models import Q, QuerySet

from server.accounts.models import Membership
from server.connections.kinds import KINDS
from server.connections.kinds.base import Kind
from server.connections.models import Connection, Delivery, FieldAnswer, Placed, Subject
from server.meetings.models import Meeting, Visibility
from server.problems import Refused
from server.sealing import unseal
from server.sharing.policy import Can, may
from server.sharing.visibility import everybody_in, listed_meetings


def connections_of(membership: Membership) -> QuerySet[Connection]:
    """One's own, and those of the workspace."""
    mine = Q(membership=membership.pk) | Q(membership=None) & Q(workspace=membership.workspace_id)
    return Connection.objects.filter(mine, dropped_at=None).select_related("membership__user", "workspace", "made_by__user")


def connection_of(membership: Membership, key: UUID, *, to_change: bool = False) -> Connection:
    """One of them. to_change: those of the workspace by who manages it. Raises Refused."""
    found = connections_of(membership).filter(pk=key).first()
    if found is None:
        raise Refused(404, "There is no such connection (any more), or it is somebody else's.")
    if to_change and not changes(membership, found):
        raise Refused(403, "A connection of the workspace is changed by its owners and admins. Ask one of them.")
    return found


def changes(membership: Membership, connection: Connection) -> bool:
    """May they change it?"""
    return connection.membership_id == membership.pk or connection.membership_id is None and may(membership, Can.MANAGE)


def right_over(connection: Connection) -> Can:
    """What it takes to change it: those of the workspace are for who manages it."""
    return Can.SEND if connection.membership_id else Can.MANAGE


def side_of(connection: Connection) -> Membership:
    """As whom what goes there by rule is put together: its owner; for the workspace's, whoever sees what all its members see."""
    return connection.membership or everybody_in(connection.workspace)


def open_kind(connection: Connection) -> Kind:
    """Its kind, with its settings. Raises Refused where they cannot be read any more."""
    kind = KINDS[connection.kind]
    return kind(kind.asks.model_validate({**connection.settings, **secrets_of(connection)}))


def secrets_of(connection: Connection) -> dict[str, Any]:
    """What is kept sealed of its settings."""
    kept = unseal(connection.secrets)
    return json.loads(kept) if kept else {}


def seen_by_all(meeting: Meeting) -> bool:
    """Do all members of the workspace see it?"""
    return meeting.visibility == Visibility.WORKSPACE


def deliveries_for(membership: Membership) -> QuerySet[Delivery]:
    """What went where, the latest first: by one's own connections; by those of the workspace, of meetings that one sees."""
    seen = Q(meeting__in=listed_meetings(membership)) | Q(meeting=None) | Q(by=membership.user_id)
    if may(membership, Can.MANAGE):
        seen |= Q(connection__workspace=membership.workspace_id)
    rule = Q(connection__membership=membership.pk) | Q(connection__membership=None, connection__workspace=membership.workspace_id) & seen
    return Delivery.objects.filter(rule).select_related("connection", "meeting", "by", "rule__series", "rule__shelf")


def placed_of(membership: Membership, meeting: Meeting) -> QuerySet[Placed]:
    """What lies where of a meeting, for somebody who sees it."""
    own = Q(connection__membership=membership.pk) | Q(connection__membership=None)
    return Placed.objects.filter(own, meeting=meeting, placed_at__isnull=False, gone_at=None).select_related("connection")


def answers_for(membership: Membership, connection: Connection) -> QuerySet[FieldAnswer]:
    """What fields there are to hold, of meetings that somebody sees."""
    rows = FieldAnswer.objects.filter(question__connection=connection, meeting__in=listed_meetings(membership))
    return rows.select_related("question", "meeting").prefetch_related("lines__turn__voice__person").order_by("-at", "id")


def left_behind(meeting: Meeting) -> QuerySet[Placed]:
    """What lies elsewhere of a meeting, and could not be taken back."""
    return Placed.objects.filter(meeting=meeting).exclude(left="").select_related("connection")


def takers(membership: Membership, subject: Subject) -> list[Connection]:
    """Connections to which somebody can send such a thing."""
    return [one for one in connections_of(membership) if subject in KINDS[one.kind].takes]
