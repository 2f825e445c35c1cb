"""A series over time, as far as one sees it; its meetings one after the other; called otherwise, and two that become one."""

from __future__ import annotations

from datetime import UTC, datetime

import pytest

from server.meetings.models import Meeting, Person, Series, Usual
from server.minutes.models import Finding
from server.sharing.usual import take_usual


@pytest.fixture
def works(maren, make_meeting):
    """Three works meetings on three days, the second Maren's alone."""
    series = Series.objects.create(workspace=maren.workspace, name="Works")
    found = []
    for number, visibility in enumerate(("workspace", "mine", "workspace")):
        meeting = make_meeting(maren, f"Works {number + 1}", visibility=visibility)
        Meeting.objects.filter(pk=meeting.pk).update(started_at=datetime(2026, 3, 3 + number, 9, tzinfo=UTC), series=series)
        Finding.objects.filter(meeting=meeting).delete()
        for kind, more in (("decision", {}), ("action", {}), ("action", {"done_at": datetime.now(UTC)}), ("question", {})):
            Finding.objects.create(meeting=meeting, kind=kind, text=f"{kind} {number + 1}", status="standing", confidence=1, start=0, end=1, **more)
        found.append(meeting)
    return series, found


def test_a_series_as_far_as_one_sees_it(works, maren, member, caller):
    series, (first, second, third) = works
    idris, gwen = caller(member("Idris Quaye")), caller(member("Gwen Castellow", "guest"))
    whole, part = (call("get", f"/api/series/{series.pk}").json() for call in (caller(maren), idris))
    assert [one["title"] for one in whole["meetings"]] == ["Works 3", "Works 2", "Works 1"] and whole["count"] == 3
    assert [one["title"] for one in part["meetings"]] == ["Works 3", "Works 1"] and part["count"] == 2
    assert [one["text"] for one in part["open"]] == ["action 3", "question 3", "action 1", "question 1"]
    assert [one["text"] for one in part["stand"]] == ["decision 3", "decision 1"]
    assert all(there["times"] == 2 for there in part["people"]) and part["people"]
    assert sum(share["share"] for share in part["airtime"][0]["shares"]) == pytest.approx(1)
    assert "Works 2" not in str(part) and gwen("get", f"/api/series/{series.pk}").status_code == 404
    assert caller(maren)("get", "/api/series/0").status_code == 404


def test_the_meeting_before_and_the_one_after(works, maren, member, caller, make_meeting):
    _, (first, second, third) = works
    mine, theirs = caller(maren), caller(member("Idris Quaye"))

    def beside(call, meeting) -> list:
        found = call("get", f"/api/meetings/{meeting.pk}/neighbours").json()
        return [found[way] and found[way]["title"] for way in ("before", "after")]

    assert [beside(mine, one) for one in (first, second, third)] == [[None, "Works 2"], ["Works 1", "Works 3"], ["Works 2", None]]
    assert beside(theirs, third) == ["Works 1", None] and theirs("get", f"/api/meetings/{second.pk}/neighbours").status_code == 404
    assert beside(mine, make_meeting(maren, "By itself", work=False)) == [None, None]
    # A meeting whose date moves.
    Meeting.objects.filter(pk=first.pk).update(started_at=datetime(2026, 4, 1, tzinfo=UTC))
    assert beside(mine, third) == ["Works 2", "Works 1"]


def test_called_otherwise_and_two_that_become_one(works, maren, member, caller, make_meeting):
    series, _ = works
    other = Series.objects.create(workspace=maren.workspace, name="Board")
    alone = make_meeting(maren, "Board 1", work=False)
    Meeting.objects.filter(pk=alone.pk).update(series=other)
    call, at = caller(maren), f"/api/series/{series.pk}"
    assert call("patch", at, {"name": "Works meeting"}).json()["name"] == "Works meeting"
    assert call("patch", at, {"name": " \u200b"}).status_code == 422
    refused = call("patch", at, {"name": "Board"})
    assert refused.status_code == 409 and refused.json()["same"] == other.pk
    assert call("patch", at, {"name": "Board", "merge": True}).json()["id"] == other.pk
    assert Meeting.objects.filter(series=other).count() == 4 and not Series.objects.filter(pk=series.pk).exists()
    assert caller(member("Gwen Castellow", "guest"))("patch", f"/api/series/{other.pk}", {"name": "x"}).status_code in (403, 404)


