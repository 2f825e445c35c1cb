"""Being booked: free times over a change of clocks, events as RFC 5545 and 6638 have them on a real CalDAV server, and nobody twice under a hundred at once."""

from __future__ import annotations

import socket
import threading
from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest
from django.db import connections
from icalendar import Calendar as ICal

from core.planning.appointment import Appointment, to_ical
from core.planning.events import read_events
from core.planning.free_times import Taken, Terms, check_hours, free_times
from core.problems import InputProblem
from server.agenda.models import Preparation
from server.booking.actions.book import book
from server.booking.keep import write
from server.booking.models import Booking, BookingPage
from server.calendars.keep import look
from server.calendars.models import Calendar, Planned
from server.problems import Refused
from standins import calendar as caldav_server
from standins.calendar import Account, Engagement, written
from tests.server.conftest import delivered

LONDON = ZoneInfo("Europe/London")
NINE_TO_TWELVE = {0: [(540, 720)], 1: [(540, 720)]}


def times(terms: Terms, first: date, days: int = 1, taken: Taken | None = None, now: datetime = datetime(2026, 1, 1, tzinfo=UTC)) -> list[str]:
    taken = taken or Taken()
    return [f"{one:%d %H:%M}" for one in free_times(terms, taken, now, first, days)]


def test_hours_are_those_that_clocks_show_on_either_side_of_their_change():
    """In Europe/London clocks go forward on 29 March 2026 at 01:00 UTC and back on 25 October at 01:00 UTC (the IANA database)."""
    terms = Terms("Europe/London", {day: [(540, 600)] for day in range(7)}, length=30, step=30, notice=0, ahead=400)
    assert times(terms, date(2026, 3, 28), 2) == ["28 09:00", "28 09:30", "29 08:00", "29 08:30"]
    assert times(terms, date(2026, 10, 24), 2) == ["24 08:00", "24 08:30", "25 09:00", "25 09:30"]
    # A night that has an hour less, and one that has an hour more: each booking is as long as it is.
    night = Terms("Europe/London", {6: [(30, 180)]}, length=30, step=30, notice=0, ahead=400)
    assert times(night, date(2026, 3, 29)) == ["29 00:30", "29 01:00", "29 01:30"]
    assert len(times(night, date(2026, 10, 25))) == 7
    assert times(Terms("Europe/London", {5: [(1410, 1440)]}, notice=0, ahead=400), date(2026, 3, 28)) == ["28 23:30"]


def test_pause_notice_number_a_day_and_what_is_taken():
    terms = Terms("UTC", NINE_TO_TWELVE, length=30, pause=15, step=30, notice=0, ahead=400)
    monday = date(2026, 3, 2)
    busy = Taken([(datetime(2026, 3, 2, 10, tzinfo=UTC), datetime(2026, 3, 2, 10, 30, tzinfo=UTC))])
    assert times(terms, monday, taken=busy) == ["02 09:00", "02 11:00", "02 11:30"]
    soon = Terms("UTC", NINE_TO_TWELVE, notice=90, ahead=1)
    assert times(soon, monday, 2, now=datetime(2026, 3, 2, 9, 10, tzinfo=UTC)) == ["02 11:00", "02 11:30", *(f"03 {h}" for h in ("09:00", "09:30", "10:00", "10:30", "11:00", "11:30"))]
    two = Terms("UTC", NINE_TO_TWELVE, notice=0, a_day=2, ahead=400)
    booked = Taken(booked=[datetime(2026, 3, 2, 9, tzinfo=UTC), datetime(2026, 3, 2, 10, tzinfo=UTC)])
    assert times(two, monday, 2, booked)[0] == "03 09:00"
    assert check_hours({0: [(540, 720), (700, 800)], 9: [(1, 2)], 1: [(800, 700)]}) == ["Hours of a day do not overlap.", "9 is no day of the week: 0 is Monday, 6 is Sunday.", "Hours end after they begin, within one day."]


