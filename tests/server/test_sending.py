"""Who gets the minutes and when, said before and after in names; a document instead of access; what went to whom."""

from __future__ import annotations

import pytest
from django.core import mail

from server.mail.models import Letter
from server.meetings.models import Attendee, Meeting, OwnCustom, Person, Series, Usual, WorkspaceCustom
from tests.server.conftest import delivered, strike


@pytest.fixture
def glazier(workspace) -> Person:
    return Person.objects.create(workspace=workspace, name="Pavel Drozd", email="pavel@drozd-glass.example", organisation="Drozd Glass")


@pytest.fixture
def idris(member):
    return member("Idris Quaye")


def letters() -> list[str]:
    return sorted(Letter.objects.filter(kind="minutes").values_list("to", flat=True))


def present(meeting: Meeting, *people: Person) -> None:
    for person in people:
        Attendee.objects.get_or_create(meeting=meeting, person=person)


def test_nobody_gets_minutes_by_itself_unless_somebody_says_so(maren, make_meeting, caller):
    meeting = make_meeting(maren, people=["Idris Quaye"])
    way = caller(maren)("get", f"/api/meetings/{meeting.pk}/receivers").json()
    assert way["receivers"] == [] and way["waiting"] == 0 and letters() == []


def test_those_who_see_it_get_them_at_once_and_with_an_outsider_among_them_somebody_looks_first(maren, idris, make_meeting, caller, glazier):
    WorkspaceCustom.objects.create(workspace=maren.workspace, goes_to="present")
    inside = make_meeting(maren, "Inside", people=["Idris Quaye"])
    assert letters() == ["idris@larkmoor.example", "maren@larkmoor.example"]
    assert not Letter.objects.filter(kind="ready").exists(), "one mail is enough"
    make_meeting(maren, "Outside", people=["Idris Quaye", "Pavel Drozd"])
    assert len(letters()) == 2, "nothing went of itself"
    outside = Meeting.objects.get(title="Outside")
    call = caller(maren)
    way = call("get", f"/api/meetings/{outside.pk}/receivers").json()
    said = [(one["name"], one["outside"], one["sees"]) for one in way["receivers"]]
    assert said == [("Idris Quaye", False, True), ("Maren Tollefsen", False, True), ("Pavel Drozd", True, False)]
    assert way["going"] == "looked over" and way["waiting"] == 3
    assert [one["names"] for one in call("get", "/api/to-look-over").json()] == [["Idris Quaye", "Maren Tollefsen", "Pavel Drozd"]]
    done = call("post", f"/api/meetings/{outside.pk}/minutes/send", {"people": [one["person"] for one in way["receivers"]]})
    assert done.json() == {"names": ["Idris Quaye", "Maren Tollefsen", "Pavel Drozd"]} and call("get", "/api/to-look-over").json() == []
    sent = {message.to[0]: message for message in delivered() if message.subject == "Minutes: Outside"}
    theirs, mine = sent["pavel@drozd-glass.example"], sent["idris@larkmoor.example"]
    assert "/meetings/" not in theirs.body and str(outside.pk) in mine.body and theirs.reply_to == ["maren@larkmoor.example"]
    [(name, data, kind)] = theirs.attachments
    assert name.endswith("Outside, minutes.pdf") and kind == "application/pdf" and data.startswith(b"%PDF")
    assert [one["to"] for one in call("get", f"/api/meetings/{outside.pk}/sent").json()] == [
        "pavel@drozd-glass.example",
        "maren@larkmoor.example",
        "idris@larkmoor.example",
    ]
    assert {one["state"] for one in call("get", "/api/sent").json()} == {"sent"} and inside.pk != outside.pk


def test_what_waits_to_go_is_drawn_as_it_goes_and_not_of_what_was_taken_out(maren, make_meeting, caller, glazier):
    Usual.objects.create(series=Series.objects.create(workspace=maren.workspace, name="Glazing")).receivers.add(glazier)
    meeting = make_meeting(maren)
    call = caller(maren)
    call("patch", f"/api/meetings/{meeting.pk}", {"series": "Glazing"})
    [one] = call("get", f"/api/meetings/{meeting.pk}/receivers").json()["receivers"]
    for form in ("html", "docx"):
        assert call("post", f"/api/meetings/{meeting.pk}/minutes/send", {"people": [one["person"]], "form": form}).status_code == 200
    chosen = {"first": [4, 0], "last": [4, -1]}
    assert strike(call, meeting, chosen).status_code == 200
    [page] = [data for message in delivered() for name, data, _ in message.attachments if name.endswith(".html")]
    assert "Works for me" not in page and "As they stood on" in page and "<script" not in page
    mail.outbox.clear()
    call("post", f"/api/meetings/{meeting.pk}/minutes/send", {"people": [one["person"]]})
    call("delete", f"/api/meetings/{meeting.pk}")
    assert delivered() == [] and Letter.objects.filter(state="failed", said__contains="taken out").count() == 1


