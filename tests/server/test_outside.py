"""What comes back and what goes wrong: a tracker both ways, a customer's fields, files that somebody changed there, other sides that are not what they say."""

from __future__ import annotations

import json
import ssl
import threading
import time
from datetime import UTC, datetime, timedelta
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from uuid import UUID

import pytest
from cryptography import x509
from cryptography.hazmat.primitives import hashes, serialization
from cryptography.hazmat.primitives.asymmetric import ec
from cryptography.x509.oid import NameOID
from django.utils import timezone

from core.problems import InputProblem
from core.reading.base import all_said
from core.record.model import Record
from core.search.value import Field, FieldType, fits, value_in
from server.accounts.models import Workspace
from server.connections import fields
from server.connections.deliver import Later, attempt
from server.connections.kinds.base import Target
from server.connections.models import Connection, Delivery, FieldAnswer, Known, Placed, Thread
from server.connections.rules import settle
from server.connections.tasks import ask
from server.connections.threads import let_go_of_old, read_now
from server.ledger.models import Matter
from server.meetings.models import Meeting, Person
from server.minutes.models import Finding
from server.outward import pages, settled
from server.record.models import Line
from server.sealing import unseal
from server.signed import headers_of
from standins import customers
from tests.outside import OUTSIDES, SECRET
from tests.server.conftest import TALK, run_stages
from tests.server.test_connections import connected, go, waiting

pytestmark = pytest.mark.django_db


@pytest.fixture
def outside(request, settings):
    """The other side of one kind."""
    opened = []

    def of(kind: str, **more):
        found = OUTSIDES[kind]()
        found.kind, found.given = kind, found.given | more
        settings.INSIDE = set(settings.INSIDE) | {found.place}
        opened.append(found.server)
        return found

    yield of
    for server in opened:
        server.shutdown()


@pytest.fixture
def task(outside, maren, caller, make_meeting):
    """An action that is a task: (the tracker, its task, the finding, a caller, the connection)."""
    side, call = outside("tracker"), caller(maren)
    meeting = make_meeting(maren)
    made = connected(call, side)
    matter = Matter.objects.get(kind="action")
    call("post", f"/api/connections/{made['id']}/send", {"subject": "action", "key": str(matter.pk)})
    go()
    (task,) = side.held()
    return side.world, task, Finding.objects.get(meeting=meeting, kind="action"), call, Connection.objects.get(pk=made["id"])


def polled(connection: Connection) -> Placed:
    ask(connection.pk)
    return Placed.objects.get()


def test_an_action_is_a_task_with_its_sentence_and_what_is_done_there_is_done_here(task):
    tracker, it, finding, call, connection = task
    assert (it["owner"]["name"], it["owner"]["address"], it["state"]) == ("Idris Quaye", None, "open")
    assert it["due"] == finding.due.isoformat() and it["quotes"][0]["text"] == "I'll order a new lock by Friday." and f"/meetings/{finding.meeting_id}?at=13" in it["link"]
    ask(connection.pk)
    tracker.change(it["id"], state="done", owner={"name": "M. Tollefsen", "address": "maren@larkmoor.example"}, due="2026-04-01")
    there = polled(connection)
    finding.refresh_from_db()
    assert finding.done_at and finding.owner_name == "Maren Tollefsen" and finding.due.isoformat() == "2026-04-01" and there.clash == {}
    assert call("get", "/api/ledger?view=closed").json()["matters"][0]["closed"] == "done"
    settle(finding.meeting_id)
    assert not waiting()  # what came from there is not sent back
    tracker.change(it["id"], state="dropped")
    polled(connection)
    assert call("get", "/api/ledger?view=closed").json()["matters"][0]["closed"] == "dropped"
    # And the other way round.
    call("patch", f"/api/minutes/findings/{finding.pk}", {"done": False})
    settle(finding.meeting_id)
    go()
    assert tracker.tasks[it["id"]]["state"] == "open" and tracker.tasks[it["id"]]["due"] == "2026-04-01"


