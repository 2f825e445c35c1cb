"""Take a passage out of a meeting for good: seen before it is done, done under one's name, and never undone."""

from __future__ import annotations

from dataclasses import dataclass

from django.db.models import F, Max, Min, QuerySet

from core.record.strike import Cut, Gone, Quotes, Unstrikable, between_words, cut, of_voice, within_span
from core.record.timeline import Span
from server.accounts.models import Membership, User
from server.acting import acting
from server.meetings.models import Meeting
from server.notify import Part
from server.pipeline.models import RunState, StageRun
from server.pipeline.work import STAGES, Change, begin_after
from server.problems import Refused
from server.purging import Rests, Struck, purge, rests_on
from server.record.actions.delete_meeting import check_hold
from server.record.keep import load_record
from server.record.models import KnownVoice, Line, Strike, Turn, Voice
from server.record.steps import FAR, of_row
from server.record.strip import strips
from server.removals.ledger import note_removal, replays
from server.sharing.policy import Can, require

_TELLS = (Part.RECORD, Part.MINUTES, Part.NOTES, Part.PICTURES, Part.REVIEW, Part.MEETING, Part.PROGRESS)


@dataclass(frozen=True)
class Chosen:
    """What is to go: from a word of a line to another, (number of the line, index of the word or -1 for its last); or a span; or a voice."""

    first: tuple[int, int] | None = None
    last: tuple[int, int] | None = None
    span: Span | None = None
    voice: int | None = None


@dataclass(frozen=True)
class Strikes:
    """What a strike would do. `text`: the words that go, as they are in the record."""

    cut: Cut
    text: str
    struck: Struck
    rests: Rests
    rows: list[Line]


def preview(membership: Membership, meeting: Meeting, chosen: Chosen, *, take_own: bool = False) -> Strikes:
    """What would go, and what rests on it. Raises Refused."""
    require(membership, Can.STRIKE, meeting)
    if any(STAGES[run.stage].makes_record and run.state != RunState.DONE for run in meeting.stage_runs.all()):
        raise Refused(409, "This meeting is still being worked on. Strike the passage when its record is there.")
    if hasattr(meeting, "capture") and meeting.capture.stopped_at is None:
        raise Refused(409, "This meeting is being captured. Stop it first, or strike back the last minutes in the capture.")
    rows = list(Line.objects.filter(meeting=meeting).order_by("number"))
    try:
        return _found(meeting, rows, _gone(meeting, chosen, [of_row(row) for row in rows]), chosen.span, take_own=take_own)
    except Unstrikable as problem:
        raise Refused(422, str(problem)) from problem


def _found(meeting: Meeting, rows: list[Line], gone: Gone, span: Span | None, *, take_own: bool) -> Strikes:
    found = cut([of_row(row) for row in rows], gone, [span] if span else ())
    touched = [rows[index] for index in found.lines]
    numbers = tuple(row.number for row in touched)
    struck = Struck(meeting, found, Quotes(found), frozenset(row.pk for row in touched), numbers, take_own)
    return Strikes(found, " … ".join(" ".join(run) for run in found.runs), struck, rests_on(struck), rows)


def _gone(meeting: Meeting, chosen: Chosen, lines: list) -> Gone:
    if chosen.span:
        if chosen.span.start < 0:
            raise Unstrikable("A recording begins at 0.")
        return within_span(lines, chosen.span)
    if chosen.voice is not None:
        voice = Voice.objects.filter(meeting=meeting, pk=chosen.voice).select_related("person").first()
        if voice is None:
            raise Unstrikable("There is no such voice in this meeting.")
        return of_voice(load_record(meeting), voice.name)
    if not chosen.first or not chosen.last:
        raise Unstrikable("Choose words, a span of time, or a voice.")
    return between_words(lines, (chosen.first[0] - 1, chosen.first[1]), (chosen.last[0] - 1, chosen.last[1]))


