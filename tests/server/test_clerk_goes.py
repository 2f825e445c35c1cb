"""When the clerk goes: by rule, by one press, sent by hand; and the page of a meeting to come."""

from __future__ import annotations

from datetime import timedelta

import pytest
from django.utils import timezone

from core.planning.attending import Standing
from server.calendars.actions.hold import hold, series_of_event
from server.calendars.models import Calendar, CalendarKind, Planned
from server.clerk.actions.wish import wish
from server.clerk.models import Visit
from server.clerk.visits import plan_visits
from tests.server.conftest import delivered

ROOM = "https://calls.standin.example/join/palm-house"


@pytest.fixture(autouse=True)
def known_conference(settings):
    settings.CONFERENCES = ["whep=https://calls.standin.example"]


def planned(member, title: str = "Glazing", start: float = 0.0, **more) -> Planned:
    """start: minutes from now."""
    calendar, _ = Calendar.objects.get_or_create(membership=member, kind=CalendarKind.FILE, name="Works")
    begins = timezone.now() + timedelta(minutes=start)
    facts = {"uid": title, "start": begins, "end": begins + timedelta(minutes=30), "status": "confirmed", "title": title, "link": ROOM, "why": ""}
    return Planned.objects.create(calendar=calendar, **facts | more)


def test_the_clerk_goes_by_rule_and_one_press_changes_that(caller, maren, member):
    idris = member("Idris Quaye")
    people = [{"name": "Maren Tollefsen", "address": "maren@larkmoor.example", "answer": "accepted", "called": True}]
    row, other = planned(maren, people=people), planned(idris, people=people)
    call, theirs = caller(maren), caller(idris)
    entry = lambda who, row: who("get", f"/api/planned/{row.pk}").json()["clerk"]  # noqa: E731
    nobody = {"goes": False, "words": "stays away, because nobody asked for it", "fixed": False, "mine": None, "series": None, "visit": None}
    assert nobody.items() <= entry(call, row).items()
    assert theirs("put", "/api/clerk/rules", {"rules": ["all"]}).status_code == 200
    visit = Visit.objects.get()
    assert (visit.asked_by, list(visit.wanted_by.all()), visit.why) == (idris, [idris], "goes, because Idris Quaye wants it in every meeting with a link")
    assert entry(call, row)["goes"] and entry(call, row)["visit"] is None  # it is not hers
    assert call("put", f"/api/planned/{row.pk}/clerk", {"wanted": False}).status_code == 204  # the organiser's no
    assert not Visit.objects.exists() and entry(theirs, other)["words"] == "stays away, because Maren Tollefsen, who called the meeting, said so"
    assert call("put", f"/api/planned/{row.pk}/clerk", {"wanted": True}).status_code == 204
    assert set(Visit.objects.get().wanted_by.all()) == {maren, idris}
    assert call("put", f"/api/planned/{other.pk}/clerk", {"wanted": True}).status_code == 404


def test_a_meeting_that_moves_or_goes_takes_its_visit_along(maren, settings):
    row = planned(maren, start=5)
    Visit.objects.all().delete()
    wish(maren, row, True, series=True)
    row.start, row.end = row.start + timedelta(minutes=2), row.end + timedelta(minutes=2)
    row.save()
    plan_visits(maren.workspace, timezone.now())
    assert Visit.objects.get().starts_at == row.start
    row.status = "cancelled"
    row.save()
    plan_visits(maren.workspace, timezone.now())
    assert not Visit.objects.exists()
    row.status = "confirmed"
    row.save()
    plan_visits(maren.workspace, timezone.now())
    Visit.objects.update(state=Standing.LEFT)
    plan_visits(maren.workspace, timezone.now())
    assert Visit.objects.count() == 1  # it was there; it does not go a second time
    Visit.objects.update(uid="", instance="", starts_at=row.start)
    plan_visits(maren.workspace, timezone.now())
    assert Visit.objects.count() == 1  # nor where it was sent to the same call by hand


def test_sent_by_hand(caller, maren, member):
    idris, yuki = member("Idris Quaye"), member("Yuki Hanamori")
    sent = caller(maren)("post", "/api/clerk", {"link": f"Join here: {ROOM}?pass=4711 thanks", "title": "Glass"})
    assert sent.status_code == 201 and (sent.json()["state"], sent.json()["host"]) == ("expected", "calls.standin.example")
    again = caller(idris)("post", "/api/clerk", {"link": ROOM})
    assert again.json()["id"] == sent.json()["id"] and set(again.json()["wanted_by"]) == {"Maren Tollefsen", "Idris Quaye"}
    assert caller(yuki)("get", "/api/clerk").json() == [] and caller(yuki)("post", f"/api/clerk/{sent.json()['id']}/away").status_code == 404
    assert caller(idris)("post", f"/api/clerk/{sent.json()['id']}/away").status_code == 204
    assert caller(maren)("get", "/api/clerk").json()[0]["leaving"]
    for link, words in (("see you there", "no link to a call"), ("https://other.example/j/1234567", "capture it from this computer")):
        refused = caller(maren)("post", "/api/clerk", {"link": link})
        assert refused.status_code == 422 and words in refused.json()["detail"]
    assert caller(member("Gwen Castellow", "guest"))("post", "/api/clerk", {"link": ROOM}).status_code == 403


def test_a_meeting_to_come_has_its_page(caller, maren, member, make_meeting):
    idris = member("Idris Quaye")
    people = [
        {"name": "Maren Tollefsen", "address": "maren@larkmoor.example", "answer": "accepted", "called": True},
        {"name": "Gwen Castellow", "address": "gwen@castellow.example", "answer": "tentative", "called": False},
        {"name": "Pavel Drozd", "address": "pavel@larkmoor.example", "answer": "declined", "called": False},
    ]
    row = planned(maren, start=5, people=people, recurs=True, instance="20260306T090000Z")
    before, hidden = make_meeting(maren, "Glazing, last week"), make_meeting(idris, "Glazing, in secret", visibility="mine")
    for meeting in (before, hidden):
        meeting.series = series_of_event(maren.workspace, row.uid, row.title)
        meeting.save()
    call, at = caller(maren), f"/api/planned/{row.pk}"
    points = {"points": [{"text": "Panes broken", "minutes": 10}, {"text": "What is next", "minutes": 25}]}
    assert call("post", f"{at}/agenda/mail").status_code == 422
    assert call("put", f"{at}/agenda", points).status_code == 204
    known = call("get", f"{at}/ahead").json()
    assert (known["prepared"], known["takers"], known["seen_by"]) == (points["points"], ["Gwen Castellow"], ["Maren Tollefsen"])
    assert {(one["kind"], one["title"]) for one in known["left_open"]} == {("action", "Glazing, last week"), ("question", "Glazing, last week")}
    assert [one["title"] for one in known["earlier"]] == ["Glazing, last week"]
    assert call("post", f"{at}/agenda/mail").status_code == 204
    [letter] = [one for one in delivered() if one.subject.startswith("Agenda")]
    assert letter.to == ["gwen@castellow.example"] and "1. Panes broken (10 min)\n2. What is next (25 min)" in letter.body
    assert caller(idris)("get", f"{at}/ahead").status_code == 404
    held = make_meeting(maren, "Glazing")
    hold(maren, held, row)
    assert [(point.text, point.minutes) for point in held.points.all()] == [("Panes broken", 10), ("What is next", 25)]
