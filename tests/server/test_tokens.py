"""Tokens for programs: where they lead and where they do not, when they end; the example client of the docs; signatures as published."""

from __future__ import annotations

import importlib.util
import json
import re
from datetime import UTC, datetime, timedelta

import pytest
from django.test import Client
from django.utils import timezone

from core.problems import InputProblem
from server.accounts.by_token import digest_of
from server.accounts.models import Membership, Token, TokenScope, User
from server.accounts.scopes import OPEN, needed
from server.capture.actions import fetch_recording
from server.capture.models import Fetched
from server.meetings.models import Meeting
from server.signed import check, headers_of, signature
from server.streamed import streamed
from server.urls import api
from tests.conftest import ROOT
from tests.server.conftest import TALK, run_stages
from tests.server.test_folders import drive, lay  # noqa: F401 (a fixture)

pytestmark = pytest.mark.django_db


def soon() -> str:
    return (timezone.now() + timedelta(days=30)).isoformat()


@pytest.fixture
def token(maren, caller):
    """token(scopes, …): one of Maren's, as a function that calls with it."""

    def make(*scopes: str, by=maren, **more):
        made = caller(by)("post", "/api/tokens", {"name": "Nightly report", "scopes": list(scopes), "until": soon(), **more}).json()

        def call(method: str, path: str, data=None, **headers):
            body = {} if data is None else {"data": data if isinstance(data, bytes) else json.dumps(data), "content_type": headers.pop("content_type", "application/json")}
            # As a browser would, with a check of where a request comes from: a token needs none.
            return getattr(Client(enforce_csrf_checks=True), method)(path, headers={"Authorization": f"Bearer {made['token']}", **headers}, **body)

        call.made = made
        return call

    return make


def test_a_token_leads_where_its_scopes_lead_and_nowhere_else(token, make_meeting, maren):
    meeting = make_meeting(maren)
    read = token("read")
    assert read("get", f"/api/meetings/{meeting.pk}/minutes").json()["lines"] and read("get", f"/api/meetings/{meeting.pk}/record.vtt").status_code == 200
    assert read("get", "/api/ledger").json()["matters"]
    line = meeting.minutes_lines.first()
    refused = read("patch", f"/api/minutes/lines/{line.pk}", {"text": "x", "before": line.text})
    assert refused.status_code == 403 and "lacks the scope write" in refused.json()["detail"] and "insufficient_scope" in refused["WWW-Authenticate"]
    for method, path in (("delete", f"/api/meetings/{meeting.pk}"), ("get", "/api/members"), ("post", "/api/tokens"), ("post", f"/api/meetings/{meeting.pk}/strike"), ("get", "/api/connections"), ("get", "/api/nothing")):
        assert "No token leads here" in read(method, path, *([{}] if method == "post" else [])).json()["detail"]
    write = token("write", "ledger")
    assert write("patch", f"/api/minutes/lines/{line.pk}", {"text": "Somebody asked who has the key.", "before": line.text}).status_code == 200
    finding = meeting.findings.get(kind="action")
    assert write("patch", f"/api/minutes/findings/{finding.pk}", {"done": True}).json()["done"]
    assert write("get", "/api/ledger").status_code == 403
    # It is told once, and is not kept.
    assert Token.objects.filter(digest=digest_of(read.made["token"])).exists() and read.made["token"] not in json.dumps(list(Token.objects.values()), default=str)


def test_a_token_ends_and_can_be_taken_back(token, maren, caller, member):
    call, read = caller(maren), token("read")
    assert read("get", "/api/me").status_code == 200
    assert caller(member("Idris Quaye"))("delete", f"/api/tokens/{read.made['id']}").status_code == 404
    assert call("delete", f"/api/tokens/{read.made['id']}").status_code == 204
    assert read("get", "/api/me").status_code == 401 and "invalid_token" in read("get", "/api/me")["WWW-Authenticate"]
    other = token("read")
    Token.objects.update(until=timezone.now())
    assert other("get", "/api/me").status_code == 401
    for wrong in ({"until": (timezone.now() + timedelta(days=900)).isoformat()}, {"until": "2020-01-01T00:00:00Z"}, {"scopes": []}, {"scopes": ["everything"]}, {"name": " "}):
        assert call("post", "/api/tokens", {"name": "x", "scopes": ["read"], "until": soon()} | wrong).status_code == 422, wrong
    assert caller(member("Gwen Castellow", "guest"))("post", "/api/tokens", {"name": "x", "scopes": ["read"], "until": soon()}).status_code == 403


def test_a_token_of_the_workspace_sees_what_all_see_and_nothing_else(token, maren, member, caller, make_meeting):
    shown, own = make_meeting(maren, "Shown"), make_meeting(maren, "Own", visibility="named")
    everybody, guest = token("read", everybody=True), token("read", everybody=True, guest=True)
    assert everybody("get", f"/api/meetings/{shown.pk}").status_code == 200 and everybody("get", f"/api/meetings/{own.pk}").status_code == 404
    assert guest("get", f"/api/meetings/{shown.pk}").status_code == 404
    assert caller(member("Idris Quaye"))("post", "/api/tokens", {"name": "x", "scopes": ["read"], "until": soon(), "everybody": True}).status_code == 403
    machine = User.objects.get(name="Nightly report", memberships__role="member")
    assert not machine.is_active and not machine.has_usable_password() and "Nightly report" not in str(caller(maren)("get", "/api/members").json())
    # What came in by it goes to whoever takes it back.
    Meeting.objects.filter(pk=own.pk).update(created_by=machine)
    caller(maren)("delete", f"/api/tokens/{everybody.made['id']}")
    assert Meeting.objects.get(pk=own.pk).created_by == maren.user and not Membership.objects.filter(user=machine).exists()