def test_an_appointment_is_as_the_standards_have_it():
    """RFC 5545 (3.6.1, 3.8.2, 3.8.4, 3.8.7), RFC 6638 (7.1: SCHEDULE-AGENT), RFC 4791 (4.1: no METHOD in a calendar), RFC 6047 (METHOD in a letter)."""
    start = datetime(2026, 3, 30, 8, tzinfo=UTC)
    one = Appointment("booking-1@aftershower", "Glass: Pavel; Drozd", start, start + timedelta(minutes=30), "Europe/London", ("Maren Tollefsen", "maren@larkmoor.example"), ("Pavel Drozd", "pavel@drozd.example"), 2, "Bring, please: the drawing", "https://calls.example/r/1")
    kept, sent = ICal.from_ical(to_ical(one, start)), ICal.from_ical(to_ical(one, start, "REQUEST"))
    assert kept["VERSION"] == "2.0" and "METHOD" not in kept and sent["METHOD"] == "REQUEST" and kept.walk("VTIMEZONE")
    event = kept.walk("VEVENT")[0]
    assert event["DTSTART"].params["TZID"] == "Europe/London" and event["DTSTART"].dt.astimezone(UTC) == start and event["SEQUENCE"] == 2
    assert event["ATTENDEE"].params["SCHEDULE-AGENT"] == "CLIENT" and event["ATTENDEE"].params["PARTSTAT"] == "ACCEPTED" and event["ORGANIZER"] == "mailto:maren@larkmoor.example"
    assert "SCHEDULE-AGENT" not in sent.walk("VEVENT")[0]["ATTENDEE"].params
    assert all(len(line) <= 75 for line in to_ical(one, start).split(b"\r\n")) and to_ical(one, start).endswith(b"\r\n")
    # And our own reading of calendars finds in it what was put in.
    [read] = read_events(to_ical(one, start), start - timedelta(days=1), start + timedelta(days=1)).events
    assert (read.title, read.start, read.zone, read.text, read.invited[0].answer) == (one.title, start, "Europe/London", one.text, "accepted") and read.sources[0].text == one.link


@pytest.fixture(scope="module")
def radicale(tmp_path_factory):
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    running = caldav_server.start(port, tmp_path_factory.mktemp("radicale"), {"maren": "cold frame"})
    yield f"127.0.0.1:{port}"
    running.terminate()
    running.wait(10)


MONDAY = (datetime.now(LONDON) + timedelta(days=7 - datetime.now(LONDON).weekday() + 7)).date()
"""Far enough ahead."""


def moment(clock: str, day: date = MONDAY) -> str:
    hour, minute = map(int, clock.split(":"))
    return datetime(day.year, day.month, day.day, hour, minute, tzinfo=LONDON).astimezone(UTC).isoformat()


@pytest.fixture
def page(radicale, maren, caller, settings):
    """A page of Maren's that writes into a calendar of a real server: (its address, her caller, the account)."""
    settings.INSIDE = {radicale}
    account = Account(f"http://{radicale}", "maren", "cold frame")
    account.make("work", "Work")
    engagement = Engagement("glazing", "Glazing", datetime.fromisoformat(moment("10:00")).isoformat(), 60)
    account.put("work", "glazing", written(engagement))
    call = caller(maren)
    assert call("post", "/api/calendars/account", {"address": f"http://{radicale}/maren/", "username": "maren", "password": "cold frame"}).status_code == 201
    calendar = Calendar.objects.select_related("membership__user", "membership__workspace").get()
    look(calendar)
    given = {"title": "Half an hour about the glass", "zone": "Europe/London", "hours": {"0": [[540, 720]]}, "notice": 60, "calendar": str(calendar.pk), "link": "https://calls.example/r/1", "points": [["The late panes", 10]]}
    made = call("post", "/api/booking", given)
    assert made.status_code == 201, made.json()
    yield made.json()["address"].rpartition("/")[2], call, account, given, made.json()
    for name in ("glazing", *map(str, Booking.objects.values_list("pk", flat=True))):
        account.delete("work", name)


def free(call, slug: str, **more) -> list[str]:
    asked = "&".join(f"{name}={value}" for name, value in {"first": MONDAY.isoformat(), "days": 1, **more}.items())
    return [f"{datetime.fromisoformat(one).astimezone(LONDON):%H:%M}" for one in call("get", f"/api/booked/{slug}/free?{asked}").json()["times"]]


