"""Giving files, the record, minutes, names, search: the API on a real PostgreSQL."""

import base64
import json
from datetime import UTC, datetime

import pytest
from openapi_spec_validator import validate

from core.problems import InputProblem
from server.audit.models import Entry
from server.capture.models import Recording, Upload
from server.meetings.models import Meeting
from server.minutes.models import Finding, MinutesLine
from server.pipeline.models import StageRun
from server.pipeline.work import Change, begin, stages_after
from server.record.models import Line
from server.urls import api
from tests.server.conftest import TALK, drawn, run_stages

TUS = {"content_type": "application/offset+octet-stream"}


def send(call, data: bytes, name: str = "talk.vtt") -> str:
    label = base64.b64encode(name.encode()).decode()
    made = call("post", "/api/uploads", b"", **{"Upload-Length": str(len(data)), "Upload-Metadata": f"filename {label}"})
    assert made.status_code == 201
    if data:
        assert call("patch", made["Location"], data, **TUS, **{"Upload-Offset": "0"}).status_code == 204
    return made["Location"].rsplit("/", 1)[1]


def given(upload: str, **more) -> dict:
    return {"upload": upload, "title": "Palmería 🌴 會議", "started_at": "2026-03-03T09:30:00Z", "time_zone": "Europe/London", **more}


def test_the_api_document_is_valid_openapi():
    validate(json.loads(json.dumps(api.get_openapi_schema())))


def test_an_upload_goes_on_where_it_stopped_and_becomes_a_meeting(maren, caller, settings, tmp_path):
    settings.MEDIA_ROOT = tmp_path
    call, data = caller(maren), TALK.encode()
    place = call(
        "post",
        "/api/uploads",
        b"",
        **{"Upload-Length": str(len(data)), "Upload-Metadata": "filename " + base64.b64encode("../../Łąka .vtt".encode()).decode()},
    )["Location"]
    assert call("patch", place, data[:100], **TUS, **{"Upload-Offset": "0"})["Upload-Offset"] == "100"
    assert call("patch", place, data[:100], **TUS, **{"Upload-Offset": "0"}).status_code == 409
    assert call("head", place)["Upload-Offset"] == "100"
    early = call("post", "/api/meetings", given(place.rsplit("/", 1)[1]))
    assert early.status_code == 409 and "100 of" in early.json()["detail"]
    call("patch", place, data[100:], **TUS, **{"Upload-Offset": "100"})
    made = call("post", "/api/meetings", given(place.rsplit("/", 1)[1], people=["Zoë Ångström", " zoë ångström ", "李 明"]))
    assert made.status_code == 201
    meeting = Meeting.objects.get(pk=made.json()["id"])
    assert [person.name for person in meeting.people.order_by("id")] == ["Zoë Ångström", "李 明"]
    assert (meeting.recording.name, meeting.recording.form, meeting.title) == ("Łąka .vtt", "transcript", "Palmería 🌴 會議")
    assert meeting.recording.original.read() == data and not Upload.objects.exists()
    run_stages(meeting)
    assert call("get", f"/api/meetings/{meeting.pk}/progress").json()["state"] == "ready"


def test_the_same_file_is_offered_and_can_be_kept_twice(maren, member, caller, settings, tmp_path):
    settings.MEDIA_ROOT = tmp_path
    call = caller(maren)
    first = call("post", "/api/meetings", given(send(call, TALK.encode()), visibility="mine")).json()["id"]
    upload = send(call, TALK.encode())
    refused = call("post", "/api/meetings", given(upload))
    assert (refused.status_code, refused["Content-Type"], refused.json()["existing"]) == (409, "application/problem+json", first)
    assert call("post", "/api/meetings", given(upload, again=True)).status_code == 201
    # Somebody who may not see the first one is not told of it.
    other = caller(member("Idris Quaye"))
    Meeting.objects.filter(recording__isnull=False).update(visibility="mine")
    assert other("post", "/api/meetings", given(send(other, TALK.encode()))).status_code == 201


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"title": ""}, "title"),
        ({"started_at": "yesterday"}, "started_at"),
        ({"time_zone": "Mars/Olympus"}, "no time zone"),
        ({"language": "English"}, "language"),
        ({"visibility": "everyone"}, "visibility"),
        ({"upload": "nope"}, "upload"),
    ],
)
def test_bad_fields_are_problem_details_that_name_them(maren, caller, change, said):
    answer = caller(maren)("post", "/api/meetings", given(send(caller(maren), b"x")) | change)
    assert (answer.status_code, answer["Content-Type"]) == (422, "application/problem+json")
    assert {"type", "title", "status", "detail", "errors"} == set(answer.json()) and said in answer.json()["detail"]


def test_an_empty_file_is_refused(maren, caller):
    answer = caller(maren)("post", "/api/meetings", given(send(caller(maren), b"")))
    assert answer.status_code == 422 and "empty" in answer.json()["detail"]


