"""A member's calendars, and the sheet of a day."""

from __future__ import annotations

from datetime import date, datetime
from typing import Annotated
from urllib.parse import urlsplit
from uuid import UUID
from zoneinfo import ZoneInfo

from django.http import HttpRequest
from ninja import Query, Router, Schema
from pydantic import Field

from core.planning.attending import Standing
from core.planning.events import Answer as Said
from core.planning.events import Status
from core.planning.joining import IMPOSSIBLE, Reason
from server.accounts.current import membership_of, signed_in
from server.accounts.models import Membership
from server.agenda.actions.run_agenda import prepare
from server.answers import Answer
from server.bounds import Day, Name, Number
from server.calendars.actions.connect import connect_account, connect_feed, drop_calendar, give_calendar, look_again
from server.calendars.actions.send_agenda import send_agenda
from server.calendars.ahead import agenda_of, earlier_meetings, left_open, prepared_of, takers_of
from server.calendars.models import Calendar, CalendarKind, Occasion, Planned
from server.calendars.queries import Entry, day_of_sheet, names_by_address, planned_of
from server.clerk.models import SERIES, Visit, Wish
from server.clerk.visits import seen_by, verdicts
from server.convening.api import Zoned
from server.languages import OurWords
from server.pipeline.queries import WorkState, work_on
from server.problems import Refused
from server.sharing.policy import Can, may
from server.sharing.visibility import listed_meetings

router = Router(tags=["calendars"], auth=signed_in)
sheet_router = Router(tags=["calendars"], auth=signed_in)


class CalendarOut(Schema):
    """looked_at: when it was last had. trouble: why it could not be had since. unread: events that cannot be read, with why."""

    id: UUID
    kind: CalendarKind
    name: str
    host: str
    username: str
    looked_at: datetime | None
    trouble: OurWords
    unread: list[str]


class FeedIn(Schema):
    address: str = Field(max_length=2000)
    name: Name = ""


class CalendarAccountIn(Schema):
    address: str = Field(max_length=2000)
    username: str = Field(min_length=1, max_length=254)
    password: str = Field(min_length=1, max_length=400)


class CalendarFileIn(Schema):
    name: Annotated[Name, Field(min_length=1)]
    text: str = Field(max_length=10 * 1024 * 1024)


class AskedOut(Schema):
    """called: they called the meeting."""

    name: str
    address: str
    answer: Said
    called: bool


class CallLinkOut(Schema):
    """host: whose it is. why: of the links in the invitation, why this one."""

    address: str
    host: str
    passcode: str
    why: str


class HeldOut(Schema):
    id: UUID
    state: WorkState


class ClerkOut(Schema):
    """Whether the clerk goes there, and why, in words. fixed: nobody's word changes it. mine: what I said of this meeting, or of its series."""

    goes: bool
    reason: Reason
    who: str
    words: str
    fixed: bool
    mine: bool | None
    series: bool | None
    visit: UUID | None
    state: Standing | None


class EntryOut(Schema):
    """planned: its key where it is in a calendar. meeting: where it was captured or given. answer: mine. overlaps: with another I go to."""

    planned: int | None
    meeting: HeldOut | None
    title: str
    start: datetime
    end: datetime
    all_day: bool
    called_off: bool
    tentative: bool
    private: bool
    recurs: bool
    answer: Said
    overlaps: bool
    place: str
    text: str
    people: list[AskedOut]
    link: CallLinkOut | None
    calendar: str
    clerk: ClerkOut | None


class SheetOut(Schema):
    """calendars: how many I have connected. troubles: names of those that cannot be had."""

    entries: list[EntryOut]
    calendars: int
    troubles: list[str]


def _calendar_of(request: HttpRequest, calendar_id: UUID) -> tuple[Membership, Calendar]:
    membership = membership_of(request)
    found = membership.calendars.filter(pk=calendar_id).first()
    if found is None:
        raise Refused(404, "That is no calendar of yours (any more).")
    return membership, found


@router.get("", response=list[CalendarOut])
def calendars(request: HttpRequest) -> Answer:
    """Mine: nobody else sees them."""
    return membership_of(request).calendars.all()