def test_where_both_sides_have_changed_it_both_are_kept_until_somebody_says(task):
    tracker, it, finding, call, connection = task
    ask(connection.pk)
    tracker.change(it["id"], due="2026-05-05")
    call("patch", f"/api/minutes/findings/{finding.pk}", {"due": {"was": finding.due.isoformat(), "now": "2026-06-06"}})
    settle(finding.meeting_id)
    go()  # the tracker says that it was changed there: that is looked at first
    there = Placed.objects.get()
    assert there.clash == {"due": {"here": "2026-06-06", "there": "2026-05-05"}}
    assert tracker.tasks[it["id"]]["due"] == "2026-05-05"
    assert call("get", f"/api/connections/{connection.pk}").json()["clashes"] == 1
    listed = call("get", f"/api/connections/{connection.pk}/placed?only=clash").json()
    assert listed[0]["clashes"] == [{"what": "due", "here": "2026-06-06", "there": "2026-05-05"}]
    assert call("post", f"/api/connections/placed/{there.pk}/which", {"what": "due", "keep": "here"}).status_code == 204
    settle(finding.meeting_id)
    go()
    assert tracker.tasks[it["id"]]["due"] == "2026-06-06" and Placed.objects.get().clash == {}
    assert call("post", f"/api/connections/placed/{there.pk}/which", {"what": "due", "keep": "here"}).status_code == 409
    tracker.change(it["id"], due="2026-07-07")
    call("patch", f"/api/minutes/findings/{finding.pk}", {"due": {"was": "2026-06-06", "now": None}})
    polled(connection)
    call("post", f"/api/connections/placed/{there.pk}/which", {"what": "due", "keep": "there"})
    finding.refresh_from_db()
    assert finding.due.isoformat() == "2026-07-07"


def test_a_task_that_was_deleted_there_stays_an_action_here_and_is_not_made_again(task):
    tracker, it, finding, call, connection = task
    ask(connection.pk)
    tracker.remove(it["id"])
    assert polled(connection).gone_at
    finding.refresh_from_db()
    assert finding.done_at is None
    call("patch", f"/api/minutes/findings/{finding.pk}", {"done": True})
    settle(finding.meeting_id)
    go()
    assert tracker.tasks == {}
    # By hand it can go there anew.
    call("post", f"/api/connections/{connection.pk}/send", {"subject": "action", "key": str(Matter.objects.get(kind="action").pk)})
    go()
    assert len(tracker.tasks) == 1 and Placed.objects.get().gone_at is None


def test_a_message_is_taken_once_and_only_if_it_is_signed(task, caller):
    tracker, it, finding, _, connection = task
    tracker.hooks.clear()
    tracker.change(it["id"], state="done")
    body = json.dumps({"type": "task", "task": {"id": it["id"]}}).encode()
    stamp, at, call = str(int(time.time())), f"/api/connections/{connection.pk}/told", caller(None)
    signed = headers_of(unseal(connection.signing), "msg_1", stamp, body)
    for wrong in ({}, signed | {"webhook-signature": "v1,QUJD"}, signed | {"webhook-timestamp": str(int(stamp) - 4000)}):
        assert call("post", at, body, **wrong).status_code == 401
    assert call("post", at, body, **signed).status_code == 202
    finding.refresh_from_db()
    first = finding.done_at
    assert first
    tracker.change(it["id"], state="open")
    assert call("post", at, body, **signed).status_code == 202  # the same message again
    finding.refresh_from_db()
    assert finding.done_at == first
    broken = headers_of(unseal(connection.signing), "msg_2", stamp, b"[1]")
    assert call("post", at, b"[1]", **broken).status_code == 422


