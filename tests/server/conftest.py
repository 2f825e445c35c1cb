from __future__ import annotations

import json
import os
from collections.abc import Sequence
from datetime import UTC, datetime
from functools import partial
from itertools import pairwise
from pathlib import Path
from types import SimpleNamespace

import pytest
from django.contrib.auth.hashers import Argon2PasswordHasher
from django.core import mail
from django.db import connection
from django.test import Client

from core.reading import AgendaPoint, Encoder, Reading, wording
from core.reading.base import Finding, all_said
from core.reading.chapters import Chapter
from core.reading.due import find_due
from core.reading.gist import write_gist
from core.record.model import Record
from core.text import Put, as_written
from server.accounts.models import Membership, User, Workspace
from server.capture.actions.take_upload import Given, create_meeting, keep_file
from server.mail.models import Letter, LetterState
from server.mail.post import send_letter
from server.meetings.models import Meeting, Reader
from server.meetings.people import link_person
from server.pipeline.work import STAGES, begin, stages_of
from server.stages.tasks import run

# Playwright's loop, left running by browser tests, must not make Django refuse plain calls.
os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "1"

TALK = """WEBVTT

00:00:01.000 --> 00:00:04.000
<v Maren Tollefsen>Who has the key to the plant room?

00:00:04.500 --> 00:00:06.000
<v Idris Quaye>I've no idea, honestly.

00:00:07.000 --> 00:00:10.000
<v Maren Tollefsen>What if we change the lock on the boiler door?

00:00:10.500 --> 00:00:12.000
<v Idris Quaye>Works for me.

00:00:13.000 --> 00:00:17.000
<v Idris Quaye>I'll order a new lock by Friday.
"""


def drawn(record: Record, encoder: Encoder, agenda: Sequence[AgendaPoint] = (), report=None, put: Put = as_written) -> Reading:
    """TALK as a careful minute-taker reads it. How well the reader reads is measured on whole meetings; here it is what becomes of it."""
    lines = all_said(record)
    found = []
    for said, answer in pairwise([*lines, None]):
        if said.text.startswith("Who has") and answer:
            found.append(Finding("question", wording.question([said], record.people), (said, answer), 0.8))
        if said.text.startswith("What if") and answer:
            found.append(Finding("decision", wording.decision([said]), (said, answer), 0.8))
        if said.text.startswith("I'll order"):
            due = find_due(said.text, record.started_at.date())
            found.append(Finding("action", wording.action([said], said.speaker, record.people), (said,), 0.9, said.speaker, due))
    chapters = [Chapter("Locks", record.turns[0].id, record.turns[0].start)] if record.turns else []
    return Reading(tuple(found), tuple(chapters), tuple(write_gist(record, found, chapters, lines, put)))


# Passwords are kept as always; a hash that a thief may not try fast need not be slow for people who are made up by the thousand.
Argon2PasswordHasher.time_cost, Argon2PasswordHasher.memory_cost, Argon2PasswordHasher.parallelism = 1, 64, 1


@pytest.fixture(autouse=True)
def reader(monkeypatch):
    read_carefully(monkeypatch)


def read_carefully(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("server.stages.read.read", drawn)
    monkeypatch.setattr("server.stages.word.has_writer", lambda: False)


@pytest.fixture(scope="session")
def django_db_modify_db_settings(django_db_modify_db_settings):
    """The tests' database is a copy of one with every migration made, where `./aftershower test` has made one."""
    connection.settings_dict["TEST"]["TEMPLATE"] = os.environ.get("AFTERSHOWER_PREPARED")


@pytest.fixture
def transactional_db(transactional_db):
    """As it is, and what was queued is gone, too: the queue's tables are not Django's, so its flush leaves them to whatever test comes next."""
    yield
    with connection.cursor() as cursor:
        cursor.execute("truncate procrastinate_jobs cascade")


@pytest.fixture
def workspace(db):
    return Workspace.objects.create(name="Larkmoor Botanic Garden")


@pytest.fixture
def member(workspace):
    """Makes members: member("Idris Quaye", "guest")."""

    def make(name: str, role: str = "member", where: Workspace | None = None) -> Membership:
        return join(where or workspace, name, role)

    return make


def join(workspace: Workspace, name: str, role: str = "member") -> Membership:
    email = f"{name.split()[0].lower()}@larkmoor.example"
    user = User.objects.filter(email=email).first() or User.objects.create_user(email, "wet slate and lichen", name=name)
    link_person(user, workspace)
    return Membership.objects.create(user=user, workspace=workspace, role=role)


@pytest.fixture
def maren(member):
    return member("Maren Tollefsen", "owner")


@pytest.fixture
def caller():
    """A client signed in as a member, speaking JSON: caller(membership)("get", "/api/me")."""

    def make(membership: Membership | None):
        client = Client()
        if membership:
            client.force_login(membership.user, backend="allauth.account.auth_backends.AuthenticationBackend")

        def call(method: str, path: str, data=None, **headers):
            if method in ("get", "head"):
                return getattr(client, method)(path, headers=headers)
            # Without a body Django's client would send an empty form, where a browser sends nothing.
            body = b"" if data is None else data if isinstance(data, bytes) else json.dumps(data)
            content_type = headers.pop("content_type", "application/json")
            return getattr(client, method)(path, body, content_type=content_type, headers=headers)

        return call

    return make


@pytest.fixture
def make_meeting(tmp_path, settings):
    """A meeting from a transcript, through every stage, here and now."""
    settings.MEDIA_ROOT = tmp_path / "media"
    return partial(give, tmp_path)


def give(
    folder: Path, membership: Membership, title: str = "Locks", visibility: str = "workspace", people=(), text: str = TALK, work: bool = True
) -> Meeting:
    meeting = create_meeting(
        membership, Given(title, datetime(2026, 3, 3, 9, 30, tzinfo=UTC), "Europe/London", list(people), visibility=visibility)
    )
    path = folder / f"{meeting.pk}.vtt"
    path.write_text(text, encoding="utf-8")
    recording = keep_file(meeting, path, path.name, membership)
    begin(meeting, stages_of(recording))
    if work:
        run_stages(meeting)
    return Meeting.objects.get(pk=meeting.pk)


def let_in(meeting: Meeting, membership: Membership) -> None:
    """The member may see the meeting by name."""
    Reader.objects.create(meeting=meeting, user=membership.user)


def strike(call, meeting: Meeting, chosen: dict):
    """Maren's strike of what is chosen, as it is done by who has looked at it first; the answer to it."""
    at = f"/api/meetings/{meeting.pk}/strike"
    before = call("post", f"{at}/preview", chosen).json()["text"]
    return call("post", at, {**chosen, "name": "Maren Tollefsen", "before": before})


def delivered() -> list:
    """The mail that has gone out, after what waits has been sent as the worker sends it."""
    for letter in Letter.objects.filter(state=LetterState.WAITING).order_by("id"):
        send_letter.func(SimpleNamespace(job=SimpleNamespace(attempts=0)), letter.pk)
    return mail.outbox


def run_stages(meeting: Meeting, *names: str) -> None:
    """What a worker would do, in order."""
    for name in names or stages_of(meeting.recording):
        run(str(meeting.pk), STAGES[name])
