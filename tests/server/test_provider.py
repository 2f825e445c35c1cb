"""Coming in by way of an identity provider: against the stand-in, which checks and signs with PyJWT (RFC 7519) as OpenID Connect Core 1.0 says.

What is refused follows its section 3.1.3.7 (issuer, audience, signature, expiry) and 5.3.2 (details of somebody else).
"""

from __future__ import annotations

from urllib.parse import parse_qs, urlsplit

import pytest
import requests
from allauth.socialaccount.models import SocialAccount

from server.accounts.models import Invitation, User, Workspace
from standins.identity import Provider, serve
from tests.server.conftest import delivered
from tests.server.test_sign_in import PASSWORD, Browser, code

CLIENT, SECRET = "aftershower", "three frogs"
IDENTITIES = {
    "m-1": {"name": "Maren Tollefsen", "email": "maren@larkmoor.example", "email_verified": True},
    "t-3": {"name": "Tove Brandal", "email": "tove@larkmoor.example", "email_verified": True},
}


@pytest.fixture
def gate(settings):
    """The stand-in, by way of which one can come in."""
    server, provider = serve(CLIENT, SECRET, people=IDENTITIES)
    app = {"provider_id": "gate", "name": "The gate", "client_id": CLIENT, "secret": SECRET, "settings": {"server_url": provider.at}}
    settings.SOCIALACCOUNT_PROVIDERS = {"openid_connect": {"OAUTH_PKCE_ENABLED": True, "APPS": [app]}}
    settings.INSIDE = frozenset({urlsplit(provider.at).netloc})
    settings.CACHES = {"default": {"BACKEND": "django.core.cache.backends.locmem.LocMemCache"}}
    yield provider
    server.shutdown()
    server.server_close()


def through(browser: Browser, provider: Provider, person: str, process: str = "login") -> str:
    """To the provider's page, being somebody there, and back; what the page one comes to is told, "" if nothing."""
    form = {"provider": "gate", "process": process, "callback_url": "/sign-in"}
    there = browser.client.post("/_allauth/browser/v1/auth/provider/redirect", form)
    assert there.status_code == 302
    if not there["Location"].startswith(provider.at):
        return told(there["Location"])
    back = requests.post(there["Location"], data={"person": person}, allow_redirects=False, timeout=5)
    back_at = urlsplit(back.headers["Location"])
    assert back_at.path == "/_allauth/provider/gate/back"
    return told(browser.client.get(f"{back_at.path}?{back_at.query}")["Location"])


def told(location: str) -> str:
    assert urlsplit(location).path == "/sign-in"
    return parse_qs(urlsplit(location).query).get("error", [""])[0]


def test_an_account_is_tied_by_its_own_person_and_then_come_in_to(maren, gate, settings):
    assert Browser().call("get", "/api/door").json()["providers"] == [{"id": "gate", "name": "The gate"}]
    stranger = Browser()
    assert through(stranger, gate, "m-1") == "has_account" and stranger.call("get", "/api/me").status_code == 401, "an address alone opens nothing"
    browser = Browser()
    browser.sign_in()
    settings.ACCOUNT_REAUTHENTICATION_TIMEOUT = 0
    assert through(browser, gate, "m-1", "connect") == "reauthentication_required"
    settings.ACCOUNT_REAUTHENTICATION_TIMEOUT = 300
    browser.again()
    assert through(browser, gate, "m-1", "connect") == "" and [one.uid for one in SocialAccount.objects.all()] == ["m-1"]
    assert SocialAccount.objects.get().extra_data == {}, "nothing else of what is told is kept"
    [mail] = [one for one in delivered() if one.subject == "How you sign in has changed"]
    assert "identity elsewhere was tied" in mail.body
    assert through(stranger, gate, "m-1") == "" and stranger.call("get", "/api/me").json()["email"] == "maren@larkmoor.example"
    # It is the key that counts: under another address they are still the same, and whoever has their address now is not.
    gate.people["m-1"]["email"] = "maren.t@larkmoor.example"
    gate.people["x-9"] = {"name": "Maren Holt", "email": "maren@larkmoor.example", "email_verified": True}
    assert through(Browser(), gate, "m-1") == "" and User.objects.get().email == "maren@larkmoor.example"
    assert through(Browser(), gate, "x-9") == "address_taken"
    assert through(browser, gate, "x-9", "connect") == "tied_already"


