"""Comments, reactions, excerpts, sequences: told to those they are for, and giving nothing else away."""

import pytest

from server.excerpts.models import Excerpt
from server.meetings.models import Meeting
from server.minutes.models import Finding
from tests.server.conftest import delivered, let_in


@pytest.fixture
def locks(maren, make_meeting) -> Meeting:
    return make_meeting(maren, visibility="mine")


@pytest.fixture
def by_maren(maren, caller):
    return caller(maren)


@pytest.fixture
def do(by_maren, locks):
    return lambda method, path, data=None: by_maren(method, f"/api/meetings/{locks.pk}/{path}", data)


def test_a_comment_tells_those_it_mentions_who_may_see_it_and_nothing_of_itself(do, locks, member):
    idris = member("Idris Quaye")
    member("Yuki Hanamori")
    let_in(locks, idris)
    delivered().clear()
    Meeting.objects.filter(pk=locks.pk).update(visibility="named")  # Idris was there, Yuki was not
    written = do("post", "comments", {"text": "@Idris Quaye and @Yuki Hanamori, which lock?", "start": 13.0, "end": 17.0})
    assert written.status_code == 201 and written.json()["not_told"] == ["Yuki Hanamori"]
    [message] = delivered()
    assert message.to == ["idris@larkmoor.example"] and "which lock" not in message.subject + message.body
    answer = do("post", "comments", {"text": "The brass one.", "after": written.json()["id"]})
    shown = do("get", "comments").json()["comments"]
    assert [(one["text"][:12], one["after"], one["start"]) for one in shown] == [
        ("@Idris Quaye", None, 13.0),
        ("The brass on", written.json()["id"], 13.0),
    ]
    assert answer.status_code == 201


def test_a_comment_is_changed_by_its_writer_alone(do, by_maren, locks, caller, member):
    idris = caller(member("Idris Quaye"))
    Meeting.objects.filter(pk=locks.pk).update(visibility="workspace")
    number = do("post", "comments", {"text": "Which lock?", "start": 13.0, "end": 17.0}).json()["id"]
    assert idris("patch", f"/api/comments/{number}", {"text": "Mine now"}).status_code == 403
    assert by_maren("patch", f"/api/comments/{number}", {"text": "Which one?"}).status_code == 204
    [shown] = do("get", "comments").json()["comments"]
    assert shown["text"] == "Which one?" and shown["changed"]
    assert by_maren("patch", f"/api/comments/{number}", {"removed": True}).status_code == 204
    assert do("get", "comments").json()["comments"] == []
    assert by_maren("patch", f"/api/comments/{number}", {"removed": False}).status_code == 204
    assert len(do("get", "comments").json()["comments"]) == 1
    for wrong in ({"text": "  ", "start": 1, "end": 2}, {"text": "x", "start": 3, "end": 2}):
        assert do("post", "comments", wrong).status_code == 422


def test_reactions_are_counted_by_passage_and_taken_back(do):
    on = {"kind": "doubt", "start": 7.0, "end": 10.0}
    assert do("post", "reactions", on).status_code == 204 == do("post", "reactions", on).status_code
    assert do("get", "comments").json()["reactions"] == [{**on, "by": ["Maren Tollefsen"], "mine": True}]
    do("post", "reactions", {**on, "on": False})
    assert do("get", "comments").json()["reactions"] == []
    assert "agreed" in do("post", "reactions", {**on, "kind": "applause"}).json()["detail"]


def test_an_action_of_ones_own_rests_on_the_lines_that_were_chosen(do, locks):
    do("post", "actions", {"text": "Ask the locksmith", "owner": "Idris Quaye", "at": 13.0, "lines": [4, 5]})
    finding = Finding.objects.get(meeting=locks, text="Ask the locksmith")
    assert sorted(finding.lines.values_list("number", flat=True)) == [4, 5]
    [line] = finding.minutes_lines.all()
    assert line.by_hand and sorted(line.lines.values_list("number", flat=True)) == [4, 5]


