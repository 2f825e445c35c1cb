"""Capture: what is acknowledged is kept, and what comes out is what went in, byte for byte."""

from __future__ import annotations

import base64
import hashlib
import uuid
from dataclasses import asdict
from datetime import UTC, datetime, timedelta

import numpy as np
import pytest
from django.core.files.base import ContentFile
from django.core.files.storage import default_storage
from django.utils import timezone
from hypothesis import HealthCheck, settings
from hypothesis import strategies as st
from hypothesis.stateful import Bundle, RuleBasedStateMachine, initialize, invariant, precondition, rule, run_state_machine_as_test

from core.media.chunks import CAPTURE_RATE, CHUNK, read_flac
from core.reading import Encoder
from server.capture.actions.begin_capture import begin_capture, go_on
from server.capture.actions.end_stretch import end_stretch
from server.capture.actions.keep_chunk import keep_chunk
from server.capture.actions.keep_picture import keep_picture
from server.capture.actions.open_stretch import open_stretch
from server.capture.actions.stop_capture import stop_capture
from server.capture.actions.strike_back import Piece, strike_back
from server.capture.actions.take_upload import Given
from server.capture.models import Capture, Chunk, LiveLine, Picture
from server.capture.queries import gaps_of, pictures_of, state_of
from server.meetings.models import Meeting
from server.pipeline.queries import WorkState, work_on
from server.problems import Refused
from server.record.live import keep_reading_along
from server.record.models import LiveReading
from server.removals.ledger import as_line, replay
from server.removals.models import Removal
from tests.server.conftest import run_stages

GIVEN = Given("Potting shed", datetime(2026, 3, 3, 9, 30, tzinfo=UTC), "Europe/London")


def digest(data: bytes) -> str:
    """RFC 9530, section 2: a structured-field dictionary of byte sequences."""
    return f"sha-256=:{base64.b64encode(hashlib.sha256(data).digest()).decode()}:"


def noise(seed: int, samples: int, channels: int) -> bytes:
    return np.random.default_rng(seed).integers(-3000, 3000, samples * channels, np.int16).tobytes()


def gathered(meeting: Meeting) -> bytes:
    """The sound of the recording after its first stage, as int16 samples."""
    run_stages(meeting, "gather")
    recording = Meeting.objects.get(pk=meeting.pk).recording
    return b"".join(block.tobytes() for block in read_flac(recording.original.path))


