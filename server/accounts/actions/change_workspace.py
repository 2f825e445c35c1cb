"""Change how a workspace captures: its notice, consent, minutes a month, kinds of mark."""

from __future__ import annotations

from django.db import transaction

from server.accounts.models import Membership, Workspace
from server.audit.log import log
from server.problems import Refused, not_allowed

UNSET = object()


def change_workspace(
    membership: Membership,
    *,
    notices: dict[str, str] | None = None,
    consent_of_all: bool | None = None,
    known_voices: bool | None = None,
    monthly_minutes: int | None | object = UNSET,
    mark_kinds: list[str] | None = None,
) -> Workspace:
    """Apply what is given and leave the rest. monthly_minutes: None for no limit. Raises Refused."""
    if not membership.manages:
        raise not_allowed("Only owners and admins change the workspace. Ask one of them.")
    workspace, changed = membership.workspace, []
    if notices is not None:
        workspace.notices = {language: text.strip() for language, text in notices.items() if text.strip()}
        changed.append("notices")
    if consent_of_all is not None:
        workspace.consent_of_all = consent_of_all
        changed.append("consent_of_all")
    if known_voices is not None:
        workspace.known_voices = known_voices
        changed.append("known_voices")
    if monthly_minutes is not UNSET:
        workspace.monthly_minutes = monthly_minutes
        changed.append("monthly_minutes")
    if mark_kinds is not None:
        kinds = list(dict.fromkeys(kind.strip() for kind in mark_kinds if kind.strip()))
        if not kinds:
            raise Refused(422, "A workspace has at least one kind of mark.")
        workspace.mark_kinds = kinds
        changed.append("mark_kinds")
    with transaction.atomic():
        workspace.save(update_fields=changed)
        log(workspace, membership.user, "change workspace", changed=changed)
    return workspace
