"""Templates of the workspace's own."""

from __future__ import annotations

from django.utils import timezone

from core.minutes import template_from
from core.text import one_line
from server.accounts.models import Membership
from server.acting import acting
from server.minutes.models import Template
from server.sharing.policy import Can, require


def keep_template(membership: Membership, data: dict, known: Template | None = None) -> Template:
    """Make a template, or change one. Minutes that were drawn by it change when they are drawn anew. Raises InputProblem."""
    require(membership, Can.ARRANGE)
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
    title = one_line(checked.title)[:120]
    with acting(membership, Can.ARRANGE, "keep template", sections=len(sections)):
        template = known or Template(workspace=membership.workspace)
        template.title, template.data = title, {"sections": sections}
        template.save()
    return template


def set_removed(membership: Membership, template: Template, removed: bool) -> None:
    """Take a template off the list, or put it back. Minutes drawn by it stay as they are."""
    with acting(membership, Can.ARRANGE, "remove template" if removed else "restore template", template=template.pk):
        template.removed_at = timezone.now() if removed else None
        template.save(update_fields=["removed_at"])