@pytest.mark.django_db
def test_somebody_without_an_account_books_moves_and_calls_off(page, caller):
    slug, call, account, given, _ = page
    guest = caller(None)
    shown = guest("get", f"/api/booked/{slug}").json()
    assert shown["host"] == "Maren Tollefsen" and set(shown) == {"title", "about", "host", "zone", "length", "ahead"}
    assert free(guest, slug) == ["09:00", "09:30", "11:00", "11:30"]  # there is something from ten to eleven
    who = {"name": "Pavel Drozd", "email": "pavel@drozd.example", "time_zone": "America/New_York", "note": "About the panes"}
    for wrong in ({"start": moment("10:00")}, {"start": moment("09:10")}, {"start": moment("09:00", MONDAY + timedelta(days=1))}):
        assert guest("post", f"/api/booked/{slug}", {**who, **wrong}).status_code == 409
    for wrong in ({"email": "nowhere"}, {"name": ""}, {"time_zone": "Larkmoor"}):
        assert guest("post", f"/api/booked/{slug}", {**who, "start": moment("09:00"), **wrong}).status_code == 422
    booked = guest("post", f"/api/booked/{slug}", {**who, "start": moment("09:00")})
    assert booked.status_code == 201, booked.json()
    token = booked.json()["token"]
    booking = Booking.objects.get()
    assert free(guest, slug) == ["09:30", "11:00", "11:30"] and Preparation.objects.get().points == [["The late panes", 10]]
    theirs, own = delivered()
    assert "America/New York" in theirs.body and f"/booked/{token}" in theirs.body and "Pavel Drozd" in own.body and "About the panes" in own.body
    letter = next(part for part in theirs.message().walk() if part.get_content_type() == "text/calendar")
    assert letter.get_param("method") == "REQUEST" and b"METHOD:REQUEST" in letter.get_payload(decode=True)
    write(booking.pk)
    write(booking.pk)  # once more changes nothing
    look(Calendar.objects.select_related("membership__user", "membership__workspace").get())
    planned = Planned.objects.get(uid=booking.uid)
    assert planned.title == "Half an hour about the glass: Pavel Drozd" and planned.link == "https://calls.example/r/1"
    # Moved by its link: its own time counts as free.
    assert "09:00" in free(guest, slug, without=token)
    assert guest("post", f"/api/booked/mine/{token}/move", {"start": moment("11:00")}).json()["start"] == datetime.fromisoformat(moment("11:00")).isoformat().replace("+00:00", "Z")
    write(booking.pk)
    look(Calendar.objects.select_related("membership__user", "membership__workspace").get())
    assert Planned.objects.get(uid=booking.uid).start.isoformat() == moment("11:00")
    assert guest("post", f"/api/booked/mine/{token}/off").json()["state"] == "called off"
    assert guest("post", f"/api/booked/mine/{token}/off").status_code == 409
    write(booking.pk)
    look(Calendar.objects.select_related("membership__user", "membership__workspace").get())
    assert not Planned.objects.filter(uid=booking.uid).exists() and "11:00" in free(guest, slug)
    assert guest("get", "/api/booked/mine/nonsense").status_code == 404 and "called off" in delivered()[-1].subject


@pytest.mark.django_db
def test_a_page_is_its_members_own_and_says_what_cannot_be_kept(page, member, caller):
    slug, call, _, given, made = page
    idris = caller(member("Idris Quaye"))
    assert idris("put", f"/api/booking/{made['id']}", given).status_code == 404 and idris("get", "/api/booking").json()["pages"] == []
    assert idris("post", "/api/booking", given).status_code == 422  # not a calendar of his
    for wrong in ({"hours": {"0": [[720, 540]]}}, {"hours": {"8": [[1, 2]]}}, {"zone": "Larkmoor"}, {"link": "ftp://x"}, {"length": 0}):
        assert call("put", f"/api/booking/{made['id']}", given | wrong).status_code == 422, wrong
    guest = caller(None)
    assert call("put", f"/api/booking/{made['id']}", given | {"open": False}).status_code == 200
    assert guest("get", f"/api/booked/{slug}").status_code == 404 and guest("get", f"/api/booked/{slug}/free?first=2026-03-02").status_code == 404
    call("put", f"/api/booking/{made['id']}", given)
    guest("post", f"/api/booked/{slug}", {"name": "Pavel", "email": "p@drozd.example", "start": moment("09:00")})
    assert call("delete", f"/api/booking/{made['id']}").status_code == 409
    booking = call("get", "/api/booking").json()["bookings"][0]
    assert not booking["written"] and call("post", f"/api/booking/booked/{booking['id']}/off").json()["state"] == "called off"
    assert call("delete", f"/api/booking/{made['id']}").status_code == 204


@pytest.mark.django_db
def test_a_calendar_that_does_not_take_it_is_said(page, caller, settings):
    slug, call, _, given, _ = page
    caller(None)("post", f"/api/booked/{slug}", {"name": "Pavel", "email": "p@drozd.example", "start": moment("09:00")})
    settings.INSIDE = set()
    with pytest.raises(InputProblem, match="network of its own"):
        write(Booking.objects.get().pk)


def test_of_a_hundred_who_come_at_once_one_has_it(transactional_db, member):
    maren = member("Maren Tollefsen", "owner")
    page = BookingPage.objects.create(membership=maren, title="Glass", zone="Europe/London", hours={"0": [[540, 600]]}, notice=60)
    other = BookingPage.objects.create(membership=maren, title="Heating", zone="Europe/London", hours={"0": [[540, 600]]}, notice=60)
    start, said, ready = datetime.fromisoformat(moment("09:00")), [], threading.Barrier(20)

    def come(number: int) -> None:
        ready.wait()
        for turn in range(5):  # twenty threads, five each: a hundred
            try:
                own = BookingPage.objects.select_related("membership__user", "membership__workspace").get(pk=(page if number % 2 else other).pk)
                said.append(book(own, start, f"Guest {number} {turn}", f"g{number}-{turn}@x.example", "UTC", "")[0])
            except Refused as refused:
                said.append(refused.status)
        connections.close_all()

    threads = [threading.Thread(target=come, args=(number,)) for number in range(20)]
    for one in threads:
        one.start()
    for one in threads:
        one.join()
    assert len(said) == 100 and sum(isinstance(one, Booking) for one in said) == 1 and {one for one in said if not isinstance(one, Booking)} == {409}
    assert Booking.objects.count() == 1
