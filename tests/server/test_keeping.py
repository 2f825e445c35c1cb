"""For how long what is kept: told a week before, stopped by a hold, gone from the database and the media folder, and nothing else with it."""

from __future__ import annotations

from datetime import date, timedelta
from pathlib import Path

import pytest
from django.core.files.base import ContentFile
from django.utils import timezone

from server.capture.models import Recording
from server.excerpts.models import Excerpt
from server.keeping.actions.let_go import BEFORE, keep_to_rules, sweep_now
from server.keeping.models import Announced, KeepingRule
from server.meetings.models import Meeting, Series, Shelf, ShelfPlace, Shelved
from server.record.actions.delete_meeting import erase_now
from server.record.models import Line
from server.removals.ledger import as_line, replay
from server.removals.models import Removal
from tests.server.conftest import delivered, strike


@pytest.fixture
def say(maren, caller):
    def go(status: int = 200, **rule):
        answer = caller(maren)("put", "/api/keeping/rules", rule)
        assert answer.status_code == status, answer.content
        return answer.json()

    return go


@pytest.fixture
def heard(maren, make_meeting, settings):
    """A meeting of a hundred days ago, with files of sound."""

    def make(title: str = "Locks", days: int = 100, **more) -> Meeting:
        meeting = make_meeting(maren, title, **more)
        Meeting.objects.filter(pk=meeting.pk).update(started_at=timezone.now() - timedelta(days=days))
        recording = Recording.objects.get(meeting=meeting)
        recording.form = Recording.Form.MEDIA
        for field in ("original", "sound", "listening"):
            getattr(recording, field).save(f"{field}.wav", ContentFile(b"RIFF"), save=False)
        recording.save()
        meeting.voices.update(embedding=[0.1])
        return Meeting.objects.get(pk=meeting.pk)

    return make


def files(settings, meeting) -> list[str]:
    return sorted(path.name for path in (Path(settings.MEDIA_ROOT) / str(meeting.pk)).rglob("*") if path.is_file())


def nights(count: int, first: date | None = None) -> int:
    today = first or timezone.localdate()
    return sum(keep_to_rules(today + timedelta(days=night)) for night in range(count))


def test_sound_goes_after_it_was_told_for_seven_nights_and_the_record_stays(heard, say, maren, caller, settings):
    meeting, later = heard(), heard("Yesterday", days=1)
    say(sound=30)
    assert nights(BEFORE) == 0 and len(files(settings, meeting)) >= 3
    [told] = [one for one in delivered() if one.subject.startswith("What goes soon")]
    assert told.to == ["maren@larkmoor.example"] and "Locks" in told.body and "Yesterday" not in told.body and "sound and picture" in told.body
    call = caller(maren)
    assert [one["what"] for one in call("get", f"/api/meetings/{meeting.pk}/hold").json()["goes"]] == ["sound"]
    assert nights(1, timezone.localdate() + timedelta(days=BEFORE)) == 1
    assert caller(maren)("get", f"/api/meetings/{meeting.pk}/sound").status_code == 404, "at once, before the job has run"
    sweep_now(meeting.pk)
    assert files(settings, meeting) == [] and len(files(settings, later)) >= 3
    found = call("get", f"/api/meetings/{meeting.pk}").json()
    assert not found["recording"]["playable"] and Line.objects.filter(meeting=meeting).count() == 5
    assert not meeting.voices.exclude(embedding=None).exists() and Announced.objects.count() == 0
    assert call("get", f"/api/meetings/{meeting.pk}/hold").json()["sound_gone_at"]
    assert nights(3) == 0, "once"


def test_what_was_let_go_of_is_let_go_of_again_after_an_older_backup(heard, settings, django_capture_on_commit_callbacks):
    sound, record = heard(), heard("Locks again")
    lines = [as_line(Removal(kind="let go", facts={"meeting": str(one.pk), "what": what})) for one, what in ((sound, "sound"), (record, "record"))]
    with django_capture_on_commit_callbacks(execute=True):
        assert replay(lines) == 2 and replay(lines) == 0
    assert files(settings, sound) == files(settings, record) == []
    assert Line.objects.filter(meeting=sound).exists() and not Line.objects.filter(meeting=record).exists()


def test_the_record_goes_and_its_minutes_stay_as_they_are(heard, say, maren, caller, settings):
    meeting = heard()
    Excerpt.objects.create(meeting=meeting, user=maren.user, title="x", start=0, end=5)
    call = caller(maren)
    call("put", f"/api/meetings/{meeting.pk}/lines/4", {"text": "Fine by me.", "before": "Works for me."})
    before = [line["text"] for line in call("get", f"/api/meetings/{meeting.pk}/minutes").json()["lines"]]
    say(record=30)
    assert nights(BEFORE + 1) == 1
    sweep_now(meeting.pk)
    assert not meeting.lines.exists() and not meeting.turns.exists() and not meeting.edits.exists() and not meeting.excerpts.exists()
    assert files(settings, meeting) == [] and call("get", "/api/search?q=honestly").json()["meetings"] == []
    assert [line["text"] for line in call("get", f"/api/meetings/{meeting.pk}/minutes").json()["lines"]] == before != []
    # Whatever changes, nothing is read anew out of nothing.
    call("patch", f"/api/meetings/{meeting.pk}", {"started_at": "2026-01-05T09:00:00Z", "title": "Old locks"})
    assert [line["text"] for line in call("get", f"/api/meetings/{meeting.pk}/minutes").json()["lines"]] == before
    assert call("get", f"/api/meetings/{meeting.pk}/minutes.pdf").status_code == 200 and call("get", f"/api/meetings/{meeting.pk}").json()["work"]["state"] == "ready"


