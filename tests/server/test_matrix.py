"""Every address of the API, for everybody there can be, at every visibility: who does not see a meeting is told the very same as if it were not there.

What each may see is stated here by itself (`SEES`), not taken from the code. The addresses, and what is sent to them, come from the API's document:
a new one is in the matrix by being there. (OWASP ASVS 4.0.3, 4.1.1-4.1.5, 4.2.1: access control at every address, also of single records.)
"""

from __future__ import annotations

import json
import re
from typing import Any
from uuid import uuid4

import pytest
from django.core.cache import cache

from server.accounts.models import Workspace
from server.excerpts.models import Excerpt, Sequence
from server.links.models import Link
from server.meetings.models import Meeting, Reader, Series, Shelf, ShelfPlace, Shelved
from server.minutes.models import MinutesLine
from server.notes.models import Comment, Note
from server.sharing.models import AccessRequest
from server.urls import api

DOCUMENT = api.get_openapi_schema()
HIDDEN = "Zyzzyva"
"""Stands in the title, in what is said and in all that hangs on it; whoever does not see the meeting never reads it."""

SEES = {
    "mine": {"maker"},
    "shelf": {"maker", "keeper"},
    "named": {"maker", "keeper", "reader", "guest let in"},
    "workspace": {"maker", "keeper", "reader", "guest let in", "member", "admin", "owner"},
}
EVERYBODY = ("nobody", "maker", "keeper", "reader", "guest let in", "guest", "member", "admin", "owner", "elsewhere")

NOT_OF_A_MEETING = {"/api/me", "/api/me/totp.svg", "/api/health", "/api/rights/mine/file"}
"""One's own, whatever it is."""


@pytest.fixture
def world(maren, member, make_meeting, caller):
    """A meeting with something of everything on it, and everybody."""
    people = {
        "nobody": None,
        "owner": maren,
        "maker": member("Idris Quaye"),
        "keeper": member("Yuki Hanamori"),
        "reader": member("Tobias Renn"),
        "guest let in": member("Gwen Castellow", "guest"),
        "guest": member("Pavel Drozd", "guest"),
        "member": member("Colm Reyes"),
        "admin": member("Nerys Vaughan", "admin"),
        "elsewhere": member("Wilma Brand", "owner", Workspace.objects.create(name="Elsewhere")),
    }
    talk = f"WEBVTT\n\n00:00:01.000 --> 00:00:04.000\n<v Idris Quaye>What if we change the {HIDDEN} lock?\n\n00:00:05.000 --> 00:00:07.000\n<v Idris Quaye>I'll order a {HIDDEN} by Friday.\n"

    def make(visibility: str):
        meeting = make_meeting(people["maker"], f"{HIDDEN} works", visibility=visibility, text=talk)
        Meeting.objects.filter(pk=meeting.pk).update(series=Series.objects.create(workspace=maren.workspace, name="Usual"))
        for one in ("reader", "guest let in"):
            Reader.objects.create(meeting=meeting, user=people[one].user)
        shelf = Shelf.objects.create(workspace=maren.workspace, name=f"{HIDDEN} shelf", closed=True)
        ShelfPlace.objects.create(shelf=shelf, membership=people["keeper"], keeper=True)
        Shelved.objects.create(shelf=shelf, meeting=meeting)
        user = people["maker"].user
        note = Note.objects.create(meeting=meeting, user=user, text=HIDDEN, at=1, shared=True)
        comment = Comment.objects.create(meeting=meeting, user=user, text=HIDDEN, start=1, end=2)
        excerpt = Excerpt.objects.create(meeting=meeting, user=user, title=HIDDEN, start=0, end=3)
        sequence = Sequence.objects.create(workspace=maren.workspace, user=user, title=HIDDEN)
        MinutesLine.objects.create(meeting=meeting, section="notes", position=9, text=HIDDEN, hand=user, hand_initials="IQ")
        link = Link.objects.create(workspace=maren.workspace, scope="minutes", meeting=meeting, token="x", digest=uuid4().hex, whom=HIDDEN, made_by=people["maker"])
        asked = AccessRequest.objects.create(meeting=meeting, membership=people["guest"], words=HIDDEN)
        keys = {
            "meeting_id": meeting.pk,
            "number": 1,
            "line_id": meeting.minutes_lines.first().pk,
            "finding_id": meeting.findings.first().pk,
            "voice_id": meeting.voices.first().pk,
            "note_id": note.pk,
            "comment_id": comment.pk,
            "excerpt_id": excerpt.pk,
            "sequence_id": sequence.pk,
            "shelf_id": shelf.pk,
            "link_id": link.pk,
            "request_id": asked.pk,
        }
        return meeting, keys

    return people, {name: caller(one) for name, one in people.items()}, make


