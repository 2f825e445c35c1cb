"""What stands on pictures of a screen is read by a worker, once each."""

from __future__ import annotations

from procrastinate.contrib.django import app

from core.media.legible import Legible, read_picture
from server.capture.models import Picture
from server.notify import Part, notify
from server.pipeline.work import Queue, fresh_connections

_LANGUAGES = {"es": "spa+eng", "gl": "spa+eng", "ca": "spa+eng"}
"""Language of a meeting → the languages that Tesseract has here for it; else English."""


@app.task(name="read screen", queue=Queue.READING)
def read_screen(picture_id: int) -> None:
    """Read one; nothing where it was struck meanwhile."""
    with fresh_connections():
        picture = Picture.objects.select_related("stretch__capture__meeting").filter(pk=picture_id).first()
        if picture is None:
            return
        meeting = picture.stretch.capture.meeting
        try:
            with picture.image.open() as source:
                found = read_picture(source.read(), _LANGUAGES.get(meeting.language.split("+")[0], "eng"))
        except FileNotFoundError:
            found = Legible()
        Picture.objects.filter(pk=picture_id).update(text=found.text, title=found.title)
        notify(meeting.pk, Part.PICTURES)
