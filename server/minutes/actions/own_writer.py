"""A workspace's own writer: a language model elsewhere, in place of the one that is built in. Off until an admin names it."""

from __future__ import annotations

from datetime import date
from urllib.parse import urlsplit

from django.conf import settings

from core.problems import InputProblem
from core.reading.passage import passage
from core.reading.writer.endpoint import Endpoint
from core.reading.writer.rewording import is_held
from core.text import one_line
from server.accounts.models import Membership, Workspace
from server.acting import acting
from server.minutes.models import OwnWriter
from server.pipeline.ear import judge
from server.problems import Refused
from server.sealing import seal, unseal
from server.sharing.policy import Can, require

_TRIAL = passage(
    "action",
    [
        ("Ada Quist", "The gutter over the porch is still dripping."),
        ("Bo Lind", "I'll ring the roofer about the gutter on Monday."),
        ("Ada Quist", "Thank you."),
    ],
    {1},
    ["Ada Quist", "Bo Lind"],
    date(2026, 3, 6),
    "Bo Lind",
)
"""What a writer is tried with: nothing of anybody's meeting."""


def keep_writer(membership: Membership, address: str, model: str, key: str | None) -> OwnWriter:
    """Name it, or another. key: None leaves the one there is. Raises Refused for an address that this server's operator has not allowed."""
    with acting(membership, Can.MANAGE, "name writer", address=one_line(address)):
        address, model = one_line(address).rstrip("/"), one_line(model)
        if not model:
            raise Refused(422, "Say which model is asked.")
        if not is_allowed(address):
            raise Refused(422, f"This server does not go to that address. It goes to: {', '.join(settings.WRITERS) or 'none'}. Ask whoever runs it.")
        kept, _ = OwnWriter.objects.get_or_create(workspace=membership.workspace)
        if key is None and kept.address != address:
            kept.key = ""  # a key is for where it was given for
        kept.address, kept.model = address, model
        if key is not None:
            kept.key = seal(key.strip())
        kept.save()
    return kept


def drop_writer(membership: Membership) -> None:
    """Have the one that is built in again; its key is gone, and can be given anew."""
    with acting(membership, Can.MANAGE, "drop writer") as act:
        if not OwnWriter.objects.filter(workspace=membership.workspace).delete()[0]:
            act.nothing()


def try_writer(membership: Membership) -> tuple[str, bool]:
    """What it makes of three made-up turns, and whether that would be stated. Raises Refused."""
    require(membership, Can.MANAGE)
    endpoint = endpoint_of(membership.workspace)
    if endpoint is None:
        raise Refused(409, "No writer is named, or its address is not allowed any more.")
    try:
        [text] = endpoint.write([_TRIAL])
    except InputProblem as problem:
        raise Refused(502, str(problem)) from problem
    return text, is_held(text, _TRIAL, judge())


def is_allowed(address: str) -> bool:
    """Is it, or lies it under, an address that this server's operator has allowed?"""
    asked = urlsplit(address)
    if asked.scheme not in ("http", "https") or not asked.hostname or asked.username or asked.query or asked.fragment or ".." in asked.path:
        return False
    for one in map(urlsplit, settings.WRITERS):
        under = asked.path == one.path.rstrip("/") or asked.path.startswith(one.path.rstrip("/") + "/")
        if (asked.scheme, asked.netloc) == (one.scheme, one.netloc) and under:
            return True
    return False


def endpoint_of(workspace: Workspace) -> Endpoint | None:
    """A workspace's own writer, ready to be asked; None where it has none, or where it is not allowed any more."""
    # Asked for at every look at how the work stands: where no address is allowed, the database is left alone.
    kept = OwnWriter.objects.filter(workspace=workspace).first() if settings.WRITERS else None
    return Endpoint(kept.address, kept.model, unseal(kept.key)) if kept and is_allowed(kept.address) else None
