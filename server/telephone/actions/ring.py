"""A telephone system tells of a call that it has recorded."""

from __future__ import annotations

from datetime import datetime

from server.acting import acting
from server.sealing import seal
from server.telephone.models import Dialer, Rang
from server.telephone.tasks import fetch_call


def note_call(dialer: Dialer, key: str, begun_at: datetime, people: list[str], recording: str) -> Rang:
    """Note it, and have its recording fetched. The same call again changes nothing."""
    with acting(None, None, "call told") as act:
        facts = {"begun_at": begun_at, "people": people, "recording": seal(recording)}
        call, new = Rang.objects.get_or_create(dialer=dialer, key=key, defaults=facts)
        if new:
            fetch_call.defer(call_id=call.pk)
        else:
            act.nothing()
    return call
