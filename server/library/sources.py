"""Where the library looks for words. To add a source: its rows, and how they lead to a meeting, in SOURCES; the column has to be `searched`."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any
from uuid import UUID

from django.db.models import F, FloatField, Min, OuterRef, Q, QuerySet, Subquery, TextChoices, Value
from django.db.models.functions import Coalesce

from server.accounts.models import Membership
from server.capture.models import Picture
from server.meetings.models import Attendee, Meeting
from server.minutes.models import Chapter, MinutesLine
from server.notes.models import Comment, Note
from server.record.models import Line


class Field(TextChoices):
    """What of a meeting holds the words."""

    TITLE = "title"
    PERSON = "person"
    MINUTES = "minutes"
    CHAPTER = "chapter"
    LINE = "line"
    NOTE = "note"
    COMMENT = "comment"
    SCREEN = "screen"
    MEANING = "meaning"
    """Not the words: it is about the same."""


def _nobody(row: Any) -> str:
    return ""


@dataclass(frozen=True)
class Source:
    """Rows that hold text of meetings.

    rows: those that a member may see, of meetings that they may see: what is theirs alone is decided here. meeting, text, search: paths to the
    meeting, to the words, and to what these are found by. at: path to the second of the record that a row belongs to. line: to the numbers of the
    lines that it rests on. who: whose words they are. weight: of its ranks beside those of other sources. many: there are so many that words like
    those that are looked for are found by the vocabulary, not by comparing each text.
    """

    field: Field
    rows: Callable[[Membership], QuerySet[Any]]
    meeting: str = "meeting"
    text: str = "text"
    search: str = "search"
    at: str = ""
    line: str = ""
    who: Callable[[Any], str] = _nobody
    weight: float = 1.0
    many: bool = False

    def found(self, membership: Membership, meetings: QuerySet[Meeting] | Sequence[UUID] | None, **holds: Any) -> QuerySet[Any]:
        """Rows of these meetings (None: of all) whose words hold what is looked for, with `of`, the meeting's key. holds: lookup → value."""
        paths: dict[str, Any] = {f"{self.search if lookup == 'search' else f'{self.text}__{lookup}'}": value for lookup, value in holds.items()}
        if meetings is not None:
            paths[f"{self.meeting}__in"] = meetings
        return self.rows(membership).filter(**paths).annotate(of=F(self.meeting))

    def placed(self, rows: QuerySet[Any]) -> QuerySet[Any]:
        """Rows with `leads_to`, the number of the line of the record that they lead to, and `second`, where they stand in it."""
        if self.line:
            return rows.annotate(leads_to=Min(self.line), second=Min(self.at))
        rows = rows.annotate(second=F(self.at) if self.at else Value(None, output_field=FloatField()))
        before = Line.objects.filter(meeting=OuterRef(self.meeting), start__lte=Coalesce(OuterRef("second"), 0.0) + 0.05)
        return rows.annotate(leads_to=Subquery(before.order_by("-start").values("number")[:1]))


def _mine_or_shared(membership: Membership) -> QuerySet[Note]:
    return Note.objects.filter(Q(user=membership.user) | Q(shared=True), removed_at=None).select_related("user")


def _writer(row: Note | Comment) -> str:
    return row.user.called if row.user else ""


SOURCES = (
    Source(Field.TITLE, lambda member: Meeting.objects.all(), meeting="pk", text="title", weight=3.0, many=True),
    Source(Field.PERSON, lambda member: Attendee.objects.all(), text="person__name", search="person__search", weight=2.0),
    Source(Field.MINUTES, lambda member: MinutesLine.objects.filter(removed_at=None), at="lines__start", line="lines__number", weight=2.0, many=True),
    Source(Field.CHAPTER, lambda member: Chapter.objects.all(), text="title", at="start", weight=1.5),
    Source(
        Field.LINE,
        lambda member: Line.objects.select_related("turn__voice__person"),
        at="start",
        line="number",
        who=lambda row: row.turn.voice.name,
        many=True,
    ),
    Source(Field.NOTE, _mine_or_shared, at="at", who=_writer),
    Source(Field.COMMENT, lambda member: Comment.objects.filter(removed_at=None).select_related("user"), at="start", who=_writer),
    Source(Field.SCREEN, lambda member: Picture.objects.exclude(text=None), meeting="stretch__capture__meeting"),
)
