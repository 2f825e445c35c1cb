"""A telephone system tells of calls it has recorded: signed or not at all, once, fetched, each side under its name."""

from __future__ import annotations

import json
import threading
import time
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from types import SimpleNamespace

import numpy as np
import pytest

from core.record.model import Word
from core.voices.listen import Run
from server.capture.models import Recording
from server.meetings.models import Meeting
from server.pipeline.models import HearingCheckpoint
from server.signed import signature
from server.stages import voices
from server.telephone.models import Dialer, Rang, RangState
from server.telephone.tasks import Later, fetch
from tests.sounds import write_wav

CALL = {"call": "c-1", "begun_at": "2026-03-06T10:00:00Z", "caller": {"name": "Gwen Castellow"}, "called": {"number": "+44 1632 960001", "name": "Maren Tollefsen"}}


@pytest.fixture
def recordings(settings, tmp_path):
    """A server that gives what is put into `files`; it counts what it is asked for."""

    class Handler(BaseHTTPRequestHandler):
        files, asked = {}, 0

        def do_GET(self):  # noqa: N802 (the library's name)
            type(self).asked += 1
            found = type(self).files.get(self.path)
            self.send_response(200 if found is not None else 404)
            self.send_header("Content-Length", str(len(found or b"")))
            self.end_headers()
            self.wfile.write(found or b"")

        def log_message(self, *args):
            pass

    settings.MEDIA_ROOT, settings.INCOMING = tmp_path / "media", tmp_path / "incoming"
    server = ThreadingHTTPServer(("127.0.0.1", 0), Handler)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    settings.INSIDE = frozenset({f"127.0.0.1:{server.server_port}"})
    Handler.address = f"http://127.0.0.1:{server.server_port}"
    yield Handler
    server.shutdown()


@pytest.fixture
def dialer(caller, maren):
    """Connected; tells of a call: dialer(call, secret=, stamp=, key=)."""
    made = caller(maren)("post", "/api/telephone", {"name": "Front desk"}).json()

    def tell(call: dict, stamp: int | None = None, secret: str = "", key: str = "msg-1", **headers):
        body, stamp = json.dumps(call), str(int(time.time()) if stamp is None else stamp)
        signed = {"webhook-id": key, "webhook-timestamp": stamp, "webhook-signature": signature(secret or made["secret"], key, stamp, body.encode())}
        return caller(None)("post", made["address"].partition("//")[2].partition("/")[2].join(["/", ""]), body.encode(), **{**signed, **headers})

    tell.secret, tell.id = made["secret"], made["id"]
    return tell


def test_the_signature_is_that_of_the_specification():
    """The example of Standard Webhooks 1.0.0; its values are from memory."""
    said = signature("whsec_MfKQ9r8GKYqrTwjUPD8ILPZIo2LaLaSw", "msg_p5jXN8AQM9LWM0D4loKWxJek", "1614265330", b'{"test": 2432232314}')
    assert said == "v1,g0hM9SsE+OTPJTGt/tmIKtSyZlE3uFJELVlNIOLJ1OE="


def test_what_is_unsigned_forged_late_or_of_nobody_is_not_taken(dialer, caller, maren):
    call = {**CALL, "recording": "https://calls.example/1.wav"}
    assert dialer(call, **{"webhook-signature": ""}).status_code == 401
    assert dialer(call, secret="whsec_AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA").status_code == 401
    assert dialer(call, **{"webhook-id": "msg-2"}).status_code == 401  # another key than the one that was signed
    assert "too old" in dialer(call, stamp=int(time.time()) - 400).json()["detail"]
    assert dialer({**call, "recording": "file:///etc/passwd"}).status_code == 422
    assert not Rang.objects.exists()
    assert dialer.secret not in str(list(Dialer.objects.values())) and "secret" not in caller(maren)("get", "/api/telephone").json()[0]
    assert caller(maren)("delete", f"/api/telephone/{dialer.id}").status_code == 204
    assert dialer(call).status_code == 404