@router.post("/feed", response={201: CalendarOut})
def add_feed(request: HttpRequest, payload: FeedIn) -> Answer:
    """Connect one by the address that gives it as a whole (iCalendar, RFC 5545); it is looked at every five minutes."""
    return 201, connect_feed(membership_of(request), payload.address, payload.name)


@router.post("/account", response={201: list[CalendarOut]})
def add_account(request: HttpRequest, payload: CalendarAccountIn) -> Answer:
    """Connect the calendars of an account (CalDAV, RFC 4791). The password is kept sealed, and never given out."""
    return 201, connect_account(membership_of(request), payload.address, payload.username, payload.password)


@router.post("/file", response={201: CalendarOut})
def add_file(request: HttpRequest, payload: CalendarFileIn) -> Answer:
    """Give one as a file."""
    return 201, give_calendar(membership_of(request), payload.name, payload.text)


@router.post("/{calendar_id}/look", response={202: CalendarOut})
def look_now(request: HttpRequest, calendar_id: UUID) -> Answer:
    """Look at it now."""
    membership, found = _calendar_of(request, calendar_id)
    look_again(membership, found)
    return 202, found


@router.delete("/{calendar_id}", response={204: None})
def take_away(request: HttpRequest, calendar_id: UUID) -> Answer:
    """Take it away, with what is planned in it. Meetings that were held stay."""
    drop_calendar(*_calendar_of(request, calendar_id))
    return 204, None


class DayIn(Zoned):
    on: Day
    time_zone: str = Field("UTC", max_length=64)


@sheet_router.get("/day", response=SheetOut)
def sheet(request: HttpRequest, asked: Query[DayIn]) -> Answer:
    """The meetings of a day of a time zone: planned in my calendars, held, or both."""
    membership = membership_of(request)
    entries = day_of_sheet(membership, asked.on, ZoneInfo(asked.time_zone))
    names = names_by_address(membership, [one.planned for one in entries if one.planned])
    mine = list(membership.calendars.all())
    clerks = _clerks(membership, [one.planned for one in entries if one.planned])
    return {
        "entries": [_entry(one, names, clerks) for one in entries],
        "calendars": len(mine),
        "troubles": [one.name for one in mine if one.trouble],
    }


@sheet_router.get("/planned/{planned_id}", response=EntryOut)
def planned(request: HttpRequest, planned_id: Number) -> Answer:
    """One of the meetings in my calendars, to make a meeting of."""
    membership = membership_of(request)
    row = planned_of(membership, planned_id)
    return _entry(Entry(row.start, row.end, row), names_by_address(membership, [row]), _clerks(membership, [row]))


def _clerks(membership: Membership, rows: list[Planned]) -> dict[int, dict]:
    """What is to be said of the clerk, by the key of what is planned: nothing of what has no call, or what the member cannot send it to."""
    rows = [row for row in rows if row.link and may(membership, Can.ADD)]
    said = {(one.uid, one.instance): one.wanted for one in Wish.objects.filter(membership=membership, uid__in={row.uid for row in rows})}
    visits = {(one.uid, one.instance): one for one in Visit.objects.filter(workspace=membership.workspace, wanted_by=membership).exclude(uid="")}
    found = {}
    for key, verdict in verdicts(membership, rows).items():
        row = next(row for row in rows if row.pk == key)
        visit = visits.get((row.uid, row.instance))
        found[key] = {
            "goes": verdict.goes,
            "reason": verdict.reason,
            "who": verdict.who,
            "words": verdict.words,
            "fixed": verdict.reason in IMPOSSIBLE,
            "mine": said.get((row.uid, row.instance)),
            "series": said.get((row.uid, SERIES)),
            "visit": visit and visit.pk,
            "state": visit and visit.state,
        }
    return found


class AheadPointIn(Schema):
    text: Name
    minutes: int = Field(ge=1, le=600)


class PreparedIn(Schema):
    points: list[AheadPointIn] = Field(max_length=60)


class LeftOpenOut(Schema):
    """An action or a question of an earlier meeting of the series that nobody has closed. whose: it is, by name."""

    kind: str
    text: str
    whose: str
    due: date | None
    meeting: UUID
    title: str
    start: float


