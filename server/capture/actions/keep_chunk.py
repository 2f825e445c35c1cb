"""Keep a second of sound. What is answered with success is committed, and never asked for again."""

from __future__ import annotations

from django.db import transaction
from django.db.models import F

from core.media.chunks import CHUNK, Samples, check_digest, count_samples, cut_free
from server.accounts.models import User
from server.capture.gathering import gather_if_complete
from server.capture.models import Capture, Chunk, Stretch
from server.problems import Refused


def keep_chunk(user: User, capture: Capture, stretch_number: int, number: int, data: bytes, digest: str) -> None:
    """Keep chunk `number` of a stretch; the same one again changes nothing.

    Raises Damaged when the bytes are not those of the digest, Refused when the chunk contradicts what is known.
    """
    sha256 = check_digest(data, digest)
    with transaction.atomic():
        Capture.objects.select_for_update().get(pk=capture.pk)
        stretch = Stretch.objects.filter(capture=capture, number=stretch_number).first()
        if stretch is None or stretch.user_id != user.pk:
            raise Refused(404, "There is no such stretch of this capture, or it is another device's.")
        samples = count_samples(data, len(stretch.tracks))
        if stretch.gathered:
            return
        known = stretch.received.filter(number=number).values_list("sha256", flat=True).first()
        if known == sha256:
            return
        if known:
            raise Refused(409, f"Another chunk {number} of this stretch has been kept already.")
        if stretch.chunks is not None and number >= stretch.chunks:
            raise Refused(409, f"This stretch has ended; it has {stretch.chunks} chunks.")
        # A short chunk is let in only as the last one, and none behind it: so to look at the last is enough.
        last = stretch.received.order_by("-number").values_list("number", "samples").first()
        if last and (last[0] < number and last[1] < CHUNK or last[0] > number and samples < CHUNK):
            raise Refused(409, "Only the last chunk of a stretch may be shorter than a second.")
        struck = [Samples(part.first, part.end) for part in stretch.struck.all()]
        kept = cut_free(data, number, len(stretch.tracks), struck) if struck else data
        Chunk.objects.create(stretch=stretch, number=number, samples=samples, sha256=sha256, data=kept)
        Stretch.objects.filter(pk=stretch.pk).update(samples=F("samples") + len(kept) // (2 * len(stretch.tracks)))
        gather_if_complete(capture)