def test_whoever_is_invited_comes_in_without_a_password(maren, gate, caller):
    newcomer = Browser()
    assert through(newcomer, gate, "t-3") == "signup_closed" and User.objects.count() == 1
    caller(maren)("post", "/api/invitations", {"email": "Tove@larkmoor.example", "role": "member"})
    gate.told = {"email_verified": False}
    assert through(newcomer, gate, "t-3") == "no_address"
    gate.told = {}
    assert through(newcomer, gate, "t-3") == ""
    tove = User.objects.get(email="tove@larkmoor.example")
    assert tove.name == "Tove Brandal" and not tove.has_usable_password()
    [invitation] = [one for one in delivered() if one.to == ["tove@larkmoor.example"]]
    token = invitation.body.split("/invited/")[1].split()[0]
    assert newcomer.call("post", f"/api/invited/{token}", {}).status_code == 200
    assert newcomer.call("get", "/api/library").status_code == 200 and Invitation.objects.get().accepted_at
    # It cannot be untied: there would be no way in any more.
    refused = newcomer.call("delete", "account/providers", {"provider": "gate", "account": "t-3"})
    assert refused.status_code == 400 and SocialAccount.objects.count() == 1


@pytest.mark.parametrize(
    ("told", "error"),
    [
        ({"aud": "somebody-else"}, "unknown"),
        ({"iss": "https://elsewhere.example"}, "unknown"),
        ({"exp": 1_700_000_000}, "unknown"),
        ({"key": True}, "unknown"),
        ({"other": True}, "unknown"),
        ({"down": True}, "provider_down"),
    ],
)
def test_a_token_that_is_not_right_opens_nothing(maren, gate, told, error):
    browser = Browser()
    browser.sign_in()
    browser.again()
    through(browser, gate, "m-1", "connect")
    gate.told = told
    stranger = Browser()
    assert through(stranger, gate, "m-1") == error and stranger.call("get", "/api/me").status_code == 401


def test_a_way_back_that_nobody_asked_for_leads_nowhere(maren, gate):
    browser = Browser()
    for query in ("code=abc&state=def", "error=access_denied", ""):
        answer = browser.client.get(f"/_allauth/provider/gate/back?{query}")
        assert answer.status_code == 302 and answer["Location"].split("?")[0].endswith("/sign-in")
    assert browser.client.get("/_allauth/provider/elsewhere/back?code=a").status_code == 302
    for where in ("https://elsewhere.example/", "//elsewhere.example"):
        answer = browser.client.post("/_allauth/browser/v1/auth/provider/redirect", {"provider": "gate", "process": "login", "callback_url": where})
        assert "elsewhere" not in answer["Location"]


def test_a_workspace_can_want_it_of_all_but_guests(maren, member, gate, make_meeting):
    member("Idris Quaye", "admin")
    member("Rafe Oduya", "guest")
    make_meeting(maren)
    mine = Browser()
    mine.sign_in()
    assert mine.call("patch", "/api/workspace", {"provider": "gate"}).status_code == 409, "nobody shuts themselves out"
    assert mine.call("patch", "/api/workspace", {"provider": "nobody"}).status_code == 422
    mine.again()
    through(mine, gate, "m-1", "connect")
    assert mine.call("patch", "/api/workspace", {"provider": "gate"}).json()["provider"] == "gate"
    assert mine.call("get", "/api/library").status_code == 200
    theirs, guest = Browser(), Browser()
    theirs.sign_in("idris@larkmoor.example")
    guest.sign_in("rafe@larkmoor.example")
    refused = theirs.call("get", "/api/library")
    assert refused.status_code == 403 and refused.json()["provider"] == "gate" and theirs.call("get", "/api/me").json()["provider_wanted"] == "gate"
    assert guest.call("get", "/api/library").status_code == 200
    gate.people["i-2"] = {"name": "Idris Quaye", "email": "idris@larkmoor.example", "email_verified": True}
    theirs.again()
    assert through(theirs, gate, "i-2", "connect") == "" and theirs.call("get", "/api/library").status_code == 200
    # With the password alone the owner is outside as well, unless they have a second factor: then a provider that is down shuts them out not.
    alone = Browser()
    alone.sign_in()
    assert alone.call("get", "/api/library").status_code == 403
    secret = alone.call("get", "account/authenticators/totp").json()["meta"]["secret"]
    alone.again()
    assert alone.call("post", "account/authenticators/totp", {"code": code(secret)}).status_code == 200
    assert alone.call("get", "/api/library").status_code == 200 and Workspace.objects.get().provider == "gate" and PASSWORD
