"""Roads around the one rule of who sees what: each is closed, and stays so."""

import itertools
import json

import pytest
from django.test import Client

from server.accounts.models import Membership, Role, User, Workspace
from server.capture.actions.take_upload import Given, create_meeting
from server.door.sign_in import _USED
from server.excerpts.models import Excerpt
from server.meetings.models import Person, Reader, Visibility
from server.meetings.people import find_people, link_person
from server.sharing.policy import RIGHTS, Can, may
from server.sharing.visibility import seen_by, visible_meetings
from tests.server.conftest import TALK, delivered, let_in

ANONYMOUS = TALK.replace("Idris Quaye", "B")


def sees(membership, meeting) -> bool:
    return visible_meetings(membership).filter(pk=meeting.pk).exists()


# an address, a name


def test_an_address_that_somebody_types_gives_nobody_a_meeting(maren, member, make_meeting, caller):
    """PATCH of another person's e-mail to one's own gave all meetings that person was in."""
    idris = member("Idris Quaye")
    meeting = make_meeting(maren, visibility="named", people=["Anselm Roth"])
    anselm = Person.objects.get(name="Anselm Roth")
    taken = caller(idris)("patch", f"/api/people/{anselm.pk}", {"email": "idris@larkmoor.example"})
    assert taken.status_code == 409 and "Idris Quaye" in taken.json()["detail"]
    assert caller(idris)("patch", f"/api/people/{anselm.pk}", {"email": "anselm@elsewhere.example"}).status_code == 200
    other = Person.objects.create(workspace=idris.workspace, name="Pavel Drozd")
    for given, status, said in (
        ({"email": "Anselm@elsewhere.example"}, 409, "somebody else"),
        ({"email": "pavel"}, 422, "no e-mail address"),
        ({"name": " \n "}, 422, "needs a name"),
        ({"name": anselm.name.upper()}, 409, "already"),
    ):
        refused = caller(idris)("patch", f"/api/people/{other.pk}", given)
        assert refused.status_code == status and said in refused.json()["detail"], given
    assert caller(idris)("patch", f"/api/people/{other.pk}", {"email": ""}).status_code == 200
    anselm.refresh_from_db()
    assert anselm.user is None and not sees(idris, meeting)


def test_a_tied_person_is_not_tied_anew_and_keeps_name_and_address(maren, member, make_meeting, caller):
    idris, yuki = member("Idris Quaye"), member("Yuki Hanamori")
    of_yuki = Person.objects.get(user=yuki.user)
    call = caller(idris)
    assert call("patch", f"/api/people/{of_yuki.pk}", {"email": "other@larkmoor.example"}).status_code == 409
    assert call("patch", f"/api/people/{of_yuki.pk}", {"name": "Somebody Else"}).status_code == 403
    assert caller(yuki)("patch", f"/api/people/{of_yuki.pk}", {"name": "Yuki H."}).status_code == 200
    assert caller(maren)("patch", f"/api/people/{of_yuki.pk}", {"name": "Yuki Hanamori"}).status_code == 200
    # Once more into the same workspace: the same person.
    assert link_person(yuki.user, yuki.workspace) == of_yuki


def test_whoever_takes_up_an_invitation_is_the_person_of_that_address_and_is_let_into_nothing_by_it(maren, make_meeting, caller):
    meeting = make_meeting(maren, visibility="named", people=["Tobias Renn"])
    Person.objects.filter(name="Tobias Renn").update(email="tobias@larkmoor.example")
    token = caller(maren)("post", "/api/invitations", {"email": "tobias@larkmoor.example", "role": "guest"}).json()
    token = maren.workspace.invitation_set.get(pk=token["id"]).token
    joined = caller(None)("post", f"/api/invited/{token}", {"name": "Tobias Renn", "password": "scaffold and clamps"})
    assert joined.status_code == 200
    tobias = Membership.objects.get(user__email="tobias@larkmoor.example")
    assert Person.objects.get(name="Tobias Renn").user == tobias.user
    assert not sees(tobias, meeting)


