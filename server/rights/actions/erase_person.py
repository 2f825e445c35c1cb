"""Erase a person: what they said is struck or made nameless, their voice forgotten, their name and addresses gone, everywhere.

Durable: a job does it meeting by meeting, each in a transaction of its own, and goes on where it was cut off; the person's row goes last.
"""

from __future__ import annotations

from string import ascii_uppercase

from django.contrib.sessions.models import Session
from django.db import transaction
from django.db.models import QuerySet
from django.utils import timezone
from procrastinate import RetryStrategy
from procrastinate.contrib.django import app

from core.record.nameless import Names
from server.accounts.models import Invitation, Membership, User
from server.acting import acting
from server.audit.log import erasing
from server.audit.models import Entry
from server.capture.models import Consent, Laid, LiveLine, Message, Participant, Recording
from server.door.actions.remove_member import remove_member
from server.library.models import HeldWord
from server.links.models import Link
from server.mail.models import Letter
from server.meetings.models import Attendee, Hold, Meeting, Person
from server.minutes.models import Chapter, Finding, MinutesLine, Version, Wording
from server.notify import Part
from server.pipeline.models import RunState
from server.pipeline.work import STAGES, Change, Queue, begin_after, fresh_connections
from server.problems import AWAY, Refused
from server.purging import PURGERS, Texts, Where
from server.record.actions.strike import strike_voice
from server.record.models import KnownVoice, Line, Turn
from server.record.steps import of_row
from server.removals.ledger import note_removal, replays
from server.rights.known import addresses_of, meetings_with, names_of
from server.rights.models import Erasure
from server.sharing.policy import Can, require

GONE = "Erased"
"""What is left of an account's name."""


def erase_person(membership: Membership, person: Person, *, struck: bool, heir: Membership | None, name: str) -> Erasure:
    """Begun, and done by a job. struck: what they said goes; else it stays, without whose it was. heir: to whom their meetings go, where they
    have a place here. name: one's own, typed as a signature. It cannot be undone. Raises Refused."""
    own = membership.user.called
    if name.strip().casefold() != own.casefold():
        raise Refused(422, f"Type your own name, {own}, to erase somebody. It cannot be undone.")
    with acting(membership, Can.CROWN, "erase person", struck=struck) as act:
        meetings = meetings_with(person)
        if held := Hold.objects.filter(meeting__in=meetings).count():
            raise Refused(409, f"{held} of their meetings are held. Lift that first: nothing of a held meeting goes.")
        if Erasure.objects.filter(workspace=membership.workspace, person=person.pk, done_at=None).exists():
            raise Refused(409, "They are being erased already.")
        place = Membership.objects.filter(user=person.user, workspace=membership.workspace).select_related("user", "workspace").first() if person.user else None
        if place and place.pk == membership.pk:
            raise Refused(409, "Nobody erases themselves here. Ask another owner.")
        account = person.user_id
        if place:
            require(membership, Can.MANAGE)
            remove_member(membership, place, heir)
        note_removal("person", person=person.pk, struck=struck, account=account)
        erasure = Erasure.objects.create(workspace=membership.workspace, person=person.pk, struck=struck, by=membership.user, meetings=meetings.count())
        act.note(erasure=erasure.pk, meetings=erasure.meetings)
        go_on.configure(queueing_lock=f"erase person {erasure.pk}").defer(erasure_id=erasure.pk, account=account)
    return erasure


@app.task(name="erase person", queue=Queue.INTAKE, pass_context=False, retry=RetryStrategy(max_attempts=20, exponential_wait=3, retry_exceptions={*AWAY, OSError, Refused}))
def go_on(erasure_id: int, account: int | None) -> None:
    """What is left of it to do. A meeting that is being worked on is come back to."""
    with fresh_connections():
        go_on_now(erasure_id, account)


def go_on_now(erasure_id: int, account: int | None) -> None:
    """It may be cut off anywhere. Raises Refused where a meeting is not at rest: then it is gone on with later."""
    erasure = Erasure.objects.get(pk=erasure_id)
    person = Person.objects.filter(pk=erasure.person, workspace=erasure.workspace_id).select_related("user").first()
    if erasure.done_at or person is None:
        return
    try:
        _erase(person, struck=erasure.struck, account=account, erasure=erasure)
    except Refused as refused:
        Erasure.objects.filter(pk=erasure.pk).update(trouble=refused.detail[:400])
        raise
    Erasure.objects.filter(pk=erasure.pk).update(done_at=timezone.now(), trouble="")


