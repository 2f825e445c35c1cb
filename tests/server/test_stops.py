"""What stops people: each was found by a user, and is mended for good."""

import re
import threading
import uuid
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from types import SimpleNamespace

import pytest
from django.db import OperationalError, connection
from django.test import Client
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob
from psycopg.errors import DiskFull

from server.accounts.models import Membership, User, Workspace
from server.audit.models import Entry
from server.capture.actions.begin_capture import begin_capture
from server.capture.actions.take_upload import Given
from server.capture.models import Recording, Upload
from server.capture.queries import shows_picture
from server.capture.uploads import path_of
from server.ledger.models import Matter, Step
from server.mail.models import Letter
from server.mail.post import MOST_INVITATIONS_A_DAY, TRIES, send_letter
from server.mail.wording import WORDINGS, Kind, worded
from server.meetings.models import Meeting
from server.minutes.models import Finding, MinutesLine, Version
from server.pipeline.models import StageRun
from server.pipeline.work import STAGES, Change, begin_after, begin_work, stages_after
from server.stages import rescue
from server.stages.tasks import MOST_ATTEMPTS, run, run_stage
from tests.server.conftest import delivered, run_stages

AUTH = "/_allauth/browser/v1/auth"


# mail


def test_a_forgotten_password_is_set_anew_by_mail(maren, caller):
    assert caller(None)("post", f"{AUTH}/password/request", {"email": "maren@larkmoor.example"}).status_code == 200
    [message] = delivered()
    assert message.to == ["maren@larkmoor.example"] and message.alternatives[0].mimetype == "text/html"
    [key] = re.findall(r"/password/([\w-]+)", message.body)
    assert f"/password/{key}" in message.alternatives[0].content
    answer = caller(None)("post", f"{AUTH}/password/reset", {"key": key, "password": "moss and more moss"})
    assert answer.status_code in (200, 401), answer.content
    assert caller(None)("post", f"{AUTH}/login", {"email": "maren@larkmoor.example", "password": "moss and more moss"}).status_code == 200


def test_whoever_has_no_account_is_told_so_by_mail_and_nowhere_else(maren, caller):
    known = caller(None)("post", f"{AUTH}/password/request", {"email": "maren@larkmoor.example"})
    unknown = caller(None)("post", f"{AUTH}/password/request", {"email": "nobody@larkmoor.example"})
    assert known.content == unknown.content and known.status_code == unknown.status_code
    assert "has no account" in delivered()[-1].body


FACTS = {
    "by_name": "Maren <b>Tollefsen</b>", "workspace_name": "Garden", "until": "3 March 2026", "title": "Locks\r\nBcc: {title}",
    "when": "Tuesday", "why": "The disk was full.", "seconds": "12", "points": "1. Locks (10 min)", "place": "Potting shed", "subject": "Locks\nand keys", "body": "Dear all,\n\n{body}", "email": "a@b.example", "words": "It goes.", "name": "Glass", "titles": "– Glazing", "news": "New:\n– Locks", "stop": "https://garden.example/stop",
    "meetings": "– Locks", "agent": "A <b>tablet</b>", "address": "192.0.2.1", "what": "A passkey was added.", "who": "Pavel <Drozd>", "note": "About {what}",
}  # fmt: skip


@pytest.mark.parametrize("kind", Kind)
def test_every_mail_has_words_as_text_and_as_html(kind, db):
    assert set(WORDINGS) == set(Kind)
    words = worded(kind, "https://garden.example/x", **FACTS)
    assert "\n" not in words.subject and words.text.strip() and words.html.startswith("<!doctype html>")
    assert "<b>" not in words.html, "what people write is no markup"
    assert ("https://garden.example/x" in words.text) == bool(WORDINGS[kind].link) == ("https://garden.example/x" in words.html)
    letter = Letter.objects.create(kind=kind, to="a@b.example", subject=words.subject, text=words.text, html=words.html)
    [message] = delivered()
    assert (message.subject, message.body) == (words.subject, words.text) and message.alternatives[0].content == words.html
    letter.refresh_from_db()
    assert letter.state == "sent" and letter.text == letter.html == "", "once sent its words are let go"