WAYS_OF_BEING_NAMED = {
    "a voice": lambda call, at, meeting: call("post", f"{at}/voices/{meeting.voices.get(label='B').pk}/name", {"name": "Gwen Castellow"}),
    "turns": lambda call, at, meeting: call("post", f"{at}/turns/give", {"turns": [1], "name": "Gwen Castellow"}),
    "a turn split": lambda call, at, meeting: call("post", f"{at}/turns/split", {"line": 3, "word": 4, "name": "Gwen Castellow"}),
    "an action": lambda call, at, meeting: call("post", f"{at}/actions", {"text": "Measure", "owner": "Gwen Castellow"}),
    "who was there": lambda call, at, meeting: call("patch", at, {"people": ["Gwen Castellow"]}),
    "a mention": lambda call, at, meeting: call("post", f"{at}/comments", {"text": "@Gwen Castellow?", "start": 1, "end": 2}),
    "consent": lambda call, at, meeting: call("post", f"{at}/consents", {"name": "Gwen Castellow", "agreed": True}),
}


@pytest.mark.parametrize("way", WAYS_OF_BEING_NAMED)
@pytest.mark.parametrize("by", ["member", "owner"])
def test_being_named_lets_nobody_in(way, by, maren, member, make_meeting, caller):
    gwen, idris = member("Gwen Castellow", "guest"), member("Idris Quaye")
    meeting = make_meeting(maren, visibility="named", text=ANONYMOUS)
    let_in(meeting, idris)
    who = caller(maren if by == "owner" else idris)
    answer = WAYS_OF_BEING_NAMED[way](who, f"/api/meetings/{meeting.pk}", meeting)
    assert answer.status_code in (200, 201), answer.content
    assert not sees(gwen, meeting)


def test_a_name_in_a_given_file_lets_nobody_in(maren, member, make_meeting):
    gwen = member("Gwen Castellow", "guest")
    meeting = make_meeting(maren, visibility="workspace", text=TALK.replace("Idris Quaye", "Gwen Castellow"))
    assert meeting.people.filter(name="Gwen Castellow").exists() and not sees(gwen, meeting)


def test_widening_who_sees_needs_the_right_to_govern_and_is_shown_in_names(maren, member, make_meeting, caller):
    gwen, idris = member("Gwen Castellow", "guest"), member("Idris Quaye")
    meeting = make_meeting(maren, visibility="named")
    let_in(meeting, idris)
    at = f"/api/meetings/{meeting.pk}"
    for widening in ({"readers": [gwen.pk]}, {"visibility": "workspace"}):
        assert caller(idris)("patch", at, widening).status_code == 403
    by_maren = caller(maren)
    names = lambda seers: [(one["name"], one["role"]) for one in seers]  # noqa: E731
    assert names(by_maren("get", at).json()["seen_by"]) == [("Maren Tollefsen", "owner"), ("Idris Quaye", "member")]
    asked = {"meeting": str(meeting.pk), "visibility": "named", "readers": [idris.pk, gwen.pk]}
    would = names(by_maren("post", "/api/seen-by", asked).json())
    assert would == [("Maren Tollefsen", "owner"), ("Gwen Castellow", "guest"), ("Idris Quaye", "member")]
    assert not sees(gwen, meeting), "to look changes nothing"
    assert by_maren("patch", at, {"readers": [idris.pk, gwen.pk]}).status_code == 200
    assert sees(gwen, meeting) and names(by_maren("get", at).json()["seen_by"]) == would
    assert by_maren("patch", at, {"readers": [idris.pk]}).status_code == 200
    assert not sees(gwen, meeting)
    elsewhere = member("Wilma Brand", "owner", Workspace.objects.create(name="Elsewhere"))
    assert by_maren("patch", at, {"readers": [elsewhere.pk]}).status_code == 422


