"""The word list, words put right by hand, the review, names proposed, known voices."""

from __future__ import annotations

import pytest

from core.record.model import Line, Record, Turn, Word
from server.accounts.models import Workspace
from server.meetings.models import Person
from server.record.keep import keep_record
from server.record.models import KnownVoice, Voice
from server.words.models import WordFix
from server.words.queries import expected, word_list


def record(**embeddings) -> tuple[Record, dict]:
    words = (Word("Ask", 0, 1), Word("to", 1, 1.5, 0.3), Word("bias", 1.5, 2, 0.4), Word("first.", 2, 3))
    other = (Word("Yes,", 4, 5), Word("Dewline.", 5, 6, 0.8, heard="do line."))
    turns = (
        Turn(1, "A", (Line("Ask to bias first.", 0, 3, words),), "en"),
        Turn(2, "B", (Line("Yes, Dewline.", 4, 6, other),), "en"),
    )
    return Record("r", turns, 6.0, "en"), embeddings


@pytest.fixture
def heard(make_meeting, maren):
    """A meeting of Maren's with a record, as if it had been heard."""

    def make(title: str, people=(), made=None):
        meeting = make_meeting(maren, title, visibility="mine", people=people, work=False)
        keep_record(meeting, *(made or record()))
        return meeting

    return make


@pytest.fixture
def meeting(heard):
    return heard("Works meeting", ["Maren Tollefsen", "Tobias Renn"])


def test_a_list_is_kept_and_changed(maren, caller):
    added = caller(maren)("post", "/api/words", {"text": "Jubaea", "sounds": ["you bay"], "mistaken": []})
    assert added.status_code == 201
    caller(maren)("post", "/api/words", {"text": "jubaea", "sounds": [], "mistaken": ["jubilee"]})
    [term] = caller(maren)("get", "/api/words").json()["terms"]
    assert term["text"] == "jubaea" and term["mistaken"] == ["jubilee"]
    assert caller(maren)("post", "/api/words", {"text": " . "}).status_code == 422
    assert caller(maren)("delete", f"/api/words/{term['id']}").status_code == 204
    assert caller(maren)("get", "/api/words").json()["terms"] == []


def test_guests_do_not_change_the_list(member, caller):
    guest = member("Gwen Castellow", "guest")
    assert caller(guest)("post", "/api/words", {"text": "Glass"}).status_code == 403


def test_who_is_there_and_the_agenda_count_as_words(maren, caller, meeting):
    caller(maren)("post", "/api/words", {"text": "Tobias", "mistaken": ["to bias"]})
    meeting.points.create(position=1, text="Livistona seedlings", minutes=5)
    terms = {term.text: term for term in word_list(meeting)}
    assert {"Maren", "Tobias", "Livistona"} <= set(terms) and "seedlings" not in terms
    assert terms["Tobias"].mistaken == ("to bias",)
    assert "Maren" in expected(meeting)


def test_words_are_put_right_and_three_times_offered(maren, caller, meeting):
    fix = {"first": 1, "last": 2, "text": "Tobias", "before": "to bias"}
    at = f"/api/meetings/{meeting.pk}/lines/1/words"
    assert caller(maren)("post", at, fix).status_code == 204
    lines = caller(maren)("get", f"/api/meetings/{meeting.pk}/record").json()["turns"][0]["lines"]
    assert lines[0]["text"] == "Ask Tobias first." and lines[0]["unsure"] == []
    again = caller(maren)("post", at, fix)
    assert again.status_code == 409 and "Ask Tobias first." in again.json()["detail"]
    for _ in range(2):
        WordFix.objects.create(workspace=maren.workspace, meeting=meeting, line=1, heard="to bias", meant="Tobias", user=maren.user)
    [offer] = caller(maren)("get", "/api/words").json()["offers"]
    assert offer == {"heard": "to bias", "meant": "Tobias", "times": 3}
    caller(maren)("post", "/api/words/offers/declined", {"heard": "to bias", "meant": "Tobias"})
    assert caller(maren)("get", "/api/words").json()["offers"] == []