def test_every_operation_that_a_token_leads_to_is_one():
    """And those that manage, delete, strike, give links or sign in are none."""
    document = api.get_openapi_schema()["paths"] | streamed()
    there = {f"{method.upper()} {path}" for path, verbs in document.items() for method in verbs}
    opened = {one for operations in OPEN.values() for one in operations}
    assert opened - there == set()
    assert not [one for one in opened if re.search(r"strike|links|workspace|members|tokens|rights|keeping|invitations|taken-out|calendars|DELETE /api/meetings", one)]
    assert needed("GET", "/api/meetings/1/record.vtt") == {TokenScope.READ} and not needed("GET", "/api/meetings/1/sent") and not needed("DELETE", "/api/meetings/1")


def test_the_example_client_of_the_docs_gives_a_file_and_reads_its_minutes(transactional_db, live_server, settings, tmp_path, member, monkeypatch, capsys):
    settings.MEDIA_ROOT, settings.FILE_UPLOAD_TEMP_DIR = tmp_path / "media", tmp_path / "incoming"
    maren = member("Maren Tollefsen", "owner")
    made, said = client_token(maren)
    loaded = importlib.util.spec_from_file_location("example_client", ROOT / "docs" / "example_client.py")
    client = importlib.util.module_from_spec(loaded)
    loaded.loader.exec_module(client)
    (tmp_path / "locks.vtt").write_text(TALK)
    monkeypatch.setattr("time.sleep", lambda _: run_stages(Meeting.objects.get()))
    monkeypatch.setattr("sys.argv", ["example_client.py", live_server.url, str(tmp_path / "locks.vtt")])
    monkeypatch.setenv("AFTERSHOWER_TOKEN", said)
    client.main()
    told = capsys.readouterr().out
    assert "# locks" in told and "order a new lock" in told and "(Idris Quaye, " in told
    made.refresh_from_db()
    assert made.used_at
    body = b'{"type":"check"}'
    signed = headers_of(SECRET, "msg_1", "1614265330", body)
    assert client.is_signed(SECRET, signed, body) and not client.is_signed(SECRET, signed, body + b" ")


def client_token(membership):
    from server.door.actions.tokens import make_token

    return make_token(membership, "Example", [TokenScope.READ, TokenScope.GIVE], timezone.now() + timedelta(days=1), everybody=False)


SECRET = "whsec_MfKQ9r8GKYqrTwjUPD8ILPZIo2LaLaSw"


def test_signatures_are_those_of_the_published_example():
    """Standard Webhooks 1.0.0, the example of its specification and of its reference libraries (from memory)."""
    body, key, stamp = b'{"test": 2432232314}', "msg_p5jXN8AQM9LWM0D4loKWxJek", "1614265330"
    assert signature(SECRET, key, stamp, body) == "v1,g0hM9SsE+OTPJTGt/tmIKtSyZlE3uFJELVlNIOLJ1OE="
    headers = {"webhook-id": key, "webhook-timestamp": stamp, "webhook-signature": "v1,Ceo5qEr07ixe2NLpvHk3FH9bwy/WavXrAFQ/9tdO6mc= v2,Ceo5qEr07ixe2NLpvHk3FH9bwy/WavXrAFQ/9tdO6mc= v1,g0hM9SsE+OTPJTGt/tmIKtSyZlE3uFJELVlNIOLJ1OE="}
    assert check(SECRET, headers, body, 1614265330 + 200.0) == key


def test_what_lies_at_an_address_becomes_a_meeting(drive, token, caller, maren, settings, tmp_path):  # noqa: F811
    folder, address = drive
    lay(folder, "locks.vtt", TALK.encode())
    given = {"address": f"{address}locks.vtt", "title": "Locks", "started_at": datetime(2026, 3, 3, 9, 30, tzinfo=UTC).isoformat()}
    give = token("give")
    made = give("post", "/api/fetched", given).json()
    with pytest.raises(fetch_recording.Later):  # it asks for a password
        fetch_recording.fetch_now(Fetched.objects.get().pk, last=False)
    assert "answers 401" in give("get", f"/api/fetched/{made['id']}").json()["words"]
    settings.INSIDE = set()
    assert give("post", "/api/fetched", given | {"address": "ftp://x.example/y"}).status_code == 422
    fetch_recording.fetch_now(Fetched.objects.get().pk, last=True)
    told = give("get", f"/api/fetched/{made['id']}").json()
    assert told["state"] == "refused" and "network of its own" in told["words"]
    assert not Meeting.objects.exists() and issubclass(InputProblem, ValueError)
