"""Keeping a connection: what it has for itself at the other side, no other may have."""

from __future__ import annotations

from django.db import IntegrityError, transaction

from server.connections.models import Connection
from server.problems import Refused


def keep(connection: Connection) -> None:
    """In a transaction that is open. Raises Refused where another connection claims the same, in whichever workspace."""
    try:
        with transaction.atomic():
            connection.save()
    except IntegrityError as error:
        raise Refused(409, "Another connection has this place already, here or in another workspace. Choose another place there, or have it let go there first.") from error