class HeldBeforeOut(Schema):
    id: UUID
    title: str
    started_at: datetime


class AheadOut(Schema):
    """A meeting that is planned. prepared: its agenda. takers: to whom that would be sent, by name. seen_by: who will see the record."""

    entry: EntryOut
    meeting: UUID | None
    prepared: list[AheadPointIn]
    sent_at: datetime | None
    takers: list[str]
    left_open: list[LeftOpenOut]
    earlier: list[HeldBeforeOut]
    seen_by: list[str]


@sheet_router.get("/planned/{planned_id}/ahead", response=AheadOut)
def ahead(request: HttpRequest, planned_id: Number) -> Answer:
    """All that is known of a meeting before it happens."""
    membership = membership_of(request)
    row = planned_of(membership, planned_id)
    kept = prepared_of(membership, row)
    earlier = earlier_meetings(membership, row)
    held = Occasion.objects.filter(uid=row.uid, instance=row.instance, meeting__in=listed_meetings(membership)).first()
    names = names_by_address(membership, [row])
    return {
        "entry": _entry(Entry(row.start, row.end, row), names, _clerks(membership, [row])),
        "meeting": held and held.meeting_id,
        "prepared": [{"text": text, "minutes": minutes} for text, minutes in agenda_of(membership, row)],
        "sent_at": kept and kept.sent_at,
        "takers": [names.get(one["address"], one["name"] or one["address"]) for one in takers_of(membership, row)],
        "left_open": [
            {
                "kind": one.kind,
                "text": one.text,
                "whose": one.owner.name if one.owner else one.owner_name,
                "due": one.due,
                "meeting": one.meeting_id,
                "title": one.meeting.title,
                "start": one.start,
            }
            for one in left_open(membership, earlier)
        ],
        "earlier": earlier[:5],
        "seen_by": seen_by(membership, row),
    }


@sheet_router.put("/planned/{planned_id}/agenda", response={204: None})
def prepare_agenda(request: HttpRequest, planned_id: Number, payload: PreparedIn) -> Answer:
    """Set its agenda."""
    membership = membership_of(request)
    row = planned_of(membership, planned_id)
    prepare(membership, row.uid, row.instance, [(point.text, point.minutes) for point in payload.points])
    return 204, None


@sheet_router.post("/planned/{planned_id}/agenda/mail", response={204: None})
def mail_agenda(request: HttpRequest, planned_id: Number) -> Answer:
    """Send it to those who come, at the addresses they were invited by."""
    membership = membership_of(request)
    send_agenda(membership, planned_of(membership, planned_id))
    return 204, None


def _entry(entry: Entry, names: dict[str, str], clerks: dict[int, dict]) -> dict:
    row, meeting = entry.planned, entry.meeting
    held = meeting and {"id": meeting.pk, "state": work_on(meeting).state}
    if row is None:
        assert meeting is not None
        people = [{"name": one.name, "address": "", "answer": Said.NONE, "called": False} for one in meeting.people.all()]
        shown = dict.fromkeys(("all_day", "called_off", "tentative", "private", "recurs"), False)
        return {
            **shown,
            "planned": None,
            "meeting": held,
            "title": meeting.title,
            "start": entry.start,
            "end": entry.end,
            "answer": entry.answer,
            "overlaps": False,
            "place": "",
            "text": "",
            "people": people,
            "link": None,
            "calendar": "",
            "clerk": None,
        }
    return {
        "planned": row.pk,
        "meeting": held,
        "title": meeting.title if meeting else row.title,
        "start": entry.start,
        "end": entry.end,
        "all_day": row.all_day,
        "called_off": row.status == Status.CANCELLED,
        "tentative": row.status == Status.TENTATIVE,
        "private": row.private,
        "recurs": row.recurs,
        "answer": entry.answer,
        "overlaps": entry.overlaps,
        "place": row.place,
        "text": row.text,
        "people": [{**one, "name": names.get(one["address"], one["name"])} for one in row.people],
        "link": {"address": row.link, "host": urlsplit(row.link).hostname or "", "passcode": row.passcode, "why": row.why} if row.link else None,
        "calendar": row.calendar.name,
        "clerk": clerks.get(row.pk),
    }
