"""Links for somebody without an account: exactly as far as meant, for as long as meant, and taken back at once."""

from __future__ import annotations

from datetime import timedelta
from types import SimpleNamespace

import pytest
from django.core.cache import cache
from django.test import Client
from django.utils import timezone

from server.audit.models import Entry
from server.excerpts.models import Excerpt
from server.links.models import Link
from server.meetings.models import Meeting
from server.minutes.models import MinutesLine
from tests.server.conftest import strike


@pytest.fixture
def locks(maren, make_meeting) -> Meeting:
    cache.clear()
    return make_meeting(maren)


@pytest.fixture
def give(caller, maren, locks):
    """give(**more): a link of Maren's to the meeting, as the API answers it."""

    def go(scope: str = "minutes", of: str | None = None, who=None, status: int = 201, **more) -> dict:
        answer = caller(who or maren)("post", "/api/links", {"scope": scope, "of": of or str(locks.pk), **more})
        assert answer.status_code == status, answer.content
        return answer.json()

    return go


def token(link: dict) -> str:
    return link["address"].rsplit("/", 1)[1]


def follow(link: dict, client: Client | None = None):
    return (client or Client()).get(f"/api/linked/{token(link)}")


def test_minutes_alone_show_minutes_and_nothing_beside_them(give, locks, maren, caller):
    link = give(whom="The glazier")
    answer = follow(link)
    shown = answer.json()
    assert [one["heading"] for one in shown["sections"]] and shown["said"] == shown["excerpts"] == [] and not shown["playable"]
    assert "Who has the key" not in str(shown["said"]) and str(locks.pk) not in answer.content.decode() and "Garden" not in answer.content.decode()
    assert answer["Referrer-Policy"] == "no-referrer" and "noindex" in answer["X-Robots-Tag"] and answer["Cache-Control"] == "private, no-store"
    again = Client()
    assert [follow(link, again).status_code for _ in range(3)] == [200] * 3
    page = Client().get(f"/l/{token(link)}")
    assert page["Referrer-Policy"] == "no-referrer" and "noindex" in page["X-Robots-Tag"]
    [mine] = caller(maren)("get", "/api/links").json()
    assert (mine["whom"], mine["opened"], mine["leads"]) == ("The glazier", 2, True) and mine["opened_at"]
    assert Entry.objects.filter(verb="give link").exists() and token(link) not in str(list(Link.objects.values_list("token", "digest")))


def test_record_as_well_and_what_is_struck_or_corrected_is_so_at_once(give, locks, maren, caller):
    link = give("record")
    assert "Works for me." in str(follow(link).json()["said"])
    caller(maren)("put", f"/api/meetings/{locks.pk}/lines/4", {"text": "Fine by me.", "before": "Works for me."})
    assert "Fine by me." in follow(link).content.decode()
    chosen = {"first": [4, 0], "last": [4, -1]}
    assert strike(caller(maren), locks, chosen).status_code == 200
    assert "Fine by me." not in follow(link).content.decode()
    MinutesLine.objects.create(meeting=locks, section="notes", position=0, text="Written meanwhile.", removed_at=timezone.now())
    assert "Written meanwhile." not in follow(link).content.decode(), "what is taken out of the minutes is not shown"


def test_an_excerpt_and_nothing_of_its_meeting(give, locks, maren):
    excerpt = Excerpt.objects.create(meeting=locks, user=maren.user, title="The lock", start=6.9, end=12.1)
    link = give("excerpt", str(excerpt.pk), sound=True)
    shown = follow(link).json()
    [one] = shown["excerpts"]
    assert [said["text"] for said in one["said"]] == ["What if we change the lock on the boiler door?", "Works for me."] and not one["playable"]
    assert shown["sections"] == shown["said"] == [] and shown["when"] is None and "Friday" not in str(shown)
    assert [Client().get(f"/api/linked/{one}/sound{part}").status_code for one in ("x" * 43, token(link)) for part in ("", "/0", "/9")] == [404] * 6
    assert follow({"address": f"/l/{'x' * 43}"}).status_code == 404
    Excerpt.objects.update(removed_at=timezone.now())
    assert follow(link).status_code == 404


@pytest.mark.parametrize("how", ["revoked", "over", "taken out", "forbidden", "no end", "no passphrase"])
def test_it_leads_nowhere_the_moment_it_should_not(give, locks, maren, caller, how):
    link, call = give(), caller(maren)
    assert follow(link).status_code == 200
    rules = {"allowed": True, "must_end": False, "must_have_passphrase": False}
    {
        "revoked": lambda: call("delete", f"/api/links/{link['id']}"),
        "over": lambda: Link.objects.update(until=timezone.now()),
        "taken out": lambda: Meeting.objects.update(removed_at=timezone.now()),
        "forbidden": lambda: call("put", "/api/links/rules", {**rules, "allowed": False}),
        "no end": lambda: call("put", "/api/links/rules", {**rules, "must_end": True}),
        "no passphrase": lambda: call("put", "/api/links/rules", {**rules, "must_have_passphrase": True}),
    }[how]()
    answer = follow(link)
    assert answer.status_code == 404 and "leads nowhere" in answer.json()["detail"] and "Locks" not in answer.content.decode()
    [mine] = call("get", "/api/links").json()
    assert not mine["leads"] and mine["address"] is None


