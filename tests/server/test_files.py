"""Files of one meeting put together, what is known of a file before it is taken, and how a workspace limits what it takes."""

from __future__ import annotations

import base64
import hashlib
import uuid
from datetime import timedelta
from pathlib import Path

import numpy as np
import pytest
from asgiref.sync import async_to_sync
from django.core.files.base import ContentFile
from django.utils import timezone

from core.media import decode
from core.media.chunks import CAPTURE_RATE, read_flac
from server.capture.actions.copy_sound import make
from server.capture.models import Recording, SoundCopy
from server.copies import KEPT_FOR, sweep
from server.meetings.models import Meeting
from server.pipeline.work import Change, begin, stages_after
from tests.server.conftest import run_stages
from tests.sounds import write_wav


@pytest.fixture
def give(caller, tmp_path, settings):
    """Uploads a file's bytes; the upload's id."""
    settings.MEDIA_ROOT, settings.FILE_UPLOAD_TEMP_DIR = tmp_path / "media", tmp_path / "incoming"

    def go(call, name: str, data: bytes) -> str:
        label = base64.b64encode(name.encode()).decode()
        made = call(
            "post",
            "/api/uploads",
            b"",
            content_type="text/plain",
            **{"Upload-Length": str(len(data)), "Upload-Metadata": f"filename {label}"},
        )
        sent = call("patch", made.headers["Location"], data, content_type="application/offset+octet-stream", **{"Upload-Offset": "0"})
        assert sent.status_code == 204
        return made.headers["Location"].rsplit("/", 1)[1]

    return go


def tone(folder, name: str, hertz: float, seconds: float) -> bytes:
    """A WAV file of the recogniser's rate with one tone."""
    samples = (8000 * np.sin(2 * np.pi * hertz * np.arange(int(16_000 * seconds)) / 16_000)).astype(np.int16)
    write_wav(folder / name, samples)
    return (folder / name).read_bytes()


def made(meeting: str) -> np.ndarray:
    return np.concatenate([block[:, 0] for block in read_flac(Meeting.objects.get(pk=meeting).recording.original.path)]).astype(float)


def strength(sound: np.ndarray, hertz: float) -> float:
    """How much of a tone is in a sound, 0 to 1 of the tone as it was made."""
    wave = np.exp(-2j * np.pi * hertz * np.arange(len(sound)) / CAPTURE_RATE)
    return float(2 * abs((sound * wave).mean()) / 8000)


@pytest.mark.parametrize("together", ["parts", "tracks"])
def test_several_files_of_one_meeting(maren, caller, give, tmp_path, together):
    call = caller(maren)
    first, second = give(call, "a.wav", tone(tmp_path, "a.wav", 440, 2.0)), give(call, "b.wav", tone(tmp_path, "b.wav", 1000, 1.5))
    answer = call(
        "post",
        "/api/meetings",
        {"upload": first, "more": [second], "together": together, "title": "Two", "started_at": "2026-03-03T09:30:00Z"},
    )
    assert answer.status_code == 201, answer.content
    run_stages(Meeting.objects.get(pk=answer.json()["id"]), "gather", "take_in", "decode")
    sound = made(answer.json()["id"])
    if together == "parts":
        assert len(sound) == pytest.approx(3.5 * CAPTURE_RATE, abs=60)
        assert strength(sound[: 2 * CAPTURE_RATE], 440) > 0.95 and strength(sound[: 2 * CAPTURE_RATE], 1000) < 0.05
        assert strength(sound[2 * CAPTURE_RATE + 60 :], 1000) > 0.95
    else:
        assert len(sound) == pytest.approx(2.0 * CAPTURE_RATE, abs=60)
        both = sound[: int(1.5 * CAPTURE_RATE)]
        assert strength(both, 440) > 0.95 and strength(both, 1000) > 0.95
    # The files themselves are kept as they were given.
    parts = Meeting.objects.get(pk=answer.json()["id"]).recording.parts.order_by("position")
    assert [part.name for part in parts] == ["a.wav", "b.wav"]
    assert hashlib.sha256(parts[0].file.read()).digest() == hashlib.sha256((tmp_path / "a.wav").read_bytes()).digest()


