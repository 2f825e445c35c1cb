"""The ledger: what meetings make and what becomes of it, as far as one sees them."""

from __future__ import annotations

import csv
import io
from datetime import UTC, date, datetime, timedelta

import pytest
from icalendar import Calendar

from core.reading import read
from core.record.model import Line as Text
from core.record.model import Record, Turn
from server.ledger.follow import Came, keep_steps
from server.ledger.models import Matter, Step
from server.ledger.queries import PAGE
from server.ledger.remind import remind
from server.meetings.models import Meeting, Series
from server.minutes.models import Finding, MinutesLine
from server.pipeline.work import STAGES, begin
from server.record.keep import keep_record
from server.record.models import Line
from server.stages.tasks import run
from tests.core.test_ledger import LATER, MADE
from tests.server.conftest import delivered, strike
from tests.server.test_capture import capture_of


def spoken(said) -> str:
    """As WebVTT."""
    cues = [f"00:00:{5 * i:02}.000 --> 00:00:{5 * i + 4:02}.000\n<v {who}>{text}\n" for i, (who, text) in enumerate(said)]
    return "WEBVTT\n\n" + "\n".join(cues)


@pytest.fixture
def works(maren, make_meeting):
    """Meetings of a series, a week after one another, each with a decision and an action from TALK; `came(meeting, matter, kind)` lets one come back
    to a matter by its last line."""
    series = Series.objects.create(workspace=maren.workspace, name="Works")

    def make(visibility: str = "workspace", **more) -> Meeting:
        number = Meeting.objects.count()
        meeting = make_meeting(maren, f"Works {number + 1}", visibility=visibility, **more)
        meeting.started_at, meeting.series = datetime(2026, 3, 3, 9, tzinfo=UTC) + timedelta(weeks=number), series
        meeting.save()
        return meeting

    return make


def came(meeting: Meeting, matter: Matter, kind: str, finding: Finding | None = None) -> Step:
    line = Line.objects.filter(meeting=meeting).order_by("-number").first()
    keep_steps(meeting, [Came(matter.pk, kind, finding.pk if finding else None, [line.pk], 0.8)])
    return Step.objects.get(matter=matter, meeting=meeting)


def listed(call, view: str = "open", **more) -> list[dict]:
    asked = "&".join(f"{name}={value}" for name, value in more.items())
    answer = call("get", f"/api/ledger?view={view}&{asked}")
    assert answer.status_code == 200, answer.content
    return answer.json()["matters"]


def lock_of(meeting: Meeting) -> Matter:
    return Matter.objects.get(kind="action", steps__meeting=meeting, steps__kind="made")


def test_what_a_meeting_makes_is_in_the_ledger_with_its_lines(works, maren, caller):
    works()
    call = caller(maren)
    [action] = listed(call)
    assert (action["subject"], action["owner"], action["due"], action["closed"]) == ("Order a new lock by Friday", "Idris Quaye", "2026-03-06", None)
    [step] = action["steps"]
    assert (step["kind"], step["quotes"][0]["text"], step["quotes"][0]["who"]) == ("made", "I'll order a new lock by Friday.", "Idris Quaye")
    assert [one["kind"] for one in listed(call, "stands")] == ["decision"] and listed(call, "closed") == []
    # Ticked in the minutes, it is closed here; opened again, it is open.
    assert call("patch", f"/api/minutes/findings/{action['finding']}", {"done": True}).status_code == 200
    assert listed(call) == [] and [one["closed"] for one in listed(call, "closed")] == ["done"]
    call("patch", f"/api/minutes/findings/{action['finding']}", {"done": False})
    assert len(listed(call)) == 1
    # One whose line somebody took out of the minutes is not settled any more.
    MinutesLine.objects.filter(finding=action["finding"]).update(removed_at=datetime.now(UTC))
    assert listed(call) == []