def test_mail_waits_for_the_transaction_is_tried_again_and_given_up_in_the_end(maren, caller, monkeypatch):
    made = caller(maren)("post", "/api/invitations", {"email": "tobias@larkmoor.example"})
    assert made.status_code == 201, "a mail server that is away stops nobody"
    letter = Letter.objects.get()
    assert ProcrastinateJob.objects.filter(task_name="letter").latest("id").args == {"letter_id": letter.pk}

    def away(*args, **kwargs):
        raise ConnectionRefusedError("nobody listens")

    monkeypatch.setattr("server.mail.post.EmailMultiAlternatives.send", away)
    with pytest.raises(ConnectionRefusedError):  # Procrastinate tries again
        send_letter.func(SimpleNamespace(job=SimpleNamespace(attempts=0)), letter.pk)
    letter.refresh_from_db()
    assert letter.state == "waiting" and "nobody listens" in letter.said
    send_letter.func(SimpleNamespace(job=SimpleNamespace(attempts=TRIES - 1)), letter.pk)
    letter.refresh_from_db()
    assert letter.state == "failed"


def test_invitations_have_a_limit_a_day(maren, caller):
    Letter.objects.bulk_create(
        [Letter(kind=Kind.INVITATION, by=maren.user, to="a@b.example", subject="x") for _ in range(MOST_INVITATIONS_A_DAY)]
    )
    refused = caller(maren)("post", "/api/invitations", {"email": "tobias@larkmoor.example"})
    assert refused.status_code == 429 and not maren.workspace.invitation_set.exists()


# work that fails


def fresh(meeting: Meeting) -> Meeting:
    """The same meeting with all its work before it."""
    StageRun.objects.filter(meeting=meeting).delete()
    begin_work(meeting)
    return meeting


def state(meeting: Meeting, stage: str) -> tuple[str, str]:
    return StageRun.objects.values_list("state", "message").get(meeting=meeting, stage=stage)


def test_a_full_disk_is_said_kept_told_by_mail_and_tried_again(maren, make_meeting, caller, monkeypatch):
    meeting = fresh(make_meeting(maren, work=False))
    full = OperationalError("could not extend file")
    full.__cause__ = DiskFull("No space left on device")

    def fall_over(*args):
        raise full

    with monkeypatch.context() as broken:
        broken.setattr("server.stages.assemble.keep_record", fall_over)
        run_stages(meeting, "take_in", "assemble")
    assert state(meeting, "assemble")[0] == "failed" and "disk was full" in state(meeting, "assemble")[1]
    work = caller(maren)("get", f"/api/meetings/{meeting.pk}/progress").json()
    assert work["state"] == "failed" and work["left"] is None
    assert [m.subject for m in delivered()][-1] == "Not finished: Locks"
    ProcrastinateJob.objects.filter(task_name="stage").update(status="failed")
    assert caller(maren)("post", f"/api/meetings/{meeting.pk}/progress/again", {}).json()["state"] == "working"
    run_stages(meeting)
    assert caller(maren)("get", f"/api/meetings/{meeting.pk}/progress").json()["state"] == "ready"


def test_a_database_that_stays_away_fails_the_stage_with_the_last_try(maren, make_meeting, monkeypatch):
    meeting = fresh(make_meeting(maren, work=False))

    def gone(*args):
        raise OperationalError("the server closed the connection unexpectedly")

    monkeypatch.setattr("server.stages.take_in.read_record", gone)
    monkeypatch.setattr("server.stages.tasks.close_old_connections", lambda: None)
    for attempt in range(MOST_ATTEMPTS):
        with pytest.raises(OperationalError):
            run_stage.func(SimpleNamespace(job=SimpleNamespace(attempts=attempt)), str(meeting.pk), "take_in")
        if attempt < MOST_ATTEMPTS - 1:
            assert state(meeting, "take_in")[0] == "running"
    assert state(meeting, "take_in")[0] == "failed" and "database did not answer" in state(meeting, "take_in")[1]