def test_a_part_that_is_no_sound_is_named(maren, caller, give, tmp_path):
    call = caller(maren)
    first, second = give(call, "a.wav", tone(tmp_path, "a.wav", 440, 1.0)), give(call, "b.mp3", b"no sound at all" * 99)
    refused = call("post", "/api/meetings", {"upload": first, "more": [second], "title": "Two", "started_at": "2026-03-03T09:30:00Z"})
    assert refused.status_code == 422 and refused.json()["detail"].startswith("b.mp3: This is not a sound or video file")
    assert not Meeting.objects.exists(), "what cannot be used becomes no meeting"
    text = give(call, "talk.vtt", b"WEBVTT\n\n00:01.000 --> 00:02.000\nHello.\n")
    mixed = call(
        "post",
        "/api/meetings",
        {"upload": text, "more": [give(call, "c.wav", b"x")], "title": "Mixed", "started_at": "2026-03-03T09:30:00Z"},
    )
    assert mixed.status_code == 422 and "talk.vtt is a transcript" in mixed.json()["detail"]


def test_what_is_known_of_a_file_before_it_is_taken(maren, member, caller, give, tmp_path):
    call = caller(maren)
    upload = give(call, "a.wav", tone(tmp_path, "a.wav", 440, 2.0))
    known = call("get", f"/api/uploads/{upload}/about").json()
    assert known["duration"] == pytest.approx(2.0, abs=0.05) and known["work"] > 0
    assert caller(member("Yuki Hanamori"))("get", f"/api/uploads/{upload}/about").status_code == 404
    assert call("get", f"/api/uploads/{uuid.uuid4()}/about").status_code == 404


def test_a_month_that_is_used_up(maren, caller, give, tmp_path):
    call = caller(maren)
    assert call("patch", "/api/workspace", {"monthly_minutes": 0, "mark_kinds": ["Doubt"]}).json()["monthly_minutes"] == 0
    upload = give(call, "a.wav", tone(tmp_path, "a.wav", 440, 1.0))
    given = {"upload": upload, "title": "Too much", "started_at": "2026-03-03T09:30:00Z"}
    refused = call("post", "/api/meetings", given)
    assert refused.status_code == 409 and "0 of its 0 minutes" in refused.json()["detail"]
    assert call("patch", "/api/workspace", {"monthly_minutes": None}).json()["monthly_minutes"] is None
    assert call("post", "/api/meetings", given).status_code == 201


def test_the_workspace_is_changed_by_those_who_run_it(maren, member, caller):
    assert caller(member("Idris Quaye"))("patch", "/api/workspace", {"consent_of_all": True}).status_code == 403
    call = caller(maren)
    kept = call(
        "patch", "/api/workspace", {"notices": {"en": "We record this.", "fr": "Nous enregistrons."}, "consent_of_all": True}
    ).json()
    assert kept["notices"]["en"] == "We record this." and kept["notices"]["fr"] and kept["notices"]["es"] and kept["consent_of_all"]
    assert call("patch", "/api/workspace", {"mark_kinds": [" "]}).status_code == 422


def test_notes_are_private_until_shared(maren, member, caller, make_meeting):
    meeting, idris = make_meeting(maren), member("Idris Quaye")
    mine, theirs, at = caller(maren), caller(idris), f"/api/meetings/{meeting.pk}"
    note = mine("post", f"{at}/notes", {"text": "Ask for the key", "at": 4.0}).json()["id"]
    assert theirs("get", f"{at}/notes").json()["notes"] == []
    assert theirs("patch", f"/api/notes/{note}", {"text": "mine now"}).status_code == 404
    mine("patch", f"/api/notes/{note}", {"shared": True})
    assert [one["text"] for one in theirs("get", f"{at}/notes").json()["notes"]] == ["Ask for the key"]
    assert theirs("patch", f"/api/notes/{note}", {"text": "mine now"}).status_code == 403
    assert mine("post", f"{at}/notes", {"text": "  "}).status_code == 422
    mine("patch", f"/api/notes/{note}", {"removed": True})
    assert mine("get", f"{at}/notes").json()["notes"] == []
    mine("patch", f"/api/notes/{note}", {"removed": False})
    assert len(mine("get", f"{at}/notes").json()["notes"]) == 1


