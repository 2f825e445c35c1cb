"""Minutes in people's hands, drawn anew, taken away, sent; questions; templates."""

import io
from datetime import timedelta

import docx
import numpy as np
import pytest
from pypdf import PdfReader

from core.reading import Turns
from server.audit.models import Entry
from server.meetings.models import Meeting, Person
from server.minutes.keep import load_turns
from server.minutes.models import Finding, Judgement, MinutesLine, TurnReading
from server.minutes.queries import template_of
from server.pipeline.models import StageRun
from server.pipeline.work import Change, stages_after
from tests.server.conftest import TALK, delivered, drawn, let_in, run_stages


@pytest.fixture
def locks(maren, make_meeting) -> Meeting:
    return make_meeting(maren)


@pytest.fixture
def call(maren, caller):
    return caller(maren)


def texts(call, meeting: Meeting) -> dict[str, list[str]]:
    shown = call("get", f"/api/meetings/{meeting.pk}/minutes").json()
    return {
        section["key"]: [line["text"] for line in shown["lines"] if line["section"] == section["key"] and not line["removed"]]
        for section in shown["sections"]
    }


def line_of(meeting: Meeting, section: str) -> MinutesLine:
    return MinutesLine.objects.filter(meeting=meeting, section=section).first()


def actions_of(call, meeting: Meeting) -> dict[str, dict]:
    lines = call("get", f"/api/meetings/{meeting.pk}/minutes").json()["lines"]
    return {line["text"]: line for line in lines if line["finding"] and line["finding"]["kind"] == "action" and not line["removed"]}


def test_a_line_written_under_actions_is_an_action_and_its_owners_everywhere(call, caller, member, locks):
    yuki = member("Yuki Hanamori")
    let_in(locks, yuki)
    at = f"/api/meetings/{locks.pk}/minutes"
    written = {"section": "actions", "text": "Idris to oil the hinges by Thursday", "owner": "Yuki Hanamori"}
    made = call("post", f"{at}/lines", written).json()
    day = locks.started_at.date() + timedelta(days=(3 - locks.started_at.weekday()) % 7 or 7)
    assert (made["finding"]["owner"], made["finding"]["due"]) == ("Yuki Hanamori", day.isoformat())
    assert made["otherwise"] == {"owner": "Idris Quaye", "due": None}  # the sentence says another name, and that is told
    read = call("post", f"{at}/lines", {"section": "actions", "text": "Idris to paint the gate"}).json()
    assert read["finding"]["owner"] == "Idris Quaye" and read["otherwise"] is None
    mine = caller(yuki)("get", "/api/today").json()["actions"]
    assert [one["text"] for one in mine] == ["Idris to oil the hinges by Thursday"]
    said = "Oil the hinges"
    assert call("patch", f"/api/minutes/lines/{made['id']}", {"text": said, "before": made["text"]}).json()["finding"]["owner"] == "Yuki Hanamori"
    assert [one["text"] for one in caller(yuki)("get", "/api/today").json()["actions"]] == [said]
    call("delete", f"/api/minutes/lines/{made['id']}")  # taken out, it is nobody's any more
    assert caller(yuki)("get", "/api/today").json()["actions"] == []
    # Elsewhere a line is a line.
    assert call("post", f"{at}/lines", {"section": "decisions", "text": "Idris to go"}).json()["finding"] is None


def test_in_short_says_what_the_lines_say_now(call, locks):
    at = f"/api/meetings/{locks.pk}/minutes"
    [(text, line)] = actions_of(call, locks).items()
    path = f"/api/minutes/lines/{line['id']}"
    assert f"To do: {text}." in texts(call, locks)["gist"]
    call("patch", path, {"text": "Two locks are ordered", "before": text})
    assert "To do: Two locks are ordered." in texts(call, locks)["gist"]
    call("delete", path)
    assert not [one for one in texts(call, locks)["gist"] if one.startswith("To do")]
    call("post", f"{path}/restore")
    # Also when all is drawn anew, and as another template.
    call("post", f"{at}/draw", {"template": "supplier"})
    assert "To do: Two locks are ordered." in texts(call, locks)["gist"]
    call("delete", path)
    call("post", f"{at}/draw", {"template": "plain"})
    assert not [one for one in texts(call, locks)["gist"] if one.startswith("To do")]


