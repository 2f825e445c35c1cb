"""Me, my workspace, its members and invitations."""

from __future__ import annotations

import io
from datetime import datetime
from typing import Annotated

import segno
from allauth.mfa.adapter import get_adapter
from allauth.mfa.totp.internal.auth import SECRET_SESSION_KEY
from django.contrib.auth import login
from django.core.exceptions import ValidationError
from django.core.validators import validate_email
from django.http import HttpRequest, HttpResponse
from django.middleware.csrf import get_token
from ninja import Router, Schema
from pydantic import Field, field_validator

from server.accounts.current import (
    WORKSPACE_KEY,
    anybody,
    came_by,
    lacks_provider,
    lacks_second,
    membership_of,
    place_of,
    signed_in,
    user_of,
)
from server.accounts.models import FirstStep, Invitation, Membership, Role, User
from server.answers import Answer
from server.bounds import Name, Number, Prose
from server.capture.notices import texts_of
from server.capture.queries import minutes_used
from server.convening.api import Zoned
from server.document import answers
from server.door.actions.accept import accept
from server.door.actions.change_role import change_role
from server.door.actions.change_workspace import change_workspace
from server.door.actions.found import found, may_found
from server.door.actions.invite import find_invitation, invite
from server.door.actions.remove_member import remove_member
from server.door.actions.withdraw import withdraw
from server.door.adapter import AccountAdapter
from server.door.provider import providers
from server.languages import Language
from server.meetings.leaving import made_by
from server.meetings.models import Visibility
from server.problems import Refused
from server.sharing.policy import Can, require, rights_of
from server.sharing.usual import customs_of

router = Router(tags=["accounts"])


class WhereIAmIn(Zoned):
    """language: of the interface there."""

    time_zone: str = Field(max_length=64)
    language: Language | None = None


class MeOut(Schema):
    """time_zone: where I was last, "" before I have been anywhere; of meetings that come by themselves it is theirs. language: in which I am written to."""

    email: str
    name: str
    time_zone: str
    language: str
    initials: str
    workspace: str | None
    workspaces: list[WorkspaceOut]
    role: Role | None
    can: list[Can]
    may_found: bool
    first_steps: list[FirstStep]
    settled_in: bool
    usual_visibility: Visibility
    """Of meetings that I make."""
    second_wanted: bool
    """Nothing of the workspace is shown until I have a second factor."""
    provider_wanted: str
    """Nor until I came in by way of this provider; "" where I did, or need not."""


class WorkspaceOut(Schema):
    id: int
    name: str


class CapturingOut(Schema):
    notices: dict[str, str]
    consent_of_all: bool
    known_voices: bool
    monthly_minutes: int | None
    minutes_used: int
    mark_kinds: list[str]
    clerk_name: str
    clerk_leaves: bool
    keep_removed: int
    second_factor: bool
    provider: str


class CapturingPatch(Schema):
    notices: dict[Annotated[str, Field(pattern="^[a-z]{2,3}$")], Prose] | None = None
    consent_of_all: bool | None = None
    known_voices: bool | None = None
    monthly_minutes: Number | None = None
    mark_kinds: list[Name] | None = Field(None, max_length=6)
    clerk_name: Name | None = Field(None, max_length=80)
    clerk_leaves: bool | None = None
    keep_removed: int | None = Field(None, ge=1, le=365)
    second_factor: bool | None = None
    provider: str | None = Field(None, max_length=40)


class ProviderOut(Schema):
    id: str
    name: str


class DoorOut(Schema):
    """providers: by way of whom one can come in, too."""

    sign_up_open: bool
    providers: list[ProviderOut]


class NameIn(Schema):
    name: Annotated[Name, Field(min_length=1, max_length=120)]


class FirstStepsIn(Schema):
    done: list[FirstStep] = Field(max_length=len(FirstStep))
    settled_in: bool


class MemberOut(Schema):
    id: int
    name: str
    email: str
    role: Role


class InvitationIn(Schema):
    email: str = Field(max_length=254)
    role: Role = Role.MEMBER

    @field_validator("email")
    @classmethod
    def real_address(cls, value: str) -> str:
        """An address that mail can be sent to."""
        try:
            validate_email(value.strip())
        except ValidationError as error:
            raise ValueError(f"{value!r} is no e-mail address") from error
        return value.strip()


class InvitationOut(Schema):
    id: int
    email: str
    role: Role
    ends_at: datetime


class InvitedOut(Schema):
    workspace: str
    email: str
    has_account: bool


class AcceptIn(Schema):
    name: Annotated[Name, Field(max_length=120)] = ""
    password: str = Field("", max_length=200)


