"""Templates: those that come with the program, and the workspace's own."""

from __future__ import annotations

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from core.minutes import BUILT_IN
from server.accounts.current import membership_of, signed_in
from server.accounts.models import Membership, Workspace
from server.answers import Answer
from server.minutes.actions.keep_template import keep_template, set_removed
from server.minutes.models import Template as Own
from server.minutes.queries import OWN, find_template
from server.problems import Refused
from server.sharing.policy import Can, may

router = Router(tags=["templates"], auth=signed_in)


class TemplateSectionIn(Schema):
    key: str = ""
    heading: str = Field(max_length=120)
    takes: list[str] = []
    speakers: list[str] = []
    topics: list[str] = []
    cues: list[str] = []
    most: int = 30


class MinutesTemplateIn(Schema):
    title: str = Field(max_length=120)
    sections: list[TemplateSectionIn] = Field(max_length=30)


class MinutesTemplateOut(Schema):
    name: str
    title: str
    own: bool
    sections: list[TemplateSectionIn]


def _out(workspace: Workspace, name: str) -> dict:
    template = find_template(workspace, name)
    if template is None:
        raise Refused(404, "There is no such template any more. Look at the templates again.")
    return {"name": name, "title": template.title, "own": name.startswith(OWN), "sections": list(template.sections)}


def _own(request: HttpRequest, name: str) -> tuple[Membership, Own]:
    membership = membership_of(request)
    key = name.removeprefix(OWN)
    found = Own.objects.filter(workspace=membership.workspace, pk=int(key)).first() if name.startswith(OWN) and key.isdigit() else None
    if found is None:
        raise Refused(
            404, "There is no such template of your own. Those that come with the program stay as they are; copy one and change the copy."
        )
    return membership, found


@router.get("", response=list[MinutesTemplateOut])
def templates(request: HttpRequest) -> Answer:
    """All templates, the workspace's own first."""
    membership = membership_of(request)
    workspace = membership.workspace
    kept = Own.objects.filter(workspace=workspace, removed_at=None) if may(membership, Can.KNOW_TEAM) else ()
    own = [f"{OWN}{row.pk}" for row in kept]
    return [_out(workspace, name) for name in (*own, *BUILT_IN)]


@router.post("", response={201: MinutesTemplateOut})
def make(request: HttpRequest, payload: MinutesTemplateIn) -> Answer:
    """Make a template of our own."""
    membership = membership_of(request)
    row = keep_template(membership, payload.dict())
    return 201, _out(membership.workspace, f"{OWN}{row.pk}")


@router.put("/{name}", response=MinutesTemplateOut)
def change(request: HttpRequest, name: str, payload: MinutesTemplateIn) -> Answer:
    """Change one of our own."""
    membership, known = _own(request, name)
    keep_template(membership, payload.dict(), known)
    return _out(membership.workspace, name)


@router.delete("/{name}", response={204: None})
def remove(request: HttpRequest, name: str) -> Answer:
    """Take one of our own off the list; it can be put back."""
    set_removed(*_own(request, name), True)
    return 204, None


@router.post("/{name}/restore", response={204: None})
def restore(request: HttpRequest, name: str) -> Answer:
    """Put it back."""
    set_removed(*_own(request, name), False)
    return 204, None
