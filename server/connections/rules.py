"""What goes by itself: which rule of a connection a meeting meets, and what has to go because something is new in one."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from contextlib import suppress
from uuid import UUID

from django.db import transaction
from django.utils import timezone
from procrastinate.contrib.django import app
from procrastinate.exceptions import AlreadyEnqueued

from server.accounts.models import Membership, User
from server.connections.kinds import KINDS
from server.connections.kinds.base import Target
from server.connections.models import Connection, Delivery, DeliveryState, Happened, Placed, Rule, Subject
from server.connections.queries import side_of
from server.connections.subjects import THINGS
from server.connections.taking import agreed_of, digest_of
from server.ledger.models import Step
from server.meetings.models import Meeting, Place
from server.minutes.queries import template_of
from server.notify import Part
from server.pipeline.work import Queue
from server.sharing.visibility import listed_meetings

OF_PARTS = frozenset({Part.MEETING, Part.MINUTES, Part.LEDGER, Part.RECORD, Part.COMMENTS, Part.EVERYTHING})
"""After these something may have to go, or be taken back."""
QUIET = 10
"""Seconds after something is new in a meeting until it is seen what has to go: who writes, writes several lines."""
_MATTERS = (Subject.ACTION, Subject.DECISION)


def meets(rule: Rule, meeting: Meeting) -> bool:
    """Is a meeting one of those that a rule is for?"""
    if meeting.ready_at is None or meeting.ready_at < rule.made_at or meeting.place == Place.REHEARSAL:
        return False
    if rule.series_id and meeting.series_id != rule.series_id:
        return False
    if rule.shelf_id and not meeting.shelved.filter(shelf=rule.shelf_id).exists():
        return False
    if rule.template and template_of(meeting).kind != rule.template:
        return False
    people = set(rule.people.values_list("pk", flat=True))
    return not people or meeting.people.filter(pk__in=people).exists()


def settle(meeting_id: UUID) -> list[Delivery]:
    """Compare what should lie elsewhere of a meeting with what does, and make the deliveries that are wanting. May be done as often as one likes."""
    meeting = Meeting.objects.select_related("workspace", "series").filter(pk=meeting_id).first()
    made: list[Delivery] = []
    if meeting is None:
        return list(_of_deleted())
    for connection in Connection.objects.filter(workspace=meeting.workspace_id, dropped_at=None).select_related("workspace", "membership__user", "membership__workspace"):
        made += _in_step(connection, meeting)
        if meeting.going_at is None:
            made += _by_rule(connection, meeting)
    return made


def _of_deleted() -> Iterable[Delivery]:
    """What lies elsewhere of meetings that are deleted for good: it goes, but for what lives on in other meetings."""
    orphans = Placed.objects.filter(meeting=None, gone_at=None, left="").exclude(remote="")
    for placed in orphans.select_related("connection__workspace", "connection__membership__user", "connection__membership__workspace", "behalf__user", "behalf__workspace"):
        side = placed.behalf or side_of(placed.connection)
        happened = Happened.CHANGED if THINGS[placed.subject].compose(side, placed.key) else Happened.GONE
        if one := queue_delivery(placed.connection, None, placed.subject, placed.key, happened, placed.target, placed.target_name):
            yield one


def _in_step(connection: Connection, meeting: Meeting) -> Iterable[Delivery]:
    """What lies there, and says something else now, or is to be taken back."""
    matters = [str(key) for key in Step.objects.filter(meeting=meeting).values_list("matter", flat=True)]
    there = Placed.objects.filter(connection=connection, gone_at=None).exclude(remote="").select_related("behalf__user", "behalf__workspace")
    for placed in {one.pk: one for one in [*there.filter(meeting=meeting), *there.filter(subject__in=_MATTERS, key__in=matters)]}.values():
        happened = _since(connection, meeting, placed)
        if happened and (one := queue_delivery(connection, meeting, placed.subject, placed.key, happened, placed.target, placed.target_name)):
            yield one


def _since(connection: Connection, meeting: Meeting, placed: Placed) -> Happened | None:
    if placed.left and not placed.struck:
        return None  # it could not be taken back, and is listed
    if meeting.going_at and placed.meeting_id == meeting.pk:
        return Happened.GONE
    side = placed.behalf or side_of(connection)
    composed = THINGS[placed.subject].compose(side, placed.key)
    if composed:
        return Happened.CHANGED if placed.struck or digest_of(composed[1]) != placed.digest else None
    # Not to be seen there any more: as long as it is only put away, or shown to fewer, it is left as it lies; what was struck, or is no
    # more in a meeting that is seen, goes.
    seen = listed_meetings(side).filter(pk=meeting.pk).exists()
    return Happened.GONE if placed.struck or seen else None


def _by_rule(connection: Connection, meeting: Meeting) -> Iterable[Delivery]:
    side = side_of(connection)
    if not listed_meetings(side).filter(pk=meeting.pk).exists():
        return
    for rule in connection.rules.select_related("series", "shelf"):
        if meets(rule, meeting):
            for subject in rule.subjects:
                yield from _fresh(connection, side, meeting, rule, subject)


def _fresh(connection: Connection, side: Membership, meeting: Meeting, rule: Rule, subject: str) -> Iterable[Delivery]:
    if subject not in KINDS[connection.kind].takes:
        return
    keys = list(THINGS[subject].keys(side, meeting))
    known = {"connection": connection, "subject": subject, "key__in": keys} | ({} if KINDS[connection.kind].places else {"target": rule.target})
    there = set(Placed.objects.filter(**known).values_list("key", flat=True)) | set(Delivery.objects.filter(**known).values_list("key", flat=True))
    for key in keys:
        if key not in there and _is_open(side, subject, key) and (one := queue_delivery(connection, meeting, subject, key, Happened.MADE, rule.target, rule.target_name, rule=rule)):
            yield one


def _is_open(side: Membership, subject: str, key: str) -> bool:
    """Of actions only what is still to be done goes by itself."""
    if subject != Subject.ACTION:
        return True
    composed = THINGS[subject].compose(side, key)
    return composed is not None and agreed_of(composed[1])["state"] == "open"


def queue_delivery(
    connection: Connection,
    meeting: Meeting | None,
    subject: str,
    key: str,
    happened: Happened,
    target: str = "",
    target_name: str = "",
    *,
    by: User | None = None,
    rule: Rule | None = None,
) -> Delivery | None:
    """A delivery and its job, in one transaction. None where one waits already that will do: its contents are put together as it goes."""
    with transaction.atomic():
        same = Delivery.objects.select_for_update().filter(connection=connection, subject=subject, key=key, target=target, state=DeliveryState.WAITING, begun_at=None)
        if waiting := same.first():
            if waiting.happened != happened and Happened.GONE in (waiting.happened, happened):
                waiting.happened = happened
                waiting.save(update_fields=["happened"])
            return None
        one = Delivery.objects.create(
            connection=connection,
            meeting=meeting,
            subject=subject,
            key=key,
            happened=happened,
            target=target,
            target_name=target_name,
            by=by,
            rule=rule,
            queued_at=timezone.now(),
        )
        queue_attempt(one)
    return one


def queue_attempt(delivery: Delivery) -> None:
    """In the transaction that is open. What goes to one place of one thing goes one after the other."""
    lock = f"delivery-{delivery.connection_id}-{delivery.subject}-{delivery.key}-{delivery.target}"[:200]
    app.configure_task("deliver", queue=Queue.MAIL, lock=lock).defer(delivery_id=str(delivery.pk))


def queue_settling(meeting_id: UUID, soon: int = QUIET) -> None:
    """In the transaction that is open. One that waits already is not queued twice."""
    task = app.configure_task("see what goes", queue=Queue.MAIL, queueing_lock=f"settle-{meeting_id}", lock=f"settle-{meeting_id}", schedule_in={"seconds": soon})
    with suppress(AlreadyEnqueued), transaction.atomic():
        task.defer(meeting_id=str(meeting_id))


def queue_filling(connection: Connection, meeting: Meeting, target: Target) -> None:
    """In the transaction that is open: fields there are filled by what the meeting says."""
    task = app.configure_task("fill fields", queue=Queue.READING, queueing_lock=f"fields-{connection.pk}-{meeting.pk}-{target.key}"[:200])
    with suppress(AlreadyEnqueued), transaction.atomic():
        task.defer(connection_id=str(connection.pk), meeting_id=str(meeting.pk), target=target.key, target_name=target.name)


def hear(meeting_id: UUID, parts: Collection[Part]) -> None:
    """Something is new in a meeting: a job, in the transaction that is open, sees what of it has to go."""
    if OF_PARTS.isdisjoint(parts):
        return
    if Connection.objects.filter(dropped_at=None, workspace__meetings=meeting_id).exists():
        queue_settling(meeting_id)