def test_what_ends_its_worker_every_time_is_given_up(maren, make_meeting):
    meeting = fresh(make_meeting(maren, work=False))
    StageRun.objects.filter(meeting=meeting, stage="take_in").update(state="running", attempts=MOST_ATTEMPTS)
    run(str(meeting.pk), STAGES["take_in"])
    assert state(meeting, "take_in")[0] == "failed" and "worker ended" in state(meeting, "take_in")[1]


def test_a_stage_without_a_job_is_found(maren, make_meeting):
    running, waiting, fine = (fresh(make_meeting(maren, title, work=False)) for title in ("Running", "Waiting", "Fine"))
    StageRun.objects.filter(meeting=running, stage="take_in").update(state="running")
    ProcrastinateJob.objects.exclude(args__meeting_id=str(fine.pk)).update(status="failed")
    assert rescue.rescue_stages() == 1 + len(STAGES.keys() & set(waiting.stage_runs.values_list("stage", flat=True)))
    assert state(running, "take_in")[0] == "failed"
    assert ProcrastinateJob.objects.filter(status="todo", args__meeting_id=str(waiting.pk)).exists()
    assert state(fine, "take_in")[0] == "waiting" and rescue.rescue_stages() == 0


# two at once


@pytest.fixture
def at_once(transactional_db) -> Callable:
    """Does things at once, each on a connection of its own, and returns what each came to."""

    def do(*acts: Callable) -> list:
        barrier = threading.Barrier(len(acts))

        def one(act: Callable):
            try:
                barrier.wait(10)
                return act()
            finally:
                connection.close()

        with ThreadPoolExecutor(len(acts)) as pool:
            return list(pool.map(one, acts))

    return do


@pytest.fixture
def crew(transactional_db) -> Membership:
    user = User.objects.create_user("maren@larkmoor.example", "wet slate and lichen", name="Maren Tollefsen")
    return Membership.objects.create(user=user, workspace=Workspace.objects.create(name="Garden"), role="owner")


def signed_in(membership: Membership) -> Client:
    client = Client()
    client.force_login(membership.user, backend="allauth.account.auth_backends.AuthenticationBackend")
    return client


def test_twelve_draws_at_once_all_come_to_an_end(at_once, crew, make_meeting):
    meeting = make_meeting(crew)
    clients = [signed_in(crew) for _ in range(12)]
    names = ["board", "supplier", "incident", "", "interview", "chronological"] * 2
    at = f"/api/meetings/{meeting.pk}/minutes/draw"
    answers = at_once(
        *(lambda c=c, n=n: c.post(at, {"template": n}, content_type="application/json").status_code for c, n in zip(clients, names, strict=True))
    )
    assert set(answers) <= {200, 422}, answers
    assert Version.objects.filter(meeting=meeting).count() >= 1


def test_one_upload_finished_four_times_makes_one_meeting(at_once, crew, settings, tmp_path):
    settings.MEDIA_ROOT = settings.FILE_UPLOAD_TEMP_DIR = tmp_path
    data = b"WEBVTT\n\n00:01.000 --> 00:02.000\n<v Ann>Hello there.\n"
    upload = Upload.objects.create(user=crew.user, name="talk.vtt", size=len(data), offset=len(data))
    path_of(upload).write_bytes(data)
    body = {"upload": str(upload.pk), "title": "Hello", "started_at": "2026-03-03T09:30:00Z"}
    clients = [signed_in(crew) for _ in range(4)]
    answers = at_once(*(lambda c=c: c.post("/api/meetings", body, content_type="application/json") for c in clients))
    assert [answer.status_code for answer in answers] == [201] * 4 and len({answer.json()["id"] for answer in answers}) == 1
    assert Meeting.objects.count() == Recording.objects.count() == Entry.objects.filter(verb="give a file").count() == 1


