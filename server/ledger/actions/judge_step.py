"""What people say of what a meeting is read to do with a matter."""

from __future__ import annotations

from django.utils import timezone

from server.accounts.models import Membership
from server.acting import acting
from server.capture.queries import seconds_of
from server.ledger.follow import mark_followed
from server.ledger.models import Matter, Step, StepKind, StepState
from server.meetings.models import Meeting
from server.minutes.models import Finding
from server.notify import Part
from server.problems import Refused
from server.record.live import runs_still
from server.sharing.policy import Can

_TELLS = (Part.LEDGER,)


def judge(membership: Membership, step: Step, was: StepState, now: StepState) -> Step:
    """It is right, or wrong, or nobody has said so after all. A matter that is done by it, is done as if it had been ticked. was: what the
    caller saw there. Raises Refused where somebody else has said otherwise meanwhile."""
    with acting(membership, Can.CHANGE, "judge step", step.meeting, tells=_TELLS, kind=step.kind, state=now):
        step = Step.objects.select_for_update(of=("self",)).select_related("matter", "meeting").get(pk=step.pk)
        if step.state != was:
            raise Refused(409, "Somebody else has said so, or otherwise, meanwhile. Look at it again.")
        if step.kind == StepKind.MADE or step.finding_id is not None and now == StepState.REFUSED:
            raise Refused(422, "This is where it was settled. Take it as a matter of its own instead.")
        step.state = now
        step.judged_by, step.judged_at = (None, None) if now == StepState.READ else (membership.user, timezone.now())
        step.save()
        if step.kind == StepKind.DONE:
            _tick(step, now == StepState.CONFIRMED)
        mark_followed([step.matter_id])
    return step


def _tick(step: Step, done: bool) -> None:
    """Where it stands in the minutes too."""
    settling = step.matter.steps.exclude(state=StepState.REFUSED).exclude(finding=None).filter(meeting__started_at__lte=step.meeting.started_at)
    last = settling.order_by("-meeting__started_at", "-pk").first()
    if last and last.finding_id:
        Finding.objects.filter(pk=last.finding_id, done_at__isnull=done).update(done_at=timezone.now() if done else None)


def tick_off(membership: Membership, meeting: Meeting, matter: Matter, kind: StepKind | None) -> None:
    """While a meeting runs: it is done, or given up, as of now; or (None) not after all. Raises Refused."""
    with acting(membership, Can.CHANGE, "tick off matter", meeting, tells=_TELLS, kind=kind):
        if not runs_still(meeting):
            raise Refused(409, "This meeting is over. Say so in the ledger.")
        own = Step.objects.select_for_update(of=("self",)).filter(matter=matter, meeting=meeting).first()
        if own and own.at is None:
            raise Refused(409, "What this meeting does with it is known already.")
        if own:
            if own.kind == StepKind.DONE:
                _tick(own, done=False)
            own.delete()
        if kind is not None:
            now = {"judged_by": membership.user, "judged_at": timezone.now(), "at": seconds_of(meeting.capture)}
            own = Step.objects.create(matter=matter, meeting=meeting, kind=kind, state=StepState.CONFIRMED, **now)
            if kind == StepKind.DONE:
                _tick(own, done=True)
        mark_followed([matter.pk])


def part(membership: Membership, step: Step) -> Matter:
    """What a meeting settles is a matter of its own, and not another's. Raises Refused."""
    with acting(membership, Can.CHANGE, "part matter", step.meeting, tells=_TELLS, kind=step.matter.kind):
        step = Step.objects.select_for_update(of=("self",)).select_related("matter", "meeting").get(pk=step.pk)
        if step.finding_id is None or step.kind == StepKind.MADE:
            raise Refused(422, "Nothing is settled there that could be a matter of its own.")
        old = step.matter
        step.matter = Matter.objects.create(workspace_id=old.workspace_id, kind=old.kind)
        step.kind, step.state = StepKind.MADE, StepState.CONFIRMED
        step.judged_by, step.judged_at = membership.user, timezone.now()
        step.save()
        # So that it is not joined again when the meeting is read anew.
        Step.objects.create(
            matter=old, meeting=step.meeting, kind=StepKind.CARRIED, state=StepState.REFUSED, judged_by=membership.user, judged_at=timezone.now()
        )
        mark_followed([old.pk, step.matter_id])
    return step.matter


def join(membership: Membership, step: Step, into: Matter) -> Matter:
    """What a meeting settles is another matter, settled anew. Raises Refused."""
    with acting(membership, Can.CHANGE, "join matter", step.meeting, tells=_TELLS, kind=step.matter.kind):
        step = Step.objects.select_for_update(of=("self",)).select_related("matter", "meeting").get(pk=step.pk)
        if step.matter.kind != into.kind or step.matter.workspace_id != into.workspace_id or step.matter_id == into.pk:
            raise Refused(422, "Only two decisions, or two actions, can be one matter.")
        Step.objects.filter(matter=into, meeting=step.meeting, state=StepState.REFUSED).delete()
        if into.steps.filter(meeting=step.meeting).exclude(pk=step.pk).exists():
            raise Refused(409, "This meeting has a step of that matter already.")
        earlier = into.steps.filter(meeting__started_at__lte=step.meeting.started_at).exists()
        if not earlier or step.matter.steps.exclude(pk=step.pk).exclude(state=StepState.REFUSED).exists():
            raise Refused(422, "A matter can be joined to an earlier one, as long as nothing else has become of it.")
        old = step.matter
        step.matter, step.kind, step.state = into, StepKind.CHANGED, StepState.CONFIRMED
        step.judged_by, step.judged_at = membership.user, timezone.now()
        step.save()
        old.delete()
        mark_followed([into.pk])
    return into


