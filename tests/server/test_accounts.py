"""Signing in, invitations, roles."""

import re
from datetime import timedelta

from django.utils import timezone

from server.accounts.models import Invitation, Membership, User
from server.clerk.keep import begin
from server.clerk.models import Visit
from server.meetings.models import Person
from tests.server.conftest import delivered

LOGIN = "/_allauth/browser/v1/auth/login"
SIGN_UP = "/_allauth/browser/v1/auth/signup"


def test_passwords_are_argon2_and_signing_in_works_whatever_the_case(maren, caller):
    assert User.objects.get().password.startswith("argon2")
    assert caller(None)("post", LOGIN, {"email": "Maren@Larkmoor.example", "password": "wet slate and lichen"}).status_code == 200


def test_guessing_is_slowed_down(maren, caller, settings):
    settings.CACHES = {"default": {"BACKEND": "django.core.cache.backends.locmem.LocMemCache"}}
    call = caller(None)
    answers = [call("post", LOGIN, {"email": "maren@larkmoor.example", "password": f"guess {n}"}).status_code for n in range(8)]
    assert answers[0] == 400 and answers[-1] in (400, 429)
    # Even the right password waits now.
    assert call("post", LOGIN, {"email": "maren@larkmoor.example", "password": "wet slate and lichen"}).status_code != 200


def test_sign_up_is_closed_once_there_is_somebody_unless_it_is_opened(db, caller, settings):
    call = caller(None)
    assert call("get", "/api/door").json() == {"sign_up_open": True, "providers": []}
    assert call("post", SIGN_UP, {"email": "first@larkmoor.example", "password": "wet slate and lichen"}).status_code == 200
    assert caller(None)("get", "/api/door").json() == {"sign_up_open": False, "providers": []}
    assert caller(None)("post", SIGN_UP, {"email": "second@larkmoor.example", "password": "wet slate and lichen"}).status_code == 403
    settings.SIGN_UP_OPEN = True
    assert caller(None)("post", SIGN_UP, {"email": "third@larkmoor.example", "password": "wet slate and lichen"}).status_code == 200
    # Nobody is anywhere yet: they name a workspace of their own.
    assert call("get", "/api/me").json()["workspace"] is None
    assert call("get", "/api/library").status_code == 403
    assert call("post", "/api/workspaces", {"name": "Garden"}).json()["role"] == "owner"


def test_an_invitation_by_mail_makes_a_member_who_is_the_person_of_that_address(maren, caller):
    person = Person.objects.create(workspace=maren.workspace, name="Tobias Renn", email="tobias@larkmoor.example")
    made = caller(maren)("post", "/api/invitations", {"email": "Tobias@larkmoor.example", "role": "member"})
    assert made.status_code == 201
    token = re.search(r"/invited/([\w-]+)", delivered()[-1].body).group(1)
    guest = caller(None)
    assert guest("get", f"/api/invited/{token}").json() == {
        "workspace": "Larkmoor Botanic Garden",
        "email": "tobias@larkmoor.example",
        "has_account": False,
    }
    weak = guest("post", f"/api/invited/{token}", {"name": "Tobias Renn", "password": "12345"})
    assert weak.status_code == 422 and "at least 12" in weak.json()["detail"]
    assert guest("post", f"/api/invited/{token}", {"name": "Tobias Renn", "password": "scaffold and clamps"}).json()["role"] == "member"
    person.refresh_from_db()
    assert person.user.email == "tobias@larkmoor.example"
    assert guest("get", f"/api/invited/{token}").status_code == 404


def test_an_invitation_cannot_open_an_account_that_exists_and_ends(maren, member, caller):
    caller(maren)("post", "/api/invitations", {"email": "wilma@larkmoor.example"})
    User.objects.create_user("wilma@larkmoor.example", "her own password")
    invitation = Invitation.objects.get()
    taken = caller(None)("post", f"/api/invited/{invitation.token}", {"name": "Not Wilma", "password": "scaffold and clamps"})
    assert taken.status_code == 409
    Invitation.objects.update(ends_at=timezone.now() - timedelta(seconds=1))
    assert caller(None)("get", f"/api/invited/{invitation.token}").status_code == 404


