"""Minutes worded anew by a writer, behind a meeting that can be read already: what it changes, what it leaves, the way back."""

import pytest

from server.minutes.actions.own_writer import endpoint_of
from server.minutes.models import Finding, MinutesLine, OwnWriter, Wording
from server.pipeline.ear import AtHand
from server.pipeline.models import StageRun
from server.pipeline.work import STAGES, Change, begin_after, stages_of
from server.stages.tasks import run
from standins.writer import serve
from tests.server.conftest import delivered, run_stages

SAID = {
    "decision": "The lock on the boiler door is changed.",
    "action": "Idris orders a new lock by Friday.",
    "question": "Who has the key to the plant room?",
    "gist": "Nobody knows who has the key to the plant room. The lock on the boiler door is changed and Idris orders it by Friday.",
    "chapter": "Boiler door lock",
}


class Secretary:
    """Says what SAID has for a kind; `asked` counts."""

    def __init__(self):
        self.said, self.asked, self.meanwhile = dict(SAID), 0, lambda: None

    def write(self, passages, attempt=0):
        self.asked += len(passages)
        self.meanwhile()
        return [self.said[one.kind] for one in passages]


@pytest.fixture
def secretary(monkeypatch):
    made = Secretary()
    monkeypatch.setattr("server.stages.word.writer", AtHand(lambda: made, patience=0.01))
    monkeypatch.setattr("server.stages.word.has_writer", lambda: True)
    return made


@pytest.fixture(autouse=True)
def judge(monkeypatch):
    """How well what is written is judged is measured (bench); here whoever is in `doubted` is told to have written what does not follow."""
    doubted: set[str] = set()
    for asks in ("server.stages.word", "server.minutes.actions.own_writer"):
        monkeypatch.setattr(f"{asks}.judge", lambda: lambda text, cut: cut.kind not in doubted)
    return doubted


@pytest.fixture
def locks(secretary, maren, make_meeting):
    """A meeting that is read and not worded yet."""
    meeting = make_meeting(maren, work=False)
    run_stages(meeting, *[name for name in stages_of(meeting.recording) if name != "word"])
    return meeting


@pytest.fixture
def minutes(maren, caller, locks):
    call = caller(maren)
    return lambda: call("get", f"/api/meetings/{locks.pk}/minutes").json()


def texts(minutes) -> set[str]:
    return {line["text"] for line in minutes()["lines"] if not line["removed"]}


def test_a_meeting_is_ready_before_it_is_worded_and_says_how_far_that_is(maren, caller, locks, minutes):
    call = caller(maren)
    shown = call("get", f"/api/meetings/{locks.pk}").json()
    assert shown["work"]["state"] == "ready" and len(delivered()) == 1
    assert shown["behind"]["words"] == "wording the minutes" and shown["behind"]["left"] >= 1
    assert call("get", "/api/today").json()["working"] == []
    before = texts(minutes)
    run_stages(locks, "word")
    assert call("get", f"/api/meetings/{locks.pk}").json()["behind"] is None
    assert SAID["action"] in texts(minutes) and SAID["gist"] in texts(minutes) and texts(minutes) != before
    assert minutes()["changed"]["worded"] and minutes()["changed"]["lines"] >= 2
    assert minutes()["chapters"][0]["title"] == SAID["chapter"]
    assert {row.written for row in Finding.objects.filter(kind__in=Finding.STATED)} == {"writer"}


def test_what_does_not_follow_as_far_as_the_judge_can_tell_stays_as_it_was(locks, minutes, judge):
    judge.add("decision")
    before = Finding.objects.get(kind="decision").text
    run_stages(locks, "word")
    assert Finding.objects.get(kind="decision").text == before and SAID["decision"] not in texts(minutes)
    assert Finding.objects.get(kind="action").written == "writer"


def test_what_people_wrote_ticked_or_took_out_stays(maren, caller, locks, minutes):
    call = caller(maren)
    rows = {row.finding.kind: row for row in MinutesLine.objects.exclude(finding=None)}
    call("patch", f"/api/minutes/lines/{rows['decision'].pk}", {"text": "We change that lock.", "before": rows["decision"].text})
    call("patch", f"/api/minutes/lines/{rows['action'].pk}", {"confirmed": True})
    call("delete", f"/api/minutes/lines/{rows['question'].pk}")
    run_stages(locks, "word")
    shown = texts(minutes)
    assert {"We change that lock.", rows["action"].text} <= shown
    # The opening says nothing else than these lines do.
    assert SAID["gist"] not in shown and "Settled: We change that lock." in shown
    assert not any("plant room" in text for text in shown)


