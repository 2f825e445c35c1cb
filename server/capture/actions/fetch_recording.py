"""Have a recording or a transcript fetched from an address, and made a meeting of."""

from __future__ import annotations

from dataclasses import asdict
from datetime import datetime
from typing import Any
from uuid import UUID

from procrastinate import JobContext, RetryStrategy
from procrastinate.contrib.django import app

from core.problems import InputProblem
from server.accounts.models import Membership
from server.acting import acting
from server.capture.actions.take_upload import Given, take_upload
from server.capture.fetching import fetched
from server.capture.models import Fetched, FetchedState
from server.outward import settled
from server.pipeline.work import Queue, fresh_connections
from server.problems import AWAY, Refused
from server.sealing import seal, unseal
from server.sharing.policy import Can

TRIES = 8
"""With growing pauses: some hours."""
MOST_WAITING = 60


class Later(Exception):
    """It could not be had just now."""


def ask_fetch(membership: Membership, address: str, given: Given) -> Fetched:
    """It is fetched by a job. Raises Refused for an address that is none."""
    with acting(membership, Can.ADD, "ask for fetch"):
        try:
            address = settled(address, secret=False)
        except InputProblem as problem:
            raise Refused(422, str(problem)) from problem
        if membership.fetched.filter(state=FetchedState.WAITING).count() >= MOST_WAITING:
            raise Refused(429, f"{MOST_WAITING} files are being fetched for you already. Wait until some are there.")
        said = {**asdict(given), "started_at": given.started_at.isoformat()}
        made = Fetched.objects.create(membership=membership, address=seal(address), given=said)
        fetch_recording.defer(fetched_id=str(made.pk))
    return made


@app.task(
    name="fetch recording",
    queue=Queue.INTAKE,
    pass_context=True,
    retry=RetryStrategy(max_attempts=TRIES - 1, exponential_wait=5, retry_exceptions={Later, *AWAY}),
)
def fetch_recording(context: JobContext, fetched_id: str) -> None:
    """One, on the queue."""
    with fresh_connections():
        fetch_now(UUID(fetched_id), last=context.job.attempts >= TRIES - 1)


def fetch_now(key: UUID, *, last: bool) -> None:
    """One, here and now; after the last try it is given up. Raises Later."""
    row = Fetched.objects.select_related("membership__user", "membership__workspace").filter(pk=key, state=FetchedState.WAITING).first()
    if row is None:
        return
    given: dict[str, Any] = {**row.given, "started_at": datetime.fromisoformat(row.given["started_at"])}
    try:
        with fetched(row.membership.user, unseal(row.address)) as upload:
            meeting = take_upload(row.membership, upload.pk, Given(**given))
    except InputProblem as problem:
        told = f"{problem} It is given up." if last else str(problem)
        Fetched.objects.filter(pk=key).update(words=told[:400], state=FetchedState.REFUSED if last else FetchedState.WAITING)
        if not last:
            raise Later from problem
    except Refused as refused:
        Fetched.objects.filter(pk=key).update(state=FetchedState.REFUSED, words=refused.detail[:400])
    else:
        Fetched.objects.filter(pk=key).update(state=FetchedState.TAKEN, words="", meeting=meeting, address="")