def test_done_is_proposed_confirmed_refused_and_taken_back(works, maren, member, caller):
    first, second = works(), works()
    step = came(second, lock_of(first), "done")
    call, other = caller(maren), caller(member("Idris Quaye"))
    [matter] = [one for one in listed(call) if one["asked"]]
    assert matter["asked"] == step.pk and matter["closed"] is None
    say = lambda who, was, now: who("post", f"/api/ledger/steps/{step.pk}", {"was": was, "now": now})  # noqa: E731
    done = say(other, "read", "confirmed")
    assert (done.json()["closed"], done.json()["steps"][-1]["by"], Finding.objects.get(pk=matter["finding"]).done_at is None) == ("done", "Idris Quaye", False)
    # Of two who say otherwise at once, the second is told.
    assert say(call, "read", "refused").status_code == 409
    assert say(call, "confirmed", "read").json()["closed"] is None and Finding.objects.get(pk=matter["finding"]).done_at is None
    refused = say(call, "read", "refused").json()
    assert [one["kind"] for one in refused["steps"]] == ["made"] and refused["asked"] is None
    # What somebody has said stays when the meeting is read anew.
    keep_steps(second, [Came(step.matter_id, "done", None, [Line.objects.filter(meeting=second).first().pk], 0.9)])
    assert Step.objects.get(pk=step.pk).state == "refused" and [one["asked"] for one in listed(call)] == [None, None]


def test_settled_anew_it_is_one_matter_and_can_be_parted_and_joined(works, maren, caller):
    first, second = works(), works()
    anew = Finding.objects.get(meeting=second, kind="action")
    anew.due = date(2026, 4, 1)
    anew.save()
    old = lock_of(first)
    step = came(second, old, "changed", anew)
    call = caller(maren)
    [matter] = listed(call)
    assert (matter["id"], matter["finding"], matter["due"]) == (old.pk, anew.pk, "2026-04-01")
    assert [one["kind"] for one in matter["steps"]] == ["made", "changed"]
    assert call("post", f"/api/ledger/steps/{step.pk}", {"was": "read", "now": "refused"}).status_code == 422
    parted = call("post", f"/api/ledger/steps/{step.pk}/part").json()
    assert len(listed(call)) == 2 and [one["kind"] for one in parted["steps"]] == ["made"]
    # It stays apart when the meeting is read anew, until somebody joins it again.
    keep_steps(second, [Came(old.pk, "changed", anew.pk, [Line.objects.filter(meeting=second).first().pk], 0.9)])
    assert len(listed(call)) == 2
    assert call("post", f"/api/ledger/steps/{step.pk}/join", {"matter": old.pk}).status_code == 200
    assert [one["id"] for one in listed(call)] == [old.pk]
    decision = Matter.objects.filter(kind="decision").first()
    assert call("post", f"/api/ledger/steps/{step.pk}/join", {"matter": decision.pk}).status_code == 422


def test_nobody_sees_a_step_of_a_meeting_that_is_not_theirs_to_see(works, maren, member, caller):
    first, hidden = works(), works("mine")
    step = came(hidden, lock_of(first), "dropped")
    step.state = "confirmed"
    step.save()
    mine, theirs, guest = caller(maren), caller(member("Idris Quaye")), caller(member("Gwen Castellow", "guest"))
    assert len(listed(mine)) == 1 and [one["closed"] for one in listed(mine, "closed")] == ["dropped"]
    # For a colleague it stands as the meetings that they see left it; of the other there is neither a word nor a sign.
    [open_still] = listed(theirs)
    assert len(open_still["steps"]) == 1 and listed(theirs, "closed") == [] and "Works 2" not in str(listed(theirs, "changed"))
    assert theirs("get", f"/api/ledger/{step.matter_id}").json()["closed"] is None
    only = Matter.objects.get(kind="decision", steps__meeting=hidden)
    assert theirs("get", f"/api/ledger/{only.pk}").status_code == 404
    assert theirs("post", f"/api/ledger/steps/{step.pk}", {"was": "confirmed", "now": "read"}).status_code == 404
    assert all(listed(guest, view) == [] for view in ("open", "stands", "closed", "changed", "forgotten"))
    for form in ("csv", "md", "ics"):
        assert b"Works 2" not in theirs("get", f"/api/ledger/out/{form}?view=changed").content


