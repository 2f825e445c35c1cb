"""Strike what was just said from a capture that goes on: "the last two minutes too"."""

from __future__ import annotations

from dataclasses import asdict, dataclass

from django.db.models import F

from core.media.chunks import CAPTURE_RATE, CHUNK, Samples, cut_free
from server.accounts.models import Membership
from server.acting import acting
from server.capture.beside import take_away
from server.capture.models import Capture, Chunk, Stretch, Struck
from server.capture.queries import begins_at
from server.notify import Part
from server.problems import Refused
from server.removals.ledger import note_removal, replays
from server.sharing.policy import Can


@dataclass(frozen=True)
class Piece:
    """Samples of a stretch, from `first` up to `end`, which is not in it."""

    stretch: int
    first: int
    end: int


def strike_back(membership: Membership, capture: Capture, parts: list[Piece]) -> float:
    """Strike samples for good: out of what has arrived, out of what will, out of the live record. Returns the seconds struck now.

    It cannot be undone; the client says so. Raises Refused when the passage is not the end of what was captured.
    """
    parts_new = (Part.CAPTURE, Part.LIVE, Part.NOTES, Part.PICTURES)
    with acting(membership, Can.STRIKE, "strike back", capture.meeting, tells=parts_new) as act:
        capture = Capture.objects.select_for_update(of=("self",)).select_related("meeting").get(pk=capture.pk)
        if capture.stopped_at:
            raise Refused(409, "This capture was stopped. Strike the passage in the record.")
        note_removal("strike back", capture=str(capture.pk), parts=[asdict(part) for part in parts])
        struck = _take_out(capture, parts)
        act.note(seconds=round(struck / CAPTURE_RATE, 1))
    return struck / CAPTURE_RATE


@replays("strike back")
def _strike_back_again(facts: dict) -> None:
    capture = Capture.objects.filter(pk=facts["capture"], stopped_at=None).select_related("meeting").first()
    if capture:
        there = set(capture.stretches.filter(gathered=False).values_list("number", flat=True))
        _take_out(capture, [part for one in facts["parts"] if (part := Piece(**one)).stretch in there])


def _take_out(capture: Capture, parts: list[Piece]) -> int:
    """The samples go, with what was heard, shown and written meanwhile. Returns how many. Raises Refused."""
    stretches = {s.number: s for s in Stretch.objects.filter(capture=capture, number__in=[p.stretch for p in parts])}
    struck = 0
    since = None
    for part in sorted(parts, key=lambda part: part.stretch):
        stretch = stretches.get(part.stretch)
        if stretch is None or stretch.gathered or not 0 <= part.first < part.end:
            raise Refused(422, f"There is no such passage in stretch {part.stretch} that could be struck.")
        start = begins_at(capture, stretch) + part.first / CAPTURE_RATE
        since = start if since is None else min(since, start)
        before = [Samples(one.first, one.end) for one in stretch.struck.all()]
        struck += _cut_arrived(stretch, Samples(part.first, part.end), before)
        within = {"at__gte": part.first, "at__lt": part.end}
        take_away([*stretch.pictures.filter(**within), *stretch.laid.filter(**within)])
        stretch.messages.filter(**within).delete()
        Struck.objects.create(stretch=stretch, first=part.first, end=part.end)
    if since is not None:
        capture.lines.filter(end__gt=since).delete()
        capture.meeting.marks.filter(end__gt=since).delete()
    return struck


def _cut_arrived(stretch: Stretch, part: Samples, before: list[Samples]) -> int:
    channels, struck = len(stretch.tracks), 0
    touched = stretch.received.filter(number__gte=part.first // CHUNK, number__lte=part.end // CHUNK)
    for chunk in touched:
        left = cut_free(bytes(chunk.data), chunk.number, channels, [part], before)
        struck += (len(chunk.data) - len(left)) // (2 * channels)
        Chunk.objects.filter(pk=chunk.pk).update(data=left)
    Stretch.objects.filter(pk=stretch.pk).update(samples=F("samples") - struck)
    return struck
