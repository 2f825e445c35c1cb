"""Taking a struck passage out of everything that is kept of a meeting besides its record: what rests on it goes, what quotes it is blanked.

People's own words stay, without what they quote; where the one who strikes asks for it, those that rest on the passage go as well.
Every place that keeps words, times of words or what was computed from them is named here: a new one belongs into this file.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass, field

from django.core.files.storage import default_storage
from django.db import transaction
from django.db.models import Model, QuerySet

from core.media.chunks import CAPTURE_RATE
from core.record.strike import Cut, Quotes
from core.record.timeline import Span
from server.capture.models import Capture, Picture
from server.capture.queries import pictures_of
from server.meetings.models import Meeting
from server.minutes.models import Finding, MinutesLine, TurnReading
from server.minutes.queries import LINE_NUMBERS
from server.notes.models import Note

_BESIDE = 10.0  # seconds from the passage within which a single word of it is taken for a quotation


@dataclass(frozen=True)
class Rests:
    """What a strike touches besides the record. `drawn`: goes, and is drawn anew without it; `own`: people's own words that rest on it;
    `quoting`: what quotes it, each with the field that does, as `quotes` finds it; `counts`: how many of each other thing go or are
    blanked, by a name the interface words."""

    drawn: list[Finding | MinutesLine]
    own: list[Finding | MinutesLine]
    quoting: list[tuple[Model, str]]
    quotes: Quotes
    counts: Counter[str] = field(default_factory=Counter)


def rests_on(meeting: Meeting, cut: Cut, touched: Sequence[int]) -> Rests:
    """Find what rests on the lines whose keys are `touched`, or quotes what is struck of them."""
    quotes, keys = Quotes(cut), set(touched)
    drawn, own = [], []
    findings = Finding.objects.filter(meeting=meeting).prefetch_related(LINE_NUMBERS)
    lines = MinutesLine.objects.filter(meeting=meeting).prefetch_related(LINE_NUMBERS).select_related("hand")
    for row in (*findings, *lines):
        by_hand = row.by_hand if isinstance(row, MinutesLine) else row.jotted_by_id is not None
        rests = any(line.pk in keys for line in row.lines.all())
        if not by_hand and (rests or quotes.in_text(row.text, near=rests)):
            drawn.append(row)
        elif by_hand and rests:
            own.append(row)
    quoting = _quoting(meeting, cut, quotes)
    counts = Counter({
        "marks": sum(any(_within(mark, span) for span in cut.spans) for mark in meeting.marks.filter(removed_at=None)),
        "comments": sum(any(_overlaps(one, span) for span in cut.spans) for one in meeting.comments.filter(removed_at=None)),
        "excerpts": sum(any(_overlaps(one, span) for span in cut.spans) for one in meeting.excerpts.filter(removed_at=None)),
        "pictures": len(_shown(meeting.capture, cut.spans)) if hasattr(meeting, "capture") else 0,
        "edits": meeting.edits.count(),
        "versions": meeting.versions.count(),
        "quotes": len(quoting),
    })  # fmt: skip
    return Rests(drawn, own, quoting, quotes, counts)


def purge(meeting: Meeting, cut: Cut, rests: Rests, numbers: Sequence[int], take_own: bool) -> None:
    """Take it out, in the transaction that is open. numbers: those of the lines that are touched, as they were counted until now."""
    quotes = rests.quotes
    for row in rests.drawn + (rests.own if take_own else []):
        row.delete()
    for row, name in rests.quoting:
        type(row).objects.filter(pk=row.pk).update(**{name: quotes.blanked(getattr(row, name), near=_near(row, cut.spans))})
    for version in meeting.versions.all():
        version.lines = [kept for one in version.lines if (kept := _of_version(one, cut, quotes, take_own))]
        version.save(update_fields=["lines"])
    # Drawn from all of the record: what they say of the rest may show what is gone. They are drawn anew at once.
    meeting.chapters.all().delete()
    TurnReading.objects.filter(turn__meeting=meeting).delete()
    Meeting.objects.filter(pk=meeting.pk).update(topics=[])
    # Steps hold the words before and after; without them an edit cannot be taken back any more.
    meeting.edits.all().delete()
    meeting.word_fixes.filter(line__in=numbers).delete()
    for span in cut.spans:
        meeting.notes.filter(at__gte=span.start, at__lt=span.end).update(at=None)
        meeting.marks.filter(start__gte=span.start, end__lte=span.end).delete()
        meeting.reactions.filter(start__gte=span.start, end__lte=span.end).delete()
        if take_own:
            meeting.comments.filter(start__lt=span.end, end__gt=span.start).delete()
        for excerpt in meeting.excerpts.filter(start__lt=span.end, end__gt=span.start):
            if excerpt.start >= span.start and excerpt.end <= span.end:
                excerpt.delete()
            else:  # it is cut anew from what is left, when it is next asked for
                excerpt.sound = ""
                excerpt.save(update_fields=["sound"])
    if hasattr(meeting, "capture"):
        _blank_screen(meeting.capture, cut.spans)


def _quoting(meeting: Meeting, cut: Cut, quotes: Quotes) -> list[tuple[Model, str]]:
    """What people wrote that quotes the passage, removed things too, each with the name of the field."""
    own: list[tuple[QuerySet, str]] = [
        (Meeting.objects.filter(pk=meeting.pk), "title"),
        (MinutesLine.objects.filter(meeting=meeting).exclude(hand_initials=""), "text"),
        (Finding.objects.filter(meeting=meeting).exclude(jotted_by=None), "text"),
        (meeting.notes.all(), "text"),
        (meeting.comments.all(), "text"),
        (meeting.questions.all(), "text"),
        (meeting.points.all(), "text"),
        (meeting.excerpts.all(), "title"),
        (meeting.word_fixes.all(), "heard"),
        (meeting.word_fixes.all(), "meant"),
    ]
    return [(row, name) for rows, name in own for row in rows if quotes.in_text(getattr(row, name), near=_near(row, cut.spans))]


def _near(row: Model, spans: Sequence[Span]) -> bool:
    """Does it stand with the passage?"""
    start = row.at if isinstance(row, Note) else getattr(row, "start", None)
    end = getattr(row, "end", start)
    if start is None:
        return False
    return any(span.start - _BESIDE <= end and start <= span.end + _BESIDE for span in spans)


def _within(row, span: Span) -> bool:
    return span.start <= row.start and row.end <= span.end


def _overlaps(row, span: Span) -> bool:
    return row.start < span.end and row.end > span.start


def _of_version(one: dict, cut: Cut, quotes: Quotes, take_own: bool) -> dict | None:
    """A line of an earlier version without what is struck; None where it goes."""
    rests = any(Span(*given).overlaps(span) for given in one["spans"] for span in cut.spans)
    by_hand = bool(one["hand_initials"])
    if rests and (take_own or not by_hand) or not by_hand and quotes.in_text(one["text"]):
        return None
    return {**one, "text": quotes.blanked(one["text"], near=rests)}


def _shown(capture: Capture, spans: Sequence[Span]) -> list[tuple[Picture, float | None]]:
    """Pictures of the screen that came up within the spans, each with the second from which it may still be shown; None: it goes."""
    shown = pictures_of(capture)
    pictures = Picture.objects.in_bulk([number for number, _ in shown])
    found = []
    for (number, start), (_, following) in zip(shown, [*shown[1:], (0, float("inf"))], strict=True):
        for span in spans:
            if span.start <= start < span.end:
                found.append((pictures[number], None if following <= span.end else span.end - start))
    return found


def _blank_screen(capture: Capture, spans: Sequence[Span]) -> None:
    """Pictures shown only within the passage go; one that stays on the screen after it is shown from its end on."""
    names = []
    for picture, later in _shown(capture, spans):
        if later is None:
            names.append(picture.image.name)
            picture.delete()
        else:
            Picture.objects.filter(pk=picture.pk).update(at=picture.at + round(later * CAPTURE_RATE))
    transaction.on_commit(lambda: [default_storage.delete(name) for name in names])
