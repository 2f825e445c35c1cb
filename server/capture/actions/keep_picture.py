"""Keep a still of the screen that is captured beside the sound."""

from __future__ import annotations

from django.core.files.base import ContentFile
from django.db import transaction

from core.media.chunks import Samples, check_digest, left_before
from server.accounts.models import User
from server.capture.models import Capture, Picture, Stretch
from server.capture.screens import read_screen
from server.notify import Part, notify
from server.problems import Refused

LARGEST = 4_000_000
"""Bytes of a picture that is taken in."""
_JPEG = b"\xff\xd8\xff"


def keep_picture(user: User, capture: Capture, stretch_number: int, at: int, data: bytes, digest: str) -> None:
    """Keep what the screen shows from sample `at` of a stretch on; the same again changes nothing, and what is struck is not kept.

    Raises Damaged when the bytes are not those of the digest, Refused when it is no JPEG or contradicts what is known.
    """
    sha256 = check_digest(data, digest)
    if not data.startswith(_JPEG) or len(data) > LARGEST:
        raise Refused(422, f"A picture of the screen is a JPEG of up to {LARGEST // 1_000_000} MB.")
    with transaction.atomic():
        capture = Capture.objects.select_for_update().get(pk=capture.pk)
        stretch = Stretch.objects.filter(capture=capture, number=stretch_number).first()
        if stretch is None or stretch.user_id != user.pk:
            raise Refused(404, "There is no such stretch of this capture, or it is another device's.")
        if left_before(at, [Samples(part.first, part.end) for part in stretch.struck.all()]) is None:
            return
        known = stretch.pictures.filter(at=at).values_list("sha256", flat=True).first()
        if known == sha256:
            return
        if known or at < 0:
            raise Refused(409, f"Another picture of sample {at} of this stretch has been kept already.")
        picture = Picture(stretch=stretch, at=at, sha256=sha256)
        picture.image.save(f"{stretch_number}-{at}.jpg", ContentFile(data))
        read_screen.defer(picture_id=picture.pk)
        notify(capture.meeting_id, Part.PICTURES)
