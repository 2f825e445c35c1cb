"""The recording of a call is fetched, and becomes a meeting of those who spoke."""

from __future__ import annotations

from procrastinate import JobContext, RetryStrategy
from procrastinate.contrib.django import app

from core.media import probe
from core.problems import InputProblem
from server.capture.actions.take_upload import Given, take_upload
from server.capture.fetching import fetched
from server.capture.models import Recording
from server.capture.uploads import path_of
from server.pipeline.work import Queue, fresh_connections
from server.problems import AWAY, Refused
from server.sealing import unseal
from server.telephone.models import Rang, RangState

TRIES = 8
"""With growing pauses: some hours."""


class Later(Exception):
    """It could not be had just now."""


@app.task(
    name="fetch call",
    queue=Queue.CALENDARS,
    pass_context=True,
    retry=RetryStrategy(max_attempts=TRIES - 1, exponential_wait=5, retry_exceptions={Later, *AWAY}),
)
def fetch_call(context: JobContext, call_id: int) -> None:
    """Fetch one, on the queue."""
    with fresh_connections():
        fetch(call_id, last=context.job.attempts >= TRIES - 1)


def fetch(call_id: int, *, last: bool) -> None:
    """Fetch one, here and now; what is in the way is told on the page, and after the last try it is given up. Raises Later."""
    call = Rang.objects.select_related("dialer__membership__user", "dialer__membership__workspace").filter(pk=call_id).first()
    if call is None or call.state != RangState.WAITING:
        return
    try:
        _take(call)
    except InputProblem as problem:
        told = f"{problem} It is given up." if last else str(problem)
        Rang.objects.filter(pk=call_id).update(words=told[:400], state=RangState.REFUSED if last else RangState.WAITING)
        if not last:
            raise Later from problem
    except Refused as refused:
        Rang.objects.filter(pk=call_id).update(state=RangState.REFUSED, words=refused.detail[:400])


def _take(call: Rang) -> None:
    """Raises InputProblem where it cannot be had, Refused where it is of no use."""
    membership = call.dialer.membership
    people = [one for one in call.people if one]
    with fetched(membership.user, unseal(call.recording), "call") as upload:
        title = f"Call: {' and '.join(people)}" if people else "Call"
        channels = probe(path_of(upload)).channels if upload.size else 0
        given = Given(title, call.begun_at, membership.user.time_zone or "UTC", people, visibility=call.dialer.visibility)
        meeting = take_upload(membership, upload.pk, given)
    if channels == 2 and len(people) == 2:
        # Who called is on the first channel, who was called on the second (common practice).
        Recording.objects.filter(meeting=meeting).update(speakers=people)
    Rang.objects.filter(pk=call.pk).update(state=RangState.TAKEN, words="", meeting=meeting)
