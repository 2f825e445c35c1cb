"""An excerpt's sound."""

from __future__ import annotations

from uuid import UUID

from django.db.models.fields.files import FieldFile
from django.http import HttpRequest
from django.http.response import HttpResponseBase

from server.accounts.models import Membership
from server.excerpts.actions.cut_excerpt import sound_of
from server.excerpts.queries import visible_excerpts
from server.problems import Refused
from server.serving import asked_for, ranged


def _sound(membership: Membership, excerpt_id: UUID) -> FieldFile:
    found = visible_excerpts(membership).filter(pk=excerpt_id).first()
    if found is None:
        raise Refused(404, "There is no such excerpt, or it is not shared with you.")
    return sound_of(found).sound


async def excerpt_sound(request: HttpRequest, excerpt_id: UUID) -> HttpResponseBase:
    """The sound of an excerpt, which holds nothing but the excerpt."""
    return await ranged(request, await asked_for(request, _sound, excerpt_id), "audio/webm")
