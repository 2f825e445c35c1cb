"""Shelves: open ones that anyone joins, closed ones of which nobody else knows, and what standing on one lets people see."""

from __future__ import annotations

import json
from datetime import timedelta

import pytest
from django.utils import timezone

from server.ledger.queries import View
from server.library.digest import send_digests
from server.library.models import Digest
from server.mail.models import Letter
from server.meetings.models import Meeting, Series, Shelf, Shelved
from tests.server.conftest import delivered


@pytest.fixture
def idris(member):
    return member("Idris Quaye")


def shelf(call, name: str = "Board", closed: bool = True, about: str = "") -> int:
    made = call("post", "/api/shelves", {"name": name, "about": about, "closed": closed})
    assert made.status_code == 201, made.content
    return made.json()["id"]


def seat(call, key: int, *places: tuple[int, bool]):
    return call("put", f"/api/shelves/{key}/places", {"places": [{"member": member, "keeper": keeper} for member, keeper in places]})


def test_a_closed_shelf_shows_its_meetings_to_its_people_alone(maren, idris, member, make_meeting, caller):
    yuki, gwen = member("Yuki Hanamori"), member("Gwen Castellow", "guest")
    meeting = make_meeting(maren, "The quagga question", visibility="shelf")
    mine, his, hers, guest = (caller(one) for one in (maren, idris, yuki, gwen))
    board = shelf(mine, "Board of the glass", about="In secret")
    at = f"/api/meetings/{meeting.pk}"
    assert mine("put", f"/api/shelves/{board}/meetings/{meeting.pk}").status_code == 204
    assert seat(mine, board, (maren.pk, True), (idris.pk, False), (gwen.pk, False)).status_code == 200
    assert his("get", at).status_code == 200 and guest("get", at + "/minutes").status_code == 200
    assert {one["name"] for one in mine("get", at).json()["seen_by"]} == {"Maren Tollefsen", "Idris Quaye", "Gwen Castellow"}
    assert [row["title"] for row in his("get", f"/api/library?shelf={board}").json()["rows"]] == ["The quagga question"]
    # For everybody else there is neither the shelf nor what stands on it: no list, count, search, ledger, address or choice says so.
    asked = ("How often was the lock mentioned?", "Who orders a new lock?", "What did I miss?")
    answers = [f"/api/inquiries/{hers('post', '/api/inquiries', {'text': text, 'wanted': {'shelf': board}}).json()['id']}/answer" for text in asked]
    answers += [f"/api/inquiries/{hers('post', '/api/inquiries', {'text': text, 'wanted': {}}).json()['id']}/answer" for text in asked]
    assert [hers("get", path).json()["times"] for path in answers[::3]] == [0, 0]
    assert his("get", f"/api/inquiries/{his('post', '/api/inquiries', {'text': asked[0], 'wanted': {}}).json()['id']}/answer").json()["times"] == 2
    Meeting.objects.update(ready_at=timezone.now())
    Digest.objects.create(membership=yuki, often="daily", hour=0, sent_at=timezone.now() - timedelta(days=2))
    assert send_digests() == 0
    letter = "".join(Letter.objects.filter(to=yuki.user.email).values_list("text", flat=True))
    paths = [
        "/api/library", f"/api/library?shelf={board}", "/api/library/narrow", "/api/choices", "/api/today", "/api/shelves", "/api/search?q=quagga", "/api/search?q=lock",
        "/api/searches", "/api/news", "/api/search?q=key+of+a+plant+room", "/api/inquiries", *answers, *(f"/api/ledger?view={view}" for view in View), "/api/ledger/out/csv?view=changed", "/api/excerpts", "/api/library/taken-out",
    ]  # fmt: skip
    said = letter + "".join(hers("get", path).content.decode() for path in paths)
    assert not any(word in said for word in ("quagga question", "Board of", "secret", str(meeting.pk), "lock on the boiler"))
    assert json.loads(hers("get", "/api/today").content)["meetings"] == 0
    for method, path in (("get", ""), ("post", "/join"), ("put", ""), ("delete", ""), ("put", f"/meetings/{meeting.pk}")):
        body = {"name": "x"} if (method, path) == ("put", "") else None
        assert hers(method, f"/api/shelves/{board}{path}", body).status_code == 404, (method, path)
    # Who gives their place up, or loses it, sees it no more; what is its maker's alone, nobody sees by a shelf.
    assert his("post", f"/api/shelves/{board}/leave").status_code == 204 and his("get", at).status_code == 404
    Meeting.objects.update(visibility="mine")
    assert guest("get", at).status_code == 404
    assert delivered() == [] or all("quagga" not in one.body for one in delivered() if "maren" not in one.to[0])


