"""Load the demo: a made-up garden's meetings, through the real stages. Does nothing when there is a workspace already."""

from __future__ import annotations

from datetime import date, datetime, time, timedelta
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

from django.core.management.base import BaseCommand
from django.db import transaction
from django.utils import timezone

from core.formats import json_record
from core.speech.word_list import read_terms
from demo import people
from demo.build import Script, load
from server.accounts.models import Membership, Role, User, Workspace
from server.agenda.actions.run_agenda import keep_template
from server.capture.actions.take_upload import Given, create_meeting, keep_file
from server.meetings.models import Meeting, Person
from server.minutes.actions.write_line import add_line
from server.minutes.models import Finding
from server.notes.actions.write_note import set_mark, write_note
from server.pipeline.models import RunState, StageRun
from server.pipeline.work import APART, STAGES, begin, stages_of
from server.record.keep import keep_record
from server.record.models import Voice
from server.sealing import seal
from server.telephone.models import Dialer
from server.words.actions.list_term import list_term

DEMO = Path(__file__).resolve().parents[4] / "demo"
_DAYS = ("Mon", "Tue", "Wed", "Thu", "Fri")


class Command(BaseCommand):
    """`manage.py load_demo`, called by `./aftershower up`."""

    help = __doc__

    def handle(self, *args: Any, **options: Any) -> None:
        """Make users, people and meetings, all in one transaction."""
        if Workspace.objects.exists():
            return
        with transaction.atomic():
            workspace = Workspace.objects.create(name=people.WORKSPACE)
            owner = _make_people(workspace)
            for term in read_terms(people.WORDS):
                list_term(owner, term.text, term.sounds, term.mistaken)
            for path in sorted((DEMO / "scripts").glob("*.txt")):
                _make_meeting(owner, load(path))
            _make_lived_in(owner)
            phone = people.TELEPHONE
            Dialer.objects.create(pk=phone["id"], membership=owner, name=phone["name"], secret=seal(phone["secret"]))


def _make_people(workspace: Workspace) -> Membership:
    memberships = []
    for email, name, role in people.USERS:
        user = User.objects.create_user(email, people.PASSWORD, name=name)
        memberships.append(Membership.objects.create(user=user, workspace=workspace, role=Role(role), settled_in=True))
        organisation = people.WORKSPACE if email.endswith("@larkmoor.example") else "Castellow Glazing"
        Person.objects.create(workspace=workspace, name=name, email=email, organisation=organisation, user=user)
    for name, email, organisation in people.OTHERS:
        Person.objects.create(workspace=workspace, name=name, email=email, organisation=organisation)
    return memberships[0]


def _moment(stated: str, today: date) -> datetime:
    """ "-3 Tue 08:30" → that weekday of the third week before this one, on the garden's clocks."""
    weeks, day, clock = stated.split()
    monday = today - timedelta(days=today.weekday()) + timedelta(weeks=int(weeks))
    return datetime.combine(monday + timedelta(days=_DAYS.index(day)), time.fromisoformat(clock), ZoneInfo(people.ZONE))


def _make_meeting(owner: Membership, script: Script) -> None:
    head = script.head
    given = Given(
        head["title"],
        _moment(head["day"], timezone.localdate()),
        people.ZONE,
        head["people"].split(","),
        head["series"],
        place=head["place"],
        visibility=head["visibility"],
    )
    meeting = create_meeting(owner, given)
    heard = head.get("sound") == "yes"
    source = DEMO / ("sound" if heard else "transcripts") / f"{script.name}.{'opus' if heard else 'vtt'}"
    keep_file(meeting, source, f"{script.name}{source.suffix}", owner)
    for name in stages_of(meeting.recording):
        if STAGES[name].queue in APART:
            begin(meeting, [name])
        else:
            _do(meeting, name, script)


def _do(meeting: Meeting, name: str, script: Script) -> None:
    """One stage, here and now. Hearing is passed over: the record it made of this very sound is shipped."""
    meeting = Meeting.objects.select_related("recording").get(pk=meeting.pk)
    stage, handed_on = STAGES[name], None
    shipped = DEMO / "records" / f"{script.name}.json"
    if name == "assemble" and shipped.exists():
        keep_record(meeting, json_record.load(shipped.read_text(encoding="utf-8"), script.name), {})
        for label, person in people.VOICES[script.name].items():
            Voice.objects.filter(meeting=meeting, label=label).update(person=Person.objects.get(workspace=meeting.workspace, name=person))
    elif name == "tell":
        end = meeting.started_at + timedelta(seconds=meeting.duration)
        Meeting.objects.filter(pk=meeting.pk).update(ready_at=end + timedelta(minutes=4), created_at=end)
    elif name not in ("hear", "voices"):
        handed_on = stage.keep(meeting, stage.work(meeting, lambda share: None))
    StageRun.objects.create(
        meeting=meeting,
        stage=name,
        state=RunState.DONE,
        engine=stage.engine,
        progress=1.0,
        started_at=None,
        finished_at=timezone.now(),
        result=handed_on,
    )


def _make_lived_in(owner: Membership) -> None:
    """A few things that people did in and after the meetings: actions ticked off, a line by hand, a note, a mark, an agenda kept."""
    for finding in Finding.objects.filter(
        kind="action", status="standing", meeting__started_at__lt=timezone.now() - timedelta(weeks=3)
    ).order_by("id")[::2]:
        finding.done_at = finding.meeting.started_at + timedelta(days=3)
        finding.save(update_fields=["done_at"])
    review = Meeting.objects.get(title__startswith="What happened on the frost night")
    add_line(owner, review, "decisions", "Nobody is blamed for the frost night; what is changed is the pipe and the alarm.")
    write_note(owner, review, "Ask Anselm for the alarm's own log before the insurers do.", 62.0, shared=True)
    set_mark(owner, review, "Number to check", 95.0, 110.0)
    keep_template(
        owner, "Works meeting", [("Since last week", 5), ("Palm house", 15), ("Paths and public areas", 10), ("Who does what", 5)]
    )