def test_a_record_corrected_while_it_is_read_anew_never_deadlocks(at_once, crew, make_meeting):
    meeting = make_meeting(crew)
    clients = [signed_in(crew) for _ in range(3)]
    line = meeting.lines.get(number=4)
    stage = STAGES["read"]

    def read() -> int:
        for _ in range(12):
            StageRun.objects.filter(meeting=meeting, stage="read").update(state="waiting")
            run(str(meeting.pk), stage)
        return 200

    def correct(client: Client, number: int) -> Callable[[], list[int]]:
        def do() -> list[int]:
            before, codes = meeting.lines.get(number=number).text, []
            for n in range(12):
                text = f"Works for me {n}."
                answer = client.put(
                    f"/api/meetings/{meeting.pk}/lines/{number}", {"text": text, "before": before}, content_type="application/json"
                )
                codes.append(answer.status_code)
                before = text
            return codes

        return do

    def name() -> list[int]:
        voice = meeting.voices.first()
        return [
            clients[2].post(f"/api/meetings/{meeting.pk}/voices/{voice.pk}/name", {"name": f"Ann {n}"}, content_type="application/json").status_code
            for n in range(12)
        ]

    read_, first, second, named = at_once(read, correct(clients[0], line.number), correct(clients[1], 2), name)
    assert {*first, *second, *named} == {200}, (first, second, named)
    assert StageRun.objects.filter(meeting=meeting, state="failed").count() == 0


def test_six_edits_of_one_line_of_the_minutes_keep_one_and_say_so_to_five(at_once, crew, make_meeting):
    meeting = make_meeting(crew)
    row = MinutesLine.objects.filter(meeting=meeting, section="decisions").get()
    clients = [signed_in(crew) for _ in range(6)]
    answers = at_once(
        *(
            lambda c=c, n=n: c.patch(f"/api/minutes/lines/{row.pk}", {"text": f"Mine {n}", "before": row.text}, content_type="application/json")
            for n, c in enumerate(clients)
        )
    )
    assert sorted(answer.status_code for answer in answers) == [200] + [409] * 5
    kept = MinutesLine.objects.get(pk=row.pk).text
    assert all(answer.json()["text"] == kept for answer in answers if answer.status_code == 409)


def test_of_two_who_judge_a_step_at_once_one_is_told(at_once, crew, make_meeting):
    meeting = make_meeting(crew)
    step = Step.objects.create(matter=Matter.objects.create(workspace=crew.workspace, kind="action"), meeting=meeting, kind="done")
    says = [(signed_in(crew), now) for now in ("confirmed", "refused")]
    answers = at_once(
        *(lambda c=c, n=n: c.post(f"/api/ledger/steps/{step.pk}", {"was": "read", "now": n}, content_type="application/json") for c, n in says)
    )
    told = [answer.status_code == 409 for answer in answers]
    step.refresh_from_db()
    assert sorted(told) == [False, True] and step.state == says[told.index(False)][1]


def test_a_line_of_the_minutes_is_corrected_only_by_who_says_how_it_read(maren, make_meeting, caller):
    row = make_meeting(maren).minutes_lines.filter(section="decisions").get()
    call = lambda data: caller(maren)("patch", f"/api/minutes/lines/{row.pk}", data)  # noqa: E731
    assert call({"text": "Mine"}).status_code == 422
    changed = call({"text": "Mine", "before": "Something else"})
    assert changed.status_code == 409 and row.text in changed.json()["detail"]
    assert call({"text": "Mine", "before": row.text}).json()["text"] == "Mine"


# capture


def test_an_agenda_does_not_run_on_after_stop(maren, make_meeting, caller):
    capture = begin_capture(maren, uuid.uuid4(), Given("Captured", timezone.now()))
    meeting, call = capture.meeting, caller(maren)
    call("put", f"/api/meetings/{meeting.pk}/agenda", {"points": [{"text": "Locks", "minutes": 5}]})
    call("post", f"/api/meetings/{meeting.pk}/agenda/turn", {"position": 0, "at": 0.0})
    assert call("get", f"/api/meetings/{meeting.pk}/agenda").json()[0]["running"]
    assert call("post", f"/api/captures/{capture.pk}/stop", {"without_the_rest": True}).status_code == 204
    assert not call("get", f"/api/meetings/{meeting.pk}/agenda").json()[0]["running"]


