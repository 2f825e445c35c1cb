"""Templates of the workspace's own."""

from __future__ import annotations

from django.db import transaction
from django.utils import timezone

from core.minutes import template_from
from server.accounts.models import Membership
from server.audit.log import log
from server.minutes.models import Template
from server.problems import not_allowed


def keep_template(membership: Membership, data: dict, known: Template | None = None) -> Template:
    """Make a template, or change one. Minutes that were drawn by it change when they are drawn anew. Raises InputProblem."""
    if not membership.writes:
        raise not_allowed("Guests make no templates.")
    checked = template_from(data)
    sections = [
        {
            "key": section.key,
            "heading": section.heading,
            "takes": list(section.takes),
            "speakers": list(section.speakers),
            "topics": list(section.topics),
            "cues": list(section.cues),
            "most": section.most,
        }
        for section in checked.sections
    ]
    with transaction.atomic():
        template = known or Template(workspace=membership.workspace)
        template.title, template.data = checked.title[:120], {"sections": sections}
        template.save()
        log(membership.workspace, membership.user, "keep template", title=template.title)
    return template


def set_removed(membership: Membership, template: Template, removed: bool) -> None:
    """Take a template off the list, or put it back. Minutes drawn by it stay as they are."""
    if not membership.writes:
        raise not_allowed("Guests take no templates away.")
    with transaction.atomic():
        template.removed_at = timezone.now() if removed else None
        template.save(update_fields=["removed_at"])
        log(membership.workspace, membership.user, "remove template" if removed else "restore template", title=template.title)
