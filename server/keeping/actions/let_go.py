"""Let go of what is over its time: told a week before, done by the night, and done again where it was cut off."""

from __future__ import annotations

from collections import defaultdict
from datetime import date, timedelta
from functools import partial
from uuid import UUID

from django.conf import settings
from django.core.files.storage import default_storage
from django.db import transaction
from django.utils import timezone
from procrastinate import RetryStrategy
from procrastinate.contrib.django import app

from core.planning.retention import What
from server.accounts.models import Membership, User, Workspace
from server.acting import acting
from server.capture.beside import names_kept, take_away
from server.capture.models import Picture, Recording
from server.copies import drop
from server.keeping.models import Announced
from server.keeping.queries import Goes, due, rules_of, what_goes
from server.languages import LONG_DAY, at, said, translated
from server.mail.post import post
from server.mail.wording import Kind
from server.meetings.models import Hold, Meeting
from server.notify import Part
from server.pipeline.files import sweep
from server.pipeline.models import RunState, StageRun
from server.pipeline.work import Queue, fresh_connections
from server.problems import AWAY
from server.purging import let_go_of_record
from server.record.actions.delete_meeting import let_go_of
from server.removals.ledger import note_removal, replays
from server.sharing.policy import Can, may

BEFORE = 7
"""Days, and nights, before which it is told."""
_WORDS = {What.SOUND: "sound and picture", What.RECORD: "the record; its minutes stay", What.ALL: "all of it"}


def keep_to_rules(today: date | None = None) -> int:
    """Every night: tell what goes in a week, and let go of what was told of for long enough. Returns of how much."""
    gone = 0
    for workspace in Workspace.objects.filter(keeping_rules__isnull=False).distinct():
        gone += _keep_to_rules_of(workspace, today or timezone.localdate())
    # What was told of and is so no more is told of anew, should it be so again.
    Announced.objects.exclude(meeting__workspace__keeping_rules__isnull=False).delete()
    return gone


def _keep_to_rules_of(workspace: Workspace, today: date) -> int:
    found = due(what_goes(workspace, rules_of(workspace)), today + timedelta(days=BEFORE))
    told = {(one.meeting_id, one.what): one for one in Announced.objects.filter(meeting__workspace=workspace)}
    standing = {(one.meeting.pk, one.bite.what.value) for one in found}
    Announced.objects.filter(pk__in=[one.pk for key, one in told.items() if key not in standing]).delete()
    fresh, gone = [], 0
    for one in found:
        known = told.get((one.meeting.pk, one.bite.what.value))
        if known is None:
            fresh.append(one)
        elif known.ran_on == today:
            continue  # a night counts once, however often it is asked
        elif known.runs + 1 < BEFORE or one.bite.on > today:
            Announced.objects.filter(pk=known.pk).update(runs=known.runs + 1, ran_on=today, on=one.bite.on)
        else:
            _let_go(one)
            gone += 1
    with transaction.atomic():
        _tell(workspace, fresh, today)
    return gone


def _tell(workspace: Workspace, fresh: list[Goes], today: date) -> None:
    members = set(Membership.objects.filter(workspace=workspace).values_list("user", flat=True))
    mine: dict[User, list[Goes]] = defaultdict(list)
    managing = [one.user for one in Membership.objects.filter(workspace=workspace).select_related("user") if may(one, Can.CROWN)]
    for one in fresh:
        on = max(one.bite.on, today + timedelta(days=BEFORE))
        Announced.objects.create(meeting=one.meeting, what=one.bite.what.value, on=on, ran_on=today)
        maker = one.meeting.created_by
        # Of what nobody here made, those who own the workspace hear that it goes, not what it is.
        for user in [maker] if maker and maker.pk in members else managing:
            mine[user].append(one)
    for user, goes in mine.items():
        post(
            Kind.GOES,
            user.email,
            workspace=workspace,
            link=f"{settings.BASE_URL}/library",
            subject=partial(_subject, len(goes)),
            workspace_name=workspace.name,
            meetings=partial(_listed, user, goes, today),
        )


