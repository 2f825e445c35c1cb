"""What is said, as numbers: kept beside each turn, and found by what a question is about."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any
from uuid import UUID

import numpy as np
from django.db.models import F, Func, IntegerField, Prefetch, QuerySet, Value

from core.search.cells import cells_of, nearest_cells
from core.search.senses import packed, says_enough, signs, unpacked
from server.library.models import Sense, SenseSigns
from server.meetings.models import Meeting
from server.pipeline.ear import encoder
from server.record.models import Line, Turn

_FEW = 1000
"""Meetings of which every turn is looked at in a tenth of a second."""
_LOOKED_AT = 120
"""Turns that differ least in their signs and of which the vectors themselves are compared."""


@dataclass(frozen=True)
class Sensed:
    """A turn's key, the digest of its words, what they are about (as it is kept), and whether they are by themselves."""

    turn: int
    digest: bytes
    vector: bytes
    enough: bool


def sense(meeting: Meeting) -> list[Sensed]:
    """What its turns are about; of those whose words have not changed it is known."""
    known = {bytes(digest): bytes(vector) for digest, vector in Sense.objects.filter(turn__meeting=meeting).values_list("digest", "vector")}
    said = [(key, text, hashlib.sha256(text.encode()).digest()[:16]) for key, text in _texts(meeting)]
    new = {digest: text for _, text, digest in said if digest not in known}
    known |= dict(zip(new, packed(encoder().plain(list(new.values()))), strict=True))
    return [Sensed(key, digest, known[digest], says_enough(text)) for key, text, digest in said]


def _texts(meeting: Meeting) -> list[tuple[int, str]]:
    lines = Prefetch("lines", Line.objects.order_by("number").only("turn", "number", "text"))
    turns = Turn.objects.filter(meeting=meeting).order_by("number").prefetch_related(lines)
    return [(turn.pk, " ".join(line.text for line in turn.lines.all())) for turn in turns]


def keep_senses(meeting: Meeting, sensed: Sequence[Sensed]) -> None:
    """In place of what was kept. Of a turn that is gone meanwhile nothing is kept."""
    there = set(Turn.objects.filter(meeting=meeting).values_list("pk", flat=True))
    rows = [one for one in sensed if one.turn in there]
    Sense.objects.filter(turn__meeting=meeting).delete()
    Sense.objects.bulk_create([Sense(turn_id=one.turn, digest=one.digest, vector=one.vector) for one in rows], batch_size=1000)
    telling = [one for one in rows if one.enough]
    vectors = unpacked([one.vector for one in telling])
    places = cells_of(vectors) if telling else ()
    SenseSigns.objects.bulk_create(
        [
            SenseSigns(sense_id=one.turn, meeting=meeting, bits=signs(vector), cell=int(cell))
            for one, vector, cell in zip(telling, vectors, places, strict=True)
        ],
        batch_size=1000,
    )


def load_senses(meetings: Sequence[Meeting]) -> dict[Any, np.ndarray]:
    """By meeting's key what its turns are about, in order, shape (turns, width); without those of which it is not known of every turn."""
    rows = Turn.objects.filter(meeting__in=meetings).order_by("meeting", "number").values_list("meeting", "sense__vector")
    by_meeting: dict[Any, list[bytes | None]] = {}
    for key, vector in rows:
        by_meeting.setdefault(key, []).append(None if vector is None else bytes(vector))
    return {key: unpacked([one for one in vectors if one]) for key, vectors in by_meeting.items() if all(vectors)}


class _Differ(Func):
    """In how many bits two strings of them differ."""

    template = "bit_count(%(expressions)s)"
    arg_joiner = " # "
    output_field = IntegerField()


@dataclass(frozen=True)
class Near:
    """A turn that is about something, and how much: the cosine of the angle between the two."""

    meeting: UUID
    turn: int
    alike: float


def nearest(meetings: QuerySet[Meeting], about: np.ndarray, least: float = -1.0, share: float = 0.25) -> list[Near]:
    """The turns of these meetings that are most about something, the nearest first. about: a vector of `Encoder.plain`; least: of likeness.
    share: of the cells that are looked at where the meetings are many; of few every turn is."""
    wanted = Func(Value(signs(about)), function="", template=f"(%(expressions)s)::bit({len(about)})")
    close = SenseSigns.objects.filter(meeting__in=meetings).annotate(differ=_Differ(F("bits"), wanted)).order_by("differ", "pk")
    if meetings.order_by()[:_FEW].count() == _FEW:
        close = close.filter(cell__in=nearest_cells(about, share))
    of = dict(close.values_list("pk", "meeting")[:_LOOKED_AT])
    rows = list(Sense.objects.filter(pk__in=of).values_list("turn", "vector"))
    alike = unpacked([bytes(vector) for _, vector in rows]) @ about if rows else []
    near = [Near(of[turn], turn, float(value)) for (turn, _), value in zip(rows, alike, strict=True) if value >= least]
    return sorted(near, key=lambda one: (-one.alike, one.turn))


def meetings_of(near: Sequence[Near]) -> list[UUID]:
    """The keys of the meetings that these turns are of, in their order."""
    return list(dict.fromkeys(one.meeting for one in near))