def test_in_short_is_in_the_language_of_the_meeting(call, locks):
    Meeting.objects.filter(pk=locks.pk).update(language="es")
    call("post", f"/api/meetings/{locks.pk}/minutes/draw", {"template": "plain"})
    assert {one.split(":")[0] for one in texts(call, locks)["gist"]} == {"Se habló de", "Acordado", "Por hacer", "Quedó abierto"}
    [(text, line)] = actions_of(call, locks).items()
    call("patch", f"/api/minutes/lines/{line['id']}", {"text": "Dos candados", "before": text})
    assert "Por hacer: Dos candados." in texts(call, locks)["gist"]


def test_who_and_when_are_changed_where_they_stand_and_stay(call, locks):
    [(text, line)] = actions_of(call, locks).items()
    at, finding = f"/api/minutes/findings/{line['finding']['id']}", line["finding"]
    assert text.startswith("Idris to ") and finding["due"]
    assert call("patch", at, {"owner": {"was": "Nobody Known", "now": "Maren Tollefsen"}}).status_code == 409
    assert call("patch", at, {"owner": {"was": "Idris Quaye", "now": "Maren Tollefsen"}}).json()["owner"] == "Maren Tollefsen"
    assert call("patch", at, {"due": {"was": finding["due"], "now": "2026-12-24"}}).json()["due"] == "2026-12-24"
    [(text, line)] = actions_of(call, locks).items()
    assert text.startswith("Maren to ") and line["otherwise"] == {"owner": None, "due": finding["due"]}
    StageRun.objects.filter(meeting=locks, stage__in=stages_after(locks.recording, Change.RECORD)).update(state="waiting")
    run_stages(locks, *stages_after(locks.recording, Change.RECORD))
    [line] = actions_of(call, locks).values()
    assert (line["finding"]["owner"], line["finding"]["due"]) == ("Maren Tollefsen", "2026-12-24")
    # Its sentence put in other words says who and when anew.
    again = {"text": "Idris to order the lock by 2026-12-28", "before": line["text"]}
    changed = call("patch", f"/api/minutes/lines/{line['id']}", again).json()
    assert changed["finding"]["owner"] == "Idris Quaye"
    question = line_of(locks, "questions").finding
    assert call("patch", f"/api/minutes/findings/{question.pk}", {"due": {"was": None, "now": "2026-12-24"}}).status_code == 422


def test_human_lines_and_confirmations_stand_when_the_minutes_are_drawn_anew(call, locks):
    at = f"/api/meetings/{locks.pk}/minutes"
    own = call("post", f"{at}/lines", {"section": "decisions", "text": "Nobody is blamed.", "lines": [1]}).json()["id"]
    question, action, decision = (line_of(locks, section) for section in ("questions", "actions", "decisions"))
    assert call("patch", f"/api/minutes/lines/{question.pk}", {"confirmed": True}).json()["confirmed"] == "MT"
    assert call("patch", f"/api/minutes/lines/{action.pk}", {"text": "Idris orders the lock.", "before": action.text}).json()["hand"] == "MT"
    assert call("patch", f"/api/minutes/lines/{decision.pk}", {"section": "questions", "position": 0}).json()["section"] == "questions"
    before = texts(call, locks)
    looked = call("post", f"{at}/draw", {"template": "supplier", "preview": True}).json()
    assert texts(call, locks) == before and looked["version"] is None
    made = call("post", f"{at}/draw", {"template": "supplier"}).json()
    assert made["changes"] == looked["changes"]
    after = texts(call, locks)
    assert after["actions"] == ["Idris orders the lock."] and "Nobody is blamed." in after["decisions"]
    assert after["questions"][0] == decision.text and question.text in after["questions"] and decision.text not in after["decisions"]
    assert MinutesLine.objects.filter(pk__in=[own, question.pk, action.pk, decision.pk]).count() == 4
    StageRun.objects.filter(meeting=locks, stage__in=stages_after(locks.recording, Change.RECORD)).update(state="waiting")
    run_stages(locks, *stages_after(locks.recording, Change.RECORD))
    assert texts(call, locks) == after