def test_whoever_makes_a_meeting_lets_in_those_they_name_and_is_shown_who_that_is(maren, member, caller):
    idris, gwen = member("Idris Quaye"), member("Gwen Castellow", "guest")
    asked = {"visibility": "named", "people": ["idris quaye", "Nobody Known", "Gwen Castellow"]}
    would = [one["name"] for one in caller(maren)("post", "/api/seen-by", asked).json()]
    given = Given("Locks", "2026-03-03T09:30:00Z", people=asked["people"], visibility="named")
    meeting = create_meeting(maren, given)
    assert would == ["Maren Tollefsen", "Gwen Castellow", "Idris Quaye"]
    assert [sees(one, meeting) for one in (maren, idris, gwen)] == [True, True, True]
    alone = create_meeting(maren, Given("Mine", "2026-03-03T09:30:00Z", people=asked["people"], visibility="mine"))
    assert not Reader.objects.filter(meeting=alone).exists()


@pytest.mark.parametrize(("visibility", "let"), list(itertools.product(Visibility, (True, False))))
def test_the_rule_is_the_same_the_other_way_round(visibility, let, maren, member, make_meeting):
    everyone = [maren, *(member(f"{role.title()} Person", role) for role in Role)]
    meeting = make_meeting(maren, visibility=visibility, work=False)
    if let:
        for one in everyone[1:]:
            let_in(meeting, one)
    readers = meeting.readers.values_list("user", flat=True)
    told = seen_by(maren.workspace_id, meeting.created_by_id, meeting.visibility, readers)
    assert {one.pk for one in told} == {one.pk for one in everyone if sees(one, meeting)}


# excerpts


def test_an_excerpt_is_not_widened_by_who_does_not_see_its_meeting(maren, member, make_meeting, caller):
    idris = member("Idris Quaye")
    meeting = make_meeting(maren)
    cut = caller(idris)("post", f"/api/meetings/{meeting.pk}/excerpts", {"title": "Mine", "start": 7.0, "end": 12.0}).json()
    meeting.visibility = "mine"
    meeting.save(update_fields=["visibility"])
    call = lambda data: caller(idris)("patch", f"/api/excerpts/{cut['id']}", data).status_code  # noqa: E731
    for widening in ({"start": 0.0}, {"end": 17.0}, {"seen": "workspace"}, {"seen": "chosen", "chosen": ["Maren Tollefsen"]}):
        assert call(widening) == 403, widening
    assert Excerpt.objects.get().start == 7.0
    assert call({"title": "Still mine"}) == 200 and call({"removed": True}) == 200
    assert call({"removed": False}) == 403


def test_an_admin_who_does_not_see_a_meeting_widens_no_excerpt_of_it(maren, member, make_meeting, caller):
    nerys, idris = member("Nerys Vaughan", "admin"), member("Idris Quaye")
    meeting = make_meeting(idris, visibility="mine")
    cut = caller(idris)("post", f"/api/meetings/{meeting.pk}/excerpts", {"start": 7.0, "end": 12.0}).json()
    assert caller(idris)("patch", f"/api/excerpts/{cut['id']}", {"seen": "workspace"}).status_code == 200
    assert caller(nerys)("patch", f"/api/excerpts/{cut['id']}", {"end": 17.0}).status_code == 403
    assert caller(nerys)("patch", f"/api/excerpts/{cut['id']}", {"seen": "nobody"}).status_code == 200


# the sign-in library