def example(schema: dict[str, Any], depth: int = 0) -> Any:
    """Something that a schema takes."""
    if "$ref" in schema:
        return example(DOCUMENT["components"]["schemas"][schema["$ref"].rsplit("/", 1)[1]], depth + 1)
    for several in ("anyOf", "allOf", "oneOf"):
        if several in schema:
            return example(schema[several][0], depth + 1)
    if "const" in schema or "enum" in schema:
        return schema.get("const", schema.get("enum", [""])[0])
    kind = schema.get("type")
    if kind == "object":
        return {name: example(one, depth + 1) for name, one in schema.get("properties", {}).items() if name in schema.get("required", ()) or depth == 0}
    if kind == "array":
        return [example(schema["items"], depth + 1)] if schema.get("minItems") else []
    if kind in ("integer", "number"):
        return max(1, schema.get("minimum", 1))
    if kind == "boolean":
        return False
    formats = {"uuid": "6b0f2f0e-0000-4000-8000-000000000000", "date": "2026-03-03", "date-time": "2026-03-03T09:00:00Z"}
    return formats.get(schema.get("format", ""), "x" * max(1, schema.get("minLength", 1)))


def operations(*, of: str = ""):
    """(verb, path, query, body) of every operation; of: only those whose path has this."""
    for path, verbs in DOCUMENT["paths"].items():
        if of not in path or path.endswith("/events"):
            continue
        for verb, operation in verbs.items():
            query = "&".join(f"{one['name']}={example(one['schema'])}" for one in operation.get("parameters", ()) if one["in"] == "query" and one.get("required"))
            content = operation.get("requestBody", {}).get("content", {}).get("application/json")
            yield verb, path, query, example(content["schema"]) if content else None


def filled(path: str, keys: dict[str, Any]) -> str:
    return re.sub(r"\{(\w+)\}", lambda found: str(keys.get(found[1], {"form": "txt", "at": 0}.get(found[1], 1))), path)


def told(answer, key: object) -> tuple[int, str]:
    """What an answer says, but for the key that was asked with."""
    body = b"".join(answer.streaming_content) if getattr(answer, "streaming", False) and not getattr(answer, "is_async", False) else getattr(answer, "content", b"")
    return answer.status_code, body.decode(errors="replace").replace(str(key), "KEY")


NOWHERE: dict[tuple[str, str, str], tuple[int, str]] = {}
"""What somebody was told of a meeting that is not there, at an address: the same whoever sees the one that is."""


@pytest.mark.parametrize("visibility", list(SEES))
def test_who_does_not_see_a_meeting_is_told_the_same_as_if_it_were_not_there(world, visibility, monkeypatch):
    monkeypatch.setattr("server.events.close_old_connections", lambda: None)
    people, calls, make = world
    meeting, keys = make(visibility)
    assert len(list(operations(of="{meeting_id}"))) > 80, "the document has them"
    wrong = []
    for who in EVERYBODY:
        if who in SEES[visibility]:
            continue
        cache.clear()
        for verb, path, query, body in operations(of="{meeting_id}"):
            other = uuid4()
            real, none = (filled(path, {**keys, "meeting_id": key}) + (f"?{query}" if query else "") for key in (meeting.pk, other))
            first = told(calls[who](verb, real, body), meeting.pk)
            if (who, verb, path) not in NOWHERE:
                NOWHERE[who, verb, path] = told(calls[who](verb, none, body), other)
            second = NOWHERE[who, verb, path]
            if first != second or first[0] < 400 or who == "nobody" and first[0] not in (401, 403, 404, 405, 422):
                wrong.append((who, verb, path, first, second))
    assert wrong == []
    assert Meeting.objects.filter(pk=meeting.pk, removed_at=None, title=f"{HIDDEN} works").exists()


@pytest.mark.parametrize("visibility", list(SEES))
def test_what_hangs_on_it_is_as_little_there(world, visibility):
    people, calls, make = world
    meeting, keys = make(visibility)
    named = {f"{{{name}}}": key for name, key in keys.items() if name not in ("meeting_id", "number", "shelf_id", "link_id")}
    wrong = []
    for who in EVERYBODY:
        if who in SEES[visibility]:
            continue
        cache.clear()
        for verb, path, query, body in operations():
            part = next((one for one in named if one in path), None)
            if part is None or "{meeting_id}" in path or verb == "delete" and "sequence" in path:
                continue
            missing = uuid4() if isinstance(named[part], type(meeting.pk)) else 1_999_999_999
            real, none = (filled(path, {**keys, part.strip("{}"): key}) + (f"?{query}" if query else "") for key in (named[part], missing))
            first, second = told(calls[who](verb, real, body), named[part]), told(calls[who](verb, none, body), missing)
            if first != second or first[0] < 400:
                wrong.append((who, verb, path, first, second))
    assert wrong == []