def test_drawing_anew_can_be_undone_and_versions_compared(call, locks):
    at = f"/api/meetings/{locks.pk}/minutes"
    before = texts(call, locks)
    version = call("post", f"{at}/draw", {"template": "chronological"}).json()["version"]
    assert "course" in texts(call, locks)
    [kept] = call("get", f"{at}/versions").json()
    assert (kept["number"], kept["by"], kept["why"]) == (version, "Maren Tollefsen", "drawn anew")
    one = call("get", f"{at}/versions/{version}").json()
    assert {change["how"] for change in one["changes"]} <= {"added", "gone", "moved"} and one["changes"]
    assert ["Decisions", before["decisions"][0]] in one["text"]
    back = call("post", f"{at}/versions/{version}/restore").json()
    assert texts(call, locks) == before and Meeting.objects.get(pk=locks.pk).template == ""
    assert line_of(locks, "decisions").lines.count() == 2
    call("post", f"{at}/versions/{back['number']}/restore")
    assert "course" in texts(call, locks)
    assert call("get", f"{at}/versions/99").status_code == 404
    assert call("post", f"{at}/draw", {"template": "horoscope"}).status_code == 422


def test_what_took_the_place_of_a_decision_names_it(maren, call, make_meeting, monkeypatch):
    def changed(record, encoder, *given, **ways):
        from dataclasses import replace

        reading = drawn(record, encoder)
        question, decision = (next(f for f in reading.findings if f.kind == kind) for kind in ("question", "decision"))
        first = replace(question, kind="decision", status="superseded", text="Leave the lock")
        return replace(reading, findings=(*reading.findings, first), replaced=((first, decision),))

    monkeypatch.setattr("server.stages.read.read", changed)
    meeting = make_meeting(maren)
    shown = call("get", f"/api/meetings/{meeting.pk}/minutes").json()
    [decision] = [line for line in shown["lines"] if line["section"] == "decisions"]
    assert [(one["text"], one["lines"]) for one in decision["finding"]["earlier"]] == [("Leave the lock", [1, 2])]


def test_answers_to_what_is_proposed_are_kept_as_evidence(call, locks):
    decision = Finding.objects.get(meeting=locks, kind="decision")
    Finding.objects.filter(pk=decision.pk).update(status="proposed")
    call("patch", f"/api/minutes/findings/{decision.pk}", {"confirmed": True})
    action = Finding.objects.get(meeting=locks, kind="action")
    call("delete", f"/api/minutes/lines/{line_of(locks, 'actions').pk}")
    said = {(one.kind, one.right, tuple(one.lines.values_list("number", flat=True))) for one in Judgement.objects.all()}
    assert said == {("decision", True, (3, 4)), ("action", False, tuple(action.lines.values_list("number", flat=True)))}


def test_the_map_of_the_talk_is_drawn_to_be_pressed_and_taken_away(call, locks):
    at = f"/api/meetings/{locks.pk}/map"
    drawn = call("get", f"{at}?width=300").json()
    assert drawn["width"] == 300 and {one["text"] for one in drawn["words"] if one["at"] == 1.0} >= {"Locks", "0:01"}
    assert call("get", f"{at}.svg")["Content-Type"] == "image/svg+xml" and call("get", f"{at}.png").content[:4] == b"\x89PNG"
    assert call("get", f"{at}.gif").status_code == 404 and call("get", f"{at}?width=1").status_code == 422


def test_guests_read_and_change_nothing(member, caller, locks):
    gwen = member("Gwen Castellow", "guest")
    guest = caller(gwen)
    let_in(locks, gwen)
    at = f"/api/meetings/{locks.pk}"
    assert guest("get", f"{at}/minutes").status_code == 200
    line = line_of(locks, "decisions").pk
    for method, path, data in (
        ("post", f"{at}/minutes/draw", {"template": "board"}),
        ("patch", f"/api/minutes/lines/{line}", {"confirmed": True}),
        ("patch", f"/api/minutes/lines/{line}", {"section": "actions"}),
        ("post", f"{at}/mail", {"people": [], "subject": "a", "body": "b"}),
        ("post", "/api/templates", {"title": "A", "sections": [{"heading": "B", "takes": ["action"]}]}),
    ):
        assert guest(method, path, data).status_code == 403, path


