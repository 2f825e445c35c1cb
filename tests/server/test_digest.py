"""What is new, on Today and by mail, at one's own hour; and mail that comes again stops by one click."""

from __future__ import annotations

import re
from datetime import UTC, datetime, timedelta
from types import SimpleNamespace
from urllib.parse import urlsplit

import pytest
from django.test import Client
from django.utils import timezone

from server.calendars.models import Calendar, Planned
from server.ledger.models import Reminders
from server.library.digest import is_due, send_digests
from server.library.models import Digest, KeptSearch, Often
from server.mail.models import Letter
from server.mail.stopping import stop_token
from server.mail.wording import Kind, worded
from server.meetings.models import Attendee, Meeting
from server.minutes.models import MinutesLine
from server.notes.models import Comment
from server.record.models import Turn
from tests.server.conftest import delivered, strike


@pytest.fixture
def idris(member):
    return member("Idris Quaye")


@pytest.fixture
def locks(idris, maren, make_meeting) -> Meeting:
    meeting = make_meeting(maren)
    Meeting.objects.filter(pk=meeting.pk).update(ready_at=timezone.now())
    return meeting


@pytest.fixture
def at(monkeypatch):
    def go(*when: int) -> datetime:
        now = datetime(*when, tzinfo=UTC)
        for place in ("digest", "actions.wish_digest"):
            monkeypatch.setattr(f"server.library.{place}.timezone", SimpleNamespace(now=lambda: now))
        return now

    return go


@pytest.mark.parametrize(
    "often, hour, sent, now, due",
    [
        ("daily", 8, (2026, 6, 1, 7, 30), (2026, 6, 2, 7, 2), True),  # eight in London, in summer
        ("daily", 8, (2026, 6, 1, 7, 30), (2026, 6, 2, 6, 58), False),
        ("daily", 8, (2026, 6, 2, 7, 2), (2026, 6, 2, 9, 2), False),
        ("daily", 8, (2026, 6, 1, 7, 30), (2026, 6, 2, 22, 2), True),  # the server was off in the morning
        ("daily", 8, (2026, 12, 1, 8, 30), (2026, 12, 2, 7, 30), False),  # in winter
        ("weekly", 8, (2026, 6, 1, 7, 2), (2026, 6, 7, 12, 0), False),  # Monday to Sunday
        ("weekly", 8, (2026, 6, 1, 7, 2), (2026, 6, 8, 7, 2), True),
        ("daily", 2, (2026, 3, 28, 3, 0), (2026, 3, 29, 1, 30), True),  # the hour that is left out
    ],
)
def test_it_comes_at_ones_own_hour(idris, often, hour, sent, now, due):
    wish = Digest(membership=idris, often=often, hour=hour, weekday=0, time_zone="Europe/London", sent_at=datetime(*sent, tzinfo=UTC))
    assert is_due(wish, datetime(*now, tzinfo=UTC)) == due


def test_what_is_new_comes_once_with_the_way_to_it(idris, locks, maren, caller, at, settings):
    call = caller(idris)
    assert call("get", "/api/digest").json() == {"often": "never", "hour": 8, "weekday": 0, "time_zone": "UTC"}
    at(2026, 3, 2, 12)
    assert call("put", "/api/digest", {"often": "daily", "hour": 8, "time_zone": "Europe/London"}).status_code == 200
    for wrong in ({"often": "hourly"}, {"often": "daily", "hour": 24}, {"often": "weekly", "weekday": 7}, {"often": "daily", "time_zone": "Moon"}):
        assert call("put", "/api/digest", wrong).status_code == 422
    Meeting.objects.filter(pk=locks.pk).update(ready_at=datetime(2026, 3, 3, 10, tzinfo=UTC))
    Comment.objects.create(meeting=locks, user=maren.user, text="you?", start=8, end=9, at=datetime(2026, 3, 3, 11, tzinfo=UTC)).mentions.add(idris.user)
    calendar = Calendar.objects.create(membership=idris, kind="file", name="Works")
    Planned.objects.create(calendar=calendar, uid="f", instance="", title="Frost watch", start=datetime(2026, 3, 5, 9, tzinfo=UTC), end=datetime(2026, 3, 5, 10, tzinfo=UTC))
    assert Digest.objects.get().sent_at < at(2026, 3, 4, 8, 2) and (send_digests(), send_digests()) == (1, 0)
    letter = Letter.objects.get(kind="digest")
    assert letter.subject == "Larkmoor Botanic Garden: 1 for you to do, 1 to read, 1 where you are mentioned, 1 ahead"
    where = f"{settings.BASE_URL}/meetings/{locks.pk}"
    for line in (f"due Friday 6 March (Locks) <{where}?line=5>", f"– Maren Tollefsen, in Locks <{where}?at=8>", f"– Locks, Tuesday 3 March, 09:30 <{where}>", "– Frost watch, Thursday 5 March, 09:00"):
        assert line in letter.text, letter.text
    assert "Without you" not in letter.text, "he is heard in it"
    assert f'<a href="{where}">Locks, Tuesday 3 March, 09:30</a>' in letter.html and "<img" not in letter.html and "http" not in re.sub(r'href="[^"]*"', "", letter.html.split("To stop it")[0])
    message = next(one for one in delivered() if one.subject == letter.subject)
    assert message.extra_headers["List-Unsubscribe-Post"] == "List-Unsubscribe=One-Click"
    # A mail program posts there, without cookies, as a form (RFC 8058, section 3.1).
    address = urlsplit(message.extra_headers["List-Unsubscribe"].strip("<>")).path
    bare = Client(enforce_csrf_checks=True)
    assert bare.get(address).json()["called"].startswith("The digest") and Digest.objects.get().often == "daily", "looking stops nothing"
    for _ in range(2):
        assert bare.post(address, "List-Unsubscribe=One-Click", content_type="application/x-www-form-urlencoded").status_code == 204
    assert Digest.objects.get().often == Often.NEVER
    assert bare.post(f"{address}x").status_code == bare.post("/api/letters/stop/nothing").status_code == 404
    # Where nothing is new nothing comes.
    call("put", "/api/digest", {"often": "daily", "hour": 8})
    Planned.objects.all().delete()
    at(2026, 3, 6, 9)
    assert send_digests() == 0