def test_a_change_without_the_csrf_token_is_refused(maren):
    from django.test import Client

    client = Client(enforce_csrf_checks=True)
    client.force_login(maren.user, backend="allauth.account.auth_backends.AuthenticationBackend")
    assert client.post("/api/workspaces", {"name": "x"}, content_type="application/json").status_code == 403
    assert (
        client.post("/api/uploads", b"", content_type="application/offset+octet-stream", headers={"Upload-Length": "5"}).status_code == 403
    )


def test_what_was_read_is_stated_with_its_lines(maren, caller, make_meeting):
    meeting = make_meeting(maren)
    minutes = caller(maren)("get", f"/api/meetings/{meeting.pk}/minutes").json()
    [action] = [line for line in minutes["lines"] if line["section"] == "actions"]
    assert (action["text"], action["finding"]["owner"], action["finding"]["due"], action["lines"]) == (
        "Idris to order a new lock by Friday",
        "Idris Quaye",
        "2026-03-06",
        [5],
    )
    assert [line["text"] for line in minutes["lines"] if line["section"] == "decisions"] == ["Change the lock on the boiler door"]
    assert all(line["lines"] for line in minutes["lines"])
    assert not Finding.objects.filter(lines=None).exists()


def test_naming_a_voice_renames_it_everywhere_and_lines_by_hand_stand(maren, caller, make_meeting):
    meeting = make_meeting(maren, text=TALK.replace("Idris Quaye", "B").replace("Maren Tollefsen", "A"))
    call, at = caller(maren), f"/api/meetings/{meeting.pk}"
    own = call("post", at + "/minutes/lines", {"section": "actions", "text": "Ring the locksmith", "lines": [5]}).json()
    drawn = next(line for line in call("get", at + "/minutes").json()["lines"] if line["section"] == "decisions")
    call("patch", f"/api/minutes/lines/{drawn['id']}", {"text": "The boiler door gets a new lock", "before": drawn["text"]})
    voice = next(one for one in call("get", at).json()["voices"] if one["label"] == "B")
    assert voice["name"] == "Voice B"
    call("post", at + f"/voices/{voice['id']}/name", {"name": "Idris Quaye"})
    run_stages(meeting, *stages_after(meeting.recording, Change.RECORD))
    after = call("get", at + "/minutes").json()["lines"]
    assert "Idris to order a new lock by Friday" in [line["text"] for line in after]
    by_hand = {line["id"]: (line["text"], line["hand"]) for line in after if line["hand"]}
    assert by_hand == {own["id"]: ("Ring the locksmith", "MT"), drawn["id"]: ("The boiler door gets a new lock", "MT")}
    assert not any("Voice B" in line["text"] for line in after) and "Voice B" not in call("get", at + "/record.vtt").content.decode()


def test_a_line_taken_out_stays_out_and_comes_back(maren, caller, make_meeting):
    meeting = make_meeting(maren)
    call = caller(maren)
    line = MinutesLine.objects.get(meeting=meeting, section="actions")
    assert call("delete", f"/api/minutes/lines/{line.pk}").json()["removed"]
    StageRun.objects.filter(meeting=meeting, stage__in=stages_after(meeting.recording, Change.RECORD)).update(state="waiting")
    run_stages(meeting, *stages_after(meeting.recording, Change.RECORD))
    assert MinutesLine.objects.filter(meeting=meeting, section="actions", removed_at=None).count() == 0
    assert call("post", f"/api/minutes/lines/{line.pk}/restore").json()["removed"] is False


def test_what_a_person_says_of_a_finding_outlives_a_new_reading(maren, caller, make_meeting):
    meeting = make_meeting(maren)
    call = caller(maren)
    action = Finding.objects.get(meeting=meeting, kind="action")
    assert call("patch", f"/api/minutes/findings/{action.pk}", {"done": True}).json()["done"]
    decision = Finding.objects.get(meeting=meeting, kind="decision")
    Finding.objects.filter(pk=decision.pk).update(status="proposed")
    call("patch", f"/api/minutes/findings/{decision.pk}", {"dismissed": True})
    StageRun.objects.filter(meeting=meeting, stage__in=stages_after(meeting.recording, Change.RECORD)).update(state="waiting")
    run_stages(meeting, *stages_after(meeting.recording, Change.RECORD))
    assert (
        Finding.objects.get(meeting=meeting, kind="action").done_at
        and Finding.objects.get(meeting=meeting, kind="decision").status == "dismissed"
    )


def test_the_library_comes_in_pages_without_gaps(maren, caller, make_meeting):
    for number in range(45):
        make_meeting(maren, f"Meeting {number}", work=False)
    call = caller(maren)
    first = call("get", "/api/library").json()
    second = call("get", f"/api/library?cursor={first['next']}").json()
    assert len(first["rows"]) == 40 and second["next"] is None
    assert len({row["id"] for row in first["rows"] + second["rows"]}) == 45
    assert call("get", "/api/library?cursor=nonsense").status_code == 422


