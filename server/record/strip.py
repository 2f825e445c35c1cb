"""The rain strip: words per minute of each voice along the meeting."""

from __future__ import annotations

from core.record.spacing import words_in
from server.meetings.models import Meeting
from server.record.models import Line


def strips(meeting: Meeting) -> dict[str, list[dict]]:
    """The meeting's strips as they are kept: "small" for a row of the library, "wide" for its own page."""
    return {"small": _rain(meeting, bins=48), "wide": _rain(meeting, bins=160)}


def _rain(meeting: Meeting, bins: int) -> list[dict]:
    """One lane a voice, in the order of first words: {"voice": id, "bars": words per minute in each of `bins` equal stretches}.

    A line's words are spread evenly over its time.
    """
    whole = meeting.duration
    rows = Line.objects.filter(meeting=meeting, turn__written=False).order_by("number").values_list("turn__voice_id", "start", "end", "text")
    lanes: dict[int, list[float]] = {}
    if whole <= 0:
        return []
    width = whole / bins
    for voice, start, end, text in rows:
        lane = lanes.setdefault(voice, [0.0] * bins)
        words, length = len(words_in(text)), max(end - start, 0.05)
        first, last = int(start / width), min(bins - 1, int(end / width))
        for index in range(min(first, bins - 1), last + 1):
            inside = min(end, (index + 1) * width) - max(start, index * width)
            lane[index] += words * max(0.0, inside) / length
    return [{"voice": voice, "bars": [round(words * 60 / width) for words in lane]} for voice, lane in lanes.items()]