@pytest.mark.parametrize("visibility", list(SEES))
def test_no_list_search_or_count_says_anything_of_it(world, visibility):
    people, calls, make = world
    _, keys = make(visibility)
    wrong = []
    for who in EVERYBODY:
        for verb, path, query, _ in operations():
            if verb != "get" or "{" in path.replace("{series_id}", "") or path in NOT_OF_A_MEETING:
                continue
            asked = f"{path.replace('{series_id}', str(Series.objects.get().pk))}?{query}&q=lock&text=lock"
            status, text = told(calls[who]("get", asked), "")
            sees = who in SEES[visibility]
            if not sees and HIDDEN in text or who == "nobody" and status == 200 and path not in ("/api/door", "/api/openapi.json"):
                wrong.append((who, path, status, text[max(0, text.find(HIDDEN) - 80) :][:200]))
    assert wrong == []


def test_whoever_sees_it_reads_it_and_a_guest_changes_nothing(world):
    """The other side: the matrix above would hold if nobody saw anything."""
    people, calls, make = world
    for visibility, seers in SEES.items():
        Series.objects.all().delete()
        Shelf.objects.all().delete()
        Meeting.objects.all().delete()
        meeting, keys = make(visibility)
        for who in seers:
            assert HIDDEN in json.dumps(calls[who]("get", f"/api/meetings/{meeting.pk}/record").json()), (visibility, who)
        if "guest let in" in seers:
            changing = [
                (verb, path, calls["guest let in"](verb, filled(path, keys) + f"?{query}", body).status_code)
                for verb, path, query, body in operations(of="{meeting_id}")
                if verb != "get"
            ]
            own = ("notes", "questions", "notice", "reactions", "marks", "copies", "bookmark")
            assert [one for one in changing if one[2] < 300 and not any(word in one[1] for word in own)] == []


SHOWS = {
    "minutes": {"title", "minutes"},
    "record": {"title", "minutes", "said in it", "said beside it"},
    "excerpt": {"excerpt", "said in it"},
    "sequence": {"sequence", "excerpt", "said in it"},
}
MARKS = {
    "title": "Quillwort",
    "minutes": "Sphagnum",
    "said in it": "Drosera",
    "said beside it": "Liverwort",
    "excerpt": "Spleenwort",
    "sequence": "Maidenhair",
    "comment": "Staghorn",
    "note": "Bladderwort",
    "another meeting": "Hornwort",
}
"""What is where, by a word that is nowhere else."""


@pytest.mark.parametrize("scope", list(SHOWS))
@pytest.mark.parametrize("visibility", ["mine", "workspace"])
def test_a_link_shows_what_it_is_for_and_opens_no_address_besides(world, make_meeting, scope, visibility, caller):
    people, calls, _ = world
    maker, mark = people["maker"], MARKS
    talk = f"WEBVTT\n\n00:00:01.000 --> 00:00:04.000\n<v Idris Quaye>The {mark['said in it']} is on the bench.\n\n00:00:15.000 --> 00:00:18.000\n<v Idris Quaye>The {mark['said beside it']} is in the frame.\n"
    meeting = make_meeting(maker, mark["title"], visibility=visibility, text=talk)
    other = make_meeting(maker, mark["another meeting"], visibility="workspace")
    excerpt = Excerpt.objects.create(meeting=meeting, user=maker.user, title=mark["excerpt"], start=0.5, end=4.5)
    sequence = Sequence.objects.create(workspace=maker.workspace, user=maker.user, title=mark["sequence"])
    sequence.parts.create(excerpt=excerpt, position=0)
    MinutesLine.objects.filter(meeting=meeting).delete()
    MinutesLine.objects.create(meeting=meeting, section="notes", position=0, text=mark["minutes"], hand=maker.user, hand_initials="IQ")
    Comment.objects.create(meeting=meeting, user=maker.user, text=mark["comment"], start=1, end=2)
    Note.objects.create(meeting=meeting, user=maker.user, text=mark["note"], at=1, shared=True)
    of = {"excerpt": excerpt.pk, "sequence": sequence.pk}.get(scope, meeting.pk)
    given = calls["maker"]("post", "/api/links", {"scope": scope, "of": str(of), "whom": HIDDEN, "sound": False}).json()
    at = "/api/linked/" + given["address"].rsplit("/", 1)[1]
    visitor = caller(None)
    answer = visitor("get", at)
    shown = answer.content.decode()
    assert answer.status_code == 200 and {what for what, word in mark.items() if word in shown} == SHOWS[scope]
    assert not [secret for secret in (HIDDEN, str(meeting.pk), str(other.pk), "@", maker.workspace.name, "Yuki") if secret in shown]
    assert [visitor("get", f"{at}/sound{part}").status_code for part in ("", "/0", "/1")] == [404, 404, 404]
    keys = {"meeting_id": meeting.pk, "excerpt_id": excerpt.pk, "sequence_id": sequence.pk, "link_id": given["id"], "number": 1}
    opened = [
        (verb, path)
        for verb, path, query, body in operations()
        if not path.startswith(("/api/linked/", "/api/door", "/api/health", "/api/uploads")) and visitor(verb, filled(path, keys) + f"?{query}", body).status_code < 400
    ]
    assert opened == []
