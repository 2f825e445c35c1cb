"""The steps that an edit of a record is made of, each with its way back.

A step is a dict, kept as it is:
  {"step": "line", "line": number, "from": [text, words], "to": [text, words]}      another text of a line
  {"step": "voice", "turn": number, "from": voice, "to": voice}                     a turn is somebody else's
  {"step": "cut", "line": number, "word": index}                                    a line becomes two; "fuse" is the way back
  {"step": "split", "turn": number, "line": number}                                 a turn becomes two, the second from a line on
  {"step": "join", "turn": number, "line": number, "voice": voice, …}               a turn and the one after it become one
Numbers are those at the moment of the step, so that steps are taken back in the opposite order.
"""

from __future__ import annotations

from django.db.models import F, QuerySet

from core.record import model
from core.record.edit import cut_line
from server.meetings.models import Meeting
from server.problems import Refused
from server.record.models import Line, Turn

FAR = 1_000_000
"""Numbers are moved by way of far ones, since no two rows may have the same at any moment."""


def take(meeting: Meeting, step: dict) -> dict:
    """Make a step and return the one that takes it back. Raises Refused where the record is not as the step expects it."""
    return _STEPS[step["step"]](meeting, step)


def text_step(line: Line, edited: model.Line) -> dict:
    """The step to another text of a line."""
    return {
        "step": "line",
        "line": line.number,
        "from": [line.text, line.words],
        "to": [edited.text, [word.packed() for word in edited.words]],
    }


def of_row(line: Line) -> model.Line:
    """A line as core knows it."""
    return model.Line(line.text, line.start, line.end, tuple(model.Word.unpacked(word) for word in line.words))


def line_of(meeting: Meeting, number: int, before: str | None = None) -> Line:
    """A line, for this transaction to change. before: what the caller saw there, so that nobody's change is overwritten unseen.

    Raises Refused where there is no such line, or where it says something else by now.
    """
    line = Line.objects.select_for_update(of=("self",)).select_related("turn").filter(meeting=meeting, number=number).first()
    if line is None:
        raise Refused(404, "There is no such line in this record.")
    if before is not None and line.text != before:
        raise changed(line)
    return line


def changed(line: Line) -> Refused:
    """The refusal to write over somebody's change; it says what stands there now."""
    return Refused(409, f"Somebody has changed this line: it now says “{line.text}”. Look at it again.", text=line.text)


def turn_of(meeting: Meeting, number: int) -> Turn:
    """A turn, for this transaction to change. Raises Refused."""
    turn = Turn.objects.select_for_update().filter(meeting=meeting, number=number).first()
    if turn is None:
        raise Refused(404, "There is no such turn in this record.")
    return turn


def _reword(meeting: Meeting, step: dict) -> dict:
    line = line_of(meeting, step["line"], step["from"][0])
    line.text, line.words = step["to"]
    line.save(update_fields=["text", "words"])
    return {**step, "from": step["to"], "to": step["from"]}


def _give(meeting: Meeting, step: dict) -> dict:
    turn = turn_of(meeting, step["turn"])
    if turn.voice_id != step["from"]:
        raise Refused(409, "Somebody has given this turn to another voice. Look at it again.")
    turn.voice_id = step["to"]
    turn.save(update_fields=["voice"])
    return {**step, "from": step["to"], "to": step["from"]}


def _shift(rows: QuerySet, after: int, by: int) -> None:
    """Numbers above `after` move by one up or down."""
    rows.filter(number__gt=after).update(number=F("number") + FAR)
    rows.filter(number__gt=FAR).update(number=F("number") - FAR + by)


def _cut(meeting: Meeting, step: dict) -> dict:
    line = line_of(meeting, step["line"])
    first, second = cut_line(of_row(line), step["word"])
    _shift(Line.objects.filter(meeting=meeting), line.number, 1)
    Line.objects.create(
        meeting=meeting,
        turn=line.turn,
        number=line.number + 1,
        start=second.start,
        end=second.end,
        text=second.text,
        words=[word.packed() for word in second.words],
        checked=line.checked,
    )
    line.text, line.end, line.words = first.text, first.end, [word.packed() for word in first.words]
    line.save(update_fields=["text", "end", "words"])
    return {"step": "fuse", "line": line.number, "word": step["word"]}


def _fuse(meeting: Meeting, step: dict) -> dict:
    line, following = line_of(meeting, step["line"]), line_of(meeting, step["line"] + 1)
    if line.turn_id != following.turn_id:
        raise Refused(409, "These lines belong to two turns by now. Look at them again.")
    line.text, line.end, line.words = f"{line.text} {following.text}", following.end, [*line.words, *following.words]
    line.save(update_fields=["text", "end", "words"])
    following.delete()
    _shift(Line.objects.filter(meeting=meeting), line.number, -1)
    return {"step": "cut", "line": line.number, "word": step["word"]}


def _split(meeting: Meeting, step: dict) -> dict:
    turn = turn_of(meeting, step["turn"])
    lines = list(turn.lines.order_by("number"))
    moved = [line for line in lines if line.number >= step["line"]]
    if not moved or len(moved) == len(lines):
        raise Refused(422, "A turn is split before one of its lines, and not before the first.")
    _shift(Turn.objects.filter(meeting=meeting), turn.number, 1)
    end = lines[len(lines) - len(moved) - 1].end
    made = Turn.objects.create(
        meeting=meeting,
        number=turn.number + 1,
        voice_id=step.get("voice", turn.voice_id),
        start=moved[0].start,
        end=turn.end,
        language=step.get("language", turn.language),
        english=step.get("english", ""),
    )
    Line.objects.filter(pk__in=[line.pk for line in moved]).update(turn=made)
    # English of the whole turn is that of neither half.
    before = turn.english
    turn.end, turn.english = end, step.get("own_english", "")
    turn.save(update_fields=["end", "english"])
    return {"step": "join", "turn": turn.number, "own_english": before}


def _join(meeting: Meeting, step: dict) -> dict:
    turn, following = turn_of(meeting, step["turn"]), turn_of(meeting, step["turn"] + 1)
    first = following.lines.order_by("number")[0]  # a turn has always a line
    back = {
        "step": "split",
        "turn": turn.number,
        "line": first.number,
        "voice": following.voice_id,
        "language": following.language,
        "english": following.english,
        "own_english": turn.english,
    }
    following.lines.update(turn=turn)
    turn.end, turn.english = following.end, step.get("own_english", f"{turn.english} {following.english}".strip())
    turn.save(update_fields=["end", "english"])
    following.delete()
    _shift(Turn.objects.filter(meeting=meeting), turn.number, -1)
    return back


_STEPS = {"line": _reword, "voice": _give, "cut": _cut, "fuse": _fuse, "split": _split, "join": _join}