def test_the_review_walks_what_is_in_doubt(maren, caller, meeting):
    at = f"/api/meetings/{meeting.pk}"
    review = caller(maren)("get", f"{at}/review").json()
    assert [(one["line"], one["reasons"]) for one in review] == [(1, ["words"]), (2, ["listed"])]
    assert review[1]["words"][1]["heard"] == "do line."
    assert caller(maren)("delete", f"{at}/lines/2/words/1/correction").status_code == 204
    assert caller(maren)("get", f"{at}/record").json()["turns"][1]["lines"][0]["text"] == "Yes, do line."
    assert caller(maren)("delete", f"{at}/lines/2/words/1/correction").status_code == 409
    assert caller(maren)("post", f"{at}/lines/1/right").status_code == 204
    assert caller(maren)("get", f"{at}/review").json() == []


def test_whoever_may_not_see_may_not_put_right(member, caller, meeting):
    other = member("Yuki Hanamori")
    at = f"/api/meetings/{meeting.pk}/lines/1"
    assert caller(other)("post", f"{at}/words", {"first": 0, "last": 0, "text": "x", "before": "Ask"}).status_code == 404
    assert caller(other)("get", f"/api/meetings/{meeting.pk}/review").status_code == 404


def test_names_are_proposed_with_their_lines(maren, caller, heard):
    turns = (Turn(1, "A", (Line("Hello, this is Tobias.", 0, 3),), "en"),)
    made = heard("Call", ["Tobias Renn"], (Record("r", turns, 6.0, "en"), {"A": vector(0)}))
    [proposal] = caller(maren)("get", f"/api/meetings/{made.pk}/voices/proposals").json()
    assert proposal["name"] == "Tobias Renn" and proposal["lines"] == [1] and proposal["because"] == "Hello, this is Tobias."


def vector(index: int) -> list[float]:
    return [1.0 if place == index else 0.0 for place in range(192)]


def test_a_voice_is_known_only_with_consent_and_forgotten_for_good(maren, caller, heard):
    first = heard("First", ["Tobias Renn"], record(A=vector(0), B=vector(1)))
    voice = Voice.objects.get(meeting=first, label="A")
    at = f"/api/meetings/{first.pk}/voices/{voice.pk}"
    caller(maren)("post", f"{at}/name", {"name": "Tobias Renn"})
    assert caller(maren)("post", f"{at}/remember", {"consent": True}).status_code == 409  # off by default
    maren.workspace.known_voices = True
    maren.workspace.save()
    assert caller(maren)("post", f"{at}/remember", {"consent": False}).status_code == 422
    assert caller(maren)("post", f"{at}/remember", {"consent": True}).status_code == 204

    later = heard("Later", [], record(A=vector(1), B=vector(0)))
    assert [v.name for v in later.voices.order_by("label")] == ["Voice A", "Tobias Renn"]
    assert later.voices.get(label="B").recognised

    [known] = caller(maren)("get", "/api/voices").json()
    assert known["name"] == "Tobias Renn" and "vector" not in known
    assert caller(maren)("delete", f"/api/voices/{known['id']}").status_code == 204
    assert not KnownVoice.objects.exists()
    third = heard("Third", [], record(A=vector(1), B=vector(0)))
    assert not third.voices.filter(person__isnull=False).exists()


def test_voices_are_never_known_across_workspaces(maren, heard, member):
    maren.workspace.known_voices = True
    maren.workspace.save()
    elsewhere = member("Far Away", "owner", Workspace.objects.create(name="Elsewhere"))
    stranger = Person.objects.create(workspace=elsewhere.workspace, name="A Stranger")
    elsewhere.workspace.known_voices = True
    elsewhere.workspace.save()
    KnownVoice.objects.create(person=stranger, vector=vector(0))
    made = heard("Here", [], record(A=vector(0)))
    assert not made.voices.filter(person__isnull=False).exists()


def test_a_voice_can_be_named_and_the_reading_begins_anew(maren, caller, heard):
    made = heard("Named", ["Tobias Renn"], record(A=vector(0), B=vector(1)))
    voice = made.voices.get(label="A")
    caller(maren)("post", f"/api/meetings/{made.pk}/voices/{voice.pk}/name", {"name": "Tobias Renn"})
    assert caller(maren)("get", f"/api/meetings/{made.pk}").json()["work"]["state"] == "working"
    assert caller(maren)("get", "/api/today").status_code == 200
