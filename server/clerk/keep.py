"""What the clerk writes down: each of these is short, may be repeated, and is refused to a clerk in whose place another has come."""

from __future__ import annotations

import base64
import hashlib
import uuid
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

from django.core.files.base import ContentFile
from django.db import transaction
from django.utils import timezone

from core.media.chunks import CAPTURE_RATE, CHUNK, Samples, left_before
from core.planning.attending import ENDS, Cause, Standing, after
from core.text import folded, one_line, prose
from server.acting import acting
from server.audit.log import log
from server.calendars.actions.hold import hold
from server.calendars.models import Planned
from server.capture.actions.begin_capture import begin_capture
from server.capture.actions.end_stretch import end_stretch
from server.capture.actions.give_notice import answer_notice, give_notice
from server.capture.actions.keep_chunk import keep_chunk
from server.capture.actions.keep_picture import keep_picture
from server.capture.actions.open_stretch import open_stretch
from server.capture.actions.stop_capture import stop_capture
from server.capture.actions.take_upload import Given
from server.capture.beside import throw_away
from server.capture.models import SLOT, Capture, Consent, Laid, Message, Notice, Participant, Stretch
from server.clerk.models import Change, Visit
from server.meetings.models import Attendee, Meeting, Person, Place
from server.meetings.people import find_people
from server.notify import Part, notify
from server.sharing.usual import let_in

LEASE = timedelta(seconds=15)
"""For so long a clerk is taken to be alive after it last said so."""


class Superseded(Exception):
    """Another clerk attends to this visit now."""


@dataclass(frozen=True)
class Orders:
    """What is asked of the clerk from the page, and by those in the call. no: who does not agree, and when they said so."""

    state: Standing
    paused: bool
    off_at: datetime | None
    paused_by: str
    away_by: str
    until: datetime
    no: tuple[tuple[str, datetime], ...]


def claim(holder: str, most: int) -> list[uuid.UUID]:
    """Take up visits that are due and that nobody attends to, or not any more. Returns their keys."""
    now = timezone.now()
    with transaction.atomic():
        free = Visit.objects.filter(starts_at__lte=now).exclude(state__in=ENDS, meeting__capture__stopped_at__isnull=False)
        free = free.exclude(state__in=ENDS, meeting=None).exclude(lease_until__gt=now)
        # Those that are over and not wound up yet come too: their clerk was killed in the middle of it.
        taken = list(free.select_for_update(skip_locked=True, of=("self",)).order_by("starts_at")[:most])
        for visit in taken:
            if visit.holder and visit.state not in (*ENDS, Standing.EXPECTED):
                _happen(visit, Cause.TAKEN_OVER)
            visit.holder, visit.lease_until = holder, now + LEASE
            visit.save(update_fields=["holder", "lease_until", "state"])
    return [visit.pk for visit in taken]


def renew(holder: str, visits: Sequence[uuid.UUID]) -> list[uuid.UUID]:
    """Say that one is alive. Returns those of the visits that are one's own still."""
    own = Visit.objects.filter(pk__in=visits, holder=holder)
    own.update(lease_until=timezone.now() + LEASE)
    return list(own.values_list("pk", flat=True))


def let_go(holder: str) -> None:
    """Whoever stops in order leaves its visits to others at once."""
    Visit.objects.filter(holder=holder).update(lease_until=timezone.now())


def load(visit_id: uuid.UUID) -> Visit:
    """With what the clerk needs to know of it."""
    return Visit.objects.select_related("workspace", "asked_by__user", "asked_by__workspace", "meeting__capture").get(pk=visit_id)


def _own(visit_id: uuid.UUID, holder: str) -> Visit:
    """Locked. Raises Superseded."""
    visit = Visit.objects.select_for_update(no_key=True, of=("self",)).select_related("asked_by__user", "asked_by__workspace", "meeting__capture").filter(pk=visit_id).first()
    if visit is None or visit.holder != holder:
        raise Superseded
    return visit


@contextmanager
def _inside(visit_id: uuid.UUID, holder: str) -> Iterator[tuple[Visit, Meeting]]:
    """In a transaction: the visit, locked, and its meeting, which there is from the first entry on. Raises Superseded."""
    with transaction.atomic():
        visit = _own(visit_id, holder)
        assert visit.meeting is not None
        yield visit, visit.meeting


def _checked(visit_id: uuid.UUID, holder: str) -> tuple[Visit, Meeting]:
    """The same, where what follows takes a transaction and locks of its own."""
    with _inside(visit_id, holder) as found:
        return found


def _happen(visit: Visit, cause: Cause, who: str = "") -> Standing:
    """In the transaction that is open."""
    state = after(Standing(visit.state), cause)
    if state is None:
        return Standing(visit.state)
    visit.state = state
    visit.save(update_fields=["state"])
    Change.objects.create(visit=visit, state=state, cause=cause, who=who[:300])
    log(visit.workspace, None, f"clerk {cause}", visit.meeting)
    if visit.meeting_id:
        notify(visit.meeting_id, Part.CAPTURE)
    return state


