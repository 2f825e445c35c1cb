"""Changes of a record by hand: each is kept, can be taken back and made again, and has what rested on it drawn anew."""

from __future__ import annotations

from collections.abc import Sequence

from django.utils import timezone

from core.record.edit import Hit, Misplaced, find_text, realign, replaced
from core.text import one_line
from server.accounts.models import Membership
from server.meetings.models import Attendee, Meeting
from server.meetings.people import find_people
from server.problems import Refused
from server.record.changing import changing, make, note_fixes
from server.record.models import Edit, Line, Turn, Voice
from server.record.steps import line_of, of_row, take, text_step, turn_of

_MOST = 2000  # lines of one replacement


def edit_line(membership: Membership, meeting: Meeting, number: int, text: str, before: str) -> Edit:
    """Put another text in a line's place; words that stay keep their times.

    before: what the caller saw there, so that nobody's change is overwritten unseen. Raises Refused.
    """
    with changing(membership, meeting):
        line = line_of(meeting, number, before)
        return make(membership, meeting, "words", [text_step(line, realign(of_row(line), text))])


def give_turns(membership: Membership, meeting: Meeting, numbers: Sequence[int], name: str) -> Edit:
    """Turns were said by a person of this name, or by a voice of this label ("Voice B"), whoever was thought to have said them."""
    with changing(membership, meeting):
        turns = list(Turn.objects.select_for_update().filter(meeting=meeting, number__in=numbers).order_by("number"))
        if not turns:
            raise Refused(404, "There is no such turn in this record.")
        voice = _voice(membership, meeting, name)
        steps = [
            {"step": "voice", "turn": turn.number, "from": turn.voice_id, "to": voice.pk} for turn in turns if turn.voice_id != voice.pk
        ]
        if not steps:
            raise Refused(409, f"{voice.name} has these turns already.")
        return make(membership, meeting, "voice", steps)


def _voice(membership: Membership, meeting: Meeting, name: str) -> Voice:
    name = one_line(name)[:120]
    if not name:
        raise Refused(422, "Say who it was.")
    known = next((voice for voice in meeting.voices.select_related("person") if voice.name.casefold() == name.casefold()), None)
    if known:
        return known
    [person] = find_people(membership.workspace, [name])
    Attendee.objects.get_or_create(meeting=meeting, person=person)
    return Voice.objects.create(meeting=meeting, label=person.name, person=person)


def merge_voices(membership: Membership, meeting: Meeting, voice: Voice, into: Voice) -> Edit:
    """Two voices are one: all turns of the first are the other's."""
    if voice.pk == into.pk:
        raise Refused(422, "These are the same voice already.")
    numbers = list(voice.turns.values_list("number", flat=True))
    if not numbers:
        raise Refused(409, "This voice has no turns any more.")
    with changing(membership, meeting):
        return make(membership, meeting, "merge", [{"step": "voice", "turn": n, "from": voice.pk, "to": into.pk} for n in numbers])


def split_turn(membership: Membership, meeting: Meeting, number: int, word: int, name: str = "") -> Edit:
    """From a word (from 0) of a line on, it is another turn, by a person of this name where one is given."""
    with changing(membership, meeting):
        line = line_of(meeting, number)
        turn = line.turn
        steps = [{"step": "cut", "line": number, "word": word}] if word else []
        steps.append({"step": "split", "turn": turn.number, "line": number + bool(word)})
        if name.strip():
            steps.append({"step": "voice", "turn": turn.number + 1, "from": turn.voice_id, "to": _voice(membership, meeting, name).pk})
        return make(membership, meeting, "split", steps)


def join_turns(membership: Membership, meeting: Meeting, number: int) -> Edit:
    """A turn and the one after it are one, of the first one's voice."""
    with changing(membership, meeting):
        turn = turn_of(meeting, number)
        if not Turn.objects.filter(meeting=meeting, number=number + 1).exists():
            raise Refused(422, "This is the last turn; there is none after it to join.")
        return make(membership, meeting, "join", [{"step": "join", "turn": turn.number}])


def find_in_record(meeting: Meeting, text: str, whole_words: bool, match_case: bool) -> list[tuple[Line, list[Hit]]]:
    """Lines that have a text, each with where. Raises Refused for a text without a sign."""
    lines = list(Line.objects.filter(meeting=meeting).order_by("number"))
    by_line: dict[int, list[Hit]] = {}
    try:
        for hit in find_text([line.text for line in lines], text, whole_words=whole_words, match_case=match_case):
            by_line.setdefault(hit.line, []).append(hit)
    except Misplaced as problem:
        raise Refused(422, str(problem)) from problem
    return [(lines[number], hits) for number, hits in by_line.items()]


def replace_text(
    membership: Membership,
    meeting: Meeting,
    text: str,
    by: str,
    whole_words: bool,
    match_case: bool,
    chosen: Sequence[tuple[int, int]] | None,
) -> Edit:
    """Replace a text everywhere, or at chosen places: (number of a line, character at which it stands). Raises Refused."""
    with changing(membership, meeting):
        list(Line.objects.select_for_update().filter(meeting=meeting).values_list("pk", flat=True))
        wanted = None if chosen is None else set(chosen)
        steps = []
        for line, hits in find_in_record(meeting, text, whole_words, match_case):
            hits = [hit for hit in hits if wanted is None or (line.number, hit.start) in wanted]
            if hits:
                put = replaced(line.text, hits, by)
                if not put:
                    raise Refused(422, f"Nothing would be left of the line “{line.text}”. Leave that one out, or strike it.")
                if put != line.text:
                    steps.append(text_step(line, realign(of_row(line), put)))
        if not steps:
            raise Refused(422, f"“{text}” stands nowhere in this record, so nothing was changed. Check how it is written.")
        if len(steps) > _MOST:
            raise Refused(422, f"That would change {len(steps)} lines at once. Look for something that stands in fewer.")
        return make(membership, meeting, "replace", steps)


def undo(membership: Membership, meeting: Meeting) -> Edit:
    """Take the last edit back. Raises Refused where there is none, or where a line of it has been changed otherwise since."""
    with changing(membership, meeting, "undo edit") as act:
        edit = meeting.edits.filter(undone_at=None).first()
        if edit is None:
            raise Refused(409, "There is nothing to take back.")
        for step in reversed(edit.steps):
            take(meeting, step["back"])
        edit.undone_at = timezone.now()
        edit.save(update_fields=["undone_at"])
        meeting.word_fixes.filter(edit=edit.number).delete()
        act.note(kind=edit.kind)
    return edit


def redo(membership: Membership, meeting: Meeting) -> Edit:
    """Make the edit again that was taken back last. Raises Refused where there is none."""
    with changing(membership, meeting, "redo edit") as act:
        edit = meeting.edits.filter(undone_at__isnull=False, dropped=False).last()
        if edit is None:
            raise Refused(409, "There is nothing to make again.")
        for step in edit.steps:
            take(meeting, step)
        edit.undone_at = None
        edit.save(update_fields=["undone_at"])
        note_fixes(membership, edit)
        act.note(kind=edit.kind)
    return edit