def test_a_passphrase_is_asked_first_and_cannot_be_guessed(give, monkeypatch):
    link, here, there = give(passphrase="wet slate"), Client(), Client(REMOTE_ADDR="10.1.1.1")
    moment = timezone.now()  # the pauses are those of a clock that stands, however long a passphrase takes to be checked
    monkeypatch.setattr("server.links.queries.timezone", SimpleNamespace(now=lambda: moment))
    at = f"/api/linked/{token(link)}"
    say = lambda client, words: client.post(f"{at}/unlock", {"passphrase": words}, content_type="application/json").status_code  # noqa: E731
    assert follow(link, here).json()["locked"] and "boiler" not in follow(link, here).content.decode()
    assert here.get(f"{at}/sound").status_code == 403
    assert [say(here, "wrong words") for _ in range(6)] == [403] * 5 + [429] and say(here, "wet slate") == 429
    # Nobody else is locked out by that.
    assert say(there, " wet slate ") == 204 and follow(link, there).json()["sections"]
    assert follow(link, here).json()["locked"] and follow(link).json()["locked"]
    assert give(passphrase="short", status=422)["detail"].startswith("A passphrase has 8 signs")


def test_who_may_give_one_and_who_sees_which(give, locks, maren, member, caller):
    idris, gwen, admin = member("Idris Quaye"), member("Gwen Castellow", "guest"), member("Yuki Hanamori", "admin")
    give(who=idris, status=403)  # sees it, and does not govern it
    give(who=gwen, status=404)
    Meeting.objects.update(visibility="mine")
    give(who=idris, status=404)
    Meeting.objects.update(visibility="workspace")
    link = give(who=admin)
    assert caller(idris)("get", "/api/links?everybody=true").json() == [] and caller(idris)("delete", f"/api/links/{link['id']}").status_code == 404
    [seen] = caller(maren)("get", "/api/links?everybody=true").json()
    assert seen["by"] == "Yuki Hanamori" and seen["address"] is None, "an owner sees that there is one, and takes it back"
    assert caller(maren)("delete", f"/api/links/{link['id']}").status_code == 204 and follow(link).status_code == 404
    assert caller(idris)("put", "/api/links/rules", {"allowed": False, "must_end": False, "must_have_passphrase": False}).status_code == 403


@pytest.mark.parametrize("more", [{"until": "2020-01-01T00:00:00Z"}, {"scope": "all"}, {"of": "nonsense"}, {"scope": "sequence", "of": "99999999999999999999"}, {"whom": "x" * 121}])
def test_what_cannot_be_given_is_refused_in_words(caller, maren, locks, more):
    answer = caller(maren)("post", "/api/links", {"scope": "minutes", "of": str(locks.pk), **more})
    assert answer.status_code in (404, 422) and answer.json()["detail"] and not Link.objects.exists()


@pytest.mark.parametrize(
    ("rule", "kept", "said"),
    [
        ({"allowed": False}, None, "gives no links"),
        ({"must_end": True}, {"until": "2100-01-01T00:00:00Z"}, "a day on which it ends"),
        ({"must_have_passphrase": True}, {"passphrase": "wet slate and lichen"}, "has a passphrase"),
    ],
)
def test_the_workspaces_rules_hold_for_new_links(give, maren, caller, rule, kept, said):
    caller(maren)("put", "/api/links/rules", {"allowed": True, "must_end": False, "must_have_passphrase": False, **rule})
    assert said in give(status=403 if kept is None else 422)["detail"] and not Link.objects.exists()
    if kept:
        assert follow(give(**kept)).status_code == 200


def test_for_whom_and_until_when_is_said_anew(give, maren, caller):
    link, until = give(), timezone.now() + timedelta(days=3)
    changed = caller(maren)("patch", f"/api/links/{link['id']}", {"whom": "The insurers", "until": until.isoformat()}).json()
    assert changed["whom"] == "The insurers" and changed["until"]
    caller(maren)("delete", f"/api/links/{link['id']}")
    assert caller(maren)("patch", f"/api/links/{link['id']}", {"whom": "x"}).status_code == 409


def test_links_that_lead_nowhere_are_not_tried_for_long(give):
    link, client = give(), Client(REMOTE_ADDR="10.9.9.9")
    answers = [client.get(f"/api/linked/{'y' * 40}{n}").status_code for n in range(61)]
    assert answers == [404] * 60 + [429]
    assert follow(link, client).status_code == 429 and follow(link).status_code == 200
