"""Decisions and actions, followed through meetings as the ledger follows them: what is carried over is the same thing elsewhere, too."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from datetime import date
from typing import Literal

from ninja import Schema

from server.accounts.models import Membership
from server.connections.models import Subject
from server.connections.subjects.base import MeetingSaid, QuoteSaid, Thing, link_of, told
from server.ledger.models import MatterKind, Step, StepKind, StepState
from server.ledger.queries import Entry, entry_of, worded
from server.meetings.models import Meeting, Person
from server.minutes.actions.send_mail import address_of
from server.minutes.models import FindingStatus, MinutesLine
from server.problems import Refused


class OwnerSaid(Schema):
    """Who is to do it. address: None where none is known."""

    name: str
    address: str | None


class Settled(Schema):
    """A matter as its last meeting left it, with the lines it rests on. link: leads to these."""

    id: int
    text: str
    quotes: list[QuoteSaid]
    meeting: MeetingSaid
    link: str


class ActionContents(Settled):
    """An action."""

    owner: OwnerSaid | None
    due: date | None
    state: Literal["open", "done", "dropped"]


class DecisionContents(Settled):
    """A decision."""

    state: Literal["stands", "done", "dropped"]


def _keys_of(kind: MatterKind) -> Callable[[Membership, Meeting], Iterable[str]]:
    def keys(side: Membership, meeting: Meeting) -> Iterable[str]:
        stands = Step.objects.filter(meeting=meeting, matter__kind=kind).exclude(state=StepState.REFUSED)
        stands = stands.exclude(finding=None, kind=StepKind.MADE).exclude(finding__status__in=[FindingStatus.DISMISSED, FindingStatus.PROPOSED])
        return [str(key) for key in stands.order_by("finding__start", "pk").values_list("matter", flat=True)]

    return keys


def entry(side: Membership, key: str) -> Entry | None:
    """A matter as somebody sees it; None where they see nothing of it, or nothing of it stands."""
    try:
        found = entry_of(side, int(key))
    except Refused:
        return None
    finding = found.current.finding
    return found if finding and finding.status != FindingStatus.DISMISSED else None


def _ended(found: Entry) -> Literal["done", "dropped"] | None:
    """How it is over, if it is. Whose line somebody took out of the minutes, that is dropped."""
    lines = MinutesLine.objects.filter(finding=found.current.finding)
    if found.closed == StepKind.DONE:
        return "done"
    return "dropped" if found.closed or lines.exists() and not lines.filter(removed_at=None).exists() else None


def _quotes(found: Entry) -> list[QuoteSaid]:
    meeting = found.current.meeting
    lines = sorted(found.current.lines.all(), key=lambda line: line.number)
    return [QuoteSaid(who=line.turn.voice.name, text=line.text, at=line.start, link=link_of(meeting, line.start)) for line in lines]


def owner_of(person: Person | None, name: str) -> OwnerSaid | None:
    """Whoever is to do something, told of."""
    return OwnerSaid(name=name, address=address_of(person) or None if person else None) if name else None


def _settled(key: str, found: Entry) -> Settled:
    meeting, finding = found.current.meeting, found.current.finding
    assert finding is not None  # it is by this that the step is the current one
    return Settled(id=int(key), text=worded(found.current), quotes=_quotes(found), meeting=told(meeting), link=link_of(meeting, finding.start))


def _action(side: Membership, key: str) -> tuple[Meeting, Schema] | None:
    found = entry(side, key)
    if found is None or found.current.finding is None:
        return None
    finding = found.current.finding
    owner = owner_of(finding.owner, finding.owner_name)
    return found.current.meeting, ActionContents(**dict(_settled(key, found)), owner=owner, due=finding.due, state=_ended(found) or "open")


def _decision(side: Membership, key: str) -> tuple[Meeting, Schema] | None:
    found = entry(side, key)
    return (found.current.meeting, DecisionContents(**dict(_settled(key, found)), state=_ended(found) or "stands")) if found else None


ACTIONS = Thing(Subject.ACTION, ActionContents, _keys_of(MatterKind.ACTION), _action)
DECISIONS = Thing(Subject.DECISION, DecisionContents, _keys_of(MatterKind.DECISION), _decision)