@replays("person")
def _erase_again(facts: dict) -> None:
    person = Person.objects.filter(pk=facts["person"]).select_related("user").first()
    if person:
        _erase(person, struck=facts["struck"], account=facts["account"], erasure=None)


def _erase(person: Person, *, struck: bool, account: int | None, erasure: Erasure | None) -> None:
    user = User.objects.filter(pk=account).first() if account else None
    names = names_of(person)
    addresses = addresses_of(person) + ([user.email] if user else [])
    for meeting in list(meetings_with(person, account)):
        _in_meeting(meeting, person, names, account, struck=struck)
        if erasure:
            Erasure.objects.filter(pk=erasure.pk).update(done=erasure.done + 1)
            erasure.done += 1
    with transaction.atomic():
        _beside_meetings(person, names, addresses)
        if user and not Membership.objects.filter(user=user).exclude(workspace=person.workspace_id).exists():
            _account(user)
        person.delete()


def _in_meeting(meeting: Meeting, person: Person, names: Names, account: int | None, *, struck: bool) -> None:
    """Raises Refused where it is being worked on or captured."""
    if any(STAGES[run.stage].makes_record and run.state != RunState.DONE for run in meeting.stage_runs.all()):
        raise Refused(409, "A meeting of theirs is still being worked on. It is gone on with when that is done.")
    with acting(None, None, "erase person in meeting", meeting, tells=tuple(Part)):
        for voice in meeting.voices.filter(person=person):
            if struck and voice.turns.exists():
                strike_voice(meeting, voice)
        meeting.voices.filter(person=person).update(person=None, recognised=False, embedding=None)
        _voices_without(meeting, names)
        Attendee.objects.filter(meeting=meeting, person=person).delete()
        Finding.objects.filter(meeting=meeting, owner=person).update(owner=None, owner_name="")
        changed = _record_without(meeting, names)
        if account:
            _written(meeting, account, struck=struck)
        for texts in (*_drawn(meeting), *(one for purger in PURGERS for one in purger.texts(meeting) if one.where is Where.HERE)):
            _rows_without(texts, names)
        meeting.edits.all().delete()  # their steps hold the words before and after
        recording = Recording.objects.filter(meeting=meeting).first()
        if recording is None:
            return
        if recording.form == Recording.Form.TRANSCRIPT and recording.original:
            # The file that was given says the name as well: the record as it stands takes its place.
            Recording.objects.filter(pk=recording.pk).update(withheld=True)
            begin_after(meeting, Change.STRIKE)
        elif changed:
            begin_after(meeting, Change.RECORD)


def _voices_without(meeting: Meeting, names: Names) -> None:
    """In a record that was given, voices are called as it calls them."""
    taken = set(meeting.voices.values_list("label", flat=True))
    for voice in meeting.voices.order_by("pk"):
        if names.among(voice.label):
            free = next((letter for letter in ascii_uppercase if letter not in taken), str(voice.pk))
            taken.add(free)
            type(voice).objects.filter(pk=voice.pk).update(label=free)


def _written(meeting: Meeting, account: int, *, struck: bool) -> None:
    """What was theirs alone goes; what they wrote for others goes, or stays without whose it was."""
    own = {"user": account}
    meeting.notes.filter(shared=False, **own).delete()
    meeting.questions.filter(**own).delete()
    meeting.reactions.filter(**own).delete()
    meeting.marks.filter(**own).update(user=None)
    if struck:
        meeting.notes.filter(**own).delete()
        meeting.comments.filter(**own).delete()
        MinutesLine.objects.filter(meeting=meeting, hand=account).delete()
    meeting.comments.filter(**own).update(user=None)
    MinutesLine.objects.filter(meeting=meeting, hand=account).update(hand=None, hand_initials="–")
    MinutesLine.objects.filter(meeting=meeting, confirmed_by=account).update(confirmed_by=None, confirmed_initials="–")