def test_what_somebody_writes_down_is_in_it_at_once(works, maren, caller):
    meeting = works()
    call = caller(maren)
    line = {"section": "actions", "text": "Idris to oil the gate", "lines": [], "owner": "", "due": "2026-05-01"}
    assert call("post", f"/api/meetings/{meeting.pk}/minutes/lines", line).status_code == 201
    gate = next(one for one in listed(call) if "gate" in one["text"])
    assert (gate["due"], [step["kind"] for step in gate["steps"]]) == ("2026-05-01", ["made"])
    keep_steps(meeting, [])
    assert [one["id"] for one in listed(call) if "gate" in one["text"]] == [gate["id"]]


def test_what_was_settled_anew_is_open_once(works, maren, member, caller):
    idris = member("Idris Quaye")
    first, second = works(), works()
    anew = Finding.objects.get(meeting=second, kind="action")
    step = came(second, lock_of(first), "changed", anew)
    call = caller(idris)
    mine = lambda: [one["id"] for one in call("get", "/api/today").json()["actions"]]  # noqa: E731
    left = lambda: [one["meeting"] for one in call("get", f"/api/series/{first.series_id}").json()["open"] if one["kind"] == "action"]  # noqa: E731
    assert mine() == [anew.pk] and left() == [str(second.pk)]
    # Where one does not see the later meeting, it stands as the earlier one left it.
    Meeting.objects.filter(pk=second.pk).update(visibility="mine")
    assert mine() == [Finding.objects.get(meeting=first, kind="action").pk] and left() == [str(first.pk)]
    Meeting.objects.filter(pk=second.pk).update(visibility="workspace")
    Step.objects.filter(pk=step.pk).update(kind="dropped", state="confirmed", finding=None)
    assert anew.pk in mine() and left() == [str(second.pk)]


def test_a_date_that_moves_and_an_owner_who_leaves(works, maren, member, caller):
    first, second = works(), works()
    anew = Finding.objects.get(meeting=second, kind="action")
    came(second, lock_of(first), "changed", anew)
    call, idris = caller(maren), member("Idris Quaye")
    Finding.objects.filter(kind="action").update(owner=idris.user.people.get())
    shown = lambda: [(one["finding"], one["owner"], [step["title"] for step in one["steps"]]) for one in listed(call)]  # noqa: E731
    assert shown() == [(anew.pk, "Idris Quaye", ["Works 1", "Works 2"])]
    # The second turns out to have been held before the first: what stands is what the first settles.
    Meeting.objects.filter(pk=second.pk).update(started_at=first.started_at - timedelta(days=1))
    assert shown() == [(Finding.objects.exclude(pk=anew.pk).get(kind="action").pk, "Idris Quaye", ["Works 2", "Works 1"])]
    idris.user.delete()
    assert shown()[0][1] == "Idris Quaye", "it is still said whose it was"


def test_what_was_forgotten_is_overdue_and_not_spoken_of_lately(works, maren, caller):
    first = works()
    call = caller(maren)
    assert listed(call, "forgotten") == []
    works(), works()
    [forgotten] = listed(call, "forgotten")
    assert forgotten["id"] == lock_of(first).pk
    last = Meeting.objects.order_by("-started_at").first()
    came(last, lock_of(first), "carried")
    assert listed(call, "forgotten") == []


def test_narrowed_in_pages_and_what_changed_since(works, maren, member, caller):
    idris = member("Idris Quaye")
    meeting = works()
    call = caller(maren)
    assert len(listed(caller(idris), mine="true")) == 1 and listed(call, mine="true") == [] and listed(call, nobody="true") == []
    assert len(listed(call, words="LOCK")) == 1 and listed(call, words="quagga") == []
    assert len(listed(call, series=meeting.series_id)) == 1 and listed(call, series=meeting.series_id + 1) == []
    assert len(listed(call, "changed", since="2026-03-01")) == 2 and listed(call, "changed", since="2026-03-09") == []
    for number in range(PAGE + 5):
        more = Finding.objects.create(
            meeting=meeting, kind="action", text=f"task {number}", status="standing", confidence=1, start=0, end=1, due=date(2026, 5, 1), jotted_by=maren.user
        )
        matter = Matter.objects.create(workspace=maren.workspace, kind="action")
        Step.objects.create(matter=matter, meeting=meeting, kind="made", finding=more)
    page = call("get", "/api/ledger").json()
    rest = call("get", f"/api/ledger?cursor={page['next']}").json()
    ids = [one["id"] for one in (*page["matters"], *rest["matters"])]
    assert len(page["matters"]) == PAGE and rest["next"] is None and len(set(ids)) == len(ids) == PAGE + 6
    for cursor in ("x", "bnVsbA==", "WyIyMDI2IiwgMV0="):
        assert call("get", f"/api/ledger?cursor={cursor}").status_code == 422
    assert call("get", "/api/ledger?time_zone=Nowhere").status_code == 422


