"""One try of a delivery: what it holds is put together as it goes, so that nothing goes that has been struck, or that may not be seen there."""

from __future__ import annotations

import logging
from datetime import timedelta
from functools import partial
from uuid import UUID

from django.conf import settings
from django.db import transaction
from django.utils import timezone

from core.problems import InputProblem
from server.audit.log import log
from server.connections.kinds.base import Denied, Kind, Missing, NotLetIn, Parcel, Receipt, Target, Touched, Trouble, shortened
from server.connections.models import Connection, Delivery, DeliveryState, Happened, Placed, Subject
from server.connections.placing import outside_addresses, placing
from server.connections.queries import open_kind, side_of
from server.connections.rules import queue_delivery, queue_filling
from server.connections.subjects import THINGS
from server.connections.taking import agreed_of, digest_of, take
from server.languages import translated
from server.mail.post import post
from server.mail.wording import Kind as Mail
from server.meetings.models import Meeting
from server.minutes.export import minutes_file
from server.record.out import Wanted, record_file

logger = logging.getLogger("server.connections")

TRIES = 9
"""Before a delivery is put aside; the pauses between them grow threefold from five seconds on: some four and a half hours in all."""
_FIRST_PAUSE, _LONGEST_PAUSE = 5.0, 2 * 3600.0
_TELL_EVERY = timedelta(hours=20)
_NOTHING = "There is nothing to send any more: it was taken out, or is not to be seen there."


class Later(Exception):
    """To be tried again in so many seconds."""

    def __init__(self, after: float) -> None:
        super().__init__(f"again in {after:.0f} s")
        self.after = after


def attempt(key: UUID) -> None:
    """Try a delivery that waits. Raises Later. One that is over, or of a connection that was taken away, is left as it is."""
    delivery = Delivery.objects.select_related("connection__workspace", "connection__membership__user", "connection__membership__workspace", "by", "rule").filter(pk=key, state=DeliveryState.WAITING).first()
    if delivery is None or delivery.connection.dropped_at:
        return
    Delivery.objects.filter(pk=key).update(begun_at=timezone.now(), next_at=None)
    try:
        _go(delivery, open_kind(delivery.connection))
    except Trouble as trouble:
        _later(delivery, trouble)
    except Denied as denied:
        _aside(delivery, str(denied))
    except InputProblem as problem:
        _aside(delivery, str(problem))


def _go(delivery: Delivery, kind: Kind) -> None:
    there = _place(delivery, kind)
    if delivery.happened == Happened.GONE:
        _withdraw(delivery, kind, there)
        return
    side = there.behalf or side_of(delivery.connection)
    composed = THINGS[delivery.subject].compose(side, delivery.key)
    if composed is None:
        _nothing_left(delivery, kind, there)
        return
    meeting, contents = composed
    if kind.places and not delivery.target:
        if not _whither(delivery, kind, meeting):
            return
        there = _place(delivery, kind)
    digest = digest_of(contents)
    if there.remote and there.digest == digest and delivery.happened == Happened.CHANGED:
        Delivery.objects.filter(pk=delivery.pk).delete()  # put back as it was, before anything went
        return
    parcel = Parcel(
        key=str(delivery.pk),
        key_of_words=f"{delivery.pk}-{digest[:16]}",
        subject=Subject(delivery.subject),
        happened=Happened.CHANGED if there.remote and there.placed_at else Happened.MADE,
        at=delivery.queued_at,
        contents=contents,
        target=delivery.target,
        there=receipt_of(there) if there.remote else None,
        held=frozenset(there.clash),
        file=lambda what, form: _file(meeting, what, form),
        reserve=lambda receipt: _reserve(there, receipt),
        at_desk=outside_addresses(meeting) if kind.places else (),
    )
    try:
        receipt = kind.deliver(parcel)
    except Touched as touched:  # what has become of it there comes first
        if not (news := kind.look(receipt_of(there))):
            raise
        take(delivery.connection, [news])
        raise Trouble(str(touched), after=1.0) from touched
    except Missing as missing:
        if not there.placed_at:
            raise
        Placed.objects.filter(pk=there.pk).update(gone_at=timezone.now(), left="")
        raise Denied(f"{missing} It is not put there again unless somebody sends it.") from missing
    with transaction.atomic():
        agreed = {**agreed_of(contents), **{name: there.agreed.get(name) for name in there.clash}}
        Placed.objects.filter(pk=there.pk).update(
            meeting=meeting,
            remote=receipt.remote[:1000],
            address=receipt.address[:1000],
            mark=receipt.mark[:400],
            digest=digest,
            agreed=agreed,
            struck=False,
            placed_at=there.placed_at or timezone.now(),
            changed_at=timezone.now(),
            gone_at=None,
            left="",
        )
        _sent(delivery, meeting)
        if kind.fills and delivery.subject == Subject.MINUTES:
            queue_filling(delivery.connection, meeting, Target(delivery.target, delivery.target_name))