def test_minutes_come_as_files(call, locks):
    at = f"/api/meetings/{locks.pk}/minutes"
    assert "Change the lock on the boiler door" in call("get", f"{at}.md").content.decode()
    word = docx.Document(io.BytesIO(call("get", f"{at}.docx").content))
    assert "Decisions" in [one.text for one in word.paragraphs if one.style.name == "Heading 1"]
    assert word.tables[0].rows[0].cells[1].text == "What"
    named = call("get", f"{at}.docx")["Content-Disposition"]
    assert named == f'attachment; filename="{locks.started_at.date()} {locks.title}, minutes.docx"'
    assert "boiler door" in PdfReader(io.BytesIO(call("get", f"{at}.pdf").content)).pages[0].extract_text()
    assert call("get", f"{at}.odt").status_code == 404


def test_a_mail_is_drafted_and_sent_to_each_by_itself(call, locks):
    idris = Person.objects.get(name="Idris Quaye")
    at = f"/api/meetings/{locks.pk}/mail"
    chosen = [line_of(locks, "decisions").pk, line_of(locks, "actions").pk]
    delivered().clear()  # of the mail that says that the meeting is ready
    draft = call("post", f"{at}/draft", {"lines": chosen, "people": [idris.pk], "tone": "formal"}).json()
    assert "Dear Idris Quaye" in draft["body"] and "boiler door" in draft["body"] and delivered() == []
    assert call("post", at, {"people": [idris.pk], **draft}).status_code == 422  # his address is not known
    Person.objects.filter(pk=idris.pk).update(email="idris@larkmoor.example")
    assert call("post", at, {"people": [idris.pk], **draft}).json()["to"] == ["Idris Quaye"]
    [sent] = delivered()
    assert (sent.to, sent.reply_to, sent.body) == (["idris@larkmoor.example"], ["maren@larkmoor.example"], draft["body"].strip() + "\n")
    assert call("post", f"{at}/draft", {"lines": [], "people": []}).status_code == 422
    assert "boiler" not in str(list(Entry.objects.values_list("detail", flat=True)))


def test_a_memo_gathers_with_citations(call, locks):
    found = call("get", f"/api/meetings/{locks.pk}/memo?about=lock").json()
    assert [line["lines"] for line in found["lines"]] == [[3], [5]]
    assert call("get", f"/api/meetings/{locks.pk}/memo").status_code == 422
    assert {"kind": "requests", "heading": "Requests"} in call("get", "/api/minutes/kinds").json()


def test_templates_of_our_own(call, locks, member, caller):
    made = call("post", "/api/templates", {"title": "Keys", "sections": [{"heading": "About keys", "cues": ["key"], "most": 5}]}).json()
    assert made["name"] == call("get", "/api/templates").json()[0]["name"]
    call("post", f"/api/meetings/{locks.pk}/minutes/draw", {"template": made["name"]})
    assert texts(call, locks)["about_keys"] == ["Who has the key to the plant room?"]
    changed = {"title": "Keys", "sections": [{"key": "about_keys", "heading": "Keys and locks", "cues": ["key", "lock"]}]}
    assert call("put", f"/api/templates/{made['name']}", changed).json()["sections"][0]["heading"] == "Keys and locks"
    assert call("put", "/api/templates/board", changed).status_code == 404
    refused = call("post", "/api/templates", {"title": "Keys", "sections": [{"heading": "A", "takes": ["jokes"]}]})
    assert refused.status_code == 422 and "jokes" in refused.json()["detail"]
    assert call("delete", f"/api/templates/{made['name']}").status_code == 204
    assert template_of(Meeting.objects.get(pk=locks.pk)).kind == "plain"
    call("post", f"/api/templates/{made['name']}/restore")
    assert template_of(Meeting.objects.get(pk=locks.pk)).kind == made["name"]