def test_a_token_that_was_revoked_is_said_and_goes_on_with_another(task):
    tracker, it, finding, call, connection = task
    tracker.token = "fresh"
    call("patch", f"/api/minutes/findings/{finding.pk}", {"done": True})
    settle(finding.meeting_id)
    go()
    aside = Delivery.objects.get(state="aside")
    assert "does not let this connection in" in aside.said and aside.tries == 1
    shown = call("get", f"/api/connections/{connection.pk}").json()
    assert "credentials" in shown["trouble"] and shown["aside"] == 1
    assert call("patch", f"/api/connections/{connection.pk}", {"given": shown["given"] | {"token": "fresh"}}).json()["trouble"] == ""
    assert call("post", f"/api/connections/{connection.pk}/again").status_code == 202
    go()
    assert tracker.tasks[it["id"]]["state"] == "done"


def test_what_an_other_side_may_not_lead_us_to(outside, maren, caller, settings):
    """A redirect into our own network, an address in it, answers that have no end."""

    class Elsewhere(BaseHTTPRequestHandler):
        def do_POST(self):
            self.send_response(307)
            self.send_header("Location", "http://127.0.0.1:5432/secret")
            self.send_header("Content-Length", "0")
            self.end_headers()

        def log_message(self, *args):
            pass

    server = ThreadingHTTPServer(("127.0.0.1", 0), Elsewhere)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    place = f"127.0.0.1:{server.server_address[1]}"
    settings.INSIDE = {place}
    call = caller(maren)
    side = outside("webhook")

    def tried(address: str):
        return call("post", "/api/connections", {"kind": "webhook", "everybody": True, "given": side.given | {"address": address}})

    assert "sends us on to 127.0.0.1" in tried(f"http://{place}/").json()["detail"]
    assert "network of its own" in tried("https://localhost/hook").json()["detail"]
    assert "https:// alone" in tried("http://tracker.example/hook").json()["detail"]
    server.shutdown()


def test_two_workspaces_do_not_share_one_room(outside, maren, member, caller):
    side = outside("chat", room="r1")
    assert connected(caller(maren), side)
    other = member("Tomasz Wilk", "owner", Workspace.objects.create(name="Elsewhere"))
    refused = caller(other)("post", "/api/connections", {"kind": "chat", "everybody": True, "given": side.given})
    assert refused.status_code == 409 and "another workspace" in refused.json()["detail"]
    caller(maren)("delete", f"/api/connections/{Connection.objects.get().pk}")
    assert connected(caller(other), side)


def test_a_message_to_a_room_names_who_what_and_by_when(outside, maren, caller, make_meeting):
    side, call, meeting = outside("chat"), caller(maren), make_meeting(maren)
    made = connected(call, side)
    targets = call("get", f"/api/connections/{made['id']}/targets").json()
    assert {"key": "room r1", "name": "Palm house", "kind": "room"} in targets and any(one["kind"] == "person" for one in targets)
    assert call("post", f"/api/connections/{made['id']}/send", {"subject": "minutes", "key": str(meeting.pk)}).status_code == 422  # to where?
    excerpt = call("post", f"/api/meetings/{meeting.pk}/excerpts", {"title": "The lock", "start": 7.0, "end": 12.0}).json()
    for subject, key, target in (("minutes", str(meeting.pk), "room r1"), ("excerpt", excerpt["id"], "person u2"), ("action", str(Matter.objects.get(kind="action").pk), "room r2")):
        assert call("post", f"/api/connections/{made['id']}/send", {"subject": subject, "key": key, "target": target, "target_name": "There"}).status_code == 202
    go()
    texts = {one["room"]: one["text"] for one in side.held()}
    assert texts["r1"].startswith("Minutes: Locks, 3 March 2026") and "– " in texts["r1"]
    assert texts["to u2"].startswith("“The lock”\nMaren Tollefsen: What if we change") and "Idris Quaye, by 6 March" in texts["r2"]


CALL = TALK + """
00:00:18.000 --> 00:00:22.000
<v Pavel Drozd>Our budget for the glass is twelve thousand pounds.

00:00:23.000 --> 00:00:27.000
<v Maren Tollefsen>Fine, then we know that.
"""