@transaction.atomic
def happen(visit_id: uuid.UUID, holder: str, cause: Cause, who: str = "") -> Standing:
    """Something has happened to it; where it stands now."""
    return _happen(_own(visit_id, holder), cause, who)


def orders(visit_id: uuid.UUID, holder: str) -> Orders:
    """What is asked of it just now."""
    visit = Visit.objects.filter(pk=visit_id).first()
    if visit is None or visit.holder != holder:
        raise Superseded
    no = Consent.objects.filter(meeting=visit.meeting_id, agreed=False).order_by("at") if visit.meeting_id else ()
    said = tuple((one.name, one.at) for one in no)
    return Orders(Standing(visit.state), visit.paused, visit.off_at, visit.paused_by, visit.away_by, visit.until, said)


def begin(visit_id: uuid.UUID, holder: str, title: str, language: str) -> Capture:
    """Inside, and people are told: the meeting, made with the first entry. title: as the conference calls the call."""
    with transaction.atomic():
        visit = _own(visit_id, holder)
        if visit.meeting and hasattr(visit.meeting, "capture"):
            capture = visit.meeting.capture
        else:
            member = visit.asked_by
            given = Given(visit.title or title or "Call", timezone.now(), member.user.time_zone or "UTC", place=Place.ONLINE)
            # The visit's own key: one that is made twice, because an answer was lost, is made once.
            capture = begin_capture(member, visit.pk, given)
            planned = Planned.objects.filter(calendar__membership=member, uid=visit.uid, instance=visit.instance).first() if visit.uid else None
            if planned:
                hold(member, capture.meeting, planned, settled=False)
            visit.meeting = capture.meeting
            visit.save(update_fields=["meeting"])
        let_in(visit.asked_by, capture.meeting, set(visit.wanted_by.values_list("user_id", flat=True)) - {visit.asked_by.user_id})
    give_notice(visit.asked_by, capture.meeting, Notice.How.CHAT, language)
    return capture


def came(visit_id: uuid.UUID, holder: str, name: str, at: float) -> None:
    """Somebody is there, under a name. at: seconds since 1970."""
    with _inside(visit_id, holder) as (visit, meeting):
        who = _participant(meeting, name, visit)
        if not who.moments or who.moments[-1][1] is not None:
            who.moments.append([at, None])
            who.save(update_fields=["moments"])
        notify(meeting.pk, Part.CAPTURE)


def went(visit_id: uuid.UUID, holder: str, name: str, at: float) -> None:
    """Somebody is not there any more."""
    with _inside(visit_id, holder) as (visit, meeting):
        who = _participant(meeting, name, visit)
        if who.moments and who.moments[-1][1] is None:
            who.moments[-1][1] = at
            who.save(update_fields=["moments"])
        notify(meeting.pk, Part.CAPTURE)


def spoke(visit_id: uuid.UUID, holder: str, name: str, slot: int) -> None:
    """Somebody gives sound: it is in the track of this slot from now on."""
    with _inside(visit_id, holder) as (visit, meeting):
        who = _participant(meeting, name, visit)
        if who.slot is None:
            who.slot = slot
            who.save(update_fields=["slot"])


def slots_of(capture: Capture) -> dict[str, int]:
    """Name → slot, of those who gave sound before."""
    return {one.name: one.slot for one in capture.participants.all() if one.slot is not None}


def _participant(meeting: Meeting, name: str, visit: Visit) -> Participant:
    known = meeting.capture.participants.filter(name=name).first()
    if known:
        return known
    person = _person(meeting, name, visit)
    Attendee.objects.get_or_create(meeting=meeting, person=person)
    return Participant.objects.create(capture=meeting.capture, name=name, person=person)


def _person(meeting: Meeting, name: str, visit: Visit) -> Person:
    """Whom a conference means: who is invited under that name has an address, and whoever has that address is it; else by name."""
    planned = Planned.objects.filter(calendar__membership=visit.asked_by, uid=visit.uid, instance=visit.instance).first() if visit.uid else None
    address = next((one["address"] for one in planned.people if folded(one["name"]) == folded(name)), "") if planned else ""
    if address and (person := Person.objects.filter(workspace=meeting.workspace, email__iexact=address).first()):
        return person
    return find_people(meeting.workspace, [one_line(name) or "Somebody"])[0]


def on_the_record(visit_id: uuid.UUID, holder: str, number: int, slots: int, begun_at: datetime) -> None:
    """A stretch begins. Raises Refused, such as where consent is missing; Superseded."""
    visit, meeting = _checked(visit_id, holder)
    open_stretch(visit.asked_by, meeting.capture, number, [f"{SLOT}{slot}" for slot in range(slots)], begun_at)