def test_an_excerpt_gives_nothing_of_its_meeting_away(do, by_maren, locks, caller, member):
    cut = do("post", "excerpts", {"title": "The lock", "start": 7.0, "end": 12.0}).json()
    assert [(one["speaker"], one["text"]) for one in cut["said"]] == [
        ("Maren Tollefsen", "What if we change the lock on the boiler door?"),
        ("Idris Quaye", "Works for me."),
    ]
    yuki, idris = caller(member("Yuki Hanamori")), caller(member("Idris Quaye"))
    assert yuki("get", f"/api/excerpts/{cut['id']}").status_code == 404
    delivered().clear()
    call = lambda data: by_maren("patch", f"/api/excerpts/{cut['id']}", data)  # noqa: E731
    assert call({"seen": "chosen", "chosen": ["Yuki Hanamori"]}).status_code == 200
    assert [message.to for message in delivered()] == [["yuki@larkmoor.example"]] and "boiler" not in delivered()[0].body
    shown = yuki("get", f"/api/excerpts/{cut['id']}")
    text = shown.content.decode()
    assert shown.status_code == 200 and "boiler door" in text
    assert str(locks.pk) not in text and "Locks" not in text and "plant room" not in text and "Friday" not in text
    assert yuki("get", f"/api/meetings/{locks.pk}").status_code == 404
    assert idris("get", f"/api/excerpts/{cut['id']}").status_code == 404
    assert [one["id"] for one in yuki("get", "/api/excerpts").json()] == [cut["id"]] and idris("get", "/api/excerpts").json() == []
    assert call({"removed": True}).status_code == 200
    assert yuki("get", f"/api/excerpts/{cut['id']}").status_code == 404
    assert call({"removed": False}).status_code == 200
    Meeting.objects.filter(pk=locks.pk).update(removed_at="2026-03-04T00:00:00Z")
    assert yuki("get", f"/api/excerpts/{cut['id']}").status_code == 404, "what was taken out of the library takes its excerpts along"


def test_an_excerpt_is_trimmed_by_word_and_cut_around_a_moment(do, by_maren, locks):
    around = do("post", "excerpts", {"at": 8.0}).json()
    assert around["length"] == pytest.approx(16.0, abs=1.1), "the whole of a short record"
    cut = do("post", "excerpts", {"start": 7.0, "end": 10.0}).json()
    trimmed = by_maren("patch", f"/api/excerpts/{cut['id']}", {"start": 8.3}).json()
    assert trimmed["said"][0]["text"].endswith("the boiler door?") and not trimmed["said"][0]["text"].startswith("What if")
    for wrong, said in (
        ({"start": 7.0, "end": 7.0}, "has a length"),
        ({"start": 0.0, "end": 900.0, "title": "x"}, None),
        ({"start": 900.0, "end": 950.0}, "has a length"),
        ({}, "which passage"),
    ):
        answer = do("post", "excerpts", wrong)
        assert (answer.status_code == 201) if said is None else (answer.status_code == 422 and said in answer.json()["detail"])


def test_a_sequence_shows_everyone_only_what_they_may_hear(do, by_maren, locks, caller, maren, member, make_meeting):
    other = make_meeting(maren, "Pumps", "mine")
    first = do("post", "excerpts", {"start": 7.0, "end": 10.0, "title": "Lock"}).json()["id"]
    second = by_maren("post", f"/api/meetings/{other.pk}/excerpts", {"start": 13.0, "end": 17.0, "title": "Order"}).json()["id"]
    sequence = by_maren("post", "/api/sequences", {"title": "This week", "excerpts": [second, first]}).json()
    assert [one["title"] for one in sequence["excerpts"]] == ["Order", "Lock"] and sequence["length"] == pytest.approx(7.0)
    yuki = caller(member("Yuki Hanamori"))
    assert yuki("get", f"/api/sequences/{sequence['id']}").status_code == 404 and yuki("get", "/api/sequences").json() == []
    Excerpt.objects.filter(pk=first).update(seen="workspace")
    assert [one["title"] for one in yuki("get", f"/api/sequences/{sequence['id']}").json()["excerpts"]] == ["Lock"]
    assert yuki("patch", f"/api/sequences/{sequence['id']}", {"title": "Mine"}).status_code == 403
    assert yuki("post", "/api/sequences", {"title": "Mine", "excerpts": [second]}).status_code == 404
    assert by_maren("patch", f"/api/sequences/{sequence['id']}", {"excerpts": [first, second]}).json()["excerpts"][0]["title"] == "Lock"
    assert by_maren("patch", f"/api/sequences/{sequence['id']}", {"removed": True}).status_code == 200
    assert by_maren("get", "/api/sequences").json() == []
    assert by_maren("patch", f"/api/sequences/{sequence['id']}", {"removed": False}).status_code == 200
    assert len(by_maren("get", "/api/sequences").json()) == 1