@pytest.fixture
def customer(outside, maren, caller, make_meeting):
    """A meeting with somebody of a customer's, and the file of customers: (file, meeting, caller, connection)."""
    side, call = outside("customers"), caller(maren)
    Person.objects.create(workspace=maren.workspace, name="Pavel Drozd", email="pavel@drozd.example")
    made = connected(call, side)
    call("post", f"/api/connections/{made['id']}/rules", {"subjects": ["minutes"]})
    return side.world, lambda **more: make_meeting(maren, text=CALL, **more), call, made["id"]


def answered(monkeypatch, words: str) -> None:
    """The asker finds the turns with these words; how well it finds is measured on whole meetings."""

    class Found:
        def __init__(self, record: Record, *rest):
            self.turns = [turn for turn in record.turns if words and words in turn.text]
            assert all_said(record)

        def ask(self, questions):
            return [type("A", (), {"turns": self.turns})() for _ in questions]

    monkeypatch.setattr(fields, "Asker", Found)


def test_minutes_are_noted_with_the_customer_and_a_field_is_filled_once_somebody_confirms(customer, monkeypatch, maren):
    file, meet, call, connection = customer
    shown = call("get", f"/api/connections/{connection}/fields").json()
    assert {"key": "budget", "title": "Budget", "type": "number", "choices": []} in shown
    assert call("put", f"/api/connections/{connection}/questions", {"field": "budget", "question": "What budget did they name?"}).status_code == 200
    assert call("put", f"/api/connections/{connection}/questions", {"field": "shoe size", "question": "?"}).status_code == 422
    answered(monkeypatch, "budget")
    meeting = meet()
    settle(meeting.pk)
    go()
    (entry,) = file.log.values()
    assert entry["organisation"] == "o1" and entry["people"] == ["p1"] and "lock" in entry["text"]
    fields.fill(Connection.objects.get().pk, meeting.pk, Target("o1", "Drozd Glazing"))
    (found,) = call("get", f"/api/connections/{connection}/answers").json()
    assert (found["value"], found["state"], found["place"]) == ("12000", "proposed", "Drozd Glazing") and found["quotes"][0]["who"] == "Pavel Drozd"
    assert file.organisations["o1"]["fields"] == {}  # nothing is written that nobody has looked at
    assert "a number in digits" in call("post", f"/api/connections/answers/{found['id']}/confirm", {"value": "plenty"}).json()["detail"]
    assert call("post", f"/api/connections/answers/{found['id']}/confirm", {"value": "12000"}).json()["state"] == "confirmed"
    go()
    assert file.organisations["o1"]["fields"] == {"budget": 12000}
    # What is refused afterwards is taken out; what somebody wrote there is theirs.
    assert call("post", f"/api/connections/answers/{found['id']}/refuse").json()["state"] == "refused"
    go()
    assert file.organisations["o1"]["fields"] == {"budget": None}
    file.organisations["o1"]["fields"] = {"budget": 9000}
    call("post", f"/api/connections/answers/{found['id']}/confirm", {"value": "12000"})
    go()
    assert file.organisations["o1"]["fields"] == {"budget": 9000} and "9000" in Delivery.objects.filter(state="aside").get().said


@pytest.mark.parametrize("lost", [False, True], ids=["answered", "without an answer"])
def test_empty_stays_empty_and_what_is_struck_leaves_the_field(customer, monkeypatch, lost):
    file, meet, call, connection = customer
    for field, question in (("budget", "What budget did they name?"), ("glass", "Which glass?")):
        call("put", f"/api/connections/{connection}/questions", {"field": field, "question": question, "by_itself": True})
    answered(monkeypatch, "")
    meeting = meet()
    settle(meeting.pk)
    go()
    fields.fill(Connection.objects.get().pk, meeting.pk, Target("o1", "Drozd Glazing"))
    assert not FieldAnswer.objects.exists()
    answered(monkeypatch, "budget")
    fields.fill(Connection.objects.get().pk, meeting.pk, Target("o1", "Drozd Glazing"))
    if lost:  # written, and the answer breaks off: the worker does not know
        [waits] = [one for one in waiting() if one.subject == "answer" and one.key == str(FieldAnswer.objects.get(question__field="budget").pk)]
        file.moods.come(["", "half"])
        with pytest.raises(Later):
            attempt(waits.pk)
    else:
        go()
    # By itself where the lines say it plainly; a kind of glass they do not name.
    assert file.organisations["o1"]["fields"] == {"budget": 12000}
    assert list(FieldAnswer.objects.filter(question__field="glass").values_list("value", "state")) == [("", "proposed")]
    preview = call("post", f"/api/meetings/{meeting.pk}/strike/preview", {"start": 17.5, "end": 22.5}).json()
    assert any(one["kind"] == "answer" for one in preview["drawn"])
    call("post", f"/api/meetings/{meeting.pk}/strike", {"start": 17.5, "end": 22.5, "name": "Maren Tollefsen", "before": preview["text"]})
    settle(meeting.pk)
    go()
    assert file.organisations["o1"]["fields"] == {"budget": None} and not FieldAnswer.objects.exists()


