"""The contract that every kind of connection keeps, on a stand-in of its other side: form, check, delivery, tries, what is put aside, sent again, taken back."""

from __future__ import annotations

import json
import os
from contextlib import suppress
from dataclasses import replace
from datetime import timedelta
from types import SimpleNamespace
from uuid import UUID

import pytest
from django.db import connection as database
from django.utils import timezone

from server.connections.deliver import TRIES, Later, attempt
from server.connections.kinds import KINDS
from server.connections.models import Connection, Delivery, DeliveryState, Happened, Placed, Rule
from server.connections.rules import queue_delivery, settle
from server.connections.subjects import THINGS
from server.connections.tasks import Pauses
from server.ledger.models import Matter
from server.meetings.models import Meeting
from server.record.actions.delete_meeting import erase_now
from server.sealing import unseal
from tests.outside import OUTSIDES
from tests.server.conftest import delivered, strike

pytestmark = pytest.mark.django_db
MANY = int(os.environ.get("AFTERSHOWER_DELIVERIES", "100"))


@pytest.fixture(params=sorted(KINDS))
def outside(request, settings):
    """The other side of each kind in turn; a kind without one fails here."""
    found = OUTSIDES[request.param]()
    found.kind = request.param
    settings.INSIDE = {found.place}
    yield found
    found.server.shutdown()


def connected(call, outside, **more) -> dict:
    answer = call("post", "/api/connections", {"kind": outside.kind, "name": "Yard", "everybody": True, "given": outside.given} | more)
    assert answer.status_code == 201, answer.json()
    return answer.json()


def waiting() -> list[Delivery]:
    return list(Delivery.objects.filter(state=DeliveryState.WAITING).order_by("queued_at"))


def go(patience: int = 60) -> None:
    """What the worker does, without its pauses."""
    while patience and (open_ones := waiting()):
        patience -= 1
        for one in open_ones:
            try:
                attempt(one.pk)
            except Later:
                continue


def key_of(outside, meeting) -> str:
    """Of something that goes there."""
    if outside.subject == "action":
        return str(Matter.objects.get(kind="action", steps__meeting=meeting).pk)
    return str(meeting.pk)


def send(call, outside, made, meeting, key: str = ""):
    payload = {"subject": outside.subject, "key": key or key_of(outside, meeting), "target": outside.target}
    return call("post", f"/api/connections/{made['id']}/send", payload)


def test_what_is_wrong_is_said_when_it_is_connected(outside, maren, member, caller):
    call = caller(maren)
    form = next(one for one in call("get", "/api/connections/kinds").json() if one["name"] == outside.kind)["form"]
    assert set(form["required"]) <= set(form["properties"]) and all(one["title"] for one in form["properties"].values())
    secret = [name for name, field in form["properties"].items() if field.get("secret")]
    assert secret and set(outside.given) <= set(form["properties"])
    for given in ({}, outside.wrong, outside.given | {"address": "http://127.0.0.1:1/"}, outside.given | {"address": "nowhere"}):
        refused = call("post", "/api/connections", {"kind": outside.kind, "given": given, "everybody": True})
        assert refused.status_code == 422 and refused.json()["detail"], given
    outside.moods.come(["huge"] * 3)
    assert call("post", "/api/connections", {"kind": outside.kind, "given": outside.given, "everybody": True}).status_code in (201, 422)
    outside.moods.forget()
    Connection.objects.all().delete()
    assert caller(member("Idris Quaye"))("post", "/api/connections", {"kind": outside.kind, "given": outside.given, "everybody": True}).status_code == 403
    assert caller(member("Gwen Castellow", "guest"))("post", "/api/connections", {"kind": outside.kind, "given": outside.given}).status_code == 403
    assert not Connection.objects.exists()
    made = connected(call, outside)
    kept = Connection.objects.get()
    for name in secret:
        assert outside.given[name] not in json.dumps(made) and outside.given[name] not in json.dumps(kept.settings) + kept.secrets
        assert outside.given[name] in unseal(kept.secrets)
    assert made["said"] and call("post", f"/api/connections/{made['id']}/check").json()["trouble"] == ""
    # A secret that is left out stays as it is.
    changed = call("patch", f"/api/connections/{made['id']}", {"name": "Yard 2", "given": {name: value for name, value in outside.given.items() if name not in secret}})
    assert changed.status_code == 200 and changed.json()["name"] == "Yard 2"