def test_only_the_addresses_of_the_sign_in_library_that_are_used_are_open(maren, caller):
    call = caller(maren)
    at = "/_allauth/browser/v1"
    for method, path, data in [
        ("post", "account/email", {"email": "idris@larkmoor.example"}),
        ("patch", "account/email", {"email": "idris@larkmoor.example", "primary": True}),
        ("post", "auth/provider/token", {"provider": "gate"}),
        ("get", "auth/webauthn/signup", None),
        ("post", "auth/code/request", {"email": "idris@larkmoor.example"}),
        ("get", "config", None),
        ("post", "auth/email/verify", {"key": "x"}),
    ]:
        assert call(method, f"{at}/{path}", data).status_code == 404, path
    assert call("get", "/accounts/email/").status_code == 200 and b"<div id=" in call("get", "/accounts/email/").content
    assert call("get", f"{at}/auth/session").status_code == 200
    assert call("post", f"{at}/account/password/change", {"current_password": "a guess", "new_password": "moss and more moss"}).status_code == 400
    assert set(_USED) == {
        *("auth/session", "auth/login", "auth/signup", "auth/password/request", "auth/password/reset", "auth/reauthenticate", "auth/sessions"),
        *("auth/provider/redirect", "account/providers"),
        *("auth/2fa/authenticate", "auth/2fa/reauthenticate", "auth/webauthn/authenticate", "auth/webauthn/reauthenticate", "auth/webauthn/login"),
        *("account/authenticators", "account/authenticators/totp", "account/authenticators/webauthn", "account/authenticators/recovery-codes"),
        "account/password/change",
    }
    assert User.objects.get(pk=maren.user_id).email == "maren@larkmoor.example"


def test_a_page_elsewhere_signs_nobody_in_and_answers_no_notice(maren, caller):
    """A form of type text/plain posted from elsewhere carries no CSRF token."""
    made = caller(maren)("post", "/api/invitations", {"email": "victim@larkmoor.example", "role": "guest"}).json()
    token = maren.workspace.invitation_set.get(pk=made["id"]).token
    body = json.dumps({"name": "V", "password": "scaffold and clamps"})
    for content_type, refusal in (("text/plain", 415), ("application/json", 403)):
        browser = Client(enforce_csrf_checks=True)
        assert browser.post(f"/api/invited/{token}", body, content_type=content_type).status_code == refusal
        assert browser.post("/api/notices/anything", body, content_type=content_type).status_code == refusal
    assert not User.objects.filter(email="victim@larkmoor.example").exists()


def test_five_wrong_passwords_lock_nobody_out_elsewhere(maren, caller):
    wrong = {"email": "maren@larkmoor.example", "password": "not it, not it"}
    right = {**wrong, "password": "wet slate and lichen"}
    login = "/_allauth/browser/v1/auth/login"
    here, there = Client(REMOTE_ADDR="192.0.2.7"), Client(REMOTE_ADDR="198.51.100.9")
    post = lambda client, data: client.post(login, data, content_type="application/json").status_code  # noqa: E731
    assert [post(here, wrong) for _ in range(6)][-1] == 400
    assert post(here, right) == 400, "whoever guesses waits"
    assert post(there, right) == 200, "whoever does not, does not"


# guests


def test_a_guest_founds_nothing_and_invites_nobody_while_sign_up_is_closed(maren, member, caller, settings):
    gwen = caller(member("Gwen Castellow", "guest"))
    assert gwen("post", "/api/workspaces", {"name": "Mine"}).status_code == 403
    assert not gwen("get", "/api/me").json()["may_found"]
    assert gwen("post", "/api/invitations", {"email": "friend@elsewhere.example"}).status_code == 403
    settings.SIGN_UP_OPEN = True
    assert gwen("post", "/api/workspaces", {"name": "Mine"}).status_code == 200