def test_all_goes_and_a_hold_stops_it_by_rule_and_by_hand(heard, say, maren, member, caller, settings):
    meeting, held = heard(), heard("Held")
    call, way = caller(maren), f"/api/meetings/{held.pk}/hold"
    say(all=60)
    nights(3)
    assert caller(member("Idris Quaye"))("put", way, {"why": "Mine"}).status_code == 403
    assert call("put", way, {"why": " "}).status_code == 422 and call("put", way, {"why": "The insurer asks"}).status_code == 204
    assert nights(BEFORE, timezone.localdate() + timedelta(days=3)) == 1
    erase_now(meeting.pk)
    assert not Meeting.objects.filter(pk=meeting.pk).exists() and Meeting.objects.get(pk=held.pk).going_at is None
    call("delete", f"/api/meetings/{held.pk}")
    assert "insurer" in call("post", f"/api/library/taken-out/{held.pk}/delete", {"name": "Maren Tollefsen"}).json()["detail"]
    call("post", f"/api/meetings/{held.pk}/restore", {})
    chosen = {"first": [4, 0], "last": [4, -1]}
    struck = strike(call, held, chosen)
    assert struck.status_code == 409 and "insurer" in struck.json()["detail"]
    assert call("delete", way).status_code == 204 and call("delete", way).status_code == 404
    assert nights(BEFORE) == 0, "told anew, for seven nights"
    assert nights(1) == 1


def test_a_clock_that_jumps_lets_nothing_go_that_was_not_told_of_for_seven_nights(heard, say):
    heard()
    say(all=60)
    assert sum(keep_to_rules() for _ in range(BEFORE + 1)) == 0, "a night counts once"
    assert keep_to_rules(timezone.localdate() + timedelta(days=4000)) == 0 and Announced.objects.get().runs == 1
    # Nor does a rule that is taken back while it waits, nor one that comes again.
    say(all=None)
    nights(1)
    assert not Announced.objects.exists()
    say(all=60)
    assert nights(BEFORE) == 0


def test_the_nearest_rule_and_what_it_would_take_before_it_is_said(heard, say, maren, member, caller):
    board = Series.objects.create(workspace=maren.workspace, name="Board")
    shelf = Shelf.objects.create(workspace=maren.workspace, name="Case", closed=True)
    ShelfPlace.objects.create(shelf=shelf, membership=maren, keeper=True)
    kept, shelved, plain = heard("Kept"), heard("Shelved"), heard("Plain")
    closed = heard("Closed")
    Meeting.objects.filter(pk=kept.pk).update(series=board)
    Meeting.objects.filter(pk=closed.pk).update(visibility="mine", created_by=member("Idris Quaye").user)
    Shelved.objects.create(shelf=shelf, meeting=shelved)
    say(series=board.pk, all=3650)
    say(shelf=shelf.pk, all=500)
    call = caller(maren)
    told = call("post", "/api/keeping/preview", {"all": 50}).json()
    assert told["now"] == {"all": 2} and sorted(one["title"] for one in told["first"]) == ["", "Plain"] and KeepingRule.objects.count() == 2
    later = call("post", "/api/keeping/preview", {"all": 120}).json()
    assert (later["now"], later["soon"]) == ({}, {"all": 2})
    assert call("get", "/api/keeping/goes").json()["first"] == []
    assert "50 days" in say(422, sound=60, record=50)["detail"] and say(422, shelf=shelf.pk, series=board.pk, all=5)
    say(404, series=999_999, all=5)
    admin = caller(member("Pia Lund", "admin"))
    assert [one["called"] for one in admin("get", "/api/keeping/rules").json()] == ["Board", "Case"]
    idris = caller(member("Gwen Castellow"))
    assert [one["called"] for one in idris("get", "/api/keeping/rules").json()] == ["Board"], "of a closed shelf not even the name"
    for path, body in (("/api/keeping/preview", {"all": 1}), ("/api/keeping/rules", {"all": 1})):
        assert idris("post" if "preview" in path else "put", path, body).status_code == 403
    assert plain.pk


def test_what_is_kept_where(heard, maren, member, caller):
    heard()
    told = caller(maren)("get", "/api/keeping/where").json()
    assert (told["meetings"], told["within_year"], told["media_place"]) == (1, 1, "folder") and told["database_bytes"] > 1_000_000
    assert {one["what"]: one["files"] for one in told["media"]}["sound"] == 3 and any("speech" in one for one in told["engines"])
    assert [one["what"] for one in told["outside"]] == ["mail"]
    assert caller(member("Idris Quaye"))("get", "/api/keeping/where").status_code == 403