def test_marks_and_jotted_actions(maren, caller, make_meeting):
    meeting = make_meeting(maren)
    call, at = caller(maren), f"/api/meetings/{meeting.pk}"
    assert call("post", f"{at}/marks", {"kind": "Shiny", "start": 1, "end": 2}).status_code == 422
    mark = call("post", f"{at}/marks", {"kind": "Important", "start": 1, "end": 2}).json()["id"]
    assert [one["kind"] for one in call("get", f"{at}/notes").json()["marks"]] == ["Important"]
    call("patch", f"/api/notes/marks/{mark}", {"removed": True})
    assert call("get", f"{at}/notes").json()["marks"] == []
    jotted = {"text": "Oil the hinges", "owner": "Yuki Hanamori", "due": "2026-03-10", "at": 9.0}
    assert call("post", f"{at}/actions", jotted).status_code == 201
    # It stays through another reading of the record, in its writer's hand, with owner and date.
    run_again(meeting)
    [line] = [one for one in call("get", f"{at}/minutes").json()["lines"] if "hinges" in one["text"]]
    assert line["hand"] == "MT" and line["finding"]["owner"] == "Yuki Hanamori" and line["finding"]["due"] == "2026-03-10"


def run_again(meeting: Meeting) -> None:
    begin(meeting, stages_after(meeting.recording, Change.RECORD))
    run_stages(meeting, *stages_after(meeting.recording, Change.RECORD))


def test_an_agenda_runs_along_and_is_kept_for_next_time(maren, caller, make_meeting):
    meeting = make_meeting(maren)
    call, at = caller(maren), f"/api/meetings/{meeting.pk}/agenda"
    points = [{"text": "Glass", "minutes": 10}, {"text": "Boilers", "minutes": 5}]
    assert call("put", at, {"points": points}).status_code == 204
    call("post", f"{at}/turn", {"position": 0, "at": 0})
    call("post", f"{at}/turn", {"position": 1, "at": 700})
    call("post", f"{at}/turn", {"position": 0, "at": 760})  # back to it
    call("post", f"{at}/turn", {"position": None, "at": 800})
    assert [(one["text"], one["spent"], one["running"]) for one in call("get", at).json()] == [
        ("Glass", 740.0, False),
        ("Boilers", 60.0, False),
    ]
    assert call("post", f"{at}/turn", {"position": 7, "at": 1}).status_code == 404
    call("put", at, {"points": [points[1]]})
    assert [(one["text"], one["spent"]) for one in call("get", at).json()] == [("Boilers", 60.0)]
    assert call("put", "/api/agendas/Works meeting", {"points": points}).status_code == 204
    assert call("get", "/api/agendas").json() == [{"name": "Works meeting", "points": points}]
    call("delete", "/api/agendas/Works meeting")
    assert call("get", "/api/agendas").json() == []


@pytest.fixture
def tuned(maren, make_meeting, settings, tmp_path):
    """A meeting with two seconds of a tone."""
    settings.FILE_UPLOAD_TEMP_DIR = tmp_path
    meeting = make_meeting(maren)
    meeting.recording.original.save("original", ContentFile(tone(tmp_path, "a.wav", 440, 2.0)))
    meeting.recording.listening.save("listening.webm", ContentFile(b"not heard here"))
    Recording.objects.filter(pk=meeting.recording.pk).update(duration=2.0, form=Recording.Form.MEDIA)
    return Meeting.objects.get(pk=meeting.pk)