def test_who_belongs_to_two_customers_is_asked_about_once(customer, outside):
    file, meet, call, connection = customer
    file.people["p1"]["organisation"] = "o1"
    file.people["p9"] = {"id": "p9", "name": "Pavel Drozd", "addresses": ["pavel@drozd.example"], "organisation": "o3"}
    meeting = meet()
    settle(meeting.pk)
    go()
    (row,) = call("get", f"/api/connections/deliveries?connection={connection}").json()["deliveries"]
    assert row["state"] == "asked" and {(one["what"], one["name"]) for one in row["places"]} == {("pavel@drozd.example", "Drozd Glazing"), ("pavel@drozd.example", "Vidrios Alborada")}
    assert call("post", f"/api/connections/deliveries/{row['id']}/where", {"places": [{"what": "pavel@drozd.example", "key": "o2", "name": "x"}]}).status_code == 422
    chosen = {"what": "pavel@drozd.example", "key": "o3", "name": "Vidrios Alborada"}
    assert call("post", f"/api/connections/deliveries/{row['id']}/where", {"places": [chosen]}).json()["state"] == "waiting"
    go()
    assert [one["organisation"] for one in file.log.values()] == ["o3"] and Known.objects.get().what == "pavel@drozd.example"
    settle(meet(title="Again").pk)
    go()
    assert [one["organisation"] for one in file.log.values()] == ["o3", "o3"]


def test_an_address_that_anybody_has_says_nothing_of_where_they_belong(customer):
    file, meet, call, connection = customer
    file.organisations["o4"] = {"id": "o4", "name": "Somebody's", "domains": ["gmail.com"], "fields": {}, "version": 1}
    Person.objects.filter(name="Pavel Drozd").update(email="pavel.drozd@gmail.com")
    settle(meet().pk)
    go()
    assert not file.log and Delivery.objects.get().state == "dropped" and "Nobody was there" in Delivery.objects.get().said


@pytest.mark.parametrize("kind", ["folder", "store"])
def test_a_file_that_somebody_changed_there_is_left_and_ours_laid_beside(outside, maren, caller, make_meeting, kind):
    side, call, meeting = outside(kind), caller(maren), make_meeting(maren, "Locks: a / b")
    made = connected(call, side)
    call("post", f"/api/connections/{made['id']}/send", {"subject": "minutes", "key": str(meeting.pk)})
    go()
    there = Placed.objects.get()
    assert there.remote == "2026/2026-03-03 Locks a b – Minutes.md"

    def lay(text: str) -> None:
        if kind == "folder":
            (side.world / there.remote).write_text(text)
        else:
            side.world.objects[there.remote] = text.encode()

    lay("Somebody's own words")
    line = meeting.minutes_lines.get(finding__kind="action")
    call("patch", f"/api/minutes/lines/{line.pk}", {"text": "Idris Quaye to buy a padlock by 6 March.", "before": line.text})
    settle(meeting.pk)
    go()
    assert sorted(text[:10] for text in side.held()) == ["# Locks: a", "Somebody's"]
    assert Placed.objects.get().remote == "2026/2026-03-03 Locks a b – Minutes (2).md"
    call("post", f"/api/connections/placed/{there.pk}/take-back")
    go()
    assert side.held() == ["Somebody's own words"]
    assert call("post", "/api/connections", {"kind": kind, "given": side.given | {"path": "../{title}"}}).status_code == 422
    assert call("post", "/api/connections", {"kind": kind, "given": side.given | {"path": "{nonsense}"}}).status_code == 422


