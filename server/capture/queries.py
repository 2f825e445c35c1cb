"""How a capture stands: on or off the record, what has arrived, where the gaps are, who agreed."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from django.db.models import Sum, TextChoices
from django.utils import timezone

from core.media.chunks import CAPTURE_RATE, Samples, left_before
from server.accounts.models import Membership
from server.capture.models import Capture, Consent, Laid, Picture, Recording, Stretch
from server.meetings.models import Meeting
from server.problems import Refused


class CaptureState(TextChoices):
    """On the record; off the record; stopped while something is still to arrive; stopped, and all of it is here."""

    ON = "on"
    OFF = "off"
    STOPPING = "stopping"
    STOPPED = "stopped"


@dataclass(frozen=True)
class Gap:
    """Off the record: at which second of the record, for how many seconds of the clock (None while it lasts), and why."""

    at: float
    length: float | None
    reason: str


def begins_at(capture: Capture, stretch: Stretch) -> float:
    """The second of the record at which a stretch begins."""
    return (capture.stretches.filter(number__lt=stretch.number).aggregate(all=Sum("samples"))["all"] or 0) / CAPTURE_RATE


def state_of(capture: Capture) -> CaptureState:
    """How it stands."""
    if capture.stopped_at:
        return CaptureState.STOPPED if capture.meeting.stage_runs.exists() else CaptureState.STOPPING
    last = capture.stretches.last()
    return CaptureState.ON if last and last.chunks is None else CaptureState.OFF


def gaps_of(capture: Capture) -> list[Gap]:
    """The gaps between stretches, and the one after the last while nothing is captured."""
    gaps: list[Gap] = []
    at, before = 0.0, None
    for stretch in capture.stretches.all():
        if before is not None:
            ended = before.begun_at.timestamp() + before.samples / CAPTURE_RATE
            if before.ended_by != Stretch.End.MORE:
                gaps.append(Gap(at, max(0.0, stretch.begun_at.timestamp() - ended), before.ended_by))
        at += stretch.samples / CAPTURE_RATE
        before = stretch
    if before is not None and before.chunks is not None and capture.stopped_at is None:
        gaps.append(Gap(at, None, before.ended_by))
    return gaps


def refuse_withheld(recording: Recording) -> None:
    """Raises Refused while something that was struck is still in the recording's files."""
    if recording.withheld:
        raise Refused(409, "Something was struck from this meeting. Its sound is being made anew without it; try again in a moment.")


_SHOWN = {"h264", "vp8", "vp9", "av1"}
"""Pictures, by FFmpeg's names, that today's browsers show in the containers below; of others only the sound is played (common practice)."""
_CONTAINERS = ("mov,mp4", "matroska,webm")


def shows_picture(recording: Recording) -> bool:
    """Has a recording a picture that a browser shows?"""
    facts = recording.facts
    return facts.get("picture") in _SHOWN and str(facts.get("container", "")).startswith(_CONTAINERS)


def seconds_of(capture: Capture) -> float:
    """Seconds on the record that have arrived."""
    return (capture.stretches.aggregate(all=Sum("samples"))["all"] or 0) / CAPTURE_RATE


def pictures_of(capture: Capture) -> list[tuple[Picture, float]]:
    """The pictures of the screen, each with the second of the record from which it is shown."""
    return list(_placed(capture, "pictures"))


def messages_of(capture: Capture) -> list[tuple[float, str, str]]:
    """What was written into the chat of a call: the second of the record, who, what."""
    names = {one.name: one.called for one in capture.participants.select_related("person")}
    return [(at, names.get(message.name, message.name), message.text) for message, at in _placed(capture, "messages")]


def laid_in(capture: Capture) -> list[tuple[Laid, str, float]]:
    """The files of a call's chat, each with whose it is and the second of the record at which it was put there."""
    names = {one.name: one.called for one in capture.participants.select_related("person")}
    return [(laid, names.get(laid.name, laid.name), at) for laid, at in _placed(capture, "laid")]


def _placed(capture: Capture, what: str) -> Iterator[tuple[Any, float]]:
    """What belongs to a sample of a stretch, with its second of the record; nothing of what lies in struck ones."""
    before = 0
    for stretch in capture.stretches.prefetch_related("struck", what):
        struck = [Samples(part.first, part.end) for part in stretch.struck.all()]
        for one in getattr(stretch, what).all():
            place = left_before(one.at, struck)
            if place is not None:
                yield one, (before + place) / CAPTURE_RATE
        before += stretch.samples


def answers(meeting: Meeting) -> dict[str, Consent]:
    """The last answer of everyone who answered, by name in lower case."""
    return {one.name.casefold(): one for one in Consent.objects.filter(meeting=meeting).order_by("at", "id")}


def not_agreed(meeting: Meeting) -> list[str]:
    """Those named as present who have not agreed, and anybody who objected; whoever captures agrees by capturing."""
    given = answers(meeting)
    present = meeting.people.exclude(user=meeting.created_by_id).values_list("name", flat=True)
    missing = [name for name in present if not (one := given.get(name.casefold())) or not one.agreed]
    return missing + [one.name for key, one in given.items() if not one.agreed and one.name not in missing]


def minutes_used(membership: Membership) -> int:
    """Minutes of sound taken in this calendar month (UTC) by the workspace."""
    month = timezone.now().replace(day=1, hour=0, minute=0, second=0, microsecond=0)
    taken = Recording.objects.filter(meeting__workspace=membership.workspace, created_at__gte=month).exclude(form=Recording.Form.TRANSCRIPT)
    return int((taken.aggregate(seconds=Sum("duration"))["seconds"] or 0) // 60)


def check_allowance(membership: Membership) -> None:
    """Raises Refused when the workspace has used up the minutes that its admin allows in a month."""
    allowed = membership.workspace.monthly_minutes
    if allowed is None:
        return
    used = minutes_used(membership)
    if used >= allowed:
        raise Refused(
            409, f"This workspace has used {used} of its {allowed} minutes this month. An admin can raise that under Account, Workspace."
        )
