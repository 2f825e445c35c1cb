"""The record corrected by hand: kept, taken back, made again; two at once; what rested on it drawn anew."""

import pytest

from server.meetings.models import Meeting
from server.minutes.models import Finding
from server.pipeline.models import StageRun
from server.pipeline.work import Change, stages_after
from server.record.models import Line, Turn
from server.words.models import WordFix
from tests.server.conftest import let_in, run_stages


@pytest.fixture
def locks(maren, make_meeting) -> Meeting:
    return make_meeting(maren)


@pytest.fixture
def do(maren, caller, locks):
    """do("post", "turns/join", {...}) in the meeting."""
    call = caller(maren)
    return lambda method, path, data=None: call(method, f"/api/meetings/{locks.pk}/{path}", data)


def state(meeting: Meeting) -> list[tuple]:
    """Everything that edits change."""
    return [
        (
            turn.number,
            turn.voice.name,
            turn.start,
            turn.end,
            turn.english,
            tuple(turn.lines.order_by("number").values_list("number", "text", "start", "end")),
        )
        for turn in Turn.objects.filter(meeting=meeting).select_related("voice__person").order_by("number")
    ]


def whole(meeting: Meeting) -> None:
    """The record is well formed: numbers without gaps, lines in the order of their turns."""
    numbers = list(Line.objects.filter(meeting=meeting).order_by("turn__number", "number").values_list("number", flat=True))
    assert numbers == list(range(1, len(numbers) + 1))
    assert [turn.number for turn in Turn.objects.filter(meeting=meeting).order_by("number")] == list(range(1, meeting.turns.count() + 1))


EDITS = {
    "words": ("put", "lines/5", {"text": "I'll order two new locks by Thursday.", "before": "I'll order a new lock by Friday."}),
    "voice": ("post", "turns/give", {"turns": [4], "name": "Gwen Castellow"}),
    "split": ("post", "turns/split", {"line": 3, "word": 3, "name": "Yuki Hanamori"}),
    "split at a line": ("post", "turns/split", {"line": 5}),
    "join": ("post", "turns/join", {"turn": 1}),
    "replace": ("post", "replace", {"text": "lock", "by": "bolt"}),
}


@pytest.mark.parametrize("kind", list(EDITS))
def test_an_edit_is_taken_back_and_made_again(do, locks, kind):
    before = state(locks)
    assert do("post", "edits/undo").status_code == 409
    method, path, data = EDITS[kind]
    made = do(method, path, data)
    assert made.status_code == 200, made.content
    after = state(locks)
    assert after != before and not made.json()["undone"]
    whole(locks)
    assert do("post", "edits/undo").json()["undone"] and state(locks) == before
    assert do("post", "edits/redo").status_code == 200 and state(locks) == after
    whole(locks)
    [edit] = do("get", "edits").json()["edits"]
    assert edit["by"] == "Maren Tollefsen"


def test_edits_are_taken_back_one_after_the_other_and_a_new_one_ends_what_could_be_made_again(do, locks):
    states = [state(locks)]
    for method, path, data in EDITS.values():
        assert do(method, path, data).status_code in (200, 409, 422), (path, data)
        if state(locks) != states[-1]:
            states.append(state(locks))
        whole(locks)
    for earlier in reversed(states[:-1]):
        assert do("post", "edits/undo").status_code == 200
        assert state(locks) == earlier
        whole(locks)
    do("put", "lines/1", {"text": "Who has it?", "before": "Who has the key to the plant room?"})
    assert do("post", "edits/redo").status_code == 409 and do("get", "edits").json()["redo"] is False


def test_two_at_once_do_not_overwrite_each_other(do, locks, member, caller):
    idris = caller(member("Idris Quaye"))
    before = "I'll order a new lock by Friday."
    assert do("put", "lines/5", {"text": "I'll order a lock.", "before": before}).status_code == 200
    late = idris("put", f"/api/meetings/{locks.pk}/lines/5", {"text": "I will order it.", "before": before})
    assert late.status_code == 409 and late.json()["text"] == "I'll order a lock."
    # Taking back the first edit after somebody changed the same line again takes back the later one first.
    assert idris("put", f"/api/meetings/{locks.pk}/lines/5", {"text": "I'll order it.", "before": "I'll order a lock."}).status_code == 200
    assert do("post", "edits/undo").status_code == 200
    assert Line.objects.get(meeting=locks, number=5).text == "I'll order a lock."


def test_what_rested_on_changed_lines_is_drawn_anew_and_human_lines_stand(do, locks):
    do("post", "minutes/lines", {"section": "actions", "text": "Idris brings the drill.", "lines": [5]})
    do("put", "lines/5", {"text": "I'll order a new hinge by Thursday.", "before": "I'll order a new lock by Friday."})
    assert do("get", "progress").json()["state"] == "working"
    StageRun.objects.filter(meeting=locks, stage__in=stages_after(locks.recording, Change.RECORD)).update(state="waiting")
    run_stages(locks, *stages_after(locks.recording, Change.RECORD))
    action = Finding.objects.get(meeting=locks, kind="action", jotted_by=None)
    assert "hinge" in action.text and str(action.due) == "2026-03-05"
    shown = [line["text"] for line in do("get", "minutes").json()["lines"] if line["section"] == "actions"]
    assert "Idris brings the drill." in shown and any("hinge" in text for text in shown)
    [version] = do("get", "minutes/versions").json()
    changes = do("get", f"minutes/versions/{version['number']}").json()["changes"]
    assert any("hinge" in change["text"] for change in changes)  # the page says what changed


