"""Calendars: had from feeds, accounts of a real CalDAV server, and files; the sheet of a day; a planned meeting held."""

from __future__ import annotations

import socket
import threading
import uuid
from datetime import UTC, date, datetime, timedelta
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer

import pytest

from core.problems import InputProblem
from server.calendars.keep import look
from server.calendars.models import Calendar, Occasion, Part, Planned
from server.calendars.tasks import look_at, look_at_calendars
from server.meetings.models import Meeting, Person
from server.outward import MOST_BYTES, NotAllowed, Outward, is_public
from standins import calendar as caldav_server
from standins.calendar import Account, Engagement

TODAY = date.today()


def at(day: date, clock: str) -> str:
    return f"{day:%Y%m%d}T{clock}00"


def event(uid: str, day: date, clock: str = "0900", more: str = "", title: str = "Works meeting") -> str:
    return f"BEGIN:VEVENT\r\nUID:{uid}\r\nSUMMARY:{title}\r\nDTSTART:{at(day, clock)}Z\r\nDURATION:PT30M\r\n{more}END:VEVENT\r\n"


def calendar(*events: str) -> str:
    return "BEGIN:VCALENDAR\r\nVERSION:2.0\r\nPRODID:x\r\nX-WR-CALNAME:Garden\r\n" + "".join(events) + "END:VCALENDAR\r\n"


@pytest.fixture
def feed(settings):
    """A web server with a calendar, that can be made to answer otherwise; it counts what it gave as a whole."""

    class Handler(BaseHTTPRequestHandler):
        text, status, tag, to, whole = calendar(event("works", TODAY)), 200, '"1"', "", 0

        def do_GET(self):  # noqa: N802 (the library's name)
            made = type(self)
            if made.to:
                self.send_response(302)
                self.send_header("Location", made.to)
                return self.end_headers()
            if made.status == 200 and self.headers.get("If-None-Match") == made.tag:
                self.send_response(304)
                return self.end_headers()
            made.whole += 1
            self.send_response(made.status)
            self.send_header("ETag", made.tag)
            self.end_headers()
            self.wfile.write(made.text.encode())

        def log_message(self, *args):
            pass

    server = ThreadingHTTPServer(("127.0.0.1", 0), Handler)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    settings.INSIDE = {f"127.0.0.1:{server.server_port}"}
    Handler.address = f"http://127.0.0.1:{server.server_port}/garden.ics"
    yield Handler
    server.shutdown()


