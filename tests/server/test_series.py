"""A series over time, as far as one sees it; its meetings one after the other; called otherwise, and two that become one."""

from __future__ import annotations

from datetime import UTC, datetime

import pytest

from server.meetings.models import Meeting, Series
from server.minutes.models import Finding


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