def _subject(count: int) -> str:
    return translated("What goes soon: a meeting") if count == 1 else said("What goes soon: {0} meetings", count)


def _listed(user: User, goes: list[Goes], today: date) -> str:
    """A line for each; what it is called is for whoever made it."""
    return "\n".join(
        said(
            "– {0}, {1}: {2}, on {3}",
            one.meeting.title if one.meeting.created_by_id == user.pk else translated("a meeting of somebody who has left"),
            at(one.meeting.started_at, LONG_DAY),
            translated(_WORDS[one.bite.what]),
            at(max(one.bite.on, today + timedelta(days=BEFORE)), LONG_DAY),
        )
        for one in goes
    )


def _let_go(one: Goes) -> None:
    """Gone from the database when this returns; files go by a job."""
    what, meeting = one.bite.what, one.meeting
    with acting(None, None, "let go", meeting, tells=tuple(Part), what=what.value, on=one.bite.on.isoformat()) as act:
        if Hold.objects.filter(meeting=meeting).exists():  # held a moment ago
            act.nothing()
            return
        Announced.objects.filter(meeting=meeting, what=what.value).delete()
        if what is What.ALL:
            let_go_of(meeting)
            return
        note_removal("let go", meeting=str(meeting.pk), what=what.value)
        _without(meeting, what)
        sweep_files.configure(queueing_lock=f"sweep-{meeting.pk}").defer(meeting_id=str(meeting.pk))


def _without(meeting: Meeting, what: What) -> None:
    _without_sound(meeting)
    if what is What.RECORD:
        _without_record(meeting)


@replays("let go")
def _let_go_again(facts: dict) -> None:
    if meeting := Meeting.objects.filter(pk=facts["meeting"]).first():
        _without(meeting, What(facts["what"]))
        transaction.on_commit(lambda: sweep_now(meeting.pk))


def _without_sound(meeting: Meeting) -> None:
    """No file of it is given out any more, nor what voices sounded like."""
    meeting.voices.update(embedding=None)
    meeting.excerpts.update(sound="")
    take_away(Picture.objects.filter(stretch__capture__meeting=meeting))
    recording = Recording.objects.filter(meeting=meeting).first()
    if recording is None or recording.form == Recording.Form.TRANSCRIPT:
        return
    drop(recording.copies.all())
    recording.parts.all().delete()
    recording.original = recording.sound = recording.listening = ""
    recording.peaks, recording.sha256, recording.size, recording.let_go_at = [], "", 0, timezone.now()
    recording.save()


def _without_record(meeting: Meeting) -> None:
    """What was said goes; the minutes stay, as they are, without the lines they rest on."""
    let_go_of_record(meeting)
    StageRun.objects.filter(meeting=meeting).exclude(state=RunState.DONE).delete()
    meeting.turns.all().delete()
    recording = Recording.objects.filter(meeting=meeting).first()
    if recording:
        recording.original, recording.sha256, recording.size, recording.let_go_at = "", "", 0, timezone.now()
        recording.save()
    Meeting.objects.filter(pk=meeting.pk).update(record_gone_at=timezone.now(), strip={}, topics=[])


@app.task(name="sweep files", queue=Queue.INTAKE, retry=RetryStrategy(max_attempts=20, exponential_wait=3, retry_exceptions={*AWAY, OSError}))
def sweep_files(meeting_id: str) -> None:
    """Delete every file that nothing refers to any more."""
    with fresh_connections():
        sweep_now(UUID(meeting_id))


def sweep_now(key: UUID) -> None:
    """It may be cut off anywhere, and is done again."""
    meeting = Meeting.objects.filter(pk=key).first()
    if meeting:
        sweep(default_storage, key, names_kept(meeting))