def test_a_question_is_answered_by_lines_kept_shared_and_removed(maren, call, member, caller, locks):
    at = f"/api/meetings/{locks.pk}/questions"
    asked = call("post", at, {"text": "How often did Idris mention the lock?"}).json()
    assert (asked["times"], [line["lines"] for line in asked["answer"]]) == (1, [[4, 5]])
    again = call("post", at, {"text": "What did he say about it?", "after": asked["id"]}).json()
    assert {line["speaker"] for line in again["answer"]} <= {"Idris Quaye"}
    assert call("post", at, {"text": "Which bishop opened the cathedral?"}).json()["answer"] == []
    idris = caller(member("Idris Quaye"))
    assert idris("get", at).json() == []
    assert idris("patch", f"/api/questions/{asked['id']}", {"removed": True}).status_code == 404
    call("patch", f"/api/questions/{asked['id']}", {"shared": True})
    [shared] = idris("get", at).json()
    assert (shared["by"], shared["mine"], shared["times"]) == ("Maren Tollefsen", False, 1)
    assert idris("patch", f"/api/questions/{asked['id']}", {"removed": True}).status_code == 403
    call("patch", f"/api/questions/{asked['id']}", {"removed": True})
    assert [one["id"] for one in call("get", at).json()] == [again["id"], again["id"] + 1]
    stranger = caller(member("Yuki Hanamori"))
    Meeting.objects.filter(pk=locks.pk).update(visibility="mine")
    assert stranger("get", at).status_code == 404 and stranger("post", at, {"text": "What?"}).status_code == 404


def test_who_promised_what_is_answered_from_the_actions_as_they_stand(call, locks):
    at = f"/api/meetings/{locks.pk}/questions"

    def cited(question: str) -> list[list[int]]:
        return [line["lines"] for line in call("post", at, {"text": question}).json()["answer"]]

    assert cited("What did Idris promise?") == [[4, 5]]
    [line] = actions_of(call, locks).values()
    call("patch", f"/api/minutes/findings/{line['finding']['id']}", {"owner": {"was": "Idris Quaye", "now": "Maren Tollefsen"}})
    assert cited("What did Maren promise?") == [[4, 5]]


def test_what_the_encoder_says_of_turns_is_kept_for_questions(maren, make_meeting, monkeypatch):
    def with_turns(record, encoder, *given, **ways):
        from dataclasses import replace

        count = len(record.turns)
        return replace(drawn(record, encoder), turns=Turns(np.full((count, 5), 0.25), np.full((count, 8), 0.5)))

    monkeypatch.setattr("server.stages.read.read", with_turns)
    meeting = make_meeting(maren)
    kept = load_turns(meeting)
    assert kept.likely.shape == (4, 5) and kept.vectors.shape == (4, 8) and np.allclose(kept.vectors, 0.5)
    TurnReading.objects.filter(turn__meeting=meeting).first().delete()  # as after a change of the record that was not read yet
    assert load_turns(meeting) is None


def test_notes_stand_beside_the_record(call, locks):
    at = f"/api/meetings/{locks.pk}/notes"
    call("post", at, {"text": "new lock by Thursday", "at": 16.0})
    call("post", at, {"text": "dentist", "at": 16.0})
    one, other = call("get", at).json()["notes"]
    assert [line["number"] for line in one["beside"]] == [5] and one["differs"] == [{"note": "Thursday", "record": "Friday"}]
    assert one["text"] == "new lock by Thursday" and other["beside"] == []


def test_the_layout_follows_the_talk_until_somebody_chooses(maren, call, make_meeting):
    meeting = make_meeting(maren, "Board of trustees", text=TALK)
    shown = call("get", f"/api/meetings/{meeting.pk}/minutes").json()
    assert (shown["template"], shown["chosen"]) == ("board", False)
    call("post", f"/api/meetings/{meeting.pk}/minutes/draw", {"template": "plain"})
    shown = call("get", f"/api/meetings/{meeting.pk}/minutes").json()
    assert (shown["template"], shown["chosen"]) == ("plain", True)