def test_out_as_a_table_a_text_and_tasks(works, maren, caller):
    works()
    Finding.objects.filter(kind="action").update(text="=HYPERLINK(1) a lock")
    call = caller(maren)
    rows = list(csv.DictReader(io.StringIO(call("get", "/api/ledger/out/csv").content.decode())))
    assert [(row["text"], row["owner"], row["due"], row["standing"]) for row in rows] == [("'=HYPERLINK(1) a lock", "Idris Quaye", "2026-03-06", "open")]
    assert "Idris Quaye, due 2026-03-06, open" in call("get", "/api/ledger/out/md").content.decode()
    [task] = Calendar.from_ical(call("get", "/api/ledger/out/ics").content).todos
    assert (task.decoded("due"), str(task["status"]), str(task["summary"])) == (date(2026, 3, 6), "NEEDS-ACTION", "=HYPERLINK(1) a lock")


def test_read_anew_struck_and_deleted(works, maren, caller):
    first, second = works(), works()
    matter = lock_of(first)
    came(second, matter, "carried")
    begin(first, ["read", "minutes", "follow"])
    for name in ("read", "minutes", "follow"):
        run(str(first.pk), STAGES[name])
    # The findings are others; the matter is the same, and what the later meeting said of it is there.
    assert lock_of(first).pk == matter.pk and [step.kind for step in matter.steps.order_by("pk")] == ["made", "carried"]
    call = caller(maren)
    line = Line.objects.filter(meeting=second).order_by("-number").first()
    chosen = {"first": [line.number, 0], "last": [line.number, -1]}
    struck = strike(call, second, chosen)
    assert struck.status_code == 200, struck.content
    assert [step.kind for step in matter.steps.all()] == ["made"]
    Meeting.objects.filter(pk=first.pk).delete()
    assert not Step.objects.filter(meeting=first.pk).exists()


def test_a_series_is_read_on_from_meeting_to_meeting(monkeypatch, works, maren, caller, encoder):
    monkeypatch.setattr("server.stages.read.read", read)
    first, second = works(text=spoken(MADE)), works(text=spoken(LATER))
    for meeting in (first, second):
        begin(meeting, ["follow"])
        run(str(meeting.pk), STAGES["follow"])
    call = caller(maren)
    glass = next(one for one in listed(call) if "panes" in one["text"])
    assert [step["kind"] for step in glass["steps"]] == ["made", "done"] and glass["asked"] == glass["steps"][1]["id"]
    assert "I ordered the forty panes of glass" in glass["steps"][1]["quotes"][0]["text"]
    # Out of the series, it has nothing to do with the other any more.
    changed = call("patch", f"/api/meetings/{second.pk}", {"series": ""})
    assert changed.status_code == 200
    run(str(second.pk), STAGES["follow"])
    glass = next(one for one in listed(call) if "panes" in one["text"])
    assert [step["kind"] for step in glass["steps"]] == ["made"]


@pytest.fixture
def at_noon(monkeypatch):
    """As if it were noon of a day."""

    def set_to(day: str) -> None:
        monkeypatch.setattr("server.ledger.remind.timezone.now", lambda: datetime.fromisoformat(f"{day}T12:00:00+00:00"))

    return set_to