def test_only_those_who_manage_invite_and_only_owners_make_owners(maren, member, caller):
    idris, nerys = member("Idris Quaye"), member("Nerys Vaughan", "admin")
    assert caller(idris)("post", "/api/invitations", {"email": "x@larkmoor.example"}).status_code == 403
    assert caller(nerys)("post", "/api/invitations", {"email": "x@larkmoor.example", "role": "owner"}).status_code == 403
    assert caller(nerys)("post", "/api/invitations", {"email": "idris@larkmoor.example"}).status_code == 409
    assert caller(nerys)("post", "/api/invitations", {"email": "not an address"}).status_code == 422
    assert caller(nerys)("patch", f"/api/members/{idris.pk}", {"role": "owner"}).status_code == 403
    assert caller(maren)("patch", f"/api/members/{maren.pk}", {"role": "member"}).status_code == 409
    assert caller(maren)("patch", f"/api/members/{idris.pk}", {"role": "owner"}).json()["role"] == "owner"
    assert Membership.objects.get(pk=idris.pk).role == "owner"


def test_the_first_steps_are_kept_for_each_and_each_workspace(maren, caller, member):
    call = caller(maren)
    assert (call("get", "/api/me").json()["first_steps"], call("get", "/api/me").json()["settled_in"]) == ([], False)
    kept = call("put", "/api/me/first-steps", {"done": ["words", "read", "read"], "settled_in": False}).json()
    assert kept["first_steps"] == ["read", "words"]
    assert call("put", "/api/me/first-steps", {"done": ["fly"], "settled_in": True}).status_code == 422
    assert call("put", "/api/me/first-steps", {"done": kept["first_steps"], "settled_in": True}).json()["settled_in"] is True
    assert caller(member("Idris Quaye"))("get", "/api/me").json()["first_steps"] == []


def test_the_sample_is_ones_own_and_there_is_one(maren, caller, member, settings, tmp_path):
    settings.MEDIA_ROOT = tmp_path
    call, given = caller(maren), {"title": "A sample", "time_zone": "Europe/London"}
    made = call("post", "/api/meetings/sample", given)
    assert made.status_code == 201 and call("post", "/api/meetings/sample", given).json() == made.json()
    meeting = call("get", f"/api/meetings/{made.json()['id']}").json()
    assert meeting["visibility"] == "mine" and meeting["work"]["state"] == "working"
    idris = caller(member("Idris Quaye"))
    assert idris("get", f"/api/meetings/{meeting['id']}").status_code == 404
    assert idris("post", "/api/meetings/sample", given).json()["id"] != meeting["id"]
    assert caller(member("Gwen Castellow", "guest"))("post", "/api/meetings/sample", given).status_code == 403
    assert call("post", "/api/meetings/sample", {**given, "time_zone": "Middle/Earth"}).status_code == 422


def test_what_comes_by_itself_has_the_time_of_where_one_is(maren, caller):
    call = caller(maren)
    assert call("get", "/api/me").json()["time_zone"] == ""
    assert call("put", "/api/me/where", {"time_zone": "Europe/Madrid"}).status_code == 204
    assert call("put", "/api/me/where", {"time_zone": "Europe/Madrid", "language": "es"}).status_code == 204
    assert call("put", "/api/me/where", {"time_zone": "Europe/Madrid", "language": "la"}).status_code == 422
    assert [call("get", "/api/me").json()[name] for name in ("time_zone", "language")] == ["Europe/Madrid", "es"]
    assert call("put", "/api/me/where", {"time_zone": "Middle/Earth"}).status_code == 422
    maren.user.refresh_from_db()
    now = timezone.now()
    visit = Visit.objects.create(workspace=maren.workspace, asked_by=maren, call="x", state="waiting", holder="h", starts_at=now, until=now)
    assert begin(visit.pk, "h", "Heating call", "en").meeting.time_zone == "Europe/Madrid"