def test_the_nearest_custom_counts_and_a_meeting_of_ones_own_goes_to_nobody_else(maren, idris, make_meeting, caller, glazier):
    WorkspaceCustom.objects.create(workspace=maren.workspace, visibility="workspace", goes_to="present", going="at once")
    call = caller(idris)
    assert call("get", "/api/me").json()["usual_visibility"] == "workspace"
    assert call("put", "/api/customs/own", {"visibility": "mine", "goes_to": "maker"}).status_code == 204
    assert call("get", "/api/me").json()["usual_visibility"] == "mine" and OwnCustom.objects.get().goes_to == "maker"
    alone = make_meeting(maren, "Alone", visibility="mine", people=["Idris Quaye", "Pavel Drozd"])
    assert letters() == [] and caller(maren)("get", f"/api/meetings/{alone.pk}/receivers").json()["going"] == "looked over"
    theirs = make_meeting(maren, "Shared", people=["Idris Quaye", "Pavel Drozd"])
    assert letters() == ["idris@larkmoor.example", "maren@larkmoor.example", "pavel@drozd-glass.example"], "at once was said, outsiders or not"
    # Named present, Idris gets them; of a meeting he makes himself only he.
    before = caller(idris)("post", "/api/receivers", {"visibility": "named", "people": ["Pavel Drozd"]}).json()
    assert [one["name"] for one in before["receivers"]] == ["Idris Quaye"]
    # Said of the one meeting, by whoever governs it, and taken back.
    way = f"/api/meetings/{theirs.pk}/receivers"
    assert caller(idris)("put", way, {"people": [], "going": "at once"}).status_code == 403
    said = caller(maren)("put", way, {"people": [glazier.pk], "going": "looked over"}).json()
    assert said["by_hand"] and [one["name"] for one in said["receivers"]] == ["Pavel Drozd"]
    assert not caller(maren)("delete", way).json()["by_hand"]


def test_who_may_say_and_send_and_what_is_refused(maren, idris, member, make_meeting, caller, glazier):
    guest = member("Gwen Castellow", "guest")
    meeting = make_meeting(maren, people=["Gwen Castellow"])
    own = make_meeting(maren, "Own", visibility="mine")
    for call in (caller(guest), caller(idris)):
        assert call("get", f"/api/meetings/{own.pk}/receivers").status_code == 404
        assert call("get", "/api/sent").status_code == call("put", "/api/customs/workspace", {}).status_code == 403
    assert caller(guest)("get", f"/api/meetings/{meeting.pk}/receivers").status_code in (403, 404)
    send = f"/api/meetings/{meeting.pk}/minutes/send"
    call = caller(maren)
    assert call("post", send, {"people": []}).status_code == 422 and call("post", send, {"people": [glazier.pk]}).status_code == 422
    Person.objects.filter(pk=glazier.pk).update(email="")
    call("put", f"/api/meetings/{meeting.pk}/receivers", {"people": [glazier.pk], "going": "looked over"})
    assert "Pavel Drozd" in call("post", send, {"people": [glazier.pk]}).json()["detail"]
    assert call("post", send, {"people": [glazier.pk], "form": "exe"}).status_code == 422
    waiting = make_meeting(maren, "Not ready", work=False)
    assert call("post", f"/api/meetings/{waiting.pk}/minutes/send", {"people": []}).status_code == 409
    # Of a meeting that an admin does not see, only that something was sent.
    admin = member("Pia Lund", "admin")
    call("put", f"/api/meetings/{own.pk}/receivers", {"people": [Person.objects.get(name="Idris Quaye").pk], "going": "looked over"})
    call("post", f"/api/meetings/{own.pk}/minutes/send", {"people": [Person.objects.get(name="Idris Quaye").pk]})
    [told] = caller(admin)("get", "/api/sent").json()
    assert (told["meeting"], told["meeting_title"], told["subject"], told["to"]) == (None, "", "", "idris@larkmoor.example")
