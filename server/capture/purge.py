"""Pictures of the screen; names under which people answered the notice; what the files are called."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from django.core.files.storage import default_storage
from django.db import transaction

from core.media.chunks import CAPTURE_RATE
from core.record.timeline import Span
from server.capture.models import Capture, Consent, Picture, Recording, RecordingPart, SoundCopy
from server.capture.queries import pictures_of
from server.copies import drop
from server.meetings.models import Meeting
from server.pipeline.files import delete_files
from server.purging import Purger, Struck, Texts, Where, register


class _Capture(Purger):
    def texts(self, meeting: Meeting) -> Iterable[Texts]:
        yield Texts(Consent.objects.filter(meeting=meeting), "name", Where.NAME)
        yield Texts(Recording.objects.filter(meeting=meeting), "name")
        yield Texts(RecordingPart.objects.filter(recording__meeting=meeting), "name")

    def counts(self, struck: Struck) -> dict[str, int]:
        capture = getattr(struck.meeting, "capture", None)
        return {"pictures": len(_shown(capture, struck.cut.spans)) if capture else 0}

    def purge(self, struck: Struck) -> None:
        drop(SoundCopy.objects.filter(recording__meeting=struck.meeting))
        if capture := getattr(struck.meeting, "capture", None):
            _blank_screen(capture, struck.cut.spans)


def _shown(capture: Capture, spans: Sequence[Span]) -> list[tuple[Picture, float | None]]:
    """Pictures of the screen that came up within the spans, each with the second from which it may still be shown; None: it goes."""
    shown = pictures_of(capture)
    ends = [*(start for _, start in shown[1:]), float("inf")]
    return [
        (picture, None if following <= span.end else span.end - start)
        for (picture, start), following in zip(shown, ends, strict=True)
        for span in spans
        if span.start <= start < span.end
    ]


def _blank_screen(capture: Capture, spans: Sequence[Span]) -> None:
    """Pictures shown only within the passage go; one that stays on the screen after it is shown from its end on."""
    names = []
    for picture, later in _shown(capture, spans):
        if later is None:
            names.append(str(picture.image.name))
            picture.delete()
        else:
            Picture.objects.filter(pk=picture.pk).update(at=picture.at + round(later * CAPTURE_RATE))
    transaction.on_commit(lambda: delete_files(default_storage, names))


register(_Capture())
