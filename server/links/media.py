"""What can be heard of what a link leads to."""

from __future__ import annotations

from asgiref.sync import sync_to_async
from django.db.models.fields.files import FieldFile
from django.http import HttpRequest, HttpResponse
from django.http.response import HttpResponseBase

from server.excerpts.actions.cut_excerpt import sound_of
from server.links.queries import excerpts_of, followed, heard_of, unlocked
from server.problems import Refused, problem
from server.serving import ranged


def _sound(request: HttpRequest, token: str, place: int | None) -> FieldFile:
    link = followed(request, token)
    if not unlocked(request, link):
        raise Refused(403, "Give the passphrase first.")
    if not link.sound:
        raise Refused(404, "Nothing can be heard by this link.")
    if place is None:
        recording = heard_of(link)
        if recording is None:
            raise Refused(404, "There is nothing to be heard here, or not now.")
        return recording.listening
    parts = excerpts_of(link)
    if place >= len(parts) or parts[place].meeting.recording.withheld:
        raise Refused(404, "There is nothing to be heard here, or not now.")
    return sound_of(parts[place]).sound


async def linked_sound(request: HttpRequest, token: str, place: int | None = None) -> HttpResponseBase:
    """The sound of a meeting, or of the excerpt at a place: of that link, checked at every request."""
    found: FieldFile | HttpResponse
    try:
        found = await sync_to_async(_sound)(request, token, place)
    except Refused as refused:
        found = problem(refused.status, refused.detail)
    answer = await ranged(request, found, "audio/webm")
    answer["X-Robots-Tag"] = "noindex"
    answer["Referrer-Policy"] = "no-referrer"
    return answer
