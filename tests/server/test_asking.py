"""Questions put to the library: lines of the meetings one may see, what is found by meaning, and nothing that was struck."""

from __future__ import annotations

from datetime import UTC, datetime, timedelta

import pytest
from django.utils import timezone

from core.reading import read
from core.search.senses import signs, unpacked
from server.calendars.models import Calendar, Occasion, Planned
from server.library.models import Sense, SenseSigns
from server.library.senses import nearest
from server.meetings.models import Attendee, Meeting
from server.minutes.models import Finding
from server.pipeline.ear import encoder
from server.pipeline.models import RunState, StageRun
from server.pipeline.work import Change, stages_after
from server.record.models import Line, Turn
from server.stages.renew import renew_indexes
from tests.server.conftest import let_in, run_stages, strike


def talk(*said: str) -> str:
    cues = [f"00:00:{5 * at:02}.000 --> 00:00:{5 * at + 4:02}.000\n<v {('Maren Tollefsen', 'Idris Quaye')[at % 2]}>{text}\n" for at, text in enumerate(said)]
    return "WEBVTT\n\n" + "\n".join(cues)


GLASS = talk(
    "When does the glass for the palm house come?",
    "The glazier says it comes on the ninth of March.",
    "Good. And who pays for the crane?",
    "We do, it is four hundred pounds a day.",
)
LATER = talk(
    "The glass is late, I'm afraid.",
    "So when do we get the glass for the palm house now?",
    "On the twentieth of March, the glazier promised.",
    "Then the ferns stay in the cold frame until then.",
)
TEA = talk("Shall we have the tea room open on Sundays?", "Not before Easter, there is nobody to serve.", "Fine.", "I'll tell the baker.")


@pytest.fixture
def three(maren, make_meeting, monkeypatch):
    monkeypatch.setattr("server.stages.read.read", read)
    made = [make_meeting(maren, title, text=text) for title, text in (("Glass one", GLASS), ("Tea room", TEA), ("Glass two", LATER))]
    for days, meeting in enumerate(made):
        Meeting.objects.filter(pk=meeting.pk).update(started_at=datetime(2026, 3, 2 + days, 9, tzinfo=UTC), ready_at=timezone.now())
        meeting.refresh_from_db()
    return made


@pytest.fixture
def ask(caller, maren):
    def go(text: str, who=None, wanted=None, after=None) -> dict:
        call = caller(who or maren)
        put = call("post", "/api/inquiries", {"text": text, "wanted": wanted or {}, "after": after})
        assert put.status_code == 201, put.content
        return {"id": put.json()["id"], **call("get", f"/api/inquiries/{put.json()['id']}/answer").json()}

    return go


def said(answer: dict) -> list[tuple[str, str]]:
    return [(line["title"], line["text"]) for line in answer["lines"]]


def test_lines_of_any_meeting_answer_with_which_and_when(ask, three):
    answer = ask("What does the crane cost?")
    assert said(answer)[0] == ("Glass one", "We do, it is four hundred pounds a day.") and answer["lines"][0]["lines"] == [5]
    assert answer["lines"][0]["started_at"].startswith("2026-03-02")
    again = ask("And who pays for it?", after=answer["id"])
    assert {title for title, _ in said(again)} <= {"Glass one"}
    course = ask("When does the glass come, and how has the date changed?")
    assert course["course"] and [title for title, _ in said(course)] == sorted(title for title, _ in said(course)) and {"Glass one", "Glass two"} == {title for title, _ in said(course)}
    nothing = ask("Who repairs bicycles in Lisbon?")
    assert nothing["lines"] == [] and nothing["times"] is None


def test_what_a_writer_put_into_the_minutes_opens_the_answer_if_it_rests_on_the_line(ask, three):
    line = Line.objects.get(meeting=three[0], text__contains="four hundred")
    finding = Finding.objects.create(meeting=three[0], kind="decision", text="The crane costs 400 pounds a day.", written="writer", status="standing", confidence=1, start=line.start, end=line.end)
    finding.lines.set([line])
    assert ask("What does the crane cost?")["opening"] == "The crane costs 400 pounds a day."
    finding.lines.set(Line.objects.filter(meeting=three[1])[:1])
    assert ask("What does the crane cost?")["opening"] == ""


def test_counts_and_who_said_it(ask, three):
    counted = ask("How often was the glazier mentioned?")
    assert (counted["times"], counted["meetings"], [title for title, _ in said(counted)]) == (2, 2, ["Glass one", "Glass two"])
    assert ask("How often did Maren mention the glazier?")["times"] == 1
    assert ask("How often was the dentist mentioned?")["times"] == 0


def test_of_what_one_does_not_see_there_is_no_answer_and_no_count(ask, three, member, caller):
    first, *_ = three
    idris, gwen = member("Idris Quaye"), member("Gwen Castellow", "guest")
    Meeting.objects.filter(pk=first.pk).update(visibility="mine")
    assert "Glass one" not in {title for title, _ in said(ask("What does the crane cost?", idris))}
    assert ask("How often was the glazier mentioned?", idris)["times"] == 1
    let_in(three[1], gwen)
    assert {title for title, _ in said(ask("When is the tea room open on Sundays?", gwen))} == {"Tea room"}
    # A shared question is answered for each by what they see; guests know of none but their own.
    call, theirs = caller(three[0].created_by.memberships.get()), caller(idris)
    mine = ask("What does the crane cost?")["id"]
    assert theirs("get", f"/api/inquiries/{mine}/answer").status_code == 404
    assert call("patch", f"/api/inquiries/{mine}", {"shared": True}).status_code == 204
    assert [one["text"] for one in theirs("get", "/api/inquiries").json()["rows"] if not one["mine"]] == ["What does the crane cost?"]
    assert "Glass one" not in {line["title"] for line in theirs("get", f"/api/inquiries/{mine}/answer").json()["lines"]}
    assert caller(gwen)("get", f"/api/inquiries/{mine}/answer").status_code == 404
    assert theirs("patch", f"/api/inquiries/{mine}", {"removed": True}).status_code == 403
    assert call("patch", f"/api/inquiries/{mine}", {"removed": True}).status_code == 204
    assert mine not in [one["id"] for one in call("get", "/api/inquiries").json()["rows"]]