def test_a_guest_reads_nothing_of_the_team(maren, member, make_meeting, caller):
    gwen_member = member("Gwen Castellow", "guest")
    gwen = caller(gwen_member)
    meeting = make_meeting(maren, people=["Yuki Hanamori"])
    Person.objects.filter(name="Yuki Hanamori").update(email="yuki@larkmoor.example")
    let_in(meeting, gwen_member)
    for path in ("members", "invitations", "choices", "words", "agendas", "workspace"):
        assert gwen("get", f"/api/{path}").status_code == 403, path
    assert gwen("post", "/api/seen-by", {"visibility": "workspace"}).status_code == 403
    assert gwen("get", "/api/voices").json() == []
    shown = gwen("get", f"/api/meetings/{meeting.pk}").json()
    assert shown["seen_by"] == [] and [one["email"] for one in shown["people"]] == ["", "", ""]
    assert gwen("get", f"/api/meetings/{meeting.pk}/comments").json()["people"] == []
    for path in ("today", "library", "templates", f"meetings/{meeting.pk}", f"meetings/{meeting.pk}/record", f"meetings/{meeting.pk}/notes"):
        answer = gwen("get", f"/api/{path}")
        assert answer.status_code == 200 and b"@larkmoor.example" not in answer.content, path


# corrections


def test_corrections_in_a_private_meeting_are_offered_to_nobody_else_and_go_with_their_edit(maren, member, make_meeting, caller):
    idris = member("Idris Quaye")
    private = make_meeting(maren, visibility="mine")
    call, at = caller(maren), f"/api/meetings/{private.pk}"
    said = lambda n: call("get", f"{at}/record").json()["turns"][n]["lines"][0]["text"]  # noqa: E731
    for _ in range(3):
        before = said(2)
        call("put", f"{at}/lines/3", {"text": before.replace("boiler", "Boilermeister"), "before": before})
        call("put", f"{at}/lines/3", {"text": before, "before": said(2)})
    offered = lambda who: [one["meant"] for one in caller(who)("get", "/api/words").json()["offers"]]  # noqa: E731
    assert "Boilermeister" in offered(maren) and offered(idris) == []
    for _ in range(6):
        assert call("post", f"{at}/edits/undo", {}).status_code == 200
    assert offered(maren) == []
    assert call("post", f"{at}/edits/redo", {}).status_code == 200


# roles and rights


def test_every_role_has_its_rights_and_nothing_else_compares_roles(maren, member, make_meeting):
    assert set(RIGHTS) == set(Role)
    meeting = make_meeting(maren, work=False)
    own = {role: member(f"{role.title()} Person", role) for role in Role}
    governs = {role: may(one, Can.GOVERN, meeting) for role, one in own.items()}
    assert governs == {"owner": True, "admin": True, "member": False, "guest": False}
    made = make_meeting(own[Role.MEMBER], work=False)
    assert may(own[Role.MEMBER], Can.GOVERN, made)
    stranger = member("Wilma Brand", "owner", Workspace.objects.create(name="Elsewhere"))
    assert not any(may(stranger, can, meeting) for can in Can), "rights end with the workspace"


def test_a_comment_is_removed_by_its_writer_or_by_who_governs_the_meeting(maren, member, make_meeting, caller):
    idris, yuki = member("Idris Quaye"), member("Yuki Hanamori")
    meeting = make_meeting(idris)
    comment = caller(yuki)("post", f"/api/meetings/{meeting.pk}/comments", {"text": "Hm.", "start": 1, "end": 2}).json()["id"]
    call = lambda who, data: caller(who)("patch", f"/api/comments/{comment}", data).status_code  # noqa: E731
    other = member("Tobias Renn")
    assert call(other, {"removed": True}) == 403 and call(idris, {"text": "Mine"}) == 403
    assert call(idris, {"removed": True}) == 204, "idris made the meeting"


def test_a_memo_goes_only_to_those_who_may_see_it(maren, member, make_meeting):
    member("Idris Quaye")
    meeting = make_meeting(maren, visibility="named", people=["Idris Quaye"], work=False)
    find_people(maren.workspace, ["Anselm Roth"])
    Person.objects.filter(name="Anselm Roth").update(email="anselm@elsewhere.example")
    meeting.place = "memo"
    meeting.save()
    from tests.server.conftest import run_stages

    run_stages(meeting)
    assert {message.to[0] for message in delivered()} == {"idris@larkmoor.example", "maren@larkmoor.example"}
