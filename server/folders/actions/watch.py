"""Watch a folder, change who sees what comes of it, and leave it."""

from __future__ import annotations

from urllib.parse import urlsplit

from django.utils import timezone

from core.problems import InputProblem
from core.text import one_line
from server.accounts.models import Membership
from server.acting import acting
from server.folders.keep import note
from server.folders.models import Folder
from server.folders.places import place_at, settled_folder
from server.folders.tasks import queue_look
from server.problems import Refused
from server.sealing import seal
from server.sharing.policy import Can, require

MOST = 20
"""Folders of one member."""


def watch_folder(membership: Membership, address: str, username: str, password: str, name: str, visibility: str) -> Folder:
    """From now on: what lies there already is left there. It is looked into at once, so that what is wrong is said here. Raises Refused."""
    require(membership, Can.ADD)
    if membership.folders.count() >= MOST:
        raise Refused(409, f"You watch {MOST} folders, which is as many as there can be. Leave one first.")
    username = one_line(username)
    try:
        address = settled_folder(address, secret=bool(password))
        lying = place_at(address, username, password).files()
    except InputProblem as problem:
        raise Refused(422, str(problem)) from problem
    with acting(membership, Can.ADD, "watch folder", files=len(lying)):
        host = urlsplit(address).hostname or ""
        called = one_line(name)[:120] or urlsplit(address).path.rstrip("/").rpartition("/")[2][:120] or host
        folder = Folder.objects.create(
            membership=membership,
            name=called,
            address=seal(address),
            host=host[:255],
            username=username[:254],
            secret=seal(password),
            visibility=visibility,
            next_at=timezone.now(),
        )
        note(folder, lying, timezone.now())
        folder.looked_at = timezone.now()
        folder.save(update_fields=["looked_at"])
    return folder


def look_again(membership: Membership, folder: Folder) -> None:
    """Now, and not in some minutes."""
    with acting(membership, Can.ADD, "look into folder"):
        queue_look(folder)


def leave_folder(membership: Membership, folder: Folder) -> None:
    """Watch it no more. Meetings that came of it stay, and so does all that lies there."""
    with acting(membership, Can.ADD, "leave folder"):
        folder.delete()
