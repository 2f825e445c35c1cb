"""Change how a workspace captures: its notice, consent, minutes a month, kinds of mark, the clerk; how long it keeps what was taken out; how its
members sign in."""

from __future__ import annotations

from core.text import one_line, prose
from server.accounts.current import has_second
from server.accounts.models import Membership, Workspace
from server.acting import acting
from server.problems import Refused
from server.sharing.policy import Can

UNSET = object()


def change_workspace(
    membership: Membership,
    *,
    notices: dict[str, str] | None = None,
    consent_of_all: bool | None = None,
    known_voices: bool | None = None,
    monthly_minutes: int | None | object = UNSET,
    mark_kinds: list[str] | None = None,
    clerk_name: str | None = None,
    clerk_leaves: bool | None = None,
    keep_removed: int | None = None,
    second_factor: bool | None = None,
    provider: str | None = None,
    came_by_it: bool = False,
) -> Workspace:
    """Apply what is given and leave the rest. monthly_minutes: None for no limit; came_by_it: does the caller's own session meet what is asked of all? Raises Refused."""
    given: dict[str, object] = {
        "notices": notices and {language: prose(text).strip() for language, text in notices.items() if text.strip()},
        "consent_of_all": consent_of_all,
        "known_voices": known_voices,
        "clerk_name": clerk_name if clerk_name is None else one_line(clerk_name)[:80],
        "clerk_leaves": clerk_leaves,
        "keep_removed": keep_removed,
        "second_factor": second_factor,
        "provider": provider,
        "mark_kinds": mark_kinds and list(dict.fromkeys(one_line(kind)[:60] for kind in mark_kinds if one_line(kind))),
    }
    changed = {name: value for name, value in given.items() if value is not None}
    if monthly_minutes is not UNSET:
        changed["monthly_minutes"] = monthly_minutes
    with acting(membership, Can.MANAGE, "change workspace", changed=sorted(changed)):
        if second_factor and not has_second(membership.user):
            raise Refused(409, "Set a second factor up for yourself first, under How I sign in: without one you would be shut out as well.")
        if provider and provider != membership.workspace.provider and not came_by_it:
            raise Refused(409, "Come in that way yourself first: else you would be shut out as well.")
        if not changed.get("mark_kinds", True):
            raise Refused(422, "A workspace has at least one kind of mark.")
        workspace = membership.workspace
        for name, value in changed.items():
            setattr(workspace, name, value)
        workspace.save(update_fields=list(changed))
    return workspace
