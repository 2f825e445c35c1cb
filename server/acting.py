"""The frame of every verb: the right is checked, then, in one transaction with the meeting's row locked, it is done, written into
the audit, told to those who look, and the work that it makes necessary is queued."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field

from django.db import transaction

from server.accounts.models import Membership
from server.audit.log import log
from server.meetings.models import Meeting
from server.notify import Part, notify
from server.pipeline.work import Change, begin_after
from server.sharing.policy import Can, require


@dataclass
class Act:
    """What is being done, for the verb to say more of."""

    detail: dict
    parts: set[Part]
    changes: set[Change] = field(default_factory=set)
    idle: bool = False

    def note(self, **detail: object) -> None:
        """More for the audit entry; never words of a meeting."""
        self.detail.update(detail)

    def tells(self, *parts: Part) -> None:
        """More parts of the meeting that are new."""
        self.parts.update(parts)

    def changed(self, change: Change) -> None:
        """What rested on it is made anew."""
        self.changes.add(change)

    def nothing(self) -> None:
        """It turned out that nothing is to be done: nothing is noted or told."""
        self.idle = True


def lock(meeting: Meeting) -> None:
    """Nobody else changes this meeting until the transaction that is open ends.

    Always the first lock: after it a capture's, after that those of stages. "No key", since every row that refers to the meeting would
    otherwise wait for it, and two that hold such rows and want the lock would wait for each other.
    """
    list(Meeting.objects.select_for_update(no_key=True).filter(pk=meeting.pk).values_list("pk"))


@contextmanager
def acting(
    membership: Membership | None,
    can: Can | None,
    verb: str,
    meeting: Meeting | None = None,
    *,
    tells: tuple[Part, ...] = (),
    after: Change | None = None,
    **detail: object,
) -> Iterator[Act]:
    """Do a verb. membership: None where somebody from outside does it, or the program. can: None where the verb has a rule of its own.

    after: the change it is, so that the stages that rest on it are done again. Raises Refused.
    """
    if membership is not None and can is not None:
        require(membership, can, meeting)
    with transaction.atomic():
        if meeting is not None:
            lock(meeting)
        act = Act(dict(detail), set(tells), {after} if after else set())
        yield act
        if act.idle:
            return
        if membership is not None:
            log(membership.workspace, membership.user, verb, meeting, **act.detail)
        elif meeting is not None:
            log(meeting.workspace, None, verb, meeting, **act.detail)
        if meeting is None:
            return
        for change in act.changes:
            begin_after(meeting, change)
        if act.parts:
            notify(meeting.pk, *sorted(act.parts))