def test_a_part_of_the_library_is_asked(ask, three, caller, maren):
    assert {title for title, _ in said(ask("When does the glass come?", wanted={"since": "2026-03-04"}))} <= {"Glass two"}
    call = caller(maren)
    for wrong in ({"text": " ", "wanted": {}}, {"text": "x" * 401, "wanted": {}}, {"text": "x", "wanted": {"place": "moon"}}):
        assert call("post", "/api/inquiries", wrong).status_code == 422
    for odd in ("the of and", '"""(((', "温室の鍵は？", "¿?", "a" * 400):
        assert ask(odd)["asks"] == "lines"


def test_a_selection_is_asked(ask, three):
    first, tea, second = (str(meeting.pk) for meeting in three)
    for only, wanted in (([first], {"Glass one"}), ([second, tea], {"Glass two"}), ([tea], set())):
        assert {title for title, _ in said(ask("When does the glass come?", wanted={"only": only}))} == wanted


def test_what_is_on_and_what_one_missed(ask, member, maren, request):
    idris = member("Idris Quaye")
    three = request.getfixturevalue("three")
    today = timezone.now()
    calendar = Calendar.objects.create(membership=idris, kind="file", name="Works")
    for uid, title, days in (("glass", "Glass two", -1), ("frost", "Frost watch", 1)):
        start = today + timedelta(days=days)
        Planned.objects.create(calendar=calendar, uid=uid, instance="", title=title, start=start, end=start + timedelta(hours=1))
    Meeting.objects.filter(pk=three[2].pk).update(started_at=today - timedelta(days=1))
    Occasion.objects.create(meeting=three[2], uid="glass", instance="")
    assert [day["title"] for day in ask("What is on tomorrow?", idris)["days"]] == ["Frost watch"] and ask("What is on tomorrow?")["days"] == []
    # Idris is heard in it; where he is not, he has missed it.
    assert ask("What did I miss yesterday?", idris)["days"] == []
    Turn.objects.filter(meeting=three[2], voice__person__user=idris.user).delete()
    three[2].voices.filter(person__user=idris.user).delete()
    missed = ask("What did I miss yesterday?", idris)
    assert missed["asks"] == "missed" and [day["title"] for day in missed["days"]] == ["Glass two"]
    Attendee.objects.filter(meeting=three[2]).delete()
    Occasion.objects.all().delete()
    assert ask("What did I miss yesterday?", idris)["days"] == []


def test_found_by_what_it_is_about(three, caller, maren):
    found = caller(maren)("get", "/api/search?q=price+of+a+crane").json()
    assert {one["meeting"]["title"] for one in found["meetings"]} == {"Glass one"} and found["places"] == 0
    assert {hit["field"] for one in found["meetings"] for hit in one["hits"]} == {"meaning"}
    assert caller(maren)("get", "/api/search?q=%22price+of+a+crane%22").json()["meetings"] == []
    about = encoder().plain(["price of a crane"])[0]
    near = nearest(Meeting.objects.all(), about)
    vectors = unpacked([bytes(one.vector) for one in Sense.objects.filter(signs__isnull=False)])
    assert near[0].alike == pytest.approx((vectors @ about).max()) and len(near) == len(vectors)
    best = Sense.objects.get(pk=near[0].turn)
    assert best.signs.bits == signs(unpacked([bytes(best.vector)])[0])


def test_struck_words_are_about_nothing_any_more(three, maren, caller):
    first = three[0]
    before = {sense.turn_id: bytes(sense.vector) for sense in Sense.objects.filter(turn__meeting=first)}
    call, chosen = caller(maren), {"first": [5, 0], "last": [5, 8]}  # what the crane costs
    assert strike(call, first, chosen).status_code == 200
    assert Sense.objects.filter(turn__meeting=first).count() == SenseSigns.objects.filter(meeting=first).count() == 3
    first = Meeting.objects.get(pk=first.pk)
    run_stages(first, *stages_after(first.recording, Change.STRIKE))
    after = {sense.turn_id: bytes(sense.vector) for sense in Sense.objects.filter(turn__meeting=first)}
    gone = [vector for key, vector in before.items() if after.get(key) != vector]
    assert len(gone) == 1 and gone[0] not in after.values()


def test_what_an_earlier_version_indexed_is_indexed_anew(three, maren):
    Sense.objects.all().delete()
    runs = StageRun.objects.filter(stage="index")
    runs.filter(meeting__in=three[:2]).update(engine="1")
    runs.filter(meeting=three[1]).update(state=RunState.WAITING)  # its turn comes anyway
    assert (renew_indexes(), renew_indexes()) == (1, 0)
    assert set(Sense.objects.values_list("turn__meeting", flat=True)) == {three[0].pk}