def _record_without(meeting: Meeting, names: Names) -> bool:
    changed = False
    for row in Line.objects.filter(meeting=meeting):
        line = of_row(row)
        left = names.line_without(line)
        if left is not line:
            row.text, row.words = left.text, [word.packed() for word in left.words]
            row.save(update_fields=["text", "words"])
            changed = True
    _rows_without(Texts(Turn.objects.filter(meeting=meeting).exclude(english=""), "english"), names)
    return changed


def _drawn(meeting: Meeting) -> list[Texts]:
    """What is drawn from a record, and what a capture keeps of who is there."""
    stretch = {"stretch__capture__meeting": meeting}
    fields: list[tuple[QuerySet, str]] = [
        (MinutesLine.objects.filter(meeting=meeting), "text"),
        (Finding.objects.filter(meeting=meeting), "text"),
        (Finding.objects.filter(meeting=meeting), "owner_name"),
        (Chapter.objects.filter(meeting=meeting), "title"),
        (Chapter.objects.filter(meeting=meeting), "ruled"),
        (Chapter.objects.filter(meeting=meeting), "summary"),
        (Wording.objects.filter(meeting=meeting), "text"),
        (Version.objects.filter(meeting=meeting), "lines"),
        (Meeting.objects.filter(pk=meeting.pk), "topics"),
        (Meeting.objects.filter(pk=meeting.pk), "terms"),
        (Recording.objects.filter(meeting=meeting), "written"),
        (Recording.objects.filter(meeting=meeting), "speakers"),
        (LiveLine.objects.filter(capture__meeting=meeting), "text"),
        (LiveLine.objects.filter(capture__meeting=meeting), "name"),
        (Message.objects.filter(**stretch), "text"),
        (Message.objects.filter(**stretch), "name"),
        (Laid.objects.filter(**stretch), "name"),
        (Laid.objects.filter(**stretch), "called"),
        (Participant.objects.filter(capture__meeting=meeting), "name"),
        (Consent.objects.filter(meeting=meeting), "name"),
    ]
    return [Texts(rows, field) for rows, field in fields]


def _rows_without(texts: Texts, names: Names) -> None:
    for row in texts.rows.only(texts.field):
        value = getattr(row, texts.field)
        left = names.without(value)
        if left == value:
            continue
        rows = type(row)._default_manager.filter(pk=row.pk)
        if texts.whole:
            rows.delete()
            continue
        longest = getattr(row._meta.get_field(texts.field), "max_length", None)
        if isinstance(left, str):
            left = (f"{left} {row.pk}" if texts.unique else left)[:longest]
        rows.update(**{texts.field: left})


def _beside_meetings(person: Person, names: Names, addresses: list[str]) -> None:
    here = {"workspace": person.workspace_id}
    KnownVoice.objects.filter(person=person).delete()
    Invitation.objects.filter(email__in=addresses, **here).delete()
    one = Meeting.objects.filter(**here).first()
    if one:  # of the workspace, and of other meetings: whichever one is asked by
        for texts in (texts for purger in PURGERS for texts in purger.texts(one) if texts.where is not Where.HERE):
            _rows_without(texts, names)
    # Where somebody else's record holds the word, the night finds it again.
    HeldWord.objects.filter(word__in=names.words).delete()
    letters = Letter.objects.filter(**here)
    letters.filter(to__in=addresses).update(to="")
    letters.filter(reply_to__in=addresses).update(reply_to="")
    for field in ("subject", "text", "html"):
        _rows_without(Texts(letters, field), names)
    _rows_without(Texts(Link.objects.filter(**here), "whom"), names)
    with erasing():
        _rows_without(Texts(Entry.objects.filter(**here), "detail"), names)


def _account(user: User) -> None:
    """Nobody signs in with it any more; what hung on it, such as a capture they made, stays without a name."""
    User.objects.filter(pk=user.pk).update(name=GONE, email=f"erased-{user.pk}@invalid", time_zone="", is_active=False, password="!")
    user.socialaccount_set.all().delete()  # type: ignore[attr-defined]
    user.authenticator_set.all().delete()  # type: ignore[attr-defined]
    for kept in user.usersession_set.all():  # type: ignore[attr-defined]
        Session.objects.filter(session_key=kept.session_key).delete()
        kept.delete()