USUAL = {"visibility": "workspace", "template": "status", "points": [{"text": "Glass", "minutes": 15}, {"text": " ", "minutes": 5}]}


@pytest.fixture
def usual(works, maren, member, caller):
    """Said by Maren: the workspace sees them, Gwen by name, Pavel gets the minutes."""
    series, _ = works
    gwen = member("Gwen Castellow", "guest")
    pavel = Person.objects.create(workspace=maren.workspace, name="Pavel Drozd", email="pavel@example.com")
    said = {**USUAL, "readers": [gwen.pk], "receivers": [pavel.pk]}
    assert caller(maren)("put", f"/api/series/{series.pk}/usual", said).json()["points"] == [{"text": "Glass", "minutes": 15}]
    return series, gwen, said


def test_a_meeting_that_comes_into_a_series_takes_what_is_usual_there(usual, works, maren, caller, make_meeting):
    series, gwen, said = usual
    call, meeting = caller(maren), make_meeting(maren, "Works 4", visibility="named")
    assert call("get", f"/api/meetings/{meeting.pk}").json()["receivers"] == []
    assert caller(gwen)("get", f"/api/meetings/{meeting.pk}").status_code == 404
    assert call("patch", f"/api/meetings/{meeting.pk}", {"series": "Works"}).status_code == 200
    meeting.refresh_from_db()
    assert (meeting.template, meeting.visibility) == ("status", "named"), "who sees it was said; by name, Gwen does too"
    assert caller(gwen)("get", f"/api/meetings/{meeting.pk}").status_code == 200
    assert [(point.text, point.minutes) for point in meeting.points.all()] == [("Glass", 15)]
    assert [one["name"] for one in call("get", f"/api/meetings/{meeting.pk}").json()["receivers"]] == ["Pavel Drozd"]
    assert caller(gwen)("get", f"/api/meetings/{meeting.pk}").json()["receivers"] == []
    # Those that were there before stay as they are; one of its own keeps what it has; one that is its maker's alone stays so.
    assert not works[1][0].points.exists() and caller(gwen)("get", f"/api/meetings/{works[1][0].pk}").status_code == 404
    own = make_meeting(maren, "Works 5", visibility="mine")
    call("put", f"/api/meetings/{own.pk}/agenda", {"points": [{"text": "Mine", "minutes": 5}]})
    call("patch", f"/api/meetings/{own.pk}", {"series": "Works"})
    assert [point.text for point in own.points.all()] == ["Mine"] and caller(gwen)("get", f"/api/meetings/{own.pk}").status_code == 404
    own.refresh_from_db()
    take_usual(maren, own, settled=False)
    assert own.visibility == "workspace", "of what the clerk makes, nobody has said who sees it"


def test_who_sees_a_series_is_for_those_to_say_who_manage_the_workspace(usual, member, caller, maren):
    series, gwen, said = usual
    idris, at = caller(member("Idris Quaye")), f"/api/series/{series.pk}/usual"
    assert idris("put", at, {**said, "points": []}).status_code == 200, "an agenda is for any member"
    for other in ({"visibility": "mine"}, {"readers": []}):
        assert idris("put", at, {**said, **other}).status_code == 403
    assert caller(gwen)("put", at, said).status_code in (403, 404)
    for wrong in ({"template": "none"}, {"readers": [0]}, {"receivers": [0]}, {"visibility": "all"}, {"points": [{"text": "x", "minutes": 0}]}):
        assert caller(maren)("put", at, {**said, **wrong}).status_code == 422, wrong
    would = caller(maren)("post", "/api/seen-by", {"visibility": "named", "series": "Works"}).json()
    assert [one["name"] for one in would] == ["Maren Tollefsen", "Gwen Castellow"]
    assert caller(maren)("get", "/api/choices").json()["seen"] == {"Works": "workspace"}


def test_what_is_usual_goes_over_to_the_series_that_two_become(usual, maren, caller):
    series, gwen, said = usual
    other = Series.objects.create(workspace=maren.workspace, name="Board")
    assert caller(maren)("patch", f"/api/series/{series.pk}", {"name": "Board", "merge": True}).status_code == 200
    assert Usual.objects.get().series == other
