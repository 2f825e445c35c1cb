"""The API against its own document, by Schemathesis: whatever the document allows, and much that it does not, is answered as it says."""

import re
import uuid
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from enum import Enum

import pytest
import schemathesis
from django.core.signals import request_finished, request_started
from django.core.wsgi import get_wsgi_application
from django.db import close_old_connections, transaction
from django.middleware.csrf import _get_new_csrf_string
from django.test import Client, override_settings
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st
from ninja import Schema
from schemathesis import GenerationMode
from schemathesis.schemas import BaseSchema
from schemathesis.specs.openapi.checks import content_type_conformance, response_schema_conformance, status_code_conformance

from server.accounts.models import Workspace
from server.streamed import BYTES
from server.urls import api, urlpatterns
from tests.server.conftest import give, join, read_carefully

CHECKS = (schemathesis.checks.not_a_server_error, status_code_conformance, content_type_conformance, response_schema_conformance)


@dataclass(frozen=True)
class Stage:
    document: BaseSchema
    meeting: str
    cookies: dict[str, str]
    """Of an owner who is signed in."""


@pytest.fixture(scope="module")
def made(django_db_setup, django_db_blocker, tmp_path_factory):
    """Once for all: there are hundreds of operations, and each leaves it as it was."""
    folder = tmp_path_factory.mktemp("document")
    # As Django's own test client does: the connection is the test's, whose transaction is rolled back.
    for signal in (request_started, request_finished):
        signal.disconnect(close_old_connections)
    with (
        django_db_blocker.unblock(),
        override_settings(MEDIA_ROOT=folder / "media"),
        pytest.MonkeyPatch.context() as patched,
        transaction.atomic(),
    ):
        read_carefully(patched)
        maren = join(Workspace.objects.create(name="Larkmoor Botanic Garden"), "Maren Tollefsen", "owner")
        meeting = give(folder, maren)
        client = Client()
        client.force_login(maren.user, backend="allauth.account.auth_backends.AuthenticationBackend")
        cookies = {"sessionid": client.cookies["sessionid"].value, "csrftoken": _get_new_csrf_string()}
        yield Stage(schemathesis.openapi.from_wsgi("/api/openapi.json", get_wsgi_application()), str(meeting.pk), cookies)
        transaction.set_rollback(True)
    for signal in (request_started, request_finished):
        signal.connect(close_old_connections)


@pytest.fixture
def stage(made, db):
    return made


def test_no_two_schemas_are_called_the_same():
    """The document has them by their bare names: of two, one would be told and the other meant."""
    found = Counter(one.__name__ for one in set(_below(Schema)) if one.__module__.startswith("server."))
    found.update(one.__name__ for one in set(_below(Enum)) if one.__module__.startswith("server."))
    assert [name for name, count in found.items() if count > 1] == []


def _below(parent: type) -> Iterator[type]:
    for one in parent.__subclasses__():
        yield one
        yield from _below(one)


def operations() -> list[tuple[str, str]]:
    """Every operation of the document that takes and gives JSON or files; those of bytes have tests of their own protocols."""
    paths = api.get_openapi_schema()["paths"]
    return [(verb.upper(), path) for path, verbs in paths.items() for verb, one in verbs.items() if BYTES not in one.get("tags", ())]


@pytest.mark.parametrize(("verb", "path"), operations())
def test_whatever_is_sent_is_answered_as_the_document_says(verb, path, stage):
    operation = stage.document[path][verb]

    @given(case=st.one_of(operation.as_strategy(), operation.as_strategy(generation_mode=GenerationMode.NEGATIVE)))
    @settings(max_examples=8, database=None, derandomize=True, phases=[Phase.generate], suppress_health_check=list(HealthCheck))
    def ask(case):
        # Who asks may, and asks of a meeting that is there: otherwise nothing behind the door would be tried.
        case.cookies = stage.cookies
        # A token would count instead of it; where those lead, has a test of its own.
        (case.headers or {}).pop("Authorization", None)
        if "meeting_id" in (case.path_parameters or {}):
            case.path_parameters["meeting_id"] = stage.meeting
        answer = case.call_and_validate(headers={"X-CSRFToken": stage.cookies["csrftoken"]}, checks=CHECKS)
        assert answer.status_code != 401

    ask()


def test_every_operation_says_how_it_refuses(stage):
    raw = stage.document.raw_schema
    for path, verbs in raw["paths"].items():
        for verb, operation in verbs.items():
            assert "application/problem+json" in operation["responses"]["4XX"]["content"], (verb, path)
    exported = raw["paths"]["/api/meetings/{meeting_id}/record.{form}"]["get"]["responses"]["200"]["content"]
    assert {"application/pdf", "text/vtt", "application/json"} <= set(exported)


def test_what_ninja_does_not_know_is_in_the_document_too(stage, client):
    paths = stage.document.raw_schema["paths"]
    views = {"/" + re.sub(r"<(?:\w+:)?(\w+)>", r"{\1}", str(one.pattern)) for one in urlpatterns if not hasattr(one, "url_patterns")}
    views = {path for path in views if path.startswith("/api/") and path not in ("/api/health", "/api/ready", "/api/metrics")}
    streamed = {path for path, verbs in paths.items() if any(BYTES in one["tags"] for one in verbs.values())}
    assert views == streamed
    for path in streamed:
        for verb in paths[path]:
            at = re.sub(r"{meeting_id}", stage.meeting, path).replace("{form}", "flac")
            answer = client.generic(verb.upper(), re.sub(r"{\w+}", str(uuid.uuid4()), at))
            refused = 400 <= answer.status_code < 500
            assert str(answer.status_code) in paths[path][verb]["responses"] or refused, (verb, path)
            if refused and "upload" not in path:
                assert answer["Content-Type"] == "application/problem+json", (verb, path)