class Line(RuleBasedStateMachine):
    """A device and a server with a bad line between them: requests are lost before they arrive, or their answers after, come twice,
    out of order, damaged; either side dies at any step. A model in plain Python says what the sound must be."""

    member = None
    stretches = Bundle("stretches")

    @initialize(two=st.booleans())
    def begin(self, two):
        self.tracks = ["room", "computer"] if two else ["room"]
        self.capture = begin_capture(self.member, uuid.uuid4(), GIVEN)
        self.sent: list[list[bytes]] = []  # by stretch, every chunk as the device made it
        self.acknowledged: set[tuple[int, int]] = set()
        self.ended: list[int | None] = []
        self.struck: list[set[int]] = []

    @rule(target=stretches, full=st.integers(0, 4), rest=st.integers(0, 3).map(lambda n: n * 5000), answers=st.integers(1, 2))
    def record(self, full, rest, answers):
        """Speak for a while; the device keeps the chunks."""
        number = len(self.sent)
        for earlier in range(number):
            self.end(earlier)
        for _ in range(answers):  # the answer was lost, so the device asks again
            open_stretch(self.member, self.capture, number, self.tracks, timezone.now())
        sizes = [CHUNK] * full + ([rest] if rest else [])
        self.sent.append([noise(1000 * number + index, size, len(self.tracks)) for index, size in enumerate(sizes)])
        self.ended.append(None)
        self.struck.append(set())
        return number

    @rule(stretch=stretches, pick=st.data(), fate=st.sampled_from(["arrives", "arrives", "twice", "lost", "damaged", "half"]))
    def send(self, stretch, pick, fate):
        """Any chunk, in any order."""
        if not self.sent[stretch]:
            return
        number = pick.draw(st.integers(0, len(self.sent[stretch]) - 1))
        data = self.sent[stretch][number]
        if fate == "lost":
            return
        if fate in ("damaged", "half"):
            wrong = data[: len(data) // 2] if fate == "half" else bytes([data[0] ^ 1]) + data[1:]
            with pytest.raises(Exception, match="damaged"):
                keep_chunk(self.member.user, self.capture, stretch, number, wrong, digest(data))
            return
        for _ in range(2 if fate == "twice" else 1):
            try:
                keep_chunk(self.member.user, self.capture, stretch, number, data, digest(data))
                self.acknowledged.add((stretch, number))
            except Refused:
                # The last, short one may not overtake: the device sends in order and tries again.
                assert len(data) < CHUNK * 2 * len(self.tracks)

    @rule(stretch=stretches)
    def end(self, stretch):
        end_stretch(self.member, self.capture, stretch, len(self.sent[stretch]), "pause")
        self.ended[stretch] = len(self.sent[stretch])

    @rule(stretch=stretches)
    def send_all(self, stretch):
        """The line is good for once."""
        for number, data in enumerate(self.sent[stretch]):
            keep_chunk(self.member.user, self.capture, stretch, number, data, digest(data))
            self.acknowledged.add((stretch, number))

    @precondition(lambda self: self.sent)
    @rule(passages=st.lists(st.tuples(st.floats(0.0, 0.95), st.floats(0.05, 1.0)), min_size=1, max_size=3))
    def strike(self, passages):
        """Some passages of the last stretch, whether they have arrived or not, one after the other."""
        number = len(self.sent) - 1
        whole = sum(len(chunk) for chunk in self.sent[number]) // (2 * len(self.tracks))
        for begins, length in passages:
            first, end = int(whole * begins), int(whole * (begins + (1 - begins) * length))
            if end > first:
                strike_back(self.member, self.capture, [Piece(number, first, end)])
                self.struck[number] |= set(range(first, end))

    @invariant()
    def what_was_acknowledged_is_here(self):
        if hasattr(self, "capture"):
            here = set(Chunk.objects.filter(stretch__capture=self.capture).values_list("stretch__number", "number"))
            assert here == self.acknowledged

    def teardown(self):
        if not getattr(self, "sent", None):
            return
        stop_capture(self.member, self.capture)
        for stretch, chunks in enumerate(self.sent):  # the line is good again: what is left follows, in order
            for number, data in enumerate(chunks):
                keep_chunk(self.member.user, self.capture, stretch, number, data, digest(data))
            if self.ended[stretch] is None:
                end_stretch(self.member, self.capture, stretch, len(chunks), "stop")
        expected = b""
        for chunks, struck in zip(self.sent, self.struck, strict=True):
            samples = np.frombuffer(b"".join(chunks), "<i2").reshape(-1, len(self.tracks))
            expected += samples[np.array([index not in struck for index in range(len(samples))], bool)].tobytes()
        assert self.capture.meeting.stage_runs.exists()
        if expected:
            assert gathered(self.capture.meeting) == expected
        else:
            run_stages(self.capture.meeting, "gather")
            assert "Nothing is left" in self.capture.meeting.stage_runs.get(stage="gather").message


def test_whatever_the_line_does_the_sound_is_the_sound_that_was_sent(maren, tmp_path, settings):
    settings.MEDIA_ROOT = tmp_path
    machine = type("LineOfMaren", (Line,), {"member": maren})
    run_state_machine_as_test(machine, settings=_SETTINGS)


_SETTINGS = settings(max_examples=25, stateful_step_count=14, deadline=None, suppress_health_check=list(HealthCheck))


def capture_of(member, seconds: int = 3, tracks=("room",), stretch: int = 0, capture: Capture | None = None) -> Capture:
    capture = capture or begin_capture(member, uuid.uuid4(), GIVEN)
    open_stretch(member, capture, stretch, list(tracks), timezone.now())
    for number in range(seconds):
        data = noise(number + 50 * stretch, CHUNK, len(tracks))
        keep_chunk(member.user, capture, stretch, number, data, digest(data))
    return capture


@pytest.mark.parametrize("old", [False, True])
def test_a_rehearsal_leaves_no_file_behind(maren, caller, tmp_path, settings, django_capture_on_commit_callbacks, old):
    settings.MEDIA_ROOT = tmp_path
    capture = capture_of(maren, 1)
    Meeting.objects.update(place="rehearsal", **({"created_at": timezone.now() - timedelta(days=1)} if old else {}))
    name = default_storage.save(f"{capture.meeting_id}/screens/1.jpg", ContentFile(b"what was shown"))
    Picture.objects.create(stretch=capture.stretches.get(), at=0, sha256="x", image=name)
    with django_capture_on_commit_callbacks(execute=True):
        if old:  # its page died; the next capture clears it away
            begin_capture(maren, uuid.uuid4(), GIVEN)
        else:
            assert caller(maren)("delete", f"/api/captures/{capture.pk}").status_code == 204
    assert not Picture.objects.exists() and not [path for path in tmp_path.rglob("*") if path.is_file()]


def test_going_on_later_puts_the_rest_behind(maren, tmp_path, settings, django_capture_on_commit_callbacks):
    settings.MEDIA_ROOT = tmp_path
    capture = capture_of(maren, 2)
    end_stretch(maren, capture, 0, 2, "stop")
    stop_capture(maren, capture)
    first = gathered(capture.meeting)
    assert go_on(maren, Meeting.objects.get(pk=capture.meeting_id)).pk == capture.pk
    capture_of(maren, 1, ["room", "computer"], 1, capture)
    end_stretch(maren, capture, 1, 1, "stop")
    stop_capture(maren, capture)
    with django_capture_on_commit_callbacks(execute=True):
        both = np.frombuffer(gathered(capture.meeting), "<i2").reshape(-1, 2)
    assert both[: 2 * CHUNK, 0].tobytes() == first and not both[: 2 * CHUNK, 1].any()
    assert both[2 * CHUNK :].tobytes() == noise(50, CHUNK, 2)
    assert [path.name for path in (tmp_path / str(capture.meeting_id)).iterdir()] == ["captured-2.flac"]


def test_a_device_that_never_comes_back(maren, tmp_path, settings):
    settings.MEDIA_ROOT = tmp_path
    capture = capture_of(maren, 2)
    data = noise(9, CHUNK, 1)
    keep_chunk(maren.user, capture, 0, 3, data, digest(data))  # 2 never arrives
    stop_capture(maren, capture)
    assert state_of(Capture.objects.get(pk=capture.pk)) == "stopping"
    stop_capture(maren, capture, without_the_rest=True)
    assert gathered(capture.meeting) == noise(0, CHUNK, 1) + noise(1, CHUNK, 1) + data


def test_a_meeting_read_just_before_its_capture_became_a_recording_is_not_ready(maren):
    capture = capture_of(maren, 1)
    end_stretch(maren, capture, 0, 1, "stop")
    read = Meeting.objects.select_related("recording", "capture").get(pk=capture.meeting_id)
    stop_capture(maren, capture)  # between that reading and the next, the work begins
    assert work_on(read).state == WorkState.WORKING


def test_only_one_device_at_a_time(maren, member):
    capture = capture_of(maren, 1)
    yuki = member("Yuki Hanamori")
    with pytest.raises(Refused, match="another device") as refused:
        open_stretch(yuki, capture, 1, ["room"], timezone.now())
    assert refused.value.facts["elsewhere"]
    data = noise(1, CHUNK, 1)
    with pytest.raises(Refused, match="another device's"):
        keep_chunk(yuki.user, capture, 0, 1, data, digest(data))


def test_gaps_are_where_nothing_was_captured(maren):
    capture = capture_of(maren, 2)
    end_stretch(maren, capture, 0, 2, "pause")
    [gap] = gaps_of(Capture.objects.get(pk=capture.pk))
    assert (gap.at, gap.length, gap.reason) == (2.0, None, "pause")
    capture_of(maren, 1, stretch=1, capture=capture)
    [gap] = gaps_of(Capture.objects.get(pk=capture.pk))
    assert gap.at == 2.0 and gap.length is not None


def test_over_the_api(maren, member, caller):
    call, key = caller(maren), str(uuid.uuid4())
    begun = {"id": key, "title": "Potting shed 🌧", "started_at": "2026-03-03T09:30:00Z", "people": ["Idris Quaye"]}
    made = call("post", "/api/captures", begun)
    assert made.status_code == 201 and call("post", "/api/captures", begun).json() == made.json()
    meeting, at = made.json()["meeting"], f"/api/captures/{key}"
    assert call("get", f"/api/meetings/{meeting}/progress").json()["state"] == "capturing"
    stretch = {"tracks": ["room"], "begun_at": "2026-03-03T09:30:00Z"}
    assert call("put", f"{at}/stretches/0", stretch).status_code == 204
    data, raw = noise(1, CHUNK, 1), {"content_type": "application/octet-stream"}
    assert call("put", f"{at}/stretches/0/chunks/0", data, **raw, **{"Content-Digest": digest(data)}).status_code == 204
    damaged = call("put", f"{at}/stretches/0/chunks/1", data[:-2], **raw, **{"Content-Digest": digest(data)})
    assert damaged.status_code == 422 and "damaged" in damaged.json()["detail"]
    undigested = call("put", f"{at}/stretches/0/chunks/1", data, **raw)
    assert undigested.status_code == 422 and "Content-Digest" in undigested.json()["detail"]
    odd = call("put", f"{at}/stretches/0/chunks/1", data[:-1], **raw, **{"Content-Digest": digest(data[:-1])})
    assert odd.status_code == 422 and "whole samples" in odd.json()["detail"]
    changed = call("put", f"{at}/stretches/0/chunks/0", noise(2, CHUNK, 1), **raw, **{"Content-Digest": digest(noise(2, CHUNK, 1))})
    assert changed.status_code == 409
    assert call("post", f"{at}/stretches/0/end", {"chunks": 0, "reason": "pause"}).status_code == 409
    assert call("post", f"{at}/stretches/0/end", {"chunks": 2, "reason": "bored"}).status_code == 422
    assert call("post", f"{at}/stretches/0/end", {"chunks": 2, "reason": "pause"}).status_code == 204
    state = call("get", at).json()
    assert state["state"] == "off" and state["stretches"][0]["missing"] == [1] and state["seconds"] == 1.0
    # Somebody who may not see the meeting does not even learn that there is a capture.
    stranger = caller(member("Yuki Hanamori"))
    for method, path, body in [
        ("get", at, None),
        ("put", f"{at}/stretches/1", stretch),
        ("post", f"{at}/strike", {"parts": [{"stretch": 0, "first": 0, "end": 5}]}),
        ("post", f"{at}/stop", {}),
        ("get", f"/api/meetings/{meeting}/live", None),
        ("get", f"/api/meetings/{meeting}/notices", None),
        ("get", f"/api/meetings/{meeting}/notes", None),
        ("get", f"/api/meetings/{meeting}/agenda", None),
        ("get", f"/api/meetings/{meeting}/lately", None),
        ("get", f"/api/meetings/{meeting}/events", None),
    ]:
        assert stranger(method, path, body).status_code == 404, path


@pytest.mark.parametrize("restored", [False, True], ids=["now", "again, in an older backup"])
def test_a_struck_passage_leaves_the_live_record(maren, restored):
    capture = capture_of(maren, 4)
    capture.lines.create(number=1, start=0.0, end=1.5, text="This stays.", settled=True)
    capture.lines.create(number=2, start=1.8, end=3.5, text="This goes.", settled=True)
    capture.meeting.marks.create(kind="Important", start=2.5, end=3.0)
    piece = Piece(0, 2 * CAPTURE_RATE, 4 * CAPTURE_RATE)
    if restored:
        facts = {"capture": str(capture.pk), "parts": [asdict(piece), asdict(Piece(7, 0, 9))]}  # of a stretch that was not there yet
        assert replay([as_line(Removal(kind="strike back", facts=facts))]) == 1
    else:
        assert strike_back(maren, capture, [piece]) == 2.0
    assert [line.text for line in capture.lines.all()] == ["This stays."] and not capture.meeting.marks.exists()
    left = b"".join(bytes(data) for data in Chunk.objects.order_by("number").values_list("data", flat=True))
    assert left == noise(0, CHUNK, 1) + noise(1, CHUNK, 1)


def test_pictures_of_a_screen_stand_where_the_sound_stands(maren, tmp_path, settings, django_capture_on_commit_callbacks):
    settings.MEDIA_ROOT = tmp_path
    capture = capture_of(maren, seconds=5)
    for second, shade in ((0, b"one"), (2, b"two"), (4, b"three")):
        data = b"\xff\xd8\xff" + shade
        for _ in range(2):  # an answer was lost, and it comes again
            keep_picture(maren.user, capture, 0, second * CAPTURE_RATE, data, digest(data))
    with pytest.raises(Refused, match="Another picture"):
        keep_picture(maren.user, capture, 0, 0, b"\xff\xd8\xff!", digest(b"\xff\xd8\xff!"))
    with pytest.raises(Refused, match="JPEG"):
        keep_picture(maren.user, capture, 0, 5, b"GIF89a", digest(b"GIF89a"))
    assert [start for _, start in pictures_of(capture)] == [0.0, 2.0, 4.0]
    with django_capture_on_commit_callbacks(execute=True):
        strike_back(maren, capture, [Piece(0, CAPTURE_RATE, 3 * CAPTURE_RATE)])
    late = b"\xff\xd8\xfflate"
    keep_picture(maren.user, capture, 0, 2 * CAPTURE_RATE + 7, late, digest(late))
    assert [start for _, start in pictures_of(capture)] == [0.0, 2.0]
    assert sorted(path.read_bytes()[3:] for path in tmp_path.rglob("*.jpg")) == [b"one", b"three"]


def test_notice_and_consent(maren, caller):
    capture = begin_capture(maren, uuid.uuid4(), Given("Interview", GIVEN.started_at, "UTC", ["Maren Tollefsen", "Ana Ruiz"]))
    at, call, outside = f"/api/meetings/{capture.meeting_id}", caller(maren), caller(None)
    maren.workspace.consent_of_all = True
    maren.workspace.save()
    with pytest.raises(Refused, match="Ana Ruiz"):
        open_stretch(maren, capture, 0, ["room"], timezone.now())
    page = call("get", f"{at}/notices").json()["page"]
    shown = outside("get", "/api/notices/" + page.split("/")[-1]).json()
    assert set(shown) == {"workspace", "title", "state", "texts"} and {"en", "es", "ca", "gl"} <= set(shown["texts"])
    answer = {"name": "Ana Ruiz", "agreed": False}
    assert outside("post", "/api/notices/" + page.split("/")[-1], answer).status_code == 201
    with pytest.raises(Refused, match="Ana Ruiz"):
        open_stretch(maren, capture, 0, ["room"], timezone.now())
    assert call("post", f"{at}/consents", {**answer, "agreed": True}).status_code == 201
    assert call("post", f"{at}/notices", {"how": "aloud", "language": "en"}).status_code == 201
    open_stretch(maren, capture, 0, ["room"], timezone.now())
    kept = call("get", f"{at}/notices").json()
    assert [(one["name"], one["agreed"], one["noted_by"]) for one in kept["answers"]] == [
        ("Ana Ruiz", False, None),
        ("Ana Ruiz", True, "Maren Tollefsen"),
    ]
    assert [(one["how"], one["by"]) for one in kept["given"]] == [("aloud", "Maren Tollefsen")]
    assert b"<svg" in outside("get", f"/api/notices/{page.split('/')[-1]}/qr.svg").content
    assert outside("get", "/api/notices/guessed").status_code == 404


def test_captions_in_other_languages(maren, caller):
    capture = capture_of(maren, 1)
    capture.lines.create(number=1, start=0.0, end=2.0, text="I will send the drawings to the supplier tomorrow.", settled=True)
    capture.lines.create(number=2, start=2.0, end=3.0, text="Good morning.", settled=False)
    call, at = caller(maren), f"/api/meetings/{capture.meeting_id}/live"
    # The example is the one that the translator's own documentation of the design was measured with.
    assert call("get", f"{at}?language=es").json()["lines"][0]["text"] == "Enviaré los dibujos al proveedor mañana."
    assert len(call("get", f"{at}?language=gl").json()["lines"]) == 2 and len(call("get", f"{at}?language=ca").json()["lines"]) == 2
    assert call("get", f"{at}?language=xx").status_code == 422


def test_the_gist_of_the_last_minutes(maren, caller):
    capture = capture_of(maren, 1)
    said = [
        "We looked at the palm house roof.",
        "The glass is late again.",
        "We agreed to move the fitting to May.",
        "I'll call the fitter by Friday.",
    ]
    for number, text in enumerate(said, start=1):
        capture.lines.create(number=number, start=60.0 * number, end=60.0 * number + 5, text=text, settled=True)
    lately = caller(maren)("get", f"/api/meetings/{capture.meeting_id}/lately?minutes=2").json()
    assert lately["since"] == 125.0 and lately["lines"]
    assert {line["start"] for line in lately["lines"]} <= {180.0, 240.0}


def test_what_is_read_along_is_not_read_again_and_goes_with_a_strike(caller, maren, monkeypatch):
    capture = capture_of(maren, 1)
    lines = [LiveLine(capture=capture, number=number, start=4.0 * number, end=4.0 * number + 3, text=f"We will order {number} panes on Friday.", settled=True) for number in range(1, 41)]
    LiveLine.objects.bulk_create(lines)
    keep_reading_along()
    assert LiveReading.objects.count() == 38  # the last may go on
    read, sizes = Encoder.turns, []
    monkeypatch.setattr(Encoder, "turns", lambda self, turns, *more: (sizes.append(len(turns)), read(self, turns, *more))[1])
    lately = caller(maren)("get", f"/api/meetings/{capture.meeting_id}/lately?minutes=0").json()
    assert lately["lines"] and sizes == [8]
    keep_reading_along()
    assert sizes == [8]  # nothing is new
    capture.lines.filter(number__gt=20).delete()  # as a strike does
    assert LiveReading.objects.count() == 20


def test_a_workspace_that_has_used_its_minutes(maren, make_meeting):
    maren.workspace.monthly_minutes = 0
    with pytest.raises(Refused, match="0 of its 0 minutes"):
        begin_capture(maren, uuid.uuid4(), GIVEN)