def test_it_goes_once_is_kept_in_step_and_taken_back(outside, maren, caller, make_meeting):
    call, meeting = caller(maren), make_meeting(maren)
    made = connected(call, outside)
    assert send(call, outside, made, meeting).json()["state"] == "waiting"
    assert send(call, outside, made, meeting).status_code == 202 and len(waiting()) == 1  # pressed twice, goes once
    go()
    assert len(outside.held()) == 1 and "lock" in outside.texts()
    there = Placed.objects.get()
    assert there.remote and there.digest and there.placed_at
    row = call("get", f"/api/connections/deliveries?connection={made['id']}").json()["deliveries"][0]
    assert (row["state"], row["by"], row["title"]) == ("sent", "Maren Tollefsen", "Locks")
    # What says the same does not go again; what says something else does.
    settle(meeting.pk)
    assert not waiting()
    line = meeting.minutes_lines.get(finding__kind="action")
    assert call("patch", f"/api/minutes/lines/{line.pk}", {"text": "Idris Quaye to buy a padlock by 6 March.", "before": line.text}).status_code == 200
    settle(meeting.pk)
    go()
    assert len(outside.held()) == 1 and "padlock" in outside.texts()
    assert call("post", f"/api/connections/placed/{there.pk}/take-back").status_code == (202 if KINDS[outside.kind].recalls else 409)
    go()
    assert outside.held() == []
    assert not settle(meeting.pk)  # and does not come back by itself


def test_what_is_not_taken_is_put_aside_told_of_and_sent_again_by_a_press(outside, maren, caller, make_meeting):
    call, meeting = caller(maren), make_meeting(maren)
    made = connected(call, outside)
    outside.moods.come(["refuse 503"] * TRIES)
    send(call, outside, made, meeting)
    pauses = []
    for _ in range(TRIES - 1):
        with pytest.raises(Later) as later:
            attempt(Delivery.objects.get().pk)
        pauses.append(Pauses().get_retry_decision(exception=later.value, job=SimpleNamespace(attempts=1)).retry_at)
    attempt(Delivery.objects.get().pk)
    aside = Delivery.objects.get()
    assert aside.state == "aside" and "503" in aside.said and outside.held() == []
    assert pauses == sorted(pauses) and pauses[-1] - pauses[0] > timedelta(hours=1)
    letters = [one for one in delivered() if "Not delivered" in one.subject]
    assert [one.to for one in letters] == [["maren@larkmoor.example"]] and "503" in letters[0].body
    assert call("get", f"/api/connections/{made['id']}").json()["aside"] == 1
    assert call("post", f"/api/connections/deliveries/{aside.pk}/again").json()["state"] == "waiting"
    go()
    assert len(outside.held()) == 1 and Delivery.objects.get().state == "sent" and Connection.objects.get().trouble == ""
    assert call("post", f"/api/connections/deliveries/{aside.pk}/again").status_code == 409


def test_a_delivery_whose_answer_was_lost_is_the_same_delivery(outside, maren, caller, make_meeting):
    """The worker died between sending and noting it: what is left is a delivery that waits."""
    call, meeting = caller(maren), make_meeting(maren)
    made = connected(call, outside)
    send(call, outside, made, meeting)
    key = Delivery.objects.get().pk
    attempt(key)
    Placed.objects.update(placed_at=None, digest="", **({} if not KINDS[outside.kind].keyed else {"remote": ""}))
    Delivery.objects.update(state="waiting", sent_at=None)
    attempt(key)
    assert len(outside.held()) == 1 and outside.doubled() == 0


def test_what_is_struck_or_deleted_is_gone_there(outside, maren, caller, make_meeting):
    call, meeting = caller(maren), make_meeting(maren)
    made = connected(call, outside)
    send(call, outside, made, meeting)
    go()
    struck = strike(call, meeting, {"start": 12.5, "end": 17.0})
    assert struck.status_code in (200, 201), struck.json()
    settle(meeting.pk)
    go()
    assert "order" not in outside.texts()
    with database.cursor() as cursor:
        cursor.execute("select string_agg(said, ' ') from connections_delivery")
        assert "order" not in (cursor.fetchone()[0] or "")
    if outside.subject != "minutes":
        return
    call("delete", f"/api/meetings/{meeting.pk}")
    call("post", f"/api/library/taken-out/{meeting.pk}/delete", {"name": "Maren Tollefsen"})
    erase_now(meeting.pk)
    settle(meeting.pk)
    go()
    assert outside.held() == []


def test_what_was_put_there_without_an_answer_and_struck_meanwhile_is_not_left_there(outside, maren, caller, make_meeting):
    call = caller(maren)
    made = connected(call, outside)
    for pressed in (False, True):
        meeting = make_meeting(maren, f"Locks {pressed}")
        send(call, outside, made, meeting)
        [delivery] = waiting()
        for before in range(8):  # the request that puts it there is done, and its answer breaks off
            outside.moods.come([*[""] * before, "half"])
            with suppress(Later):
                attempt(delivery.pk)
            outside.moods.forget()
            if "order" in outside.texts():
                break
            Delivery.objects.update(tries=0)
        delivery.refresh_from_db()
        # A file lies where it was put, whatever the answer.
        assert "order" in outside.texts() and (delivery.state == "waiting") == KINDS[outside.kind].keyed
        strike(call, meeting, {"start": 12.5, "end": 17.0})
        settle(meeting.pk)
        if pressed and KINDS[outside.kind].keyed:
            Delivery.objects.filter(pk=delivery.pk).update(state="aside")
            call("post", f"/api/connections/deliveries/{delivery.pk}/again")
        go()
        assert "order" not in outside.texts() and outside.doubled() == 0