def keep_second(visit_id: uuid.UUID, holder: str, stretch: int, number: int, data: bytes, slots: int, begun_at: datetime) -> None:
    """A second of a stretch. Whatever lies behind the moment at which somebody wanted to be off the record is dropped, though it was heard."""
    with _inside(visit_id, holder) as (visit, meeting):
        if visit.paused and visit.off_at:
            left = round((visit.off_at - begun_at).total_seconds() * CAPTURE_RATE) - number * CHUNK
            data = data[: max(0, left) * 2 * slots]
        if data:
            keep_chunk(visit.asked_by.user, meeting.capture, stretch, number, data, _digest(data))


def _digest(data: bytes) -> str:
    """As a device would send it (RFC 9530)."""
    return f"sha-256=:{base64.b64encode(hashlib.sha256(data).digest()).decode()}:"


def keep_still(visit_id: uuid.UUID, holder: str, stretch: int, at: int, data: bytes) -> None:
    """A picture of a screen, from sample `at` of a stretch on."""
    with _inside(visit_id, holder) as (visit, meeting):
        keep_picture(visit.asked_by.user, meeting.capture, stretch, at, data, _digest(data))


def wrote(visit_id: uuid.UUID, holder: str, stretch: int, at: int, name: str, text: str) -> None:
    """Somebody put something into the chat, at sample `at` of a stretch: kept where that is on the record."""
    with _inside(visit_id, holder) as (visit, meeting):
        open_one = meeting.capture.stretches.filter(number=stretch).first()
        off = visit.paused and visit.off_at and open_one and (visit.off_at - open_one.begun_at).total_seconds() * CAPTURE_RATE <= at
        if open_one is None or off or left_before(at, [Samples(part.first, part.end) for part in open_one.struck.all()]) is None:
            return
        _participant(meeting, name, visit)
        Message.objects.create(stretch=open_one, at=at, name=name, text=prose(text)[:4000])
        notify(meeting.pk, Part.LIVE)


def laid(visit_id: uuid.UUID, holder: str, stretch: int, at: int, name: str, called: str, data: bytes) -> None:
    """A file that somebody put into the chat, at sample `at` of a stretch: kept where its message is."""
    with _inside(visit_id, holder) as (_, meeting):
        message = Message.objects.filter(stretch__capture=meeting.capture, stretch__number=stretch, at=at, name=name).first()
        if message is None or Laid.objects.filter(stretch=message.stretch, at=at, name=name).exists():
            return
        row = Laid(stretch=message.stretch, at=at, name=name, called=called, size=len(data))
        row.file.save(one_line(called)[-80:], ContentFile(data))
        notify(meeting.pk, Part.PICTURES)


def off_the_record(visit_id: uuid.UUID, holder: str, number: int, reason: Stretch.End) -> None:
    """A stretch ends with what of it has been kept."""
    visit, meeting = _checked(visit_id, holder)
    _end(visit, meeting.capture, number, reason)


def _end(visit: Visit, capture: Capture, number: int, reason: Stretch.End) -> None:
    stretch = capture.stretches.filter(number=number).first()
    if stretch and stretch.chunks is None:
        end_stretch(visit.asked_by, capture, number, stretch.received.count(), reason)


def close_open(visit_id: uuid.UUID, holder: str) -> int:
    """End what an earlier clerk has left open; the number of the next stretch."""
    visit, meeting = _checked(visit_id, holder)
    last = meeting.capture.stretches.order_by("-number").first()
    if last is None:
        return 0
    _end(visit, meeting.capture, last.number, Stretch.End.CUT_OFF)
    return last.number + 1


def answered(visit_id: uuid.UUID, holder: str, name: str, agreed: bool) -> None:
    """Somebody has answered the notice in the chat."""
    _, meeting = _checked(visit_id, holder)
    answer_notice(meeting, name, agreed)


def pause(visit_id: uuid.UUID, holder: str, at: datetime, by: str) -> None:
    """Off the record from a moment on, because somebody in the call said no."""
    with transaction.atomic():
        visit = _own(visit_id, holder)
        if not visit.paused:
            visit.paused, visit.off_at, visit.paused_by = True, at, by
            visit.save(update_fields=["paused", "off_at", "paused_by"])


def wind_up(visit_id: uuid.UUID, holder: str) -> None:
    """It is over: what was captured becomes the record; where nothing was, nothing is left of it."""
    with transaction.atomic():
        visit = _own(visit_id, holder)
        meeting = visit.meeting
    if meeting is None:
        return
    close_open(visit_id, holder)
    now = datetime.now(UTC).timestamp()
    for who in meeting.capture.participants.all():
        if who.moments and who.moments[-1][1] is None:
            who.moments[-1][1] = now
            who.save(update_fields=["moments"])
    if meeting.capture.stretches.filter(samples__gt=0).exists():
        stop_capture(None, meeting.capture)
    else:
        with acting(None, None, "nothing was captured"):
            throw_away(meeting)
