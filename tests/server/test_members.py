"""Members who leave, and those who ask to see what they do not."""

from __future__ import annotations

from uuid import uuid4

import pytest
from django.core.cache import cache

from server.accounts.models import Membership
from server.audit.models import Entry
from server.excerpts.models import Excerpt
from server.links.models import Link
from server.meetings.models import Meeting, Person, Shelf, ShelfPlace
from server.sharing.visibility import visible_meetings
from tests.server.conftest import delivered, let_in


@pytest.fixture
def idris(member):
    return member("Idris Quaye")


@pytest.fixture
def nerys(member):
    return member("Nerys Vaughan")


def remove(call, member, heir=None):
    return call("post", f"/api/members/{member.pk}/remove", {"heir": heir and heir.pk})


def test_a_member_who_leaves_hands_over_or_leaves_it_where_it_is(maren, idris, nerys, make_meeting, caller):
    mine, shared = make_meeting(idris, "Mine", visibility="mine"), make_meeting(idris, "Shared")
    excerpt = Excerpt.objects.create(meeting=shared, user=idris.user, title="x", start=0, end=1)
    shelf = Shelf.objects.create(workspace=maren.workspace, name="Board", closed=True)
    ShelfPlace.objects.create(shelf=shelf, membership=idris, keeper=True)
    link = caller(idris)("post", "/api/links", {"scope": "minutes", "of": str(shared.pk)}).json()
    call = caller(maren)
    assert call("get", f"/api/members/{idris.pk}/leaving").json() == {"meetings": 2, "alone": 1, "links": 1}
    assert remove(call, idris, nerys).status_code == 204
    assert {mine, shared} <= set(visible_meetings(nerys)) and Meeting.objects.get(pk=mine.pk).created_by == nerys.user
    assert Excerpt.objects.get(pk=excerpt.pk).user == nerys.user and shelf.places.get().membership == nerys and shelf.places.get().keeper
    assert caller(None)("get", f"/api/linked/{link['address'].rsplit('/', 1)[1]}").status_code == 404 and not Link.objects.exists()
    person = Person.objects.get(name="Idris Quaye")
    assert person.user is None and person.email == "idris@larkmoor.example"
    gone = caller(idris)
    assert gone("get", f"/api/meetings/{shared.pk}").status_code == 403 and gone("get", "/api/me").json()["workspace"] is None
    entry = Entry.objects.get(verb="remove member")
    assert entry.detail == {"member": "idris@larkmoor.example", "handed_over": True}


def test_what_is_left_where_it_is_is_there_again_when_they_come_back(maren, idris, nerys, make_meeting, caller, member):
    mine, theirs = make_meeting(idris, "Mine", visibility="mine"), make_meeting(maren, "Named", visibility="named")
    let_in(theirs, idris)
    assert remove(caller(idris), idris).status_code == 204, "one's own place one gives up oneself"
    assert Entry.objects.filter(verb="leave").exists() and not visible_meetings(nerys).filter(pk=mine.pk).exists()
    back = member("Idris Quaye")
    assert set(visible_meetings(back)) == {mine}, "their own, and not what they were let into before"


def test_who_may_take_whose_place_away(maren, idris, nerys, member, caller):
    admin, guest = member("Pia Lund", "admin"), member("Gwen Castellow", "guest")
    assert remove(caller(idris), nerys).status_code == remove(caller(guest), nerys).status_code == remove(caller(admin), maren).status_code == 403
    assert "only owner" in remove(caller(maren), maren).json()["detail"]
    for heir in (guest, nerys):
        assert remove(caller(admin), nerys, heir).status_code == 422
    elsewhere = Membership.objects.create(user=idris.user, workspace=type(maren.workspace).objects.create(name="Elsewhere"), role="owner")
    assert remove(caller(maren), elsewhere).status_code == 404 and remove(caller(maren), nerys, elsewhere).status_code == 404
    assert caller(idris)("get", f"/api/members/{nerys.pk}/leaving").status_code == 403
    assert remove(caller(admin), nerys).status_code == 204


def test_asking_to_see_tells_nothing_and_is_answered_by_whoever_made_it(maren, idris, nerys, make_meeting, caller):
    cache.clear()
    meeting = make_meeting(maren, visibility="mine")
    call = caller(idris)
    for key in (meeting.pk, uuid4(), meeting.pk):
        answer = call("post", "/api/asked-to-see", {"meeting": str(key), "words": "I hang the door."})
        assert (answer.status_code, answer.content) == (204, b"")
    asked = [message for message in delivered() if message.subject.startswith("Idris Quaye asks to see")]
    assert [one.to for one in asked] == [["maren@larkmoor.example"]] and "I hang the door." in asked[0].body
    assert caller(nerys)("get", "/api/asked-to-see").json() == []
    [waiting] = caller(maren)("get", "/api/asked-to-see").json()
    assert (waiting["name"], waiting["widens"]) == ("Idris Quaye", True)
    assert caller(nerys)("post", f"/api/asked-to-see/{waiting['id']}", {"grant": True}).status_code == 404
    assert caller(maren)("post", f"/api/asked-to-see/{waiting['id']}", {"grant": True}).status_code == 204
    assert call("get", f"/api/meetings/{meeting.pk}").status_code == 200 and caller(nerys)("get", f"/api/meetings/{meeting.pk}").status_code == 404
    assert [one.to for one in delivered() if one.subject.startswith("You may see")] == [["idris@larkmoor.example"]]
    assert caller(maren)("post", f"/api/asked-to-see/{waiting['id']}", {"grant": True}).status_code == 404
    # Not let in: the asker hears nothing.
    caller(nerys)("post", "/api/asked-to-see", {"meeting": str(meeting.pk)})
    [waiting] = caller(maren)("get", "/api/asked-to-see").json()
    before = len(delivered())
    assert caller(maren)("post", f"/api/asked-to-see/{waiting['id']}", {"grant": False}).status_code == 204
    assert len(delivered()) == before and caller(nerys)("get", f"/api/meetings/{meeting.pk}").status_code == 404
    assert {caller(nerys)("post", "/api/asked-to-see", {"meeting": str(uuid4())}).status_code for _ in range(25)} == {204, 429}