def test_values_are_found_where_lines_say_one_thing_plainly():
    day = datetime(2026, 3, 3, tzinfo=UTC).date()
    number, when, choice = Field(FieldType.NUMBER), Field(FieldType.DATE), Field(FieldType.CHOICE, ("laminated", "acid-etched"))
    assert value_in(number, ["Our budget is twelve thousand pounds."], day) == "12000"
    assert value_in(number, ["It was three hundred and forty a week."], day) == "340"
    assert value_in(number, ["About £12,400, all in."], day) == "12400" and value_in(number, ["We have 14k for it."], day) == "14000"
    assert value_in(number, ["unos doce mil euros"], day, "es") == "12000"
    for unclear in ("Between eight and nine thousand.", "Twelve and a half thousand.", "Eight for one, nine for two.", "On the 20th.", "Plenty."):
        assert value_in(number, [unclear], day) == "", unclear
    assert value_in(when, ["They begin on Friday."], day) == "2026-03-06" and value_in(when, ["On Friday or Monday."], day) == ""
    assert value_in(choice, ["Acid-etched, for the north side."], day) == "acid-etched" and value_in(choice, ["Laminated or acid-etched."], day) == ""
    assert value_in(number, [], day) == "" and fits(number, "12000") and not fits(number, "1e999") and not fits(choice, "wood") and not fits(when, "2026-02-30")


def test_the_two_customers_of_one_call_each_get_a_note(customer, maren):
    file, meet, call, connection = customer
    Person.objects.create(workspace=maren.workspace, name="Gwen Castellow", email="gwen@castellow.example")
    settle(meet(people=["Gwen Castellow"]).pk)
    go()
    assert sorted(one["organisation"] for one in file.log.values()) == ["o1", "o2"]
    assert customers.FIELDS["budget"]["type"] == "number"


def test_what_waits_too_long_says_when_it_is_tried_again(task):
    tracker, it, finding, call, connection = task
    tracker.moods.come(["refuse 503"])
    call("patch", f"/api/minutes/findings/{finding.pk}", {"done": True})
    (one,) = settle(finding.meeting_id)
    with pytest.raises(Later):
        attempt(one.pk)
    row = next(one for one in call("get", "/api/connections/deliveries?state=waiting").json()["deliveries"])
    assert row["again"] and "503" in row["said"] and row["tries"] == 1


def test_an_answer_without_an_end_is_not_waited_for(monkeypatch):
    assert list(pages({"": ("a", "1"), "1": ("b", "2"), "2": ("c", None)}.get)) == ["a", "b", "c"]
    assert list(pages(lambda begins: ("a", "1"))) == ["a", "a"]  # the same mark again
    monkeypatch.setattr("server.outward._MOST_PAGES", 5)
    with pytest.raises(InputProblem, match="more than 5 pages"):
        list(pages(lambda begins: ((), f"{begins}1")))


