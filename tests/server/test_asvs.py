"""The OWASP Application Security Verification Standard 4.0.3, level 2: what of it is not shown by another test. docs/security.md has all points.

The numbers are the standard's; what each asks is told from memory of its text, in our words.
"""

from __future__ import annotations

import importlib
import re
from pathlib import Path

import pytest
from django.conf import settings as django_settings
from django.test import Client

from server.accounts.models import User

AT = "/_allauth/browser/v1/"
LOGIN = {"email": "maren@larkmoor.example", "password": "wet slate and lichen"}


@pytest.fixture
def answers(maren, make_meeting, caller):
    """One of each kind: page, JSON, a problem, a file, nothing there, a link's page."""
    meeting = make_meeting(maren)
    call = caller(maren)
    paths = ["/", "/api/library", "/api/meetings/6b0f2f0e-0000-4000-8000-000000000000", f"/api/meetings/{meeting.pk}/minutes.md", "/api/nowhere", "/l/abc", "/_allauth/nowhere"]
    return {path: call("get", path) for path in paths}


def test_14_4_every_answer_has_the_headers_that_protect_it(answers):
    for path, answer in answers.items():
        policy = dict(one.strip().split(" ", 1) for one in answer["Content-Security-Policy"].split(";") if " " in one.strip())
        assert policy["default-src"] == policy["base-uri"] == policy["frame-ancestors"] == "'none'" and policy["script-src"] == "'self'", path  # 14.4.3, 14.4.7
        assert "unsafe" not in answer["Content-Security-Policy"], path
        assert answer["X-Content-Type-Options"] == "nosniff" and answer["X-Frame-Options"] == "DENY", path  # 14.4.4, 14.4.7
        assert answer["Referrer-Policy"] in ("same-origin", "no-referrer"), path  # 14.4.6
        kind = answer["Content-Type"]
        assert "charset=utf-8" in kind.lower() or kind.startswith(("application/json", "application/problem+json")), path  # 14.4.1; JSON is UTF-8 (RFC 8259, 8.1)
        assert "Access-Control-Allow-Origin" not in answer and "Server" not in answer, path  # 14.5.3, 14.3.3
    assert "attachment" in next(answer for path, answer in answers.items() if path.endswith(".md"))["Content-Disposition"]  # 14.4.2


def test_14_4_5_who_was_here_once_comes_by_https_alone(db, settings):
    settings.SECURE_HSTS_SECONDS = 31_536_000
    assert "max-age=31536000" in Client().get("/", secure=True)["Strict-Transport-Security"]


def test_3_4_cookies_are_for_this_host_and_for_no_script(maren, monkeypatch):
    client = Client()
    assert client.post(AT + "auth/login", LOGIN, content_type="application/json").status_code == 200
    session = client.cookies[django_settings.SESSION_COOKIE_NAME]
    assert session["httponly"] and session["samesite"] == "Lax" and session["path"] == "/" and not session["domain"]  # 3.4.2, 3.4.3, 3.4.5
    monkeypatch.setenv("AFTERSHOWER_URL", "https://notes.larkmoor.example")
    import server.settings as ours

    behind = {name: getattr(importlib.reload(ours), name) for name in ("SESSION_COOKIE_SECURE", "CSRF_COOKIE_SECURE", "SESSION_COOKIE_NAME")}
    monkeypatch.undo()
    importlib.reload(ours)
    assert behind == {"SESSION_COOKIE_SECURE": True, "CSRF_COOKIE_SECURE": True, "SESSION_COOKIE_NAME": "__Host-session"}  # 3.4.1, 3.4.4


def test_3_2_and_3_3_a_session_is_new_when_one_signs_in_and_over_when_one_signs_out(maren):
    client = Client()
    client.get("/api/door")
    client.post(AT + "auth/login", LOGIN, content_type="application/json")
    first = client.cookies["sessionid"].value
    assert len(first) >= 32  # 3.2.2, 3.2.4: 32 signs of 36, drawn by the system
    stolen = Client()
    stolen.cookies["sessionid"] = first
    assert stolen.get("/api/me").status_code == 200
    client.delete(AT + "auth/session")
    assert stolen.get("/api/me").status_code == 401  # 3.3.1
    client.post(AT + "auth/login", LOGIN, content_type="application/json")
    assert client.cookies["sessionid"].value != first  # 3.2.1
    assert "sessionid" not in client.get("/").content.decode()  # 3.1.1


@pytest.mark.parametrize(
    ("password", "taken"),
    [("short moss1", False), ("administrator", False), ("123123123123", False), ("maren@larkmoor.example", False), ("twelve ferns", True), ("苔と羊歯の庭に雨が降る朝", True), ("a fern, " * 15 + "x", True)],
)
def test_2_1_what_a_password_may_be(maren, password, taken):
    """2.1.1, 2.1.2, 2.1.4, 2.1.7: from twelve signs on, a hundred and more, of any script, none of the common ones; nothing is asked of its signs (2.1.9)."""
    client = Client()
    client.post(AT + "auth/login", LOGIN, content_type="application/json")
    change = {"current_password": LOGIN["password"], "new_password": password}
    assert (client.post(AT + "account/password/change", change, content_type="application/json").status_code == 200) == taken
    assert User.objects.get(pk=maren.user_id).check_password(password) == taken  # 2.1.3: it is not cut off


def test_14_1_and_5_a_host_that_is_not_ours_is_not_answered(db):
    assert Client().get("/api/door", headers={"host": "elsewhere.example"}).status_code == 400
    assert Client().get("/api/door", headers={"x-forwarded-host": "elsewhere.example"}).status_code == 200


def test_14_5_1_only_the_methods_that_are_meant(maren, caller):
    client = Client()
    client.force_login(maren.user, backend="allauth.account.auth_backends.AuthenticationBackend")
    assert {client.generic(method, "/api/me").status_code for method in ("TRACE", "PROPFIND", "DELETE")} == {405}


def test_every_test_that_the_list_names_is_there():
    """docs/security.md says by which test each point is held; it would say so still when the test is gone."""
    root = Path(django_settings.ROOT)
    named = re.findall(r"`(tests/[\w/]+\.py)(?:::(\w+))?`", (root / "docs" / "security.md").read_text(encoding="utf-8"))
    assert len(named) > 30
    missing = [(path, name) for path, name in named if not (root / path).exists() or name and f"def {name}(" not in (root / path).read_text(encoding="utf-8")]
    assert missing == []