@pytest.mark.parametrize(
    ("picture", "container", "shown"),
    [
        ("h264", "mov,mp4,m4a,3gp,3g2,mj2", True),
        ("vp9", "matroska,webm", True),
        ("mpeg4", "mov,mp4,m4a,3gp,3g2,mj2", False),
        ("h264", "mpegts", False),
        (None, "mov,mp4,m4a,3gp,3g2,mj2", False),
    ],
)
def test_a_picture_that_no_browser_shows_is_not_offered(picture, container, shown):
    assert shows_picture(Recording(facts={"picture": picture, "container": container})) is shown


# what is struck


def test_what_is_struck_is_gone_from_whatever_else_quotes_it(maren, make_meeting, caller, settings):
    meeting, other = make_meeting(maren), make_meeting(maren, "Other matters")
    said = "change the lock on the boiler door"
    call = caller(maren)
    call("post", f"/api/meetings/{other.pk}/notes", {"text": f"Last week: {said}, they said. Mine stays."})
    call("post", f"/api/meetings/{other.pk}/comments", {"text": f"See “{said}”", "start": 1, "end": 2})
    call("patch", f"/api/meetings/{other.pk}", {"title": f"Why {said}", "series": f"To {said}"})
    call("put", f"/api/agendas/{said}", {"points": [{"text": f"Again: {said}", "minutes": 5}]})
    call("post", "/api/templates", {"title": "Plain", "sections": [{"heading": f"To {said}", "takes": ["action"]}]})
    call("post", "/api/sequences", {"title": f"What if we {said}"})
    call("post", f"/api/meetings/{other.pk}/questions", {"text": f"Did we {said}?"})
    call("post", f"/api/meetings/{other.pk}/minutes/lines", {"section": "decisions", "text": f"We {said}."})
    call("post", "/api/words", {"text": "boiler", "mistaken": ["the boy lured"]})
    chosen = {"first": [3, 0], "last": [3, -1]}
    would = call("post", f"/api/meetings/{meeting.pk}/strike/preview", chosen).json()
    assert would["counts"]["elsewhere"] >= 9
    struck = call("post", f"/api/meetings/{meeting.pk}/strike", {**chosen, "name": "Maren Tollefsen", "before": would["text"]})
    assert struck.status_code == 200
    for model, field in everything_written():
        for value in model.objects.values_list(field, flat=True):
            assert "lock on the boiler" not in str(value) or str(value) in spoken_in(other), (model, field, value)
    assert "Mine stays." in str(list(other.notes.values_list("text", flat=True))), "people's own words stay around it"
    assert call("get", "/api/words").json()["terms"][0]["text"] == "boiler", "a word that was struck with others stays on the list"


def spoken_in(meeting: Meeting) -> set:
    """What the other meeting's own record says, and what was drawn from it: nobody struck that."""
    findings = Finding.objects.filter(meeting=meeting, jotted_by=None).values_list("text", flat=True)
    drawn = MinutesLine.objects.filter(meeting=meeting, hand_initials="").values_list("text", flat=True)
    return {*meeting.lines.values_list("text", flat=True), *findings, *drawn}


def everything_written():
    """Every field of every model of ours that holds texts."""
    from django.apps import apps
    from django.db import models

    for model in apps.get_models():
        if model.__module__.startswith("server."):
            for field in model._meta.concrete_fields:
                if isinstance(field, models.CharField | models.TextField | models.JSONField):
                    yield model, field.name


# what was read before


def test_a_change_is_done_again_by_the_stages_that_say_so(maren, make_meeting):
    meeting = make_meeting(maren)
    assert stages_after(meeting.recording, Change.RECORD) == ("read", "minutes", "index", "follow")
    assert stages_after(meeting.recording, Change.SERIES) == ("follow",)
    begin_after(meeting, Change.RECORD)
    assert {s for s, st in meeting.stage_runs.values_list("stage", "state") if st == "waiting"} == {"read", "minutes", "index", "follow"}
    assert [name for name, stage in STAGES.items() if stage.makes_record] == ["gather", "take_in", "decode", "hear", "voices", "assemble"]