def test_reminded_the_day_before_and_the_day_after_and_once(works, maren, member, caller, at_noon):
    idris = member("Idris Quaye")
    works()  # a lock by Friday, the sixth of March
    told = {}
    for day in ("2026-03-04", "2026-03-05", "2026-03-05", "2026-03-06", "2026-03-07", "2026-03-08"):
        at_noon(day)
        told[day] = told.get(day, 0) + remind()
    assert told == {"2026-03-04": 0, "2026-03-05": 1, "2026-03-06": 0, "2026-03-07": 1, "2026-03-08": 0}
    before, after = [one for one in delivered() if "Due" in one.subject]
    assert (before.to, before.subject) == (["idris@larkmoor.example"], "Due tomorrow: Idris to order a new lock by Friday")
    assert "Due yesterday, and not done:" in after.body and "/ledger?whose=mine" in after.body
    # Put to another day it is told of again; not where one does not want to be told, nor of what one may not see any more.
    Finding.objects.update(due=date(2026, 4, 2))
    at_noon("2026-04-01")
    call = caller(idris)
    assert call("put", "/api/reminders", {"before": False, "after": True}).json() == {"before": False, "after": True, "feed": None}
    assert remind() == 0
    call("put", "/api/reminders", {"before": True, "after": True})
    Meeting.objects.update(visibility="mine")
    assert remind() == 0
    Meeting.objects.update(visibility="workspace")
    assert remind() == 1


def test_a_feed_for_ones_calendar_that_can_be_closed(works, maren, member, caller):
    idris = member("Idris Quaye")
    works()
    call, nobody = caller(idris), caller(None)
    address = call("post", "/api/reminders/feed").json()["feed"]
    path = "/" + address.split("/", 3)[3]
    [task] = Calendar.from_ical(nobody("get", path).content).todos
    assert str(task["summary"]) == "Idris to order a new lock by Friday"
    Meeting.objects.update(visibility="mine")
    assert Calendar.from_ical(nobody("get", path).content).todos == []
    again = call("post", "/api/reminders/feed").json()["feed"]
    assert again != address and nobody("get", path).status_code == 404
    assert call("delete", "/api/reminders/feed").status_code == 204
    assert nobody("get", "/" + again.split("/", 3)[3]).status_code == 404 and call("get", "/api/reminders").json()["feed"] is None


def test_ticked_off_while_a_meeting_runs_and_carried_on_otherwise(works, maren, member, caller, tmp_path, settings):
    settings.MEDIA_ROOT = tmp_path
    one = works()
    lock = lock_of(one)
    capture = capture_of(maren, 5)
    running = capture.meeting
    running.series, running.started_at, running.visibility = one.series, one.started_at + timedelta(weeks=1), "workspace"
    running.save()
    call, idris = caller(maren), caller(member("Idris Quaye"))
    at = f"/api/meetings/{running.pk}/carried"
    [left] = call("get", at).json()
    assert left["id"] == lock.pk and left["closed"] is None
    assert idris("post", f"{at}/{lock.pk}", {"now": "done"}).json()["closed"] == "done"
    assert call("get", f"{at}?time_zone=Europe/London").json()[0]["closed"] == "done" and listed(call) == []
    # Taken back, it is as open as it was, in the minutes too.
    assert call("post", f"{at}/{lock.pk}", {"now": None}).json()["closed"] is None
    assert Finding.objects.get(pk=left["finding"]).done_at is None and not Step.objects.filter(meeting=running).exists()
    assert call("post", f"{at}/{lock.pk}", {"now": "dropped"}).json()["closed"] == "dropped"
    step = Step.objects.get(meeting=running)
    assert step.at == 5.0 and step.judged_by == maren.user
    # The record comes: the step rests on what was being said, and stays a person's word.
    keep_record(running, Record(str(running.pk), (Turn(1, "A", (Text("So the lock is given up.", 3.0, 4.5), Text("Yes.", 8.0, 9.0))),)), {})
    keep_steps(running, [])
    step.refresh_from_db()
    assert [line.number for line in step.lines.all()] == [1] and step.state == "confirmed"
    assert call("post", f"{at}/{lock.pk}", {"now": "done"}).status_code == 409, "the meeting is over"
    # Of what one does not see nothing is left open; what nobody touched stands beside the next one.
    hidden = works("mine")
    assert [one["steps"][0]["meeting"] for one in idris("get", f"/api/meetings/{running.pk}/carried").json()] == [str(one.pk)]
    after = works()
    assert [one["id"] for one in call("get", f"/api/meetings/{after.pk}/carried").json()] == [lock_of(hidden).pk]
    assert idris("get", f"/api/meetings/{after.pk}/carried").json() == []
    assert idris("post", f"/api/meetings/{running.pk}/carried/{lock_of(hidden).pk}", {"now": "done"}).status_code == 404