def test_find_and_replace_with_a_look_before_per_match_or_all(do, locks):
    found = do("get", "find?text=lock").json()
    assert [(one["line"], len(one["at"])) for one in found] == [(3, 1), (5, 1)]
    assert do("get", "find?text=zebra").json() == [] and do("get", "find?text=+").status_code == 422
    assert do("post", "replace", {"text": "zebra", "by": "horse"}).status_code == 422
    one = do("post", "replace", {"text": "lock", "by": "bolt", "places": [[5, found[1]["at"][0][0]]]})
    assert one.status_code == 200
    assert [line.text for line in Line.objects.filter(meeting=locks, number__in=[3, 5]).order_by("number")] == [
        "What if we change the lock on the boiler door?",
        "I'll order a new bolt by Friday.",
    ]
    empties = do("post", "replace", {"text": "Works for me.", "by": "", "whole_words": False})
    assert empties.status_code == 422 and "strike" in empties.json()["detail"]


def test_voices_are_merged_and_a_turn_goes_to_a_person_who_was_not_known(do, locks):
    voices = {voice["name"]: voice["id"] for voice in do("get", "").json()["voices"]} if do("get", "").status_code == 200 else {}
    voices = voices or {voice.name: voice.pk for voice in locks.voices.select_related("person")}
    do("post", f"voices/{voices['Idris Quaye']}/merge", {"into": voices["Maren Tollefsen"]})
    assert {turn.voice.name for turn in locks.turns.select_related("voice__person")} == {"Maren Tollefsen"}
    do("post", "turns/give", {"turns": [2], "name": "Gwen Castellow"})
    assert locks.people.filter(name="Gwen Castellow").exists()
    assert do("post", f"voices/{voices['Maren Tollefsen']}/merge", {"into": voices["Maren Tollefsen"]}).status_code == 422
    for path, data in (("turns/give", {"turns": [99], "name": "A"}), ("turns/join", {"turn": 99}), ("turns/split", {"line": 99})):
        assert do("post", path, data).status_code == 404
    assert do("post", "turns/join", {"turn": locks.turns.count()}).status_code == 422
    assert do("post", "turns/split", {"line": 1}).status_code == 422
    assert do("put", "lines/1", {"text": " ", "before": "Who has the key to the plant room?"}).status_code == 422


def test_the_same_put_right_three_times_is_offered_for_the_list(do, locks, maren, caller):
    for number, before in ((3, "What if we change the lock on the boiler door?"), (5, "I'll order a new lock by Friday.")):
        do("put", f"lines/{number}", {"text": before.replace("lock", "Loxley"), "before": before})
    assert WordFix.objects.filter(heard="lock", meant="Loxley").count() == 2


def test_guests_change_no_record(member, caller, locks):
    gwen = member("Gwen Castellow", "guest")
    guest = caller(gwen)
    let_in(locks, gwen)
    for method, path, data in EDITS.values():
        assert guest(method, f"/api/meetings/{locks.pk}/{path}", data).status_code == 403


def test_what_a_correction_changed_in_the_minutes_is_told_until_somebody_accepts_it(do, locks, member, caller):
    assert do("get", "minutes").json()["changed"] is None
    kind, path, data = EDITS["words"]
    do(kind, path, data)
    run_stages(locks, *stages_after(locks.recording, Change.RECORD))
    changed = do("get", "minutes").json()["changed"]
    shown = do("get", f"minutes/versions/{changed['since']}").json()["changes"]
    assert changed["lines"] == max(sum(one["how"] == how for one in shown) for how in ("added", "gone")) > 0
    # Whoever only reads is told as well, and accepts nothing for the others.
    guest = member("Gwen Castellow", "guest")
    let_in(locks, guest)
    call = caller(guest)
    assert call("get", f"/api/meetings/{locks.pk}/minutes").json()["changed"] == changed
    assert call("post", f"/api/meetings/{locks.pk}/minutes/accept").status_code == 403
    assert do("post", "minutes/accept").status_code == 204
    assert do("get", "minutes").json()["changed"] is None
    assert do("get", f"minutes/versions/{changed['since']}").json()["changes"] == shown
    # What is drawn anew on purpose is not told.
    do(kind, path, {"text": "I'll order a new lock by Friday.", "before": data["text"]})
    run_stages(locks, *stages_after(locks.recording, Change.RECORD))
    assert do("get", "minutes").json()["changed"]
    do("post", "minutes/draw", {"template": "plain"})
    assert do("get", "minutes").json()["changed"] is None