def _whither(delivery: Delivery, kind: Kind, meeting: Meeting) -> bool:
    """Say where it goes, by who was there; to further places go further deliveries. False where it goes nowhere, or somebody has to say."""
    found = placing(delivery.connection, kind, meeting)
    if found.unclear:
        choices = [[what, one.key, one.name] for what, one in found.unclear]
        Delivery.objects.filter(pk=delivery.pk).update(state=DeliveryState.ASKED, choices=choices)
        return False
    if not found.targets:
        Delivery.objects.filter(pk=delivery.pk).update(state=DeliveryState.DROPPED, said="Nobody was there of whom it is known there where they belong.")
        return False
    first, *others = found.targets
    Placed.objects.filter(connection=delivery.connection, subject=delivery.subject, key=delivery.key, target="", remote="").delete()
    delivery.target, delivery.target_name = first.key, first.name
    delivery.save(update_fields=["target", "target_name"])
    for one in others:
        queue_delivery(delivery.connection, meeting, delivery.subject, delivery.key, Happened.MADE, one.key, one.name, by=delivery.by, rule=delivery.rule)
    return True


def _place(delivery: Delivery, kind: Kind) -> Placed:
    """The row of what lies there of it, or will. An earlier try of which no answer came may have put it there all the same, in words that do not
    stand any more: then it is brought in step, and not made again."""
    where = {"connection": delivery.connection, "subject": delivery.subject, "key": delivery.key, "target": delivery.target}
    there, new = Placed.objects.select_related("behalf__user", "behalf__workspace").get_or_create(**where, defaults={"meeting": delivery.meeting, "target_name": delivery.target_name})
    if not new and not there.remote and delivery.happened != Happened.GONE and (found := kind.find(str(delivery.pk))):
        _reserve(there, found)
    return there


def _nothing_left(delivery: Delivery, kind: Kind, there: Placed) -> None:
    """What is not to be seen there any more is taken back where it was struck, or where nobody knows that it lies there."""
    if there.remote and (there.struck or not there.placed_at):
        _withdraw(delivery, kind, there)
    else:
        Delivery.objects.filter(pk=delivery.pk).update(state=DeliveryState.DROPPED, said=_NOTHING)


def _withdraw(delivery: Delivery, kind: Kind, there: Placed) -> None:
    """Take back what lies there. Where that is not to be had, it is said what lies there still."""
    if not there.remote or there.gone_at:
        Delivery.objects.filter(pk=delivery.pk).update(state=DeliveryState.DROPPED, said="There is nothing of it there.")
        return
    try:
        kind.withdraw(f"{delivery.pk}-gone", receipt_of(there))
    except Missing:
        pass
    except (Denied, InputProblem) as refusal:
        if isinstance(refusal, (Trouble, NotLetIn)):
            raise
        _leave(there, str(refusal))
        raise
    with transaction.atomic():
        # Nothing is kept of what it was.
        Placed.objects.filter(pk=there.pk).update(gone_at=timezone.now(), digest="", mark="", agreed={}, clash={}, struck=False, left="")
        _sent(delivery, delivery.meeting)


def _leave(there: Placed, why: str) -> None:
    Placed.objects.filter(pk=there.pk).update(left=shortened(why, 400))


def _sent(delivery: Delivery, meeting: Meeting | None) -> None:
    now = timezone.now()
    Delivery.objects.filter(pk=delivery.pk).update(state=DeliveryState.SENT, sent_at=now, said="", tries=delivery.tries + 1)
    Connection.objects.filter(pk=delivery.connection_id).update(trouble="", told_at=None)
    log(delivery.connection.workspace, delivery.by, "deliver", meeting, connection=delivery.connection.name, subject=delivery.subject, happened=delivery.happened)


def _later(delivery: Delivery, trouble: Trouble) -> None:
    tries = delivery.tries + 1
    if tries >= TRIES:
        _aside(delivery, str(trouble))
        return
    pause = max(trouble.after, min(_FIRST_PAUSE * 3 ** (tries - 1), _LONGEST_PAUSE))
    Delivery.objects.filter(pk=delivery.pk).update(tries=tries, said=shortened(str(trouble)), next_at=timezone.now() + timedelta(seconds=pause))
    raise Later(pause)


def _aside(delivery: Delivery, words: str) -> None:
    """Put aside, with what the other side said; whoever looks after the connection is told, once in a while."""
    logger.warning("delivery %s of connection %s is put aside (%s)", delivery.pk, delivery.connection_id, words)
    connection = delivery.connection
    if delivery.happened == Happened.GONE:
        Placed.objects.filter(connection=connection, subject=delivery.subject, key=delivery.key, target=delivery.target, gone_at=None).update(left=shortened(words, 400))
    with transaction.atomic():
        Delivery.objects.filter(pk=delivery.pk).update(state=DeliveryState.ASIDE, said=shortened(words), tries=delivery.tries + 1)
        Connection.objects.filter(pk=connection.pk).update(trouble=words)
        whom = connection.membership or connection.made_by
        fresh = Connection.objects.filter(pk=connection.pk).exclude(told_at__gt=timezone.now() - _TELL_EVERY)
        if whom and fresh.update(told_at=timezone.now()):
            link = f"{settings.BASE_URL}/connections/{connection.pk}"
            post(Mail.ASIDE, whom.user.email, workspace=connection.workspace, link=link, name=connection.name, words=partial(translated, words))


def receipt_of(there: Placed) -> Receipt:
    """What lies there, as kinds take it."""
    return Receipt(there.remote, there.address, there.mark)


def _reserve(there: Placed, receipt: Receipt) -> None:
    there.remote, there.mark = receipt.remote[:1000], receipt.mark[:400]
    Placed.objects.filter(pk=there.pk).update(remote=there.remote, mark=there.mark)


def _file(meeting: Meeting, what: str, form: str) -> bytes:
    if what == Subject.MINUTES:
        return minutes_file(meeting, form)
    return record_file(meeting, form, Wanted())
