"""What a writer has made of the passages of a meeting: kept, so that nothing is written twice."""

from __future__ import annotations

from collections.abc import Mapping

from server.meetings.models import Meeting
from server.minutes.models import Wording


def known_wordings(meeting: Meeting) -> dict[str, str]:
    """By `core.reading.writer.rewording.key`."""
    return dict(Wording.objects.filter(meeting=meeting).values_list("passage", "text"))


def keep_wordings(meeting: Meeting, written: Mapping[str, str]) -> None:
    """More of them."""
    Wording.objects.bulk_create(
        [Wording(meeting=meeting, passage=passage, text=text) for passage, text in written.items()], ignore_conflicts=True
    )


def refuse_wordings(meeting: Meeting) -> None:
    """What was there before them is wanted: they are not used again, nor written anew."""
    Wording.objects.filter(meeting=meeting).update(text="")