def test_an_open_shelf_is_joined_by_members_and_not_by_guests(maren, idris, member, make_meeting, caller):
    gwen = caller(member("Gwen Castellow", "guest"))
    meeting = make_meeting(maren, visibility="named")
    mine, his = caller(maren), caller(idris)
    key = shelf(mine, "Glass", closed=False)
    mine("put", f"/api/shelves/{key}/meetings/{meeting.pk}")
    [known] = his("get", "/api/shelves").json()
    assert (known["name"], known["mine"], known["meetings"]) == ("Glass", False, 0) and gwen("get", "/api/shelves").json() == []
    joined = his("post", f"/api/shelves/{key}/join").json()
    assert (joined["mine"], joined["keeper"], joined["meetings"]) == (True, False, 1) and gwen("post", f"/api/shelves/{key}/join").status_code in (403, 404)
    assert [one["there"] for one in his("get", f"/api/meetings/{meeting.pk}/shelves").json()] == [True]
    # Only keepers say who has a place; a shelf never loses its last one.
    assert seat(his, key, (idris.pk, True)).status_code == 403 and his("put", f"/api/shelves/{key}", {"name": "His"}).status_code == 403
    assert mine("post", f"/api/shelves/{key}/leave").status_code == 409
    assert seat(mine, key, (idris.pk, False)).status_code == 422
    closed = mine("put", f"/api/shelves/{key}", {"name": "Panes", "about": "All of it", "closed": True}).json()
    assert (closed["name"], closed["closed"], len(closed["people"])) == ("Panes", True, 2)
    assert mine("delete", f"/api/shelves/{key}").status_code == 204
    assert not Shelf.objects.exists() and Meeting.objects.filter(pk=meeting.pk).exists()


def test_who_sees_a_meeting_is_for_whoever_governs_it(maren, idris, make_meeting, caller):
    meeting = make_meeting(maren)  # Idris sees it, as the workspace does, and governs it not
    his = caller(idris)
    key = shelf(his, "His own")
    assert his("put", f"/api/shelves/{key}/meetings/{meeting.pk}").status_code == 403 and not Shelved.objects.exists()
    own = make_meeting(idris, visibility="mine")
    assert his("put", f"/api/shelves/{key}/meetings/{own.pk}").status_code == 204
    # One who governs it, and has no place there, does not put it there either.
    assert caller(maren)("put", f"/api/shelves/{key}/meetings/{meeting.pk}").status_code == 404
    # A keeper takes off what others have put there.
    seat(his, key, (idris.pk, True), (maren.pk, False))
    assert caller(maren)("put", f"/api/shelves/{key}/meetings/{meeting.pk}").status_code == 204
    assert [one["may"] for one in his("get", f"/api/meetings/{meeting.pk}/shelves").json()] == [True]
    assert his("delete", f"/api/shelves/{key}/meetings/{meeting.pk}").status_code == 204


def test_a_series_comes_onto_a_shelf_by_itself(maren, idris, make_meeting, caller):
    series = Series.objects.create(workspace=maren.workspace, name="Works")
    first = make_meeting(maren, "First")
    make_meeting(idris, "His", visibility="named")
    Meeting.objects.update(series=series)
    mine, his = caller(maren), caller(idris)
    key = shelf(his, "Works of ours")
    # Of the meetings there are, those that whoever does it governs; of those to come, each whose maker has a place there.
    assert his("put", f"/api/shelves/{key}/series/{series.pk}").json()["meetings"] == 1
    seat(his, key, (idris.pk, True), (maren.pk, False))
    later, other = make_meeting(maren, "Later", visibility="shelf"), make_meeting(maren, "Other")
    for one in (later, other):
        assert mine("patch", f"/api/meetings/{one.pk}", {"series": "Works" if one == later else "Elsewhere"}).status_code == 200
    titles = {row["title"] for row in his("get", f"/api/library?shelf={key}").json()["rows"]}
    assert titles == {"His", "Later"} and not first.shelved.exists()
    assert his("delete", f"/api/shelves/{key}/series/{series.pk}").json()["series"] == []
    assert not Shelved.objects.exists() and his("get", f"/api/meetings/{later.pk}").status_code == 404