def test_the_way_back_holds_also_when_the_record_is_read_anew(maren, caller, locks, minutes, secretary):
    call, before, chapters = caller(maren), texts(minutes), minutes()["chapters"]
    run_stages(locks, "word")
    since = minutes()["changed"]["since"]
    assert call("post", f"/api/meetings/{locks.pk}/minutes/versions/{since}/restore").status_code == 200
    assert minutes()["chapters"] == chapters
    assert texts(minutes) == before and minutes()["changed"] is None
    assert {row.text for row in Finding.objects.filter(kind="action")} <= before
    begin_after(locks, Change.RECORD)
    run_stages(locks)
    asked = secretary.asked
    assert texts(minutes) == before and "writer" not in {row.written for row in Finding.objects.all()}
    run_stages(locks, "word")
    assert secretary.asked == asked


def test_a_correction_has_only_what_it_touches_written_again(maren, caller, locks, minutes, secretary):
    call = caller(maren)
    run_stages(locks, "word")
    call("post", f"/api/meetings/{locks.pk}/minutes/accept")
    asked = secretary.asked
    begin_after(locks, Change.RECORD)
    run_stages(locks)
    assert secretary.asked == asked and SAID["action"] in texts(minutes) and minutes()["changed"] is None


def test_a_change_meanwhile_ends_the_wording_and_it_is_done_again_in_its_turn(locks, secretary):
    secretary.meanwhile = lambda: begin_after(locks, Change.RECORD)
    run(str(locks.pk), STAGES["word"])
    runs = dict(StageRun.objects.filter(meeting=locks).values_list("stage", "state"))
    assert runs["word"] == runs["read"] == "waiting" and not Wording.objects.exists()
    secretary.meanwhile = lambda: None
    run(str(locks.pk), STAGES["word"])  # queued before: its turn has not come
    assert StageRun.objects.get(meeting=locks, stage="word").state == "waiting"
    run_stages(locks)
    assert StageRun.objects.get(meeting=locks, stage="word").state == "done" and Wording.objects.exists()


def test_a_strike_takes_what_was_written(maren, caller, locks):
    run_stages(locks, "word")
    call, at = caller(maren), f"/api/meetings/{locks.pk}"
    chosen = {"start": 12.5, "end": 17.0}
    before = call("post", f"{at}/strike/preview", chosen).json()["text"]
    assert call("post", f"{at}/strike", {**chosen, "name": "Maren Tollefsen", "before": before}).status_code == 200
    assert not Wording.objects.exists() and not locks.chapters.exists()


def test_a_writer_that_fails_leaves_the_meeting_ready_and_can_be_tried_again(maren, caller, locks, secretary):
    def breaks():
        raise RuntimeError("out of order")

    secretary.meanwhile = breaks
    run_stages(locks, "word")
    call, at = caller(maren), f"/api/meetings/{locks.pk}"
    shown = call("get", at).json()
    assert shown["work"]["state"] == "ready" and shown["behind"]["state"] == "failed" and "try again" in shown["behind"]["message"]
    assert call("post", f"{at}/progress/again").status_code == 200
    secretary.meanwhile = lambda: None
    run_stages(locks, "word")
    assert call("get", at).json()["behind"] is None


def test_a_machine_without_a_writer_has_no_such_stage(maren, make_meeting, monkeypatch):
    assert "word" not in stages_of(make_meeting(maren).recording)


def test_what_is_large_is_let_go_when_nobody_needs_it():
    loaded = []
    large = AtHand(lambda: loaded.append(1) or object(), patience=0.05)
    assert not large.loaded
    with large.use() as first, large.use() as second:
        assert first is second
    with large.use() as third:
        assert third is first
    large._timer.join(2)
    assert not large.loaded and len(loaded) == 1


@pytest.fixture
def elsewhere(settings):
    """The stand-in's address, allowed."""
    running = serve()
    settings.WRITERS = [f"http://127.0.0.1:{running.server_port}/v1"]
    yield running
    running.shutdown()
    running.server_close()


