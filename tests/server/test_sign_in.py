"""The second factor, sessions, devices: with codes as RFC 6238 makes them (`cryptography`'s implementation of it)."""

from __future__ import annotations

import base64
import time

import pytest
from allauth.mfa.models import Authenticator
from cryptography.hazmat.primitives.hashes import SHA1
from cryptography.hazmat.primitives.twofactor.totp import TOTP
from django.core.cache import cache
from django.test import Client

from server.accounts.models import User
from tests.server.conftest import delivered

AT = "/_allauth/browser/v1/"
PASSWORD = "wet slate and lichen"


class Browser:
    """A device with cookies of its own."""

    def __init__(self, agent: str = "Field notebook 1"):
        self.client = Client(headers={"user-agent": agent})

    def call(self, method: str, path: str, data=None):
        path = path if path.startswith("/") else AT + path
        return getattr(self.client, method)(path, data, content_type="application/json") if data is not None else getattr(self.client, method)(path)

    def sign_in(self, email: str = "maren@larkmoor.example"):
        return self.call("post", "auth/login", {"email": email, "password": PASSWORD})

    def again(self) -> None:
        assert self.call("post", "auth/reauthenticate", {"password": PASSWORD}).status_code == 200


def code(secret: str) -> str:
    return TOTP(base64.b32decode(secret + "=" * (-len(secret) % 8)), 6, SHA1(), 30, enforce_key_length=False).generate(int(time.time())).decode()


@pytest.fixture(autouse=True)
def counted(settings):
    settings.CACHES = {"default": {"BACKEND": "django.core.cache.backends.locmem.LocMemCache"}}


@pytest.fixture
def secured(maren) -> tuple[Browser, str]:
    """Maren's browser, and the secret of her app."""
    browser = Browser()
    assert browser.sign_in().status_code == 200
    begun = browser.call("get", "account/authenticators/totp")
    secret = begun.json()["meta"]["secret"]
    assert b"<svg" in browser.call("get", "/api/me/totp.svg").content
    assert browser.call("post", "account/authenticators/totp", {"code": "000000"}).status_code == 400
    # To change how one signs in, one shows again who one is.
    assert browser.call("post", "account/authenticators/totp", {"code": code(secret)}).status_code == 401
    browser.again()
    assert browser.call("post", "account/authenticators/totp", {"code": code(secret)}).status_code == 200
    return browser, secret


def test_a_code_is_wanted_beside_the_password_and_what_is_kept_is_sealed(secured):
    browser, secret = secured
    assert secret not in str(list(Authenticator.objects.values_list("data", flat=True)))
    other = Browser("Another one")
    answer = other.sign_in()
    assert answer.status_code == 401 and [one["id"] for one in answer.json()["data"]["flows"] if one.get("is_pending")] == ["mfa_authenticate"]
    assert other.call("get", "/api/me").status_code == 401
    assert other.call("post", "auth/2fa/authenticate", {"code": "123456"}).status_code == 400
    cache.clear()  # a code is good once, and this one was just used
    assert other.call("post", "auth/2fa/authenticate", {"code": code(secret)}).status_code == 200 and other.call("get", "/api/me").status_code == 200
    # A code for an emergency is good once.
    [one, *_] = browser.call("get", "account/authenticators/recovery-codes").json()["data"]["unused_codes"]
    for expected in (200, 400):
        third = Browser("A third one")
        third.sign_in()
        assert third.call("post", "auth/2fa/authenticate", {"code": one}).status_code == expected


def test_to_change_it_one_shows_again_who_one_is(secured, settings):
    browser, secret = secured
    settings.ACCOUNT_REAUTHENTICATION_TIMEOUT = 0
    answer = browser.call("delete", "account/authenticators/totp")
    assert answer.status_code == 401 and "reauthenticate" in str(answer.json()) and Authenticator.objects.filter(type="totp").exists()
    settings.ACCOUNT_REAUTHENTICATION_TIMEOUT = 300
    browser.again()
    assert browser.call("delete", "account/authenticators/totp").status_code == 200 and not Authenticator.objects.filter(type="totp").exists()
    [told] = [one for one in delivered() if one.subject == "How you sign in has changed"]
    assert told.to == ["maren@larkmoor.example"] and "second factor no more" in told.body


def test_a_workspace_that_wants_it_shows_nothing_without_it(secured, maren, member, make_meeting):
    browser, _ = secured
    idris = member("Idris Quaye", "admin")
    make_meeting(maren)
    theirs = Browser()
    theirs.sign_in("idris@larkmoor.example")
    assert theirs.call("patch", "/api/workspace", {"second_factor": True}).status_code == 409, "nobody shuts themselves out"
    assert browser.call("patch", "/api/workspace", {"second_factor": True}).json()["second_factor"]
    refused = theirs.call("get", "/api/library")
    assert refused.status_code == 403 and refused.json()["second_factor"] and theirs.call("get", "/api/me").json()["second_wanted"]
    assert browser.call("get", "/api/library").status_code == 200
    secret = theirs.call("get", "account/authenticators/totp").json()["meta"]["secret"]
    theirs.again()
    assert theirs.call("post", "account/authenticators/totp", {"code": code(secret)}).status_code == 200
    assert theirs.call("get", "/api/library").status_code == 200 and idris.role == "admin"
    theirs.call("delete", "account/authenticators/totp")
    assert theirs.call("get", "/api/library").status_code == 403, "codes for an emergency alone are none"


def test_sessions_are_seen_and_ended_and_another_device_is_told_of(maren):
    first = Browser("Field notebook 1")
    first.sign_in()
    assert not [one for one in delivered() if "another device" in one.subject], "the first one is no other one"
    first.call("delete", "auth/session")
    first.sign_in()
    assert not [one for one in delivered() if "another device" in one.subject]
    second = Browser("Tablet in the glasshouse")
    second.sign_in()
    [told] = [one for one in delivered() if "another device" in one.subject]
    assert told.to == ["maren@larkmoor.example"] and "Tablet in the glasshouse" in told.body
    sessions = first.call("get", "auth/sessions").json()["data"]
    assert {one["user_agent"] for one in sessions} == {"Field notebook 1", "Tablet in the glasshouse"}
    [other] = [one["id"] for one in sessions if not one["is_current"]]
    assert first.call("delete", "auth/sessions", {"sessions": [other]}).status_code == 200
    assert second.call("get", "/api/me").status_code == 401 and first.call("get", "/api/me").status_code == 200


def test_nobody_ends_the_session_of_somebody_else_nor_opens_what_is_not_used(maren, member):
    member("Idris Quaye")
    mine, theirs = Browser(), Browser()
    mine.sign_in()
    theirs.sign_in("idris@larkmoor.example")
    [foreign] = [one["id"] for one in theirs.call("get", "auth/sessions").json()["data"]]
    assert mine.call("delete", "auth/sessions", {"sessions": [foreign]}).status_code == 400 and theirs.call("get", "/api/me").status_code == 200
    for path in ("account/email", "auth/provider/signup", "auth/provider/token", "auth/webauthn/signup", "auth/code/request"):
        assert mine.call("get", path).status_code == 404
    assert User.objects.count() == 2