def test_a_call_is_taken_once_with_its_two_sides(dialer, recordings, tmp_path, maren, monkeypatch):
    moments = np.arange(16000 * 2) / 16000
    tone = (8000 * np.sin(2 * np.pi * 300 * moments)).astype(np.int16)
    silent = np.zeros_like(tone)
    sides = np.stack([np.concatenate([tone, silent]), np.concatenate([silent, tone])], axis=1)
    recordings.files["/calls/1.wav"] = write_wav(tmp_path / "call.wav", sides).read_bytes()
    call = {**CALL, "recording": f"{recordings.address}/calls/1.wav"}
    assert dialer(call).status_code == 202
    assert dialer(call, key="msg-2").status_code == 202  # told again, in a new message
    rang = Rang.objects.get()
    fetch(rang.pk, last=False)
    fetch(rang.pk, last=False)
    meeting = Meeting.objects.get()
    assert recordings.asked == 1 and meeting.title == "Call: Gwen Castellow and Maren Tollefsen" and meeting.started_at.hour == 10
    assert set(meeting.people.values_list("name", flat=True)) == {"Gwen Castellow", "Maren Tollefsen"} and meeting.created_by == maren.user
    recording = Recording.objects.get()
    assert recording.speakers == ["Gwen Castellow", "Maren Tollefsen"]

    # What is said on a channel is said by whoever is on it, whatever the voices sound like.
    words = [Word("Hello", 0.5, 1.0), Word("Yes", 2.5, 3.0)]
    HearingCheckpoint.objects.create(meeting=meeting, until=4.0, words=[word.packed() for word in words], **{})
    alike = [Run(word.start, word.end, 1.0, np.ones(4) / 2) for word in words]
    monkeypatch.setattr(voices, "result_of", lambda meeting, stage: {"tracks": "0" * 20 + "1" * 20, "speech": []})
    monkeypatch.setattr(voices, "speech_of", lambda heard: [])
    monkeypatch.setattr(voices, "open_sound", lambda path: np.zeros(64000, np.int16))
    monkeypatch.setattr(voices, "local", lambda file: __import__("contextlib").nullcontext(None))
    ear = SimpleNamespace(voices=SimpleNamespace(listen=lambda *given: [SimpleNamespace(until=4.0, runs=alike)]))
    monkeypatch.setattr(voices, "ear", lambda: ear)
    told = voices._tell_voices(meeting, lambda done: None)
    assert [Word.unpacked(word).voice for word in told["words"]] == ["Gwen Castellow", "Maren Tollefsen"]


def test_a_recording_that_cannot_be_had_is_tried_again_and_then_given_up(dialer, recordings, caller, maren):
    dialer({**CALL, "recording": f"{recordings.address}/gone.wav"})
    rang = Rang.objects.get()
    with pytest.raises(Later):
        fetch(rang.pk, last=False)
    shown = caller(maren)("get", "/api/telephone").json()[0]["calls"][0]
    assert (shown["state"], "answers 404" in shown["words"]) == ("waiting", True)
    fetch(rang.pk, last=True)
    rang.refresh_from_db()
    assert rang.state == RangState.REFUSED and rang.words.endswith("It is given up.")


def test_what_is_no_sound_and_what_lies_inside_are_refused(dialer, recordings, settings):
    recordings.files["/x.wav"] = b"no sound at all" * 100
    dialer({**CALL, "recording": f"{recordings.address}/x.wav"})
    fetch(Rang.objects.get().pk, last=True)
    assert Rang.objects.get().state == RangState.REFUSED and not Meeting.objects.exists()
    settings.INSIDE = frozenset()
    dialer({**CALL, "call": "c-2", "recording": f"{recordings.address}/x.wav"}, key="msg-3")
    fetch(Rang.objects.get(key="c-2").pk, last=True)
    assert "network of its own" in Rang.objects.get(key="c-2").words