@router.get("/door", response=DoorOut, auth=anybody)
def door(request: HttpRequest) -> Answer:
    """May strangers sign up? Also hands out the CSRF cookie."""
    get_token(request)
    return {"sign_up_open": AccountAdapter().is_open_for_signup(request), "providers": providers()}


@router.get("/me", response=MeOut, auth=signed_in)
def me(request: HttpRequest) -> Answer:
    """Who I am, and where."""
    get_token(request)
    memberships = list(Membership.objects.filter(user=user_of(request)).select_related("workspace").order_by("id"))
    current = place_of(request) if memberships else None
    user = user_of(request)
    return {
        "email": user.email,
        "name": user.name,
        "time_zone": user.time_zone,
        "language": user.language,
        "initials": user.initials,
        "workspace": current and current.workspace.name,
        "role": current and current.role,
        "can": sorted(rights_of(current)) if current else [],
        "may_found": may_found(user),
        "first_steps": current.first_steps if current else [],
        "second_wanted": current is not None and lacks_second(current),
        "provider_wanted": lacks_provider(request, current) if current else "",
        "usual_visibility": customs_of(current.workspace, user.pk, None).visibility if current else Visibility.NAMED,
        "settled_in": current is None or current.settled_in,
        "workspaces": [{"id": m.workspace_id, "name": m.workspace.name} for m in memberships],
    }


@router.patch("/me", response=MeOut, auth=signed_in)
def rename_me(request: HttpRequest, payload: NameIn) -> Answer:
    """Change my name."""
    user = user_of(request)
    user.name = payload.name
    user.save(update_fields=["name"])
    return me(request)


@router.put("/me/where", response={204: None}, auth=signed_in)
def move_me(request: HttpRequest, payload: WhereIAmIn) -> Answer:
    """Say where I am, and in which language: what the program does for me by itself has the time of there, and its mail is in that."""
    user = user_of(request)
    user.time_zone, user.language = payload.time_zone, payload.language or user.language
    user.save(update_fields=["time_zone", "language"])
    return 204, None


@router.put("/me/first-steps", response=MeOut, auth=signed_in)
def take_first_steps(request: HttpRequest, payload: FirstStepsIn) -> Answer:
    """Keep which of the first steps I have done here, and whether I want to see them."""
    membership = membership_of(request)
    membership.first_steps = [step for step in FirstStep if step in payload.done]
    membership.settled_in = payload.settled_in
    membership.save(update_fields=["first_steps", "settled_in"])
    return me(request)


@router.get("/me/totp.svg", response={200: None}, auth=signed_in, openapi_extra=answers("image/svg+xml"))
def totp_picture(request: HttpRequest) -> Answer:
    """The secret that I am about to give an app, as a picture to photograph."""
    secret = request.session.get(SECRET_SESSION_KEY)
    if not secret:
        raise Refused(404, "Nothing is being set up. Begin under Account, How I sign in.")
    drawn = io.BytesIO()
    segno.make(get_adapter().build_totp_url(user_of(request), secret), error="m").save(drawn, kind="svg", border=2, scale=5, xmldecl=False, light="#ffffff")
    return HttpResponse(drawn.getvalue(), content_type="image/svg+xml", headers={"Cache-Control": "no-store"})


@router.get("/workspace", response=CapturingOut, auth=signed_in)
def workspace(request: HttpRequest) -> Answer:
    """How my workspace captures."""
    membership = membership_of(request)
    require(membership, Can.KNOW_TEAM)
    return _capturing(membership)


@router.patch("/workspace", response=CapturingOut, auth=signed_in)
def patch_workspace(request: HttpRequest, payload: CapturingPatch) -> Answer:
    """Change how it captures."""
    membership = membership_of(request)
    given = payload.dict(exclude_unset=True)
    provider = given.get("provider")
    if provider and provider != membership.workspace.provider and provider not in [one["id"] for one in providers()]:
        raise Refused(422, "Nobody of that name says here who somebody is. Ask whoever runs this server.")
    change_workspace(membership, **given, came_by_it=came_by(request, membership.user, provider or ""))
    return _capturing(membership)


def _capturing(membership: Membership) -> dict:
    kept = membership.workspace
    return {
        "notices": texts_of(kept),
        "consent_of_all": kept.consent_of_all,
        "known_voices": kept.known_voices,
        "monthly_minutes": kept.monthly_minutes,
        "minutes_used": minutes_used(membership),
        "mark_kinds": kept.mark_kinds,
        "clerk_name": kept.clerk_name,
        "clerk_leaves": kept.clerk_leaves,
        "keep_removed": kept.keep_removed,
        "second_factor": kept.second_factor,
        "provider": kept.provider,
    }


