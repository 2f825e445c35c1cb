"""What a hostile or an unlucky input does: it is told what is wrong, at the boundary, and nothing else happens."""

import asyncio
import json
import os
import zipfile
from datetime import UTC, datetime, timedelta
from pathlib import Path

import pytest
from django.db import IntegrityError, OperationalError, transaction
from django.utils import timezone

from core.formats import read_record
from core.media import probe
from core.problems import InputProblem
from server.accounts.models import User
from server.capture.models import Upload
from server.capture.uploads import FORGOTTEN, path_of, sweep
from server.limits import BodyLimits
from server.meetings.models import Meeting, Person
from server.meetings.people import find_people
from server.words.models import ListedTerm

GIVEN = {"title": "Locks", "started_at": "2026-03-03T09:30:00Z", "time_zone": "Europe/London"}


# bodies


def ask(application, method: str, path: str, chunks: list[bytes], headers=()) -> tuple[int | None, bytes]:
    """What an ASGI application answers to a body that comes in pieces; and how much of it the application took."""
    sent, left, taken = [], list(chunks), 0

    async def receive():
        nonlocal taken
        body = left.pop(0) if left else b""
        taken += len(body)
        return {"type": "http.request", "body": body, "more_body": bool(left)}

    async def send(message):
        sent.append(message)

    scope = {"type": "http", "method": method, "path": path, "headers": list(headers)}
    asyncio.run(application(scope, receive, send))
    return sent[0]["status"] if sent else None, taken


async def swallow(scope, receive, send):
    while (message := await receive())["type"] == "http.request" and message["more_body"]:
        pass
    if message["type"] == "http.request":
        await send({"type": "http.response.start", "status": 200, "headers": []})


