"""Pictures of the screen; names under which people answered the notice; what the files are called."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from core.media.chunks import CAPTURE_RATE
from core.record.timeline import Span
from server.capture.beside import take_away
from server.capture.models import Capture, Consent, Laid, LiveLine, Message, Picture, Recording, RecordingPart, SoundCopy
from server.capture.queries import laid_in, pictures_of
from server.copies import drop
from server.meetings.models import Meeting
from server.purging import Purger, Struck, Texts, Where, register


class _Capture(Purger):
    def texts(self, meeting: Meeting) -> Iterable[Texts]:
        yield Texts(Consent.objects.filter(meeting=meeting), "name", Where.NAME)
        yield Texts(Recording.objects.filter(meeting=meeting), "name")
        yield Texts(RecordingPart.objects.filter(recording__meeting=meeting), "name")

    def counts(self, struck: Struck) -> dict[str, int]:
        capture = getattr(struck.meeting, "capture", None)
        if capture is None:
            return {"pictures": 0, "files": 0}
        return {"pictures": len(_shown(capture, struck.cut.spans)), "files": len(_laid(capture, struck.cut.spans))}

    def purge(self, struck: Struck) -> None:
        drop(SoundCopy.objects.filter(recording__meeting=struck.meeting))
        if capture := getattr(struck.meeting, "capture", None):
            _blank_screen(capture, struck.cut.spans)
            take_away(_laid(capture, struck.cut.spans))

    def let_go(self, meeting: Meeting) -> None:
        Recording.objects.filter(meeting=meeting).update(written=[], speakers=[])
        LiveLine.objects.filter(capture__meeting=meeting).delete()
        Message.objects.filter(stretch__capture__meeting=meeting).delete()
        take_away(Laid.objects.filter(stretch__capture__meeting=meeting))


def _laid(capture: Capture, spans: Sequence[Span]) -> list[Laid]:
    """Files that were put into the chat within the spans."""
    return [laid for laid, _, at in laid_in(capture) for span in spans if span.start <= at < span.end]


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
    shown = _shown(capture, spans)
    for picture, later in shown:
        if later is not None:
            Picture.objects.filter(pk=picture.pk).update(at=picture.at + round(later * CAPTURE_RATE))
    take_away(picture for picture, later in shown if later is None)


register(_Capture())
