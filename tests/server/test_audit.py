"""Who did what: for those who manage, with nothing of meetings that they do not see, and changed by nobody."""

from __future__ import annotations

import csv
import io

import pytest
from django.db import IntegrityError, transaction

from server.accounts.models import User
from server.audit.log import erasing, log
from server.audit.models import Entry


def test_filtered_paged_and_as_a_table(maren, member, make_meeting, caller):
    idris, guest = member("Idris Quaye"), member("Gwen Castellow", "guest")
    meeting, closed = make_meeting(maren, "Locks"), make_meeting(idris, "Closed", visibility="mine")
    call = caller(maren)
    call("patch", f"/api/meetings/{meeting.pk}", {"title": "=1+1"})
    caller(idris)("patch", f"/api/meetings/{closed.pk}", {"title": "Still closed"})
    found = call("get", f"/api/audit?who={idris.pk}").json()["entries"]
    assert found and all(one["who"] == "Idris Quaye" and one["meeting"] is None and one["of_a_meeting"] for one in found)
    assert "losed" not in str(found)
    [changed] = call("get", f"/api/audit?verb=change%20meeting&meeting={meeting.pk}").json()["entries"]
    assert (changed["who"], changed["meeting_title"], changed["detail"]) == ("Maren Tollefsen", "=1+1", {"title": True})
    assert call("get", "/api/audit?until=2020-01-01").json()["entries"] == [] != call("get", "/api/audit?since=2020-01-01").json()["entries"]
    for number in range(130):
        log(maren.workspace, maren.user, "count", None, number=number)
    first = call("get", "/api/audit?verb=count").json()
    rest = call("get", f"/api/audit?verb=count&after={first['next']}").json()
    assert [one["detail"]["number"] for one in first["entries"] + rest["entries"]] == list(range(129, -1, -1)) and rest["next"] is None
    assert "change meeting" in call("get", "/api/audit/verbs").json()["verbs"]
    table = list(csv.reader(io.StringIO(call("get", "/api/audit/table.csv?verb=change%20meeting").content.decode())))
    assert [row[4] for row in table] == ["title", "", "'=1+1"]
    for who in (idris, guest):
        for path in ("/api/audit", "/api/audit/verbs", "/api/audit/table.csv"):
            assert caller(who)("get", path).status_code == 403
    assert call("get", "/api/audit?after=nonsense").status_code == 422
    assert Entry.objects.filter(verb="look at audit").exists() and Entry.objects.filter(verb="download audit").exists()


def test_an_entry_stays_as_it_was_written(maren):
    log(maren.workspace, maren.user, "invite", None, email="x@larkmoor.example")
    entry = Entry.objects.get(verb="invite")
    for change in (lambda: entry.delete(), lambda: Entry.objects.update(verb="nothing"), lambda: Entry.objects.update(detail={})):
        with pytest.raises(IntegrityError), transaction.atomic():
            change()
    stranger = User.objects.create_user("gone@larkmoor.example", None)
    log(maren.workspace, stranger, "found")
    stranger.delete()  # whoever did it may go; that it was done stays
    assert Entry.objects.get(verb="found").actor is None
    with transaction.atomic(), erasing():
        Entry.objects.filter(pk=entry.pk).update(detail={"email": "erased"})
    assert Entry.objects.get(pk=entry.pk).detail == {"email": "erased"}


def test_what_is_seen_by_links_and_by_those_who_manage_is_noted(maren, make_meeting, caller):
    meeting = make_meeting(maren)
    call = caller(maren)
    link = call("post", "/api/links", {"scope": "minutes", "of": str(meeting.pk)}).json()
    assert caller(None)("get", f"/api/linked/{link['address'].rsplit('/', 1)[1]}").status_code == 200
    call("get", "/api/links?everybody=true")
    call("get", "/api/sent")
    assert {"open link", "look at all links", "look at what was sent"} <= set(Entry.objects.values_list("verb", flat=True))
    assert Entry.objects.get(verb="open link").actor is None