@pytest.mark.parametrize(
    ("method", "path", "most"),
    [("POST", "/api/meetings", 2**20), ("PATCH", "/api/uploads/1", 2**26), ("PUT", "/api/captures/1/stretches/0/chunks/0", 2**18)],
)
def test_a_body_is_bounded_by_its_address_before_anything_is_stored(method, path, most):
    bounded = BodyLimits(swallow)
    assert ask(bounded, method, path, [b"x" * (most // 2), b"x" * (most // 2)])[0] == 200
    told = [(b"content-length", str(300 * 2**20).encode())]
    assert ask(bounded, method, path, [b"x"] * 3, told) == (413, 0)
    status, taken = ask(bounded, method, path, [b"x" * most] * 5)
    assert status == 413 and taken == 2 * most, "it is noticed at the second piece, and the rest is not waited for"


def test_what_is_no_json_is_read_by_nobody(maren, caller):
    call = caller(maren)
    form = b"--x\r\nContent-Disposition: form-data; name=a"
    for content_type in ("multipart/form-data; boundary=x", "multipart/form-data", "text/plain", "application/x-www-form-urlencoded"):
        answer = call("post", "/api/workspaces", form, content_type=content_type)
        assert (answer.status_code, answer["Content-Type"]) == (415, "application/problem+json"), content_type
    assert call("post", "/api/workspaces", b"{", content_type="application/json").status_code in (400, 422)


# numbers, dates, texts


@pytest.mark.parametrize("moment", ["9999-12-31T23:59:59+00:00", "0001-01-01T00:00:00+14:00", "1969-12-31T23:59:59Z", "2200-01-01T00:00:00Z"])
def test_a_start_at_the_edge_of_time_is_refused_and_cannot_be_stored(moment, maren, caller, make_meeting):
    meeting = make_meeting(maren, work=False)
    answer = caller(maren)("patch", f"/api/meetings/{meeting.pk}", {"started_at": moment})
    assert answer.status_code == 422 and "between 1970 and 2200" in answer.json()["detail"]
    with pytest.raises(IntegrityError), transaction.atomic():
        Meeting.objects.filter(pk=meeting.pk).update(started_at=datetime(9999, 1, 1, tzinfo=UTC))
    for path in ("today", "library"):
        assert caller(maren)("get", f"/api/{path}").status_code == 200


@pytest.mark.parametrize("name", ["İpek Şahin", "ΑΣ", "Straße", "Zoë", "ﬃ", "Ǆ", "ıI"])
def test_a_name_is_the_same_a_second_time_in_whatever_case(name, maren, caller):
    first = find_people(maren.workspace, [name])
    for again in (name, name.upper(), name.casefold(), f" {name}\n"):
        assert find_people(maren.workspace, [again]) == first or again == name.upper(), again
        assert caller(maren)("post", "/api/words", {"text": again}).status_code == 201
    assert ListedTerm.objects.filter(workspace=maren.workspace).count() <= 2


def test_a_line_break_in_a_title_or_a_name_becomes_a_space(maren, caller, make_meeting):
    meeting = make_meeting(maren, work=False)
    call = caller(maren)
    assert call("patch", f"/api/meetings/{meeting.pk}", {"title": "Locks\r\nBcc: all\x00\u202e", "people": ["An\nna"]}).status_code == 200
    meeting.refresh_from_db()
    assert meeting.title == "Locks Bcc: all" and Person.objects.filter(name="An na").exists()
    assert call("patch", "/api/me", {"name": "Maren\nTollefsen"}).json()["name"] == "Maren Tollefsen"


@pytest.mark.parametrize("name", ["ßtraße ßigma ﬃ", "ŉ x", "é", "\u200d", "  "])
def test_initials_are_short_whatever_the_name(name):
    assert 1 <= len(User(email="x@larkmoor.example", name=name).initials) <= 2


@pytest.mark.parametrize("cursor", ["", "x", "bnVsbA==", "WzEsMl0=", "WyIyMDI2LTAxLTAxIiwieCJd", "WyI5OTk5LTEyLTMxVDIzOjU5OjU5LTE0OjAwIiwieCJd"])
def test_a_cursor_that_is_none_is_told(cursor, maren, caller):
    assert caller(maren)("get", f"/api/library?cursor={cursor}").status_code == (422 if cursor else 200)


# uploads


@pytest.mark.parametrize("length", ["²", "-1", "", "1e9", "9" * 4000, "٣"])
def test_a_length_that_is_none_is_told(length, maren, caller):
    assert caller(maren)("post", "/api/uploads", b"", **{"Upload-Length": length}).status_code in (400, 413)


def test_uploads_are_for_members_bounded_and_swept(maren, member, caller, settings, tmp_path):
    settings.FILE_UPLOAD_TEMP_DIR = tmp_path
    assert caller(member("Gwen Castellow", "guest"))("post", "/api/uploads", b"", **{"Upload-Length": "5"}).status_code == 403
    call = caller(maren)
    assert call("post", "/api/uploads", b"", **{"Upload-Length": str(5 * 1024**3)}).status_code == 413
    for _ in range(60):
        assert call("post", "/api/uploads", b"", **{"Upload-Length": "5"}).status_code == 201
    assert call("post", "/api/uploads", b"", **{"Upload-Length": "5"}).status_code == 429
    old = Upload.objects.order_by("created_at").first()
    Upload.objects.filter(pk=old.pk).update(touched_at=timezone.now() - FORGOTTEN - timedelta(hours=1))
    assert sweep() == 1 and not path_of(old).exists() and Upload.objects.count() == 59


def test_a_piece_that_does_not_fit_or_finds_no_room_loses_nothing(maren, member, caller, settings, tmp_path, monkeypatch):
    """As tus 1.0.0 has it (tus.io, "Core protocol"): what was acknowledged stays, and one goes on from there."""
    settings.FILE_UPLOAD_TEMP_DIR = tmp_path
    call = caller(maren)
    assert call("get", "/api/uploads").status_code == 405
    assert call("options", "/api/uploads").headers["Tus-Extension"] == "creation,termination"
    place = call("post", "/api/uploads", b"", **{"Upload-Length": "5", "Upload-Metadata": "filename §,more"}).headers["Location"]
    upload = Upload.objects.get()
    assert upload.name == "recording"  # its name could not be read
    assert call("post", place, b"ab").status_code == 405 and call("patch", place, b"ab").status_code == 415

    def send(data: bytes, at: int, who=call):
        return who("patch", place, data, content_type="application/offset+octet-stream", **{"Upload-Offset": str(at)})

    assert send(b"ab", 0).headers["Upload-Offset"] == "2"
    assert send(b"ab", 0).status_code == 409 and send(b"cdefgh", 2).headers["Upload-Offset"] == "2"
    assert send(b"cde", 2, caller(member("Idris Quaye"))).status_code == 404

    def full(_descriptor):
        raise OSError(28, "No space left on device")

    with monkeypatch.context() as patched:
        patched.setattr("server.capture.uploads.os.fsync", full)
        assert send(b"cde", 2).status_code == 507 and call("head", place).headers["Upload-Offset"] == "2"
    assert send(b"cde", 2).headers["Upload-Offset"] == "5" and path_of(upload).read_bytes() == b"abcde"
    assert call("delete", place).status_code == 204 and not path_of(upload).exists()
    assert call("head", place).status_code == 404 and send(b"x", 5).status_code == 404
    monkeypatch.setattr("server.capture.uploads.has_room", lambda size: False)
    assert call("post", "/api/uploads", b"", **{"Upload-Length": "5"}).status_code == 507
    (lost := tmp_path / "lost.part").write_bytes(b"x")
    os.utime(lost, (0, 0))
    assert sweep() == 1 and not lost.exists()


# files


def docx(tmp_path: Path, members: dict[str, bytes]) -> Path:
    path = tmp_path / "bomb.docx"
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in members.items():
            archive.writestr(name, data)
    return path


@pytest.mark.parametrize(
    "members",
    [
        {"word/document.xml": b" " * 200_000_000},
        {f"word/{n}.xml": b"<a/>" for n in range(3000)},
        {"word/media/a.png": b"\0" * 300_000_000},
        {"word/document.xml": b"<a"},
        {},
    ],
    ids=["large text", "many parts", "large picture", "no XML", "empty"],
)
def test_an_archive_that_unpacks_to_more_than_a_transcript_is_refused_before_it_is(members, tmp_path):
    path = docx(tmp_path, members)
    assert path.stat().st_size < 700_000
    with pytest.raises(InputProblem, match="bomb.docx: "):
        read_record(path)


def test_transcripts_are_bounded_in_voices_words_and_times(tmp_path):
    def vtt(cues: str) -> Path:
        path = tmp_path / "talk.vtt"
        path.write_text(f"WEBVTT\n\n{cues}", encoding="utf-8")
        return path

    def cue(n: int, text: str) -> str:
        return f"00:{n // 60:02}:{n % 60:02}.000 --> 00:{n // 60:02}:{n % 60:02}.500\n{text}\n\n"

    with pytest.raises(InputProblem, match="600 voices"):
        read_record(vtt("".join(cue(n, f"<v V{n}>Hello.") for n in range(600))))
    with pytest.raises(InputProblem, match="a word of 1000000 letters"):
        read_record(vtt(cue(0, "x" * 1_000_000)))
    with pytest.raises(InputProblem, match="beyond"):
        read_record(vtt("9000:00:00.000 --> 9000:00:01.000\nHello.\n"))
    long = read_record(vtt(cue(0, "word " * 200_000)))
    assert max(len(line.text.split()) for turn in long.turns for line in turn.lines) <= 250, "a line can be set in type"


@pytest.mark.parametrize("text", ['{"turns": [{"text": 1, "start": "a", "end": 2}]}', "[" * 100_000, '{"turns": [{"text": "x", "start": 0, "end": Infinity}]}', "{}"])
def test_a_malformed_record_names_its_fault(text, tmp_path):
    path = tmp_path / "talk.json"
    path.write_text(text, encoding="utf-8")
    with pytest.raises(InputProblem, match="talk.json: "):
        read_record(path)


def test_a_playlist_opens_no_other_file(tmp_path):
    """FFmpeg's `ffconcat` names files to read; so do playlists of streams."""
    (tmp_path / "secret.wav").write_bytes(b"RIFF")
    for name, text in {
        "a.txt": f"ffconcat version 1.0\nfile {tmp_path / 'secret.wav'}\n",
        "b.m3u8": f"#EXTM3U\n#EXT-X-TARGETDURATION:10\n#EXTINF:10,\n{tmp_path / 'secret.wav'}\n#EXT-X-ENDLIST\n",
        "c.sdp": "v=0\no=- 0 0 IN IP4 127.0.0.1\ns=x\nc=IN IP4 127.0.0.1\nt=0 0\nm=audio 5004 RTP/AVP 0\n",
    }.items():
        (tmp_path / name).write_text(text)
        with pytest.raises(InputProblem, match="not a sound or video file"):
            probe(tmp_path / name)


def test_what_cannot_be_used_is_said_when_it_is_given_and_becomes_no_meeting(maren, caller, settings, tmp_path):
    settings.FILE_UPLOAD_TEMP_DIR, settings.MEDIA_ROOT = tmp_path, tmp_path / "media"
    call = caller(maren)
    for name, data in {"talk.mp3": b"no sound " * 99, "talk.vtt": b"WEBVTT\n\nno times", "talk.docx": b"PK\x03\x04", "talk.txt": b""}.items():
        label = __import__("base64").b64encode(name.encode()).decode()
        made = call("post", "/api/uploads", b"", **{"Upload-Length": str(len(data)), "Upload-Metadata": f"filename {label}"})
        place = made["Location"]
        call("patch", place, data, content_type="application/offset+octet-stream", **{"Upload-Offset": "0"})
        answer = call("post", "/api/meetings", {"upload": place.rsplit("/", 1)[1], **GIVEN})
        assert answer.status_code == 422 and name in answer.json()["detail"], answer.content
    assert not Meeting.objects.exists()


def test_control_characters_stop_no_document(maren, make_meeting, caller):
    meeting = make_meeting(maren)
    Meeting.objects.filter(pk=meeting.pk).update(title="Locks \x0b \x1b[2J")
    for form in ("docx", "pdf", "md", "txt"):
        assert caller(maren)("get", f"/api/meetings/{meeting.pk}/minutes.{form}").status_code == 200, form
        assert caller(maren)("get", f"/api/meetings/{meeting.pk}/record.{form}").status_code == 200, form


# the database is away


def test_without_its_database_the_server_says_so_at_once(maren, caller, monkeypatch):
    def gone(*args, **kwargs):
        raise OperationalError("the server closed the connection")

    monkeypatch.setattr("server.library.api.membership_of", gone)
    monkeypatch.setattr("server.capture.uploads.membership_of", gone)
    for answer in (caller(maren)("get", "/api/today"), caller(maren)("post", "/api/uploads", b"", **{"Upload-Length": "5"})):
        assert (answer.status_code, answer["Content-Type"], answer["Retry-After"]) == (503, "application/problem+json", "2")
        assert "Nothing was changed" in json.loads(answer.content)["detail"]


def test_a_huge_range_is_no_error(maren, make_meeting, caller):
    meeting = make_meeting(maren)
    for asked in ("bytes=" + "9" * 5000 + "-", "bytes=-" + "9" * 5000, "bytes=99999-1", "bytes=٣-"):
        assert caller(maren)("get", f"/api/meetings/{meeting.pk}/sound", Range=asked).status_code in (200, 404, 416)