def test_every_mail_that_comes_again_can_be_stopped(idris, caller):
    kept = KeptSearch.objects.create(membership=idris, name="Locks", words="locks", tells=True)
    for name, key in (("search", kept.pk), ("reminders", idris.pk), ("reminders", 10**9), ("search", 10**9)):
        assert Client().post(f"/api/letters/stop/{stop_token(name, key)}").status_code == 204
    kept.refresh_from_db()
    assert not kept.tells and not Reminders.objects.get(membership=idris).before


def test_on_today_until_one_has_seen_it_and_what_was_missed(idris, locks, member, caller):
    nerys = member("Nerys Gough")
    call, theirs = caller(idris), caller(nerys)
    new = call("get", "/api/news").json()
    assert [one["title"] for one in new["meetings"]] == ["Locks"] and [one["line"] for one in new["given"]] == [5] and len(new["decisions"]) == 1
    assert new["missed"] == [] and theirs("get", "/api/news").json()["missed"] == []
    # Named among those who were to be there, and not heard.
    Attendee.objects.create(meeting=locks, person=nerys.user.people.get())
    Turn.objects.filter(meeting=locks).first().lines.update(text="Nerys was to have the key.")
    [missed] = theirs("get", "/api/news").json()["missed"]
    assert missed["title"] == "Locks" and missed["named"] == 1 and missed["gist"]
    assert call("post", "/api/news/seen").status_code == 204
    assert call("get", "/api/news").json()["meetings"] == [] != theirs("get", "/api/news").json()["meetings"]
    # What is given to one afterwards is new, however long ago it was settled.
    line = MinutesLine.objects.get(finding__kind="action")
    was = line.finding.owner_name
    assert call("patch", f"/api/minutes/findings/{line.finding_id}", {"owner": {"was": was, "now": "Nerys Gough"}}).status_code == 200
    assert theirs("post", "/api/news/seen").status_code == 204 and theirs("get", "/api/news").json()["given"] == []
    assert call("patch", f"/api/minutes/findings/{line.finding_id}", {"owner": {"was": "Nerys Gough", "now": was}}).status_code == 200
    assert [one["line"] for one in call("get", "/api/news").json()["given"]] == [5]
    Meeting.objects.update(visibility="mine")
    assert theirs("get", "/api/news").json() | {"since": ""} == {"since": "", "meetings": [], "decisions": [], "given": [], "missed": []}


def test_words_of_people_are_no_way_anywhere(settings):
    words = worded(Kind.REMINDER, subject="x", titles=f"Due:\n– Pay <https://evil.example/x>\n– Fine <{settings.BASE_URL}/meetings/1>\n– <b>", stop="")
    assert "evil.example/x&gt;" in words.html and 'href="https://evil' not in words.html and f'<a href="{settings.BASE_URL}/meetings/1">Fine</a>' in words.html
    assert words.html.count("<li") == 3 and "<b>" not in words.html


def test_a_letter_that_waits_loses_what_is_struck(idris, locks, maren, caller):
    Digest.objects.create(membership=idris, often=Often.DAILY, hour=0, sent_at=timezone.now() - timedelta(days=2))
    assert send_digests() == 1 and "lock" in Letter.objects.get(kind="digest").text
    call, chosen = caller(maren), {"first": [5, 0], "last": [5, 6]}
    assert strike(call, locks, chosen).status_code == 200
    assert "a new lock by Friday" not in Letter.objects.get(kind="digest").text