def test_an_admin_names_a_writer_elsewhere_tries_it_and_has_the_other_back(maren, caller, member, elsewhere, settings, judge):
    call, at, address = caller(maren), "/api/workspace/writer", settings.WRITERS[0]
    assert caller(member("Idris Quaye"))("get", at).status_code == 403
    assert call("post", f"{at}/try").status_code == 409
    named = {"address": address, "model": "faithful", "key": "secret"}
    shown = call("put", at, named).json()
    assert shown["works"] and shown["has_key"] and "secret" not in str(shown)
    assert "secret" not in str(list(OwnWriter.objects.values())) and endpoint_of(maren.workspace).key == "secret"
    assert call("post", f"{at}/try").json() == {"text": "Bo says: I'll ring the roofer about the gutter on Monday.", "held": True}
    judge.add("action")  # as in the minutes: what does not follow would not be stated
    assert not call("post", f"{at}/try").json()["held"]
    judge.clear()
    call("put", at, {"address": address, "model": "inventing"})
    assert not call("post", f"{at}/try").json()["held"] and endpoint_of(maren.workspace).key == "secret"
    call("put", at, {"address": address, "model": "down"})
    assert call("post", f"{at}/try").status_code == 502
    own, settings.SECRET_KEY = settings.SECRET_KEY, "another"
    assert endpoint_of(maren.workspace).key == ""  # it has to be given anew
    settings.SECRET_KEY = own
    assert call("delete", at).json()["address"] == "" and endpoint_of(maren.workspace) is None


@pytest.mark.parametrize(
    "address",
    ["http://127.0.0.1:5432/v1", "http://169.254.169.254/v1", "file:///etc/passwd", "{}x", "{}/../../admin", "{}?next=1", "http://a@127.0.0.1/v1", ""],
)
def test_only_addresses_that_the_operator_has_allowed_are_gone_to(maren, caller, elsewhere, settings, address):
    given = {"address": address.format(settings.WRITERS[0]), "model": "faithful"}
    refused = caller(maren)("put", "/api/workspace/writer", given)
    assert refused.status_code == 422 and not OwnWriter.objects.exists()
    OwnWriter.objects.create(workspace=maren.workspace, **given)  # one that was allowed once
    assert endpoint_of(maren.workspace) is None


def test_a_key_does_not_go_along_to_another_address(maren, caller, elsewhere, settings):
    call, first = caller(maren), settings.WRITERS[0]
    settings.WRITERS = [first, "http://127.0.0.1:9/v1"]
    call("put", "/api/workspace/writer", {"address": first, "model": "faithful", "key": "secret"})
    assert not call("put", "/api/workspace/writer", {"address": settings.WRITERS[1], "model": "faithful"}).json()["has_key"]


@pytest.mark.parametrize(("model", "worded"), [("faithful", "Idris says: Works for me. I'll order a new lock by Friday."), ("inventing", None), ("down", SAID["action"])])
def test_a_writer_elsewhere_takes_the_place_of_the_one_that_is_built_in(maren, caller, locks, elsewhere, settings, model, worded):
    rules = Finding.objects.get(kind="action").text
    caller(maren)("put", "/api/workspace/writer", {"address": settings.WRITERS[0], "model": model})
    run_stages(locks, "word")
    assert Finding.objects.get(kind="action").text == (worded or rules)
    assert StageRun.objects.get(meeting=locks, stage="word").state == "done"


def test_without_one_built_in_a_writer_elsewhere_that_is_down_can_be_tried_again(maren, caller, make_meeting, elsewhere, settings, monkeypatch):
    call = caller(maren)
    call("put", "/api/workspace/writer", {"address": settings.WRITERS[0], "model": "down"})
    meeting = make_meeting(maren)
    shown = call("get", f"/api/meetings/{meeting.pk}").json()
    assert shown["work"]["state"] == "ready" and "refuses: 503" in shown["behind"]["message"] and not Wording.objects.exists()
    call("put", "/api/workspace/writer", {"address": settings.WRITERS[0], "model": "faithful"})
    call("post", f"/api/meetings/{meeting.pk}/progress/again")
    run_stages(meeting, "word")
    assert Finding.objects.get(kind="action").written == "writer"
