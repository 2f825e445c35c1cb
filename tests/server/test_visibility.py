"""The one rule of who sees what, against a plain statement of it, and at every address of the API."""

import itertools

import pytest

from server.meetings.models import Meeting, Shelf, ShelfPlace, Shelved
from server.sharing.visibility import seen_by, visible_meetings
from server.urls import api

ROLES = ("owner", "admin", "member", "guest")


def should_see(role: str, made_it: bool, was_there: bool, at_shelf: bool, visibility: str) -> bool:
    if made_it:
        return True
    if visibility == "mine":
        return False
    if at_shelf:
        return True
    if visibility == "shelf":
        return False
    if visibility == "named" or role == "guest":
        return was_there
    return True


@pytest.mark.parametrize(
    ("role", "made_it", "was_there", "at_shelf", "visibility"),
    list(itertools.product(ROLES, (True, False), (True, False), (True, False), ("mine", "shelf", "named", "workspace"))),
)
def test_every_case_of_the_rule(maren, member, make_meeting, role, made_it, was_there, at_shelf, visibility):
    looker = member("Idris Quaye", role)
    meeting = make_meeting(
        looker if made_it else maren, visibility=visibility, people=["Idris Quaye"] if was_there else ["Tobias Renn"], work=False
    )
    shelf = Shelf.objects.create(workspace=maren.workspace, name="Board", closed=True)
    Shelved.objects.create(shelf=shelf, meeting=meeting)
    ShelfPlace.objects.create(shelf=shelf, membership=looker if at_shelf else member("Tobias Renn"))
    expected = should_see(role, made_it, was_there, at_shelf, visibility)
    assert (meeting in visible_meetings(looker)) == expected
    # And the other way round, in names.
    readers = meeting.readers.values_list("user", flat=True)
    assert (looker in seen_by(maren.workspace_id, meeting.created_by_id, visibility, readers, meeting)) == expected


def test_another_workspace_sees_nothing(maren, member, make_meeting, caller):
    from server.accounts.models import Workspace

    meeting = make_meeting(maren)
    stranger = caller(member("Wilma Brand", "owner", Workspace.objects.create(name="Elsewhere")))
    assert stranger("get", f"/api/meetings/{meeting.pk}").status_code == 404
    assert stranger("get", "/api/search?q=lock").json()["meetings"] == [] and stranger("get", "/api/library").json()["rows"] == []
    assert "Tollefsen" not in stranger("get", "/api/choices").content.decode()


def test_what_one_may_not_see_is_not_there_for_any_verb(maren, member, make_meeting, caller):
    meeting = make_meeting(maren, visibility="mine")
    idris = caller(member("Idris Quaye"))
    voice, line, finding = meeting.voices.first(), meeting.minutes_lines.first(), meeting.findings.first()
    at = f"/api/meetings/{meeting.pk}"
    for method, path, data in [
        ("get", at, None),
        ("get", at + "/record", None),
        ("get", at + "/minutes", None),
        ("get", at + "/progress", None),
        ("get", at + "/record.vtt", None),
        ("patch", at, {"title": "Mine now"}),
        ("delete", at, None),
        ("post", at + "/progress/again", {}),
        ("post", at + "/restore", {}),
        ("post", at + f"/voices/{voice.pk}/name", {"name": "X"}),
        ("post", at + "/minutes/lines", {"section": "actions", "text": "x"}),
        ("post", at + "/minutes/draw", {"template": "board"}),
        ("post", at + "/questions", {"text": "What?"}),
        ("post", at + "/mail/draft", {"lines": [line.pk]}),
        ("post", at + "/mail", {"people": [], "subject": "x", "body": "x"}),
        ("put", at + "/lines/1", {"text": "x", "before": "y"}),
        ("post", at + "/replace", {"text": "x", "by": "y"}),
        ("post", at + "/turns/join", {"turn": 1}),
        ("post", at + "/edits/undo", {}),
        ("patch", f"/api/minutes/lines/{line.pk}", {"text": "x"}),
        ("delete", f"/api/minutes/lines/{line.pk}", None),
        ("patch", f"/api/minutes/findings/{finding.pk}", {"done": True}),
    ]:
        answer = idris(method, path, data)
        assert (answer.status_code, answer["Content-Type"]) == (404, "application/problem+json"), (method, path)
    assert Meeting.objects.get(pk=meeting.pk).title == "Locks"


def reads_of_a_meeting() -> list[str]:
    """Every address of the API at which something of a meeting is read, as the API document has them."""
    document = api.get_openapi_schema()
    return [path for path, verbs in document["paths"].items() if path.startswith("/api/meetings/{meeting_id}") and "get" in verbs]


@pytest.mark.parametrize("path", reads_of_a_meeting())
def test_no_read_of_a_meeting_goes_past_the_one_rule(path, maren, member, make_meeting, caller, monkeypatch):
    monkeypatch.setattr("server.events.close_old_connections", lambda: None)  # the connection is the test's
    meeting = make_meeting(maren, visibility="mine", work=False)
    filled = path.format(meeting_id=meeting.pk, form="txt", number=1, picture_id=1, voice_id=1, copy_id=1, file_id=1, at=0)
    asked = "?text=lock&minutes=5&about=lock&language=en&start=0&end=10"
    for stranger in (caller(member("Idris Quaye")), caller(member("Nerys Vaughan", "admin"))):
        assert stranger("get", filled + asked).status_code == 404, path
    assert caller(None)("get", filled + asked).status_code == 401, path


def test_a_guest_who_was_there_reads_and_changes_nothing(maren, member, make_meeting, caller):
    gwen = caller(member("Gwen Castellow", "guest"))
    meeting = make_meeting(maren, people=["Gwen Castellow"])
    assert gwen("get", f"/api/meetings/{meeting.pk}/minutes").status_code == 200
    for method, path, data in [
        ("patch", f"/api/meetings/{meeting.pk}", {"title": "x"}),
        ("delete", f"/api/meetings/{meeting.pk}", None),
        ("post", f"/api/meetings/{meeting.pk}/minutes/lines", {"section": "actions", "text": "x"}),
        ("patch", f"/api/minutes/lines/{meeting.minutes_lines.first().pk}", {"text": "x", "before": "y"}),
    ]:
        assert gwen(method, path, data).status_code == 403


def test_nobody_reads_without_signing_in(make_meeting, maren, caller):
    meeting = make_meeting(maren)
    for path in (
        "/api/me",
        "/api/today",
        "/api/library",
        "/api/search?q=lock",
        f"/api/meetings/{meeting.pk}",
        f"/api/meetings/{meeting.pk}/record",
        "/api/members",
    ):
        assert caller(None)("get", path).status_code == 401


def test_only_whoever_gave_it_or_an_admin_sets_who_sees_it(maren, member, make_meeting, caller):
    meeting = make_meeting(maren)
    at = f"/api/meetings/{meeting.pk}"
    assert caller(member("Idris Quaye"))("patch", at, {"visibility": "mine"}).status_code == 403
    assert caller(member("Nerys Vaughan", "admin"))("patch", at, {"visibility": "mine"}).status_code == 200
    assert Meeting.objects.get(pk=meeting.pk).visibility == "mine"
