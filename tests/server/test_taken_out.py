"""Taken out of the library: who may have it back and until when, and deleted for good: gone from every table and file."""

from __future__ import annotations

from datetime import timedelta

import pytest
from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.db import OperationalError
from django.utils import timezone

from server.audit.models import Entry
from server.capture.models import Recording
from server.meetings.models import Meeting
from server.minutes.models import MinutesLine
from server.notes.models import Note
from server.record.actions import delete_meeting
from server.record.models import KnownVoice, Line
from tests.server.test_strike import everywhere

SAID = "What if we change the lock on the boiler door"


@pytest.fixture
def out(maren, make_meeting, caller):
    """A meeting that Maren has taken out."""
    meeting = make_meeting(maren)
    assert caller(maren)("delete", f"/api/meetings/{meeting.pk}").status_code == 204
    return Meeting.objects.get(pk=meeting.pk)


def listed(call) -> list[str]:
    return [one["title"] for one in call("get", "/api/library/taken-out").json()]


def gone_for_good(meeting: Meeting) -> None:
    delete_meeting.erase_now(meeting.pk)


def test_it_can_be_had_back_until_it_is_deleted(out, maren, member, caller):
    call = caller(maren)
    [row] = call("get", "/api/library/taken-out").json()
    assert (row["title"], row["by"]) == (out.title, "Maren Tollefsen")
    assert call("patch", "/api/workspace", {"keep_removed": 7}).status_code == 200
    assert call("patch", "/api/workspace", {"keep_removed": 0}).status_code == 422
    [row] = call("get", "/api/library/taken-out").json()
    assert row["until"][:10] == (out.removed_at + timedelta(days=7)).date().isoformat()
    assert listed(caller(member("Idris Quaye"))) == []  # whoever may not take it out may not have it back
    assert call("post", f"/api/meetings/{out.pk}/restore").status_code == 200
    assert listed(call) == [] and call("get", f"/api/meetings/{out.pk}").status_code == 200


def test_deleted_for_good_it_is_in_no_table_and_no_file(out, maren, caller, make_meeting, settings):
    other = make_meeting(maren, "Another", text="WEBVTT\n\n00:00:01.000 --> 00:00:03.000\n<v Idris Quaye>The kettle is on.\n")
    line = Line.objects.filter(meeting=out, text__startswith=SAID[:20]).get()
    Note.objects.create(meeting=out, user=maren.user, text="Idris: change the lock on the boiler door!!", at=line.start)
    MinutesLine.objects.create(meeting=other, section="decisions", position=1, text=f"Last week: {SAID}, which was settled.", hand=maren.user, hand_initials="MT")
    KnownVoice.objects.create(person=out.people.first(), meeting=out, vector=[0.5], consent_noted_by=maren.user)
    default_storage.save(f"{out.pk}/laid/drawing.pdf", ContentFile(SAID.encode()))
    assert everywhere(settings, SAID)
    call, at = caller(maren), f"/api/library/taken-out/{out.pk}/delete"
    assert call("post", at, {"name": "somebody"}).status_code == 422
    assert call("post", at, {"name": "maren tollefsen"}).status_code == 202
    assert listed(call) == [] and call("post", f"/api/meetings/{out.pk}/restore").status_code == 404
    gone_for_good(out)
    assert everywhere(settings, SAID) == [] == [path for path in settings.MEDIA_ROOT.rglob(f"{out.pk}/**/*") if path.is_file()]
    assert not Meeting.objects.filter(pk=out.pk).exists() and not KnownVoice.objects.exists()
    assert MinutesLine.objects.get(meeting=other, hand_initials="MT").text.startswith("Last week:")
    assert {"delete meeting", "meeting deleted"} <= set(Entry.objects.values_list("verb", flat=True))
    gone_for_good(out)  # a job that is done twice


def test_who_may_not_govern_it_does_not_delete_it(out, member, caller, maren):
    out.visibility = "workspace"
    out.save()
    idris = caller(member("Idris Quaye"))
    assert idris("post", f"/api/library/taken-out/{out.pk}/delete", {"name": "Idris Quaye"}).status_code == 403
    Meeting.objects.update(removed_at=None)
    assert caller(maren)("post", f"/api/library/taken-out/{out.pk}/delete", {"name": "Maren Tollefsen"}).status_code == 404


def test_what_is_overdue_goes_by_itself_and_a_cut_off_deletion_is_done_again(out, monkeypatch):
    assert delete_meeting.delete_overdue() == 0
    Meeting.objects.update(removed_at=timezone.now() - timedelta(days=31))
    assert delete_meeting.delete_overdue() == 1 and delete_meeting.delete_overdue() == 0
    recording = Recording.objects.get(meeting=out).original.name
    with monkeypatch.context() as patched:
        patched.setattr(delete_meeting, "sweep", lambda *given: (_ for _ in ()).throw(OperationalError("killed")))
        with pytest.raises(OperationalError):
            gone_for_good(out)
    assert not Meeting.objects.exists() and default_storage.exists(recording)
    gone_for_good(out)
    assert not default_storage.exists(recording)
