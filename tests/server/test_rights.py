"""Everything on one person as one file; and erased, they are in no table and no file any more."""

from __future__ import annotations

from datetime import timedelta

import pytest
from django.utils import timezone

from server.accounts.models import Membership, User
from server.audit.models import Entry
from server.booking.models import Booking, BookingPage
from server.connections.models import Connection, Delivery, Known, Thread
from server.links.models import Link
from server.mail.models import Letter
from server.meetings.models import Hold, Meeting, Person
from server.minutes.models import MinutesLine
from server.notes.models import Comment, Note
from server.pipeline.models import StageRun
from server.pipeline.work import STAGES
from server.problems import Refused
from server.record.models import KnownVoice, Line
from server.removals.ledger import as_line, replay
from server.removals.models import Removal
from server.rights.actions.erase_person import go_on_now
from server.rights.models import Erasure
from tests.server.conftest import run_stages
from tests.server.test_strike import everywhere

TALK = """WEBVTT

00:00:01.000 --> 00:00:04.000
<v Maren Tollefsen>Tobias, who has the key to the plant room?

00:00:04.500 --> 00:00:06.000
<v Tobias Renn>I keep it under the third fern pot.

00:00:07.000 --> 00:00:10.000
<v Maren Tollefsen>Then Renn locks up tonight.
"""
SAID = "third fern pot"


@pytest.fixture
def tobias(member, maren, make_meeting):
    place = member("Tobias Renn")
    meeting = make_meeting(maren, "Keys for Tobias Renn", text=TALK)
    person = Person.objects.get(user=place.user)
    KnownVoice.objects.create(person=person, vector=[0.5], consent_noted_by=maren.user)
    Note.objects.create(meeting=meeting, user=place.user, text="Mine alone", at=1)
    Comment.objects.create(meeting=meeting, user=place.user, text="I said so", start=4, end=6)
    MinutesLine.objects.create(meeting=meeting, section="notes", position=9, text="Tobias Renn to have a second key cut.", hand=maren.user, hand_initials="MT")
    Letter.objects.create(workspace=maren.workspace, kind="minutes", to="tobias@larkmoor.example", subject="Minutes for Tobias", state="sent")
    elsewhere = Connection.objects.create(workspace=maren.workspace, made_by=maren, kind="chat", name="Yard")
    Known.objects.create(connection=elsewhere, what="tobias@larkmoor.example", target="o1", target_name="Renn and sons")
    Delivery.objects.create(connection=elsewhere, meeting=meeting, subject="minutes", key=str(meeting.pk), happened="made", target="person u9", target_name="Tobias Renn", state="sent")
    Thread.objects.create(connection=elsewhere, membership=maren, room="r1", room_name="Yard", messages=[{"who": "Tobias Renn", "text": "Third fern pot it is"}])
    page = BookingPage.objects.create(membership=maren, title="Keys", zone="UTC")
    start = timezone.now()
    Booking.objects.create(page=page, membership=maren, start=start, end=start, span=(start, start + timedelta(hours=1)), name="Tobias Renn", email="tobias@larkmoor.example", zone="UTC", note="Renn here", digest="x")
    return place


def erase(caller, maren, person: Person, status: int = 202, *, struck: bool = False, **more):
    answer = caller(maren)("post", f"/api/rights/people/{person.pk}/erase", {"struck": struck, "name": "Maren Tollefsen", **more})
    assert answer.status_code == status, answer.content
    if status == 202:
        go_on_now(answer.json()["id"], Removal.objects.get(kind="person").facts["account"])
    return answer.json()


def test_everything_on_a_person_as_one_file(tobias, maren, member, caller):
    person = Person.objects.get(user=tobias.user)
    call = caller(maren)
    known = call("get", f"/api/rights/people/{person.pk}/file").json()
    [meeting] = known["meetings"]
    assert [one["text"] for one in meeting["said"]] == ["I keep it under the third fern pot."]
    assert [one["by"] for one in meeting["named"]] == ["Maren Tollefsen"] * 2 and "second key" in str(meeting["minutes"])
    assert (meeting["notes"][0]["text"], meeting["comments"][0]["text"]) == ("Mine alone", "I said so")
    assert known["voice"]["numbers"] == [0.5] and known["mails"][0]["kind"] == "minutes" and known["account"]["email"] == "tobias@larkmoor.example"
    counts = call("get", f"/api/rights/people/{person.pk}").json()["counts"]
    assert (counts["said"], counts["named"], counts["voice"], counts["mails"]) == (1, 2, 1, 1)
    assert Entry.objects.filter(verb="take file of a person", detail={"person": person.pk}).count() == 1
    # One's own anybody takes; that of others, owners alone.
    assert caller(tobias)("get", "/api/rights/mine/file").json()["person"]["name"] == "Tobias Renn"
    assert [one["name"] for one in call("get", "/api/rights/people?q=renn").json()] == ["Tobias Renn"]
    for who in (tobias, member("Pia Lund", "admin"), member("Gwen Castellow", "guest")):
        for path in (f"/api/rights/people/{person.pk}", f"/api/rights/people/{person.pk}/file", "/api/rights/people", "/api/rights/erasures"):
            assert caller(who)("get", path).status_code == 403