def test_what_is_not_given_back_is_said_until_it_is_gone(outside, maren, caller, make_meeting):
    call, meeting = caller(maren), make_meeting(maren)
    send(call, outside, connected(call, outside), meeting)
    go()
    there = Placed.objects.get()
    assert call("post", f"/api/connections/placed/{there.pk}/take-back").status_code == 202
    outside.moods.come(["refuse 422"] * 3)
    go()
    outside.moods.forget()
    refused = Delivery.objects.get(happened=Happened.GONE)
    there.refresh_from_db()
    assert refused.state == "aside" and "422" in there.left and there.gone_at is None and outside.held()
    if outside.kind != "webhook":  # of which it says no more than that nobody listens
        outside.moods.come(["refuse 404"] * 3)  # somebody was there first
    call("post", f"/api/connections/deliveries/{refused.pk}/again")
    go()
    there.refresh_from_db()
    assert there.gone_at and there.left == there.digest == ""


def test_many_deliveries_are_there_once_each(outside, maren, caller, make_meeting, monkeypatch):
    """Through an other side that is slow, refuses, breaks off, thinks better of it (`./aftershower bench deliveries`: a thousand). What is said of each is made up: here it is how it gets there."""
    call, meeting = caller(maren), make_meeting(maren)
    made, thing = connected(call, outside), THINGS[outside.subject]
    _, contents = thing.compose(maren, key_of(outside, meeting))

    def compose(side, key):
        return meeting, contents.model_copy(update={"id": int(key)} if outside.subject == "action" else {"meeting": contents.meeting.model_copy(update={"id": UUID(int=int(key)), "title": f"Locks {key}"})})

    monkeypatch.setitem(THINGS, outside.subject, replace(thing, compose=compose))
    outside.moods.late = 0.002
    outside.moods.come(["", "slow", "", "half", "", "refuse 429", "refuse 503", "", "", "mind", "", "half", "", "refuse 500", "", ""] * (MANY // 12) + ["huge"])
    there = Connection.objects.select_related("workspace").get(pk=made["id"])
    for key in range(1, MANY + 1):
        queue_delivery(there, meeting, outside.subject, str(key), Happened.MADE, outside.target)
    go()
    assert {one.state for one in Delivery.objects.all()} == {"sent"} and Delivery.objects.count() == MANY
    assert len(outside.held()) == MANY and outside.doubled() == 0


def test_rules_say_what_goes_by_itself_and_never_more_than_may_be_seen(maren, member, caller, make_meeting, settings):
    outside = OUTSIDES["webhook"]()
    outside.kind, settings.INSIDE = "webhook", {outside.place}
    call = caller(maren)
    earlier = make_meeting(maren, "Earlier")
    made = connected(call, outside)
    rule = call("post", f"/api/connections/{made['id']}/rules", {"subjects": ["minutes", "action"]})
    assert rule.status_code == 201
    shown, mine = make_meeting(maren, "Shown"), make_meeting(maren, "Mine", visibility="named")
    for one in (earlier, shown, mine):
        settle(one.pk)
    go()
    told = [one for one in outside.world.heard.values() if one["type"] != "check"]
    assert sorted(one["type"] for one in told) == ["action.made", "minutes.made"]
    assert {one["data"]["meeting"]["title"] for one in told} == {"Shown"}
    assert told[0]["data"]["meeting"]["people"] == ["Maren Tollefsen", "Idris Quaye"]
    # By hand: who governs it may; another member, who sees it by name, may not.
    idris = member("Idris Quaye")
    mine.readers.create(user=idris.user)
    ask = {"subject": "minutes", "key": str(mine.pk)}
    assert caller(idris)("post", f"/api/connections/{made['id']}/send", ask).status_code == 403
    assert call("post", f"/api/connections/{made['id']}/send", ask).status_code == 202
    # What is no more shown waits and does not go.
    Meeting.objects.filter(pk=mine.pk).update(removed_at=timezone.now())
    go()
    dropped = Delivery.objects.get(meeting=mine)
    assert dropped.state == "dropped" and len(outside.world.heard) == 3
    # Another member sees of what went only what they may see.
    rows = caller(idris)("get", "/api/connections/deliveries").json()["deliveries"]
    assert {one["title"] for one in rows} == {"Shown"}
    # One's own connection takes what one sees oneself, and is nobody else's affair.
    own = connected(caller(idris), outside, everybody=False)
    assert call("get", f"/api/connections/{own['id']}").status_code == 404
    assert {one["name"] for one in call("get", "/api/connections").json()} == {"Yard"}
    assert call("delete", f"/api/connections/{made['id']}").status_code == 204
    assert Connection.objects.get(pk=made["id"]).secrets == "" and not Rule.objects.exists()
    outside.server.shutdown()


def test_every_subject_is_told_as_its_schema_says(maren, caller, make_meeting):
    meeting = make_meeting(maren)
    for thing in THINGS.values():
        for key in thing.keys(maren, meeting):
            _, contents = thing.compose(maren, key)
            assert isinstance(contents, thing.contents) and thing.contents.model_validate_json(contents.model_dump_json()) == contents