@pytest.fixture(scope="module")
def radicale(tmp_path_factory):
    """A CalDAV server with an account of Maren's."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    running = caldav_server.start(port, tmp_path_factory.mktemp("radicale"), {"maren": "cold frame"})
    yield f"127.0.0.1:{port}"
    running.terminate()
    running.wait(10)


def sheet(call, day: date = TODAY, zone: str = "UTC") -> list[dict]:
    return call("get", f"/api/day?on={day}&time_zone={zone}").json()["entries"]


# where a server goes


def test_nobody_leads_this_server_into_its_own_network(settings, feed):
    outward = Outward()
    assert outward.get(feed.address).status_code == 200
    port = feed.address.rpartition(":")[2].partition("/")[0]
    for inner in ("http://localhost:5432/", f"http://[::1]:{port}/", "http://169.254.169.254/latest/", "http://10.0.0.7/", "http://[::ffff:10.0.0.7]/", "http://0.0.0.0:1/"):
        with pytest.raises(NotAllowed):
            outward.get(inner)
        feed.to = inner  # nor by a redirect
        with pytest.raises(NotAllowed):
            outward.get(feed.address)


def test_a_name_is_checked_by_where_it_leads(settings, feed, monkeypatch):
    """A name that is public when it is looked at and inside when it is gone to: the connection goes to the address that was checked."""
    asked = []

    def resolve(host, port, **more):
        asked.append(host)
        return [(socket.AF_INET, socket.SOCK_STREAM, 6, "", ("10.1.2.3", port))]

    monkeypatch.setattr("server.outward.socket.getaddrinfo", resolve)
    with pytest.raises(NotAllowed):
        Outward().get("https://calendar.example/a.ics")
    assert asked == ["calendar.example"]


@pytest.mark.parametrize("address", ["8.8.8.8", "2606:4700::1111"])
def test_what_is_public(address):
    assert is_public(address)


@pytest.mark.parametrize("address", ["127.0.0.1", "::1", "fe80::1%eth0", "64:ff9b::a00:1", "2002:a00:1::", "224.0.0.1", "100.64.0.1", "::ffff:127.0.0.1", "fd00::1"])
def test_what_is_not(address):
    assert not is_public(address)


def test_no_more_is_read_than_can_be_kept(feed):
    feed.text = "x" * (MOST_BYTES + 1)
    with pytest.raises(InputProblem, match="too large"):
        Outward().get(feed.address)


# feeds


def test_a_feed_is_had_at_once_and_only_again_when_something_is_new(maren, caller, feed):
    call = caller(maren)
    made = call("post", "/api/calendars/feed", {"address": feed.address}).json()
    assert (made["name"], made["host"], made["trouble"]) == ("Garden", "127.0.0.1", "")
    [entry] = sheet(call)
    assert (entry["title"], entry["meeting"], entry["calendar"]) == ("Works meeting", None, "Garden")
    row = Calendar.objects.get()
    assert feed.address not in row.address and row.etag == '"1"'
    look(row)
    assert feed.whole == 1
    feed.text, feed.tag = calendar(event("works", TODAY, "1400", title="Works meeting, later"), event("new", TODAY, "1500")), '"2"'
    kept = Planned.objects.get().pk
    look(Calendar.objects.get())
    assert feed.whole == 2 and [one["title"] for one in sheet(call)] == ["Works meeting, later", "Works meeting"]
    assert Planned.objects.get(uid="works").pk == kept
    feed.text, feed.tag = calendar(), '"3"'
    look(Calendar.objects.get())
    assert sheet(call) == [] and Part.objects.count() == 1


def test_what_is_wrong_with_a_feed_is_said_at_once_and_nothing_is_left(maren, caller, feed, settings):
    call = caller(maren)
    for text, status, said in (("<html>sign in", 200, "no calendar"), ("", 404, "does not give"), ("", 500, "answers 500"), (calendar()[:-20], 200, "cut off")):
        feed.text, feed.status = text, status
        refused = call("post", "/api/calendars/feed", {"address": feed.address})
        assert refused.status_code == 422 and said in refused.json()["detail"]
    for address, said in (("ftp://x.example/a", "whole address"), ("https://u:p@x.example/", "out of the address"), ("https://x.example:99999/", "port"), ("http://127.0.0.1:1/", "does not go")):
        refused = call("post", "/api/calendars/feed", {"address": address})
        assert refused.status_code == 422 and said in refused.json()["detail"], address
    assert not Calendar.objects.exists()


def test_a_feed_that_fails_later_keeps_what_was_there_and_says_so(maren, caller, feed):
    call = caller(maren)
    call("post", "/api/calendars/feed", {"address": feed.address, "name": "Mine"})
    pauses = []
    for status in (500, 500, 410):
        feed.status, feed.tag = status, f'"{len(pauses)}"'
        look(Calendar.objects.get())
        pauses.append(Calendar.objects.get().next_at - datetime.now(UTC))
    row = Calendar.objects.get()
    assert "does not give this calendar any more" in row.trouble and pauses[0] < pauses[1] < pauses[2] and len(sheet(call)) == 1
    assert call("get", f"/api/day?on={TODAY}").json()["troubles"] == ["Mine"]
    feed.status, feed.tag = 200, '"9"'
    look(Calendar.objects.get())
    assert Calendar.objects.get().trouble == "" and Calendar.objects.get().fails == 0


@pytest.mark.django_db(transaction=True)
def test_calendars_are_looked_at_when_their_time_has_come(maren, caller, feed, transactional_db):
    call = caller(maren)
    made = call("post", "/api/calendars/feed", {"address": feed.address}).json()
    queued = lambda: list(  # noqa: E731
        __import__("procrastinate.contrib.django.models", fromlist=["x"]).ProcrastinateJob.objects.filter(task_name="look at calendar").values_list("args", flat=True)
    )
    look_at_calendars(0)
    assert queued() == []
    Calendar.objects.update(next_at=datetime.now(UTC) - timedelta(seconds=1))
    look_at_calendars(0)
    look_at_calendars(1)
    assert queued() == [{"calendar_id": made["id"]}]
    feed.tag, feed.text = '"7"', calendar()
    look_at(made["id"])
    assert sheet(call) == []


# accounts


def test_an_account_of_a_caldav_server(maren, caller, radicale, settings):
    settings.INSIDE = {radicale}
    call, account, address = caller(maren), Account(f"http://{radicale}", "maren", "cold frame"), f"http://{radicale}/maren/"
    account.make("works", "Works")
    nine = datetime.combine(TODAY, datetime.min.time(), UTC).replace(hour=9).isoformat()
    glazing = Engagement("glazing", "Glazing call", nine, 30, people=[("Maren Tollefsen", "maren@larkmoor.example", "ACCEPTED"), ("Gwen Castellow", "gwen@castellow.example", "DECLINED")])
    account.put("works", "glazing", caldav_server.written(glazing))
    refused = call("post", "/api/calendars/account", {"address": address, "username": "maren", "password": "wrong"})
    assert refused.status_code == 422 and "does not let maren in" in refused.json()["detail"]
    [made] = call("post", "/api/calendars/account", {"address": address, "username": "maren", "password": "cold frame"}).json()
    assert (made["name"], made["username"]) == ("Works", "maren")
    row = Calendar.objects.get()
    assert "cold frame" not in row.secret + row.address and row.next_at <= datetime.now(UTC)  # also where its job is lost

    look(row)
    [entry] = sheet(call)
    assert entry["title"] == "Glazing call" and [(one["name"], one["answer"], one["called"]) for one in entry["people"]] == [
        ("Maren Tollefsen", "accepted", True),
        ("Gwen Castellow", "declined", False),
    ]
    token = Calendar.objects.get().token
    assert token
    look(Calendar.objects.get())
    assert Calendar.objects.get().trouble == "" and len(sheet(call)) == 1

    account.put("works", "heating", caldav_server.written(Engagement("heating", "Heating call", nine, 60)))
    account.put("works", "glazing", caldav_server.written(Engagement("glazing", "Glazing call, moved", nine.replace("T09", "T13"), 30)))
    look(Calendar.objects.get())
    assert [one["title"] for one in sheet(call)] == ["Heating call", "Glazing call, moved"] and Calendar.objects.get().token != token
    account.delete("works", "heating")
    look(Calendar.objects.get())
    assert [one["title"] for one in sheet(call)] == ["Glazing call, moved"]
    # A token that the server knows no more: the whole of it is had again.
    Calendar.objects.update(token="http://radicale.org/ns/sync/" + "0" * 64)
    look(Calendar.objects.get())
    assert Calendar.objects.get().trouble == "" and len(sheet(call)) == 1
    # Once more with another password: no second row.
    call("post", "/api/calendars/account", {"address": address, "username": "maren", "password": "cold frame"})
    assert Calendar.objects.count() == 1
    Calendar.objects.update(secret="")
    look(Calendar.objects.get())
    assert "does not let maren in any more" in Calendar.objects.get().trouble and len(sheet(call)) == 1


def test_a_password_goes_by_https_alone(maren, caller):
    refused = caller(maren)("post", "/api/calendars/account", {"address": "http://dav.example/", "username": "m", "password": "p"})
    assert refused.status_code == 422 and "https" in refused.json()["detail"]


# files


def test_a_file_is_laid_out_as_the_weeks_go_on(maren, caller):
    call = caller(maren)
    weekly = event("works", TODAY - timedelta(days=70), more="RRULE:FREQ=WEEKLY\r\n")
    made = call("post", "/api/calendars/file", {"name": "works.ics", "text": calendar(weekly)}).json()
    assert made["name"] == "works" and made["kind"] == "file"
    days = [TODAY + timedelta(days=number) for number in range(-35, 63)]
    assert sum(len(sheet(call, day)) for day in days[::7]) == len(days[::7]) - 1 + len(sheet(call, days[0]))
    assert sheet(call, TODAY)[0]["recurs"]
    refused = call("post", "/api/calendars/file", {"name": "x", "text": "nothing"})
    assert refused.status_code == 422 and Calendar.objects.count() == 1


# the sheet


def test_a_day_is_that_of_the_zone(maren, caller):
    call = caller(maren)
    call("post", "/api/calendars/file", {"name": "a", "text": calendar(event("late", TODAY, "2330"))})
    assert len(sheet(call, TODAY)) == 1 and sheet(call, TODAY, "Asia/Tokyo") == []
    assert len(sheet(call, TODAY + timedelta(days=1), "Asia/Tokyo")) == 1
    assert len(sheet(call, TODAY + timedelta(days=1))) == 0  # it is over as that day begins
    assert call("get", f"/api/day?on={TODAY}&time_zone=Mars/Olympus").status_code == 422
    assert call("get", "/api/day?on=9999-12-31").status_code == 422


def test_what_overlaps_is_said_unless_one_does_not_go(maren, caller):
    call = caller(maren)
    declined = "ATTENDEE;PARTSTAT=DECLINED:mailto:maren@larkmoor.example\r\n"
    rows = [event("a", TODAY, "0900"), event("b", TODAY, "0915"), event("c", TODAY, "0945"), event("d", TODAY, "0950", declined), event("e", TODAY, "0955", "STATUS:CANCELLED\r\n")]
    call("post", "/api/calendars/file", {"name": "a", "text": calendar(*rows)})
    found = sheet(call)
    assert [one["overlaps"] for one in found] == [True, True, False, False, False]
    assert found[3]["answer"] == "declined" and found[4]["called_off"]


def test_a_calendar_is_its_members_alone(maren, member, caller):
    idris, gwen = member("Idris Quaye", "admin"), member("Gwen Castellow", "guest")
    made = caller(maren)("post", "/api/calendars/file", {"name": "a", "text": calendar(event("a", TODAY))}).json()
    key = Planned.objects.get().pk
    for other in (idris, gwen):
        call = caller(other)
        assert call("get", "/api/calendars").json() == [] and sheet(call) == []
        assert call("delete", f"/api/calendars/{made['id']}").status_code == 404
        assert call("post", f"/api/calendars/{made['id']}/look").status_code == 404
        assert call("get", f"/api/planned/{key}").status_code == 404
        begun = call("post", "/api/captures", {"id": str(uuid.uuid4()), "title": "x", "started_at": "2026-03-03T09:00:00Z", "planned": key})
        assert begun.status_code in (403, 404) and not Meeting.objects.exists()
    assert caller(gwen)("post", "/api/calendars/file", {"name": "a", "text": calendar()}).status_code == 403


# held


def test_a_planned_meeting_is_held(maren, member, caller):
    call, idris = caller(maren), member("Idris Quaye")
    Person.objects.create(workspace=maren.workspace, name="Gwen C.", email="gwen@castellow.example")
    asked = (
        "RRULE:FREQ=DAILY\r\nORGANIZER;CN=Maren:mailto:maren@larkmoor.example\r\nATTENDEE;CN=Gwen:mailto:Gwen@castellow.example\r\n"
        "ATTENDEE;CN=Anselm Roth:mailto:anselm@heat.example\r\nDESCRIPTION:Join https://calls.example/rooms/palm\\nPasscode: 4711\r\n"
    )
    call("post", "/api/calendars/file", {"name": "a", "text": calendar(event("works", TODAY - timedelta(days=1), more=asked))})
    key = sheet(call)[0]["planned"]
    shown = call("get", f"/api/planned/{key}").json()
    assert [one["name"] for one in shown["people"]] == ["Maren Tollefsen", "Gwen C.", "Anselm Roth"]
    assert (shown["link"]["host"], shown["link"]["passcode"]) == ("calls.example", "4711")
    for number, one in enumerate([key, Planned.objects.exclude(pk=key).first().pk]):
        begun = {"id": str(uuid.uuid4()), "title": f"Works {number}", "started_at": f"{TODAY}T09:00:30Z", "planned": one, "people": ["Gwen C.", "Anselm Roth"], "visibility": "named"}
        assert call("post", "/api/captures", begun).status_code == 201
    first, second = Meeting.objects.order_by("title")
    assert first.series == second.series and first.series.name == "Works meeting"
    assert Person.objects.get(name="Anselm Roth").email == "anselm@heat.example" and Occasion.objects.count() == 2
    [entry] = [one for one in sheet(call) if one["planned"] == key]
    assert entry["meeting"] == {"id": str(first.pk), "state": "capturing"} and entry["title"] == "Works 0"
    # Somebody who has the same event and does not see the meeting learns nothing of it.
    other = caller(idris)
    other("post", "/api/calendars/file", {"name": "b", "text": calendar(event("works", TODAY - timedelta(days=1), more=asked))})
    assert sheet(other)[0]["meeting"] is None and sheet(other)[0]["title"] == "Works meeting"
    call("delete", f"/api/calendars/{Calendar.objects.get(membership=maren).pk}")
    assert Meeting.objects.count() == 2 and {one["meeting"]["id"] for one in sheet(call)} >= {str(first.pk)}
