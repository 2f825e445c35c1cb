"""Folders that recordings come into."""

from __future__ import annotations

from datetime import datetime
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from server.accounts.current import membership_of, signed_in
from server.accounts.models import Membership
from server.answers import Answer
from server.bounds import Name
from server.folders.actions.watch import leave_folder, look_again, watch_folder
from server.folders.models import Folder, FoundState
from server.languages import OurWords
from server.meetings.models import Visibility
from server.problems import Refused

router = Router(tags=["folders"], auth=signed_in)

SHOWN = 20
"""Files of a folder that are told, the latest first."""


class ArrivalOut(Schema):
    """words: why it is as it is."""

    name: str
    size: int
    state: FoundState
    words: OurWords
    found_at: datetime
    meeting: UUID | None


class FolderOut(Schema):
    id: UUID
    name: str
    host: str
    username: str
    visibility: Visibility
    looked_at: datetime | None
    trouble: OurWords
    found: list[ArrivalOut]


class FolderIn(Schema):
    """visibility: who sees what comes of it; "mine": nobody else, until I share it."""

    address: str = Field(max_length=2000)
    username: str = Field("", max_length=254)
    password: str = Field("", max_length=400)
    name: Name = ""
    visibility: Visibility = Visibility.MINE


def _folder_of(request: HttpRequest, folder_id: UUID) -> tuple[Membership, Folder]:
    membership = membership_of(request)
    found = membership.folders.filter(pk=folder_id).first()
    if found is None:
        raise Refused(404, "That is no folder of yours (any more).")
    return membership, found


def _folder(folder: Folder) -> dict:
    shown = [
        {"name": one.name, "size": one.size, "state": one.state, "words": one.words, "found_at": one.found_at, "meeting": one.meeting_id}
        for one in folder.found.exclude(state=FoundState.LEFT)[:SHOWN]
    ]
    told = ("id", "name", "host", "username", "visibility", "looked_at", "trouble")
    return {**{name: getattr(folder, name) for name in told}, "found": shown}


@router.get("", response=list[FolderOut])
def folders(request: HttpRequest) -> Answer:
    """Mine, each with what was found in it lately."""
    return [_folder(one) for one in membership_of(request).folders.all()]


@router.post("", response={201: FolderOut})
def add(request: HttpRequest, payload: FolderIn) -> Answer:
    """Watch a folder over WebDAV (RFC 4918), or in a store of objects (s3+https://HOST/BUCKET/FOLDER): what comes into it from now on becomes a meeting. The
    password is kept sealed."""
    given = (payload.address, payload.username, payload.password, payload.name, payload.visibility)
    return 201, _folder(watch_folder(membership_of(request), *given))


@router.post("/{folder_id}/look", response={202: FolderOut})
def look_now(request: HttpRequest, folder_id: UUID) -> Answer:
    """Look into it now."""
    membership, found = _folder_of(request, folder_id)
    look_again(membership, found)
    return 202, _folder(found)


@router.delete("/{folder_id}", response={204: None})
def leave(request: HttpRequest, folder_id: UUID) -> Answer:
    """Watch it no more."""
    leave_folder(*_folder_of(request, folder_id))
    return 204, None