@router.post("/workspaces", response=MeOut, auth=signed_in)
def found_workspace(request: HttpRequest, payload: NameIn) -> Answer:
    """Make a workspace and go there."""
    request.session[WORKSPACE_KEY] = found(user_of(request), payload.name).workspace_id
    return me(request)


@router.post("/workspaces/{workspace_id}/enter", response=MeOut, auth=signed_in)
def enter_workspace(request: HttpRequest, workspace_id: int) -> Answer:
    """Go to another of my workspaces."""
    if not Membership.objects.filter(user=user_of(request), workspace=workspace_id).exists():
        raise Refused(404, "There is no such workspace of yours.")
    request.session[WORKSPACE_KEY] = workspace_id
    return me(request)


def _member(member: Membership) -> dict:
    return {"id": member.pk, "name": member.user.called, "email": member.user.email, "role": member.role}


@router.get("/members", response=list[MemberOut], auth=signed_in)
def members(request: HttpRequest) -> Answer:
    """Everyone in the workspace."""
    membership = membership_of(request)
    require(membership, Can.KNOW_TEAM)
    found_members = Membership.objects.filter(workspace=membership.workspace, user__machine=False).select_related("user").order_by("user__name")
    return [_member(one) for one in found_members]


class LeavingOut(Schema):
    """What a member has here. alone: meetings that nobody else sees; links: that lead somewhere, and will not any more."""

    meetings: int
    alone: int
    links: int


class HeirIn(Schema):
    """heir: the key of a member to whom it goes; None: it stays as it is."""

    heir: Number | None = None


class RoleIn(Schema):
    role: Role


@router.patch("/members/{member_id}", response=MemberOut, auth=signed_in)
def set_role(request: HttpRequest, member_id: int, payload: RoleIn) -> Answer:
    """Give a member another role."""
    membership = membership_of(request)
    return _member(change_role(membership, _of_workspace(membership, member_id), payload.role))


def _of_workspace(membership: Membership, key: int) -> Membership:
    member = Membership.objects.filter(pk=key, workspace=membership.workspace).select_related("user", "workspace").first()
    if member is None:
        raise Refused(404, "There is no such member.")
    return member


@router.get("/members/{member_id}/leaving", response=LeavingOut)
def leaving_what(request: HttpRequest, member_id: int) -> Answer:
    """What somebody leaves behind, before their place is taken away."""
    membership = membership_of(request)
    member = _of_workspace(membership, member_id)
    if member.pk != membership.pk:
        require(membership, Can.MANAGE)
    meetings, alone = made_by(member)
    return {"meetings": meetings, "alone": alone, "links": member.links.filter(revoked_at=None).count()}


@router.post("/members/{member_id}/remove", response={204: None})
def take_place_away(request: HttpRequest, member_id: int, payload: HeirIn) -> Answer:
    """Take a member's place away, or give up my own."""
    membership = membership_of(request)
    member = _of_workspace(membership, member_id)
    remove_member(membership, member, _of_workspace(membership, payload.heir) if payload.heir else None)
    return 204, None


@router.get("/invitations", response=list[InvitationOut], auth=signed_in)
def invitations(request: HttpRequest) -> Answer:
    """Invitations not taken up yet."""
    membership = membership_of(request)
    require(membership, Can.MANAGE)
    return Invitation.objects.filter(workspace=membership.workspace, accepted_at=None).order_by("-id")


@router.post("/invitations", response={201: InvitationOut}, auth=signed_in)
def invite_somebody(request: HttpRequest, payload: InvitationIn) -> Answer:
    """Invite an address by mail."""
    return 201, invite(membership_of(request), payload.email, payload.role)


@router.delete("/invitations/{invitation_id}", response={204: None}, auth=signed_in)
def take_back(request: HttpRequest, invitation_id: int) -> Answer:
    """Take an invitation back."""
    withdraw(membership_of(request), invitation_id)
    return 204, None


@router.get("/invited/{token}", response=InvitedOut, auth=anybody)
def invited(request: HttpRequest, token: str) -> Answer:
    """What an invitation is for."""
    get_token(request)
    invitation = find_invitation(token)
    return {
        "workspace": invitation.workspace.name,
        "email": invitation.email,
        "has_account": User.objects.filter(email=invitation.email.lower()).exists(),
    }


@router.post("/invited/{token}", response=MeOut, auth=anybody)
def accept_invitation(request: HttpRequest, token: str, payload: AcceptIn) -> Answer:
    """Take it up: with a new account, or the one I am signed in to."""
    user = accept(token, payload.name, payload.password, request.user if request.user.is_authenticated else None)
    if user != request.user:
        login(request, user, backend="allauth.account.auth_backends.AuthenticationBackend")
    return me(request)


MeOut.model_rebuild()