def test_a_failed_stage_says_why_keeps_the_file_and_can_be_tried_again(maren, caller, make_meeting, monkeypatch):
    meeting = make_meeting(maren, work=False)
    run_stages(meeting, "take_in")
    with monkeypatch.context() as broken:

        def fall_over(path):
            raise InputProblem("The times in line 7 cannot be read.")

        broken.setattr("server.stages.assemble.read_record", fall_over)
        run_stages(meeting, "assemble")
    call = caller(maren)
    work = call("get", f"/api/meetings/{meeting.pk}/progress").json()
    assert (work["state"], work["message"]) == ("failed", "The times in line 7 cannot be read.")
    assert Recording.objects.get(meeting=meeting).original.size > 0
    assert call("get", "/api/today").json()["working"][0]["work"]["state"] == "failed"
    assert call("post", f"/api/meetings/{meeting.pk}/progress/again").json()["state"] == "working"
    run_stages(meeting)
    assert call("get", f"/api/meetings/{meeting.pk}/progress").json()["state"] == "ready"


def test_stages_are_idempotent(maren, make_meeting):
    meeting = make_meeting(maren)
    before = list(Line.objects.filter(meeting=meeting).values_list("pk", flat=True))
    run_stages(meeting)
    assert list(Line.objects.filter(meeting=meeting).values_list("pk", flat=True)) == before


def test_a_change_in_the_middle_of_a_stage_has_it_done_again(maren, caller, make_meeting, monkeypatch):
    meeting = make_meeting(maren, text=TALK.replace("Idris Quaye", "B"))
    begin(meeting, stages_after(meeting.recording, Change.RECORD))
    voice = meeting.voices.get(label="B")

    def read_while_somebody_names_the_voice(record, encoder, *given, **ways):
        monkeypatch.setattr("server.stages.read.read", drawn)
        caller(maren)("post", f"/api/meetings/{meeting.pk}/voices/{voice.pk}/name", {"name": "Idris Quaye"})
        return drawn(record, encoder)

    monkeypatch.setattr("server.stages.read.read", read_while_somebody_names_the_voice)
    run_stages(meeting, "read")
    assert StageRun.objects.get(meeting=meeting, stage="read").state == "waiting"
    run_stages(meeting, *stages_after(meeting.recording, Change.RECORD))
    assert Finding.objects.get(meeting=meeting, kind="action").owner_name == "Idris Quaye"


def test_work_is_queued_in_the_transaction_that_makes_the_row(maren, make_meeting):
    from django.db import transaction
    from procrastinate.contrib.django.models import ProcrastinateJob

    with pytest.raises(ZeroDivisionError), transaction.atomic():
        make_meeting(maren, work=False)
        assert ProcrastinateJob.objects.exists()
        raise ZeroDivisionError
    assert not ProcrastinateJob.objects.exists() and not Meeting.objects.exists()


def test_a_meeting_taken_out_is_nowhere_and_can_be_put_back(maren, caller, make_meeting):
    meeting = make_meeting(maren)
    call = caller(maren)
    assert call("delete", f"/api/meetings/{meeting.pk}").status_code == 204
    assert call("get", f"/api/meetings/{meeting.pk}").status_code == 404 and call("get", "/api/search?q=lock").json()["meetings"] == []
    assert call("post", f"/api/meetings/{meeting.pk}/restore").status_code == 200
    assert call("get", f"/api/meetings/{meeting.pk}").status_code == 200


def test_another_date_moves_what_was_due_by_friday(maren, caller, make_meeting):
    meeting = make_meeting(maren)
    caller(maren)("patch", f"/api/meetings/{meeting.pk}", {"started_at": datetime(2026, 3, 10, 9, 30, tzinfo=UTC).isoformat()})
    run_stages(meeting, *stages_after(meeting.recording, Change.RECORD))
    assert str(Finding.objects.get(meeting=meeting, kind="action").due) == "2026-03-13"


def test_every_change_is_in_the_audit_without_what_was_said(maren, caller, make_meeting):
    meeting = make_meeting(maren)
    call = caller(maren)
    call("post", f"/api/meetings/{meeting.pk}/minutes/lines", {"section": "actions", "text": "secret words"})
    call("patch", f"/api/meetings/{meeting.pk}", {"title": "secret title", "visibility": "mine"})
    call("get", f"/api/meetings/{meeting.pk}/record.srt")
    entries = list(Entry.objects.filter(meeting=meeting).order_by("id"))
    assert [entry.verb for entry in entries] == ["write in minutes", "change meeting", "download record"]
    assert all(entry.actor == maren.user for entry in entries) and "secret" not in str([entry.detail for entry in entries])


def test_sound_comes_in_ranges_only_to_those_who_may(maren, member, caller, make_meeting, client):
    from django.core.files.base import ContentFile

    meeting = make_meeting(maren, visibility="mine")
    meeting.recording.listening.save("l.webm", ContentFile(bytes(range(200))))
    at = f"/api/meetings/{meeting.pk}/sound"
    part = caller(maren)("get", at, Range="bytes=10-19")
    assert (part.status_code, part["Content-Range"], part["Content-Length"]) == (206, "bytes 10-19/200", "10")
    assert caller(maren)("get", at, Range="bytes=-5")["Content-Range"] == "bytes 195-199/200"
    assert caller(maren)("get", at, Range="bytes=500-")["Content-Range"] == "bytes */200"
    assert caller(member("Idris Quaye"))("get", at).status_code == 404 and client.get(at).status_code == 401