def test_a_thread_is_read_with_its_messages_and_kept_as_a_meeting(outside, maren, member, caller, encoder, settings, tmp_path, monkeypatch):
    monkeypatch.setattr("standins.chat._PAGE", 5)  # in three pages
    settings.FILE_UPLOAD_TEMP_DIR, settings.MEDIA_ROOT = tmp_path / "incoming", tmp_path / "media"
    side, call = outside("chat"), caller(maren)
    side.world.talk()
    made = connected(call, side)
    at = f"/api/connections/{made['id']}"
    assert {one["name"] for one in call("get", f"{at}/rooms").json()} == {"Palm house", "Yard"}
    assert caller(member("Lucía Ferrer"))("get", f"{at}/rooms").json() == []  # not in any room there
    assert call("post", f"{at}/threads", {"room": "r1"}).status_code == 422 and call("post", f"{at}/threads", {"room": "r9", "unread": True}).status_code == 404
    thread = call("post", f"{at}/threads", {"room": "r1", "since": (timezone.now() - timedelta(days=2)).isoformat()}).json()
    read_now(UUID(thread["id"]))
    read = call("get", f"/api/threads/{thread['id']}").json()
    assert read["state"] == "ready" and len(read["messages"]) == 12
    assert {"decision", "action"} <= {one["kind"] for one in read["drawn"]} and all(one["messages"] for one in read["drawn"])
    texts = [one["text"] for one in read["messages"]]
    for one in read["drawn"]:
        if one["kind"] == "action":
            assert any(word in " ".join(texts[n] for n in one["messages"]) for word in ("ring the scaffolders", "write to the visitors", "I can ask"))
    assert caller(member("Idris Quaye"))("get", f"/api/threads/{thread['id']}").status_code == 404
    # One that holds nothing says so, and since one was last there is told apart by who asks.
    side.world.read_until["r1 maren@larkmoor.example"] = read["messages"][-1]["key"]
    empty = call("post", f"{at}/threads", {"room": "r1", "unread": True}).json()
    read_now(UUID(empty["id"]))
    assert "Nothing was written" in call("get", f"/api/threads/{empty['id']}").json()["said"]
    kept = call("post", f"/api/threads/{thread['id']}/keep").json()["meeting"]
    assert call("post", f"/api/threads/{thread['id']}/keep").json()["meeting"] == kept
    meeting = Meeting.objects.get(pk=kept)
    run_stages(meeting, "take_in", "assemble")
    assert meeting.visibility == "mine" and meeting.title.startswith("Palm house, ") and Line.objects.filter(meeting=meeting, text__startswith="I'll ring the scaffolders").exists()
    Thread.objects.update(made_at=timezone.now() - timedelta(days=9))
    let_go_of_old()
    assert call("get", "/api/threads").json() == []


@pytest.mark.parametrize("address", ["http://[", "https://x.example:port/", "https://x.example:99999/", "ftp://x.example/", "https://a:b@x.example/", "x"])
def test_what_is_no_address_is_said_and_raises_nothing_else(address, maren, caller):
    with pytest.raises(InputProblem):
        settled(address, secret=False)
    assert caller(maren)("post", "/api/booking", {"title": "Glass", "link": address}).status_code == 422


def test_a_certificate_that_does_not_match_is_said_and_nothing_is_sent(maren, caller, settings, tmp_path):
    key = ec.generate_private_key(ec.SECP256R1())
    name = x509.Name([x509.NameAttribute(NameOID.COMMON_NAME, "elsewhere.example")])
    now = timezone.now()
    made = x509.CertificateBuilder().subject_name(name).issuer_name(name).public_key(key.public_key()).serial_number(1).not_valid_before(now).not_valid_after(now + timedelta(days=1)).sign(key, hashes.SHA256())
    pem = tmp_path / "both.pem"
    pem.write_bytes(made.public_bytes(serialization.Encoding.PEM) + key.private_bytes(serialization.Encoding.PEM, serialization.PrivateFormat.PKCS8, serialization.NoEncryption()))
    heard = []

    class Listens(BaseHTTPRequestHandler):
        def do_POST(self):
            heard.append(self.path)

    server = ThreadingHTTPServer(("127.0.0.1", 0), Listens)
    context = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    context.load_cert_chain(pem)
    server.socket = context.wrap_socket(server.socket, server_side=True)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    settings.INSIDE = {f"127.0.0.1:{server.server_address[1]}"}
    given = {"address": f"https://127.0.0.1:{server.server_address[1]}/", "secret": SECRET}
    refused = caller(maren)("post", "/api/connections", {"kind": "webhook", "everybody": True, "given": given})
    assert refused.status_code == 422 and "certificate of 127.0.0.1 is not one to trust" in refused.json()["detail"] and heard == []
    server.shutdown()