@pytest.mark.parametrize("struck", [False, True])
def test_erased_they_are_in_no_table_any_more(tobias, maren, caller, settings, struck):
    person = Person.objects.get(user=tobias.user)
    meeting = Meeting.objects.get()
    Link.objects.create(workspace=maren.workspace, scope="minutes", meeting=meeting, token="x", digest="x", whom="For Tobias Renn", made_by=maren)
    erase(caller, maren, person, struck=struck)
    run_stages(meeting, "strike")
    for word in ("Tobias", "Renn", "tobias@larkmoor.example", "Mine alone", *([SAID, "I said so"] if struck else [])):
        assert not everywhere(settings, word), word
    lines = list(Line.objects.filter(meeting=meeting).order_by("number").values_list("text", flat=True))
    assert lines[0] == "[name], who has the key to the plant room?" and lines[-1] == "Then [name] locks up tonight."
    assert (SAID in str(lines)) == (not struck) and Comment.objects.count() == (0 if struck else 1)
    assert not Person.objects.filter(pk=person.pk).exists() and not KnownVoice.objects.exists() and not Membership.objects.filter(pk=tobias.pk).exists()
    user = User.objects.get(pk=tobias.user_id)
    assert not user.is_active and user.email.endswith("@invalid") and caller(tobias)("get", "/api/me").status_code == 401
    [erasure] = caller(maren)("get", "/api/rights/erasures").json()
    assert erasure["done_at"] and erasure["done"] == erasure["meetings"] == 1
    assert Entry.objects.filter(verb="erase person").exists()


def test_it_goes_on_where_it_was_cut_off_and_comes_back_to_what_is_not_at_rest(tobias, maren, make_meeting, caller, settings):
    person = Person.objects.get(user=tobias.user)
    second = make_meeting(maren, "Second", text=TALK)
    run = next(one for one in second.stage_runs.all() if STAGES[one.stage].makes_record)
    StageRun.objects.filter(pk=run.pk).update(state="waiting")
    with pytest.raises(Refused):
        erase(caller, maren, person)
    erasure = Erasure.objects.get()
    assert erasure.done_at is None and "worked on" in erasure.trouble and Person.objects.filter(pk=person.pk).exists()
    StageRun.objects.filter(meeting=second).update(state="done")
    go_on_now(erasure.pk, tobias.user_id)
    for one in Meeting.objects.all():
        run_stages(one, "strike")
    assert not everywhere(settings, "Tobias") and Erasure.objects.get().done_at


def test_what_stands_against_it_is_told(tobias, maren, member, caller):
    person, call = Person.objects.get(user=tobias.user), caller(maren)
    assert "own name" in erase(caller, maren, person, 422, name="Somebody")["detail"]
    Hold.objects.create(meeting=Meeting.objects.get(), why="The insurer", by=maren.user)
    assert "held" in erase(caller, maren, person, 409)["detail"]
    Hold.objects.all().delete()
    assert "themselves" in erase(caller, maren, Person.objects.get(user=maren.user), 409)["detail"]
    assert call("post", "/api/rights/people/999999/erase", {"struck": True, "name": "Maren Tollefsen"}).status_code == 404
    assert caller(member("Pia Lund", "admin"))("post", f"/api/rights/people/{person.pk}/erase", {"struck": True, "name": "Pia Lund"}).status_code == 403


def test_after_an_older_backup_they_are_erased_again(tobias, maren, caller, settings):
    person = Person.objects.get(user=tobias.user)
    line = as_line(Removal(kind="person", facts={"person": person.pk, "struck": False, "account": tobias.user_id}))
    assert "Tobias" not in line and replay([line]) == 1
    run_stages(Meeting.objects.get(), "strike")
    assert not everywhere(settings, "Tobias Renn") and not Person.objects.filter(pk=person.pk).exists()
    assert replay([line]) == 0