async def whole(answer) -> bytes:
    return b"".join([piece async for piece in answer])


def work_off() -> None:
    """Make the copies that are asked for, as a worker does."""
    for copy in SoundCopy.objects.filter(state="waiting"):
        make(copy.pk)


def test_sound_to_take_away_is_asked_for_made_and_taken(maren, caller, member, tuned, tmp_path):
    call, at = caller(maren), f"/api/meetings/{tuned.pk}"
    assert call("get", f"{at}/sound.mp3").status_code == 404
    asked = call("post", f"{at}/sound-copies", {"form": "flac"})
    assert asked.status_code == 202 and asked.json() == {"form": "flac", "state": "waiting", "progress": 0.0, "message": ""}
    assert call("post", f"{at}/sound-copies", {"form": "flac"}).json()["state"] == "waiting"  # once is enough
    work_off()
    assert call("get", f"{at}/sound-copies").json() == [{"form": "flac", "state": "ready", "progress": 1.0, "message": ""}]
    taken = call("get", f"{at}/sound.flac")
    assert taken["Content-Type"] == "audio/flac" and taken["Content-Disposition"].endswith(', recording.flac"')
    (tmp_path / "taken.flac").write_bytes(async_to_sync(whole)(taken))
    assert decode(tmp_path / "taken.flac", tmp_path / "taken.wav") == pytest.approx(2.0, abs=0.01)
    assert call("post", f"{at}/sound-copies", {"form": "exe"}).status_code == 422
    Meeting.objects.filter(pk=tuned.pk).update(visibility="mine")
    idris = caller(member("Idris Quaye"))
    assert idris("get", f"{at}/sound.flac").status_code == idris("post", f"{at}/sound-copies", {"form": "mp3"}).status_code == 404


def test_a_copy_that_cannot_be_made_says_why_and_is_made_again(maren, caller, tuned):
    call, at = caller(maren), f"/api/meetings/{tuned.pk}/sound-copies"
    given = Path(tuned.recording.original.path).read_bytes()
    Path(tuned.recording.original.path).write_bytes(b"no sound at all")
    call("post", at, {"form": "mp3"})
    work_off()
    [failed] = call("get", at).json()
    assert failed["state"] == "failed" and failed["message"]
    Path(tuned.recording.original.path).write_bytes(given)
    assert call("post", at, {"form": "mp3"}).json()["state"] == "waiting"
    work_off()
    assert call("get", at).json()[0]["state"] == "ready"


def test_copies_hold_nothing_that_was_struck_and_go_after_a_day(maren, caller, tuned, django_capture_on_commit_callbacks):
    call, at = caller(maren), f"/api/meetings/{tuned.pk}"
    for form in ("opus", "wav"):
        call("post", f"{at}/sound-copies", {"form": form})
    first, waiting = SoundCopy.objects.order_by("form")
    make(first.pk)
    first.refresh_from_db()
    file = Path(first.file.path)
    assert file.exists()
    chosen = {"start": 0.0, "end": 2.0}
    before = call("post", f"{at}/strike/preview", chosen).json()["text"]
    with django_capture_on_commit_callbacks(execute=True):
        assert call("post", f"{at}/strike", {**chosen, "name": "Maren Tollefsen", "before": before}).status_code == 200
    assert not file.exists() and call("get", f"{at}/sound.opus").status_code in (404, 409)
    make(waiting.pk)  # a worker that comes too late
    assert not SoundCopy.objects.exists()
    Recording.objects.update(withheld=False)
    call("post", f"{at}/sound-copies", {"form": "wav"})
    work_off()
    SoundCopy.objects.update(asked_at=timezone.now() - KEPT_FOR - timedelta(minutes=1))
    with django_capture_on_commit_callbacks(execute=True):
        sweep(SoundCopy)
    assert not SoundCopy.objects.exists()