def strike(membership: Membership, meeting: Meeting, chosen: Chosen, name: str, before: str, take_own: bool) -> Strike:
    """Strike it. name: one's own, typed as a signature. before: the words as the caller saw them, so that nothing else is struck.

    What is kept in the database is gone when this returns; files are withheld until a durable job has written them anew. Raises Refused.
    """
    own = membership.user.called
    if name.strip().casefold() != own.casefold():
        raise Refused(422, f"Type your own name, {own}, to strike. It cannot be undone.")
    with acting(membership, Can.STRIKE, "strike", meeting, tells=_TELLS, after=Change.STRIKE) as act:
        # A stage that is keeping what it made of the old record is waited for; one that keeps it later finds that it is too late.
        list(StageRun.objects.select_for_update().filter(meeting=meeting))
        check_hold(meeting)
        found = preview(membership, meeting, chosen, take_own=take_own)
        if found.text != before:
            raise Refused(409, "Somebody has changed this passage meanwhile. Look at what would go once more.", text=found.text)
        voice = Voice.objects.filter(pk=chosen.voice).first() if chosen.voice else None
        made = _take_out(meeting, found, membership.user)
        if voice:
            # What a person sounds like was learnt from what is struck now.
            KnownVoice.objects.filter(meeting=meeting, person=voice.person_id).delete()
        act.note(words=found.cut.words, seconds=round(found.cut.seconds, 1))
    return made


def _take_out(meeting: Meeting, found: Strikes, by: User | None = None, *, again: bool = False) -> Strike:
    """Gone from the database; of the files nothing is given out until they are written anew. again: after a restore, so that the ledger has it."""
    purge(found.struck, found.rests)
    _cut_record(meeting, found)
    Meeting.objects.filter(pk=meeting.pk).update(strip=strips(meeting))
    recording = meeting.recording
    recording.refresh_from_db(fields=["name"])
    recording.withheld, recording.peaks = True, []
    recording.save(update_fields=["withheld", "peaks"])
    spans = [[round(span.start, 3), round(span.end, 3)] for span in found.cut.spans]
    if not again:
        note_removal("strike", meeting=str(meeting.pk), spans=spans, take_own=found.struck.take_own)
    return Strike.objects.create(meeting=meeting, user=by, words=found.cut.words, spans=spans)


def strike_voice(meeting: Meeting, voice: Voice) -> None:
    """All that one voice says, in the transaction that is open and with the meeting locked, for the program. Raises Unstrikable."""
    rows = list(Line.objects.filter(meeting=meeting).order_by("number"))
    _take_out(meeting, _found(meeting, rows, of_voice(load_record(meeting), voice.name), None, take_own=True))
    begin_after(meeting, Change.STRIKE)


@replays("strike")
def _strike_again(facts: dict) -> None:
    """By its times, in a record that may have been another then."""
    meeting = Meeting.objects.filter(pk=facts["meeting"]).first()
    if meeting is None or not hasattr(meeting, "recording"):
        return
    for start, end in facts["spans"]:
        rows = list(Line.objects.filter(meeting=meeting).order_by("number"))
        span = Span(start, end)
        try:
            found = _found(meeting, rows, within_span([of_row(row) for row in rows], span), span, take_own=facts["take_own"])
        except Unstrikable:
            continue  # nothing of it is there
        with acting(None, None, "strike", meeting, after=Change.STRIKE, words=found.cut.words):
            _take_out(meeting, found, again=True)


def _cut_record(meeting: Meeting, found: Strikes) -> None:
    """Lines keep what is left of them; what is empty goes; everything is counted anew. Voices without a word go, with what they sounded like."""
    turns = set()
    for index, left in found.cut.lines.items():
        row = found.rows[index]
        turns.add(row.turn_id)
        if left is None:
            row.delete()
        else:
            row.text, row.start, row.end, row.words = left.text, left.start, left.end, [word.packed() for word in left.words]
            row.save(update_fields=["text", "start", "end", "words"])
    for turn in Turn.objects.filter(pk__in=turns).annotate(first=Min("lines__start"), last=Max("lines__end")):
        if turn.first is None:
            turn.delete()
        else:  # English of the whole turn says what is struck; it is made anew from what is left of the sound
            Turn.objects.filter(pk=turn.pk).update(start=turn.first, end=turn.last, english="")
    Voice.objects.filter(meeting=meeting, turns=None).delete()
    numbered: tuple[QuerySet, ...] = (Turn.objects.filter(meeting=meeting), Line.objects.filter(meeting=meeting))
    for rows in numbered:
        keys = list(rows.order_by("number").values_list("pk", flat=True))
        rows.update(number=F("number") + FAR)
        model = rows.model
        model.objects.bulk_update([model(pk=key, number=number) for number, key in enumerate(keys, start=1)], ["number"], batch_size=1000)
