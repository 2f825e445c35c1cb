"""What a role lets one do. Nothing else compares roles: a verb requires a right, the API tells which rights one has."""

from __future__ import annotations

from dataclasses import dataclass

from django.db.models import TextChoices

from server.accounts.models import Membership, Role
from server.meetings.models import Meeting
from server.problems import not_allowed


class Can(TextChoices):
    """A right. Those from CHANGE on are rights in a meeting; whether one sees it at all is `server.sharing.visibility`."""

    ADD = "add"
    ARRANGE = "arrange"
    KNOW_TEAM = "know team"
    SEE_SHARED = "see shared"
    MANAGE = "manage"
    CROWN = "crown"
    CHANGE = "change"
    STRIKE = "strike"
    SEND = "send"
    GOVERN = "govern"


REFUSALS: dict[Can, str] = {
    Can.ADD: "Guests do not capture and give no files. Ask a member to.",
    Can.ARRANGE: "What a workspace keeps, such as its words and templates, is changed by its members. Ask one of them.",
    Can.KNOW_TEAM: "Who is in this workspace, and what it keeps, is shown to its members.",
    Can.SEE_SHARED: "What is shared with the workspace is shown to its members.",
    Can.MANAGE: "Only owners and admins invite people and change the workspace. Ask one of them.",
    Can.CROWN: "Only an owner makes or unmakes owners.",
    Can.CHANGE: "Guests read meetings and write notes for themselves; they change nothing. Ask a member to.",
    Can.STRIKE: "Guests strike nothing. Ask a member to.",
    Can.SEND: "Guests send no mail from a meeting. Ask a member to.",
    Can.GOVERN: "Who sees a meeting, and whether it is in the library, is set by whoever made it, or by an admin.",
}
"""What is said to somebody without the right, and what to do."""


@dataclass(frozen=True)
class Rights:
    """Rights in every meeting that one sees and in the workspace, and more of them in meetings that one made."""

    everywhere: frozenset[Can] = frozenset()
    own: frozenset[Can] = frozenset()


_MEMBER = frozenset({Can.ADD, Can.ARRANGE, Can.KNOW_TEAM, Can.SEE_SHARED, Can.CHANGE, Can.STRIKE, Can.SEND})

RIGHTS: dict[str, Rights] = {
    Role.OWNER: Rights(frozenset(Can)),
    Role.ADMIN: Rights(frozenset(Can) - {Can.CROWN}),
    Role.MEMBER: Rights(_MEMBER, own=frozenset({Can.GOVERN})),
    Role.GUEST: Rights(),
}
"""Role → what it lets one do. Another role is another entry here and in `Role`."""


def rights_of(membership: Membership, meeting: Meeting | None = None) -> frozenset[Can]:
    """The rights of a member, in a meeting of their workspace where one is given."""
    rights = RIGHTS[membership.role]
    if meeting is None:
        return rights.everywhere
    if meeting.workspace_id != membership.workspace_id:
        return frozenset()
    return rights.everywhere | rights.own if meeting.created_by_id == membership.user_id else rights.everywhere


def may(membership: Membership, can: Can, meeting: Meeting | None = None) -> bool:
    """Has a member a right?"""
    return can in rights_of(membership, meeting)


def require(membership: Membership, can: Can, meeting: Meeting | None = None) -> None:
    """Raises Refused, in the words of REFUSALS, where a member has not the right."""
    if not may(membership, can, meeting):
        raise not_allowed(REFUSALS[can])
