"""Search over everything that one may see, and nothing else: what holds the words, which meetings are wanted, and slips of the pen."""

from __future__ import annotations

from datetime import UTC, datetime
from urllib.parse import urlencode

import pytest
from django.utils import timezone

from server.capture.models import Picture
from server.library.kept import tell_of_new
from server.library.models import HeldWord, KeptSearch
from server.library.vocabulary import keep_written_words, sweep_words
from server.mail.models import Letter
from server.meetings.models import Attendee, Meeting, Person, Reader
from server.minutes.models import Chapter, Finding, MinutesLine
from server.notes.models import Comment, Note
from server.record.models import Line
from tests.server.test_capture import capture_of

SPANISH = "WEBVTT\n\n00:00:01.000 --> 00:00:03.000\n<v Lucía Ferreiro>El pasaporte fitosanitario tarda dos semanas.\n"
JAPANESE = "WEBVTT\n\n00:00:01.000 --> 00:00:03.000\n<v Yuki Hanamori>温室の鍵は京都の植物園にあります。\n"


@pytest.fixture
def look(caller, maren):
    """look(words, who=, **narrowed): what the API answers."""

    def go(words: str, who=None, **narrowed):
        return caller(who or maren)("get", f"/api/search?{urlencode({'q': words, **narrowed}, doseq=True)}").json()

    return go


def fields(found: dict) -> list[str]:
    return [hit["field"] for one in found["meetings"] for hit in one["hits"]]


def titles(found: dict) -> list[str]:
    return [one["meeting"]["title"] for one in found["meetings"]]


def marked(hit: dict) -> list[str]:
    return [part["text"] for part in hit["parts"] if part["hit"]]


def test_stems_phrases_and_other_languages_are_found_and_marked(look, maren, caller, make_meeting):
    make_meeting(maren, "Locks")
    make_meeting(maren, "Palms", text=SPANISH)
    make_meeting(maren, "Kyoto", text=JAPANESE)
    found = look("ordered locks")
    assert titles(found) == ["Locks"] and not found["alike"]
    [line] = [hit for hit in found["meetings"][0]["hits"] if hit["field"] == "line"]
    assert marked(line) == ["order", "lock"] and line["line"] == 5
    assert titles(look("pasaporte")) == ["Palms"]
    [kyoto] = look("植物園")["meetings"]
    assert [part["text"] for hit in kyoto["hits"] if hit["field"] == "line" for part in hit["parts"]] == ["温室の鍵は京都の", "植物園", "にあります。"]
    assert [hit["line"] for hit in look('"plant room" -boiler')["meetings"][0]["hits"] if hit["field"] == "line"] != []
    assert set(titles(look("plant OR pasaporte"))) == {"Locks", "Palms"}
    call = caller(maren)
    assert call("get", "/api/search?q=%00%27%22;--").status_code in (200, 422) and call("get", "/api/search?q=+").status_code == 422


def test_whatever_holds_the_words_is_found_and_told(look, maren, make_meeting):
    meeting = make_meeting(maren, "Zephyr house: roof")
    line = Line.objects.filter(meeting=meeting).order_by("number")[2]
    Attendee.objects.create(meeting=meeting, person=Person.objects.create(workspace=maren.workspace, name="Zelda Zephyrin"))
    MinutesLine.objects.create(meeting=meeting, section="decisions", position=99, text="The quixotic plan stands.").lines.add(line)
    MinutesLine.objects.create(meeting=meeting, section="decisions", position=98, text="A quixotic plan that somebody took out.", removed_at=datetime.now(UTC))
    Chapter.objects.create(meeting=meeting, title="Marzipan", turn=1, start=line.start)
    Note.objects.create(meeting=meeting, user=maren.user, text="ask about gossamer", at=line.start)
    Comment.objects.create(meeting=meeting, user=maren.user, text="no kumquats!", start=line.start, end=line.end)
    for words, field, leads in (
        ("zephyr", "title", None), ("zelda", "person", None), ("quixotic", "minutes", line.number), ("marzipan", "chapter", line.number),
        ("gossamer", "note", line.number), ("kumquat", "comment", line.number),
    ):  # fmt: skip
        found = look(words)
        [hit] = [hit for hit in found["meetings"][0]["hits"] if hit["field"] == field]
        assert found["places"] == 1 and marked(hit), words
        assert leads is None or hit["line"] == leads, words
    assert look("gossamer")["meetings"][0]["hits"][0]["who"] == "Maren Tollefsen"


def test_what_a_screen_showed_is_found(look, maren):
    capture = capture_of(maren, 1)
    stretch = capture.stretches.get()
    Picture.objects.create(stretch=stretch, at=0, sha256="x", image="x.jpg", text="Boilers of the palm house\nTwo, of 90 kW", title="Boilers of the palm house")
    Meeting.objects.update(place="online")
    assert fields(look("boilers kW")) == ["screen"]


def test_nobody_finds_what_they_may_not_see(look, maren, member, make_meeting):
    idris, gwen, yuki = member("Idris Quaye"), member("Gwen Castellow", "guest"), member("Yuki Hanamori")
    mine = make_meeting(maren, "Quorum mine", visibility="mine")
    named = make_meeting(maren, "Quorum named", visibility="named")
    everyone = make_meeting(maren, "Quorum all", visibility="workspace")
    Reader.objects.create(meeting=named, user=gwen.user)
    for meeting in (mine, named, everyone):
        Note.objects.create(meeting=meeting, user=maren.user, text="verdigris")
        Note.objects.create(meeting=meeting, user=maren.user, text="verdigris shared", shared=True)
    for who, sees in ((maren, {"Quorum mine", "Quorum named", "Quorum all"}), (idris, {"Quorum all"}), (gwen, {"Quorum named"}), (yuki, {"Quorum all"})):
        assert set(titles(look("quorum", who))) == set(titles(look("quorun", who))) == sees
        found = look("verdigris", who)
        assert set(titles(found)) == sees and found["places"] == (2 if who is maren else 1) * len(sees)
    Meeting.objects.filter(pk=everyone.pk).update(removed_at=datetime.now(UTC))
    assert titles(look("quorum", idris)) == []


def test_a_slip_of_the_pen_is_forgiven_and_said(look, maren, make_meeting):
    make_meeting(maren, "Scaffolding")
    found = look("scafolding")
    assert found["alike"] and titles(found) == ["Scaffolding"]
    assert look("xylophonist")["meetings"] == [] and look("-scafolding")["status"] == 422
    assert look('"scafolding"')["meetings"] == []  # to the letter


def test_a_word_is_found_in_the_forms_of_the_language_a_meeting_is_held_in(look, maren, make_meeting):
    make_meeting(maren, "Locks")
    spanish = make_meeting(maren, "Palms", text=SPANISH)
    assert not look("tardan")["places"] or look("tardan")["alike"]
    Meeting.objects.filter(pk=spanish.pk).update(language="es")
    found = look("tardan fitosanitarias")
    assert titles(found) == ["Palms"] and not found["alike"]
    assert marked(found["meetings"][0]["hits"][0]) == ["fitosanitario", "tarda"]
    assert look('"tardan"')["meetings"] == []


def test_what_was_said_is_found_by_a_word_with_a_slip_in_it(look, maren, make_meeting):
    meeting = make_meeting(maren, "Locks")
    for typed in ("biolr", "bolier", "change the bioler"):
        found = look(typed)
        assert found["alike"] == (titles(found) == ["Locks"]) == (typed != "biolr"), typed
    assert marked(look("bolier")["meetings"][0]["hits"][0]) == ["boiler"]
    MinutesLine.objects.create(meeting=meeting, section="notes", position=9, text="Ask about the verdigris.")
    assert not look("verdirgis")["meetings"]
    keep_written_words()
    assert titles(look("verdirgis")) == ["Locks"]


def test_a_word_that_nothing_holds_any_more_is_swept(maren, make_meeting, caller):
    meeting = make_meeting(maren, "Locks")
    assert sweep_words() == 0 and HeldWord.objects.filter(word="works").exists()
    caller(maren)("put", f"/api/meetings/{meeting.pk}/lines/4", {"text": "Fine by me.", "before": "Works for me."})
    assert sweep_words() == 1 and not HeldWord.objects.filter(word="works").exists()


@pytest.fixture
def three(maren, make_meeting):
    """Three meetings of one word, on three days."""
    found = []
    for number, (title, text) in enumerate((("Putty one", None), ("Putty two", SPANISH), ("Putty three", None))):
        meeting = make_meeting(maren, title, **({"text": text} if text else {}))
        Meeting.objects.filter(pk=meeting.pk).update(started_at=datetime(2026, 3, 3 + number, 23, 30, tzinfo=UTC), language="es" if text else "en")
        meeting.refresh_from_db()
        found.append(meeting)
    return found


def test_meetings_are_narrowed_and_ordered(look, three, maren, caller):
    one, *_ = three
    call = caller(maren)
    choices = call("get", "/api/library/narrow").json()
    lucia = next(person["id"] for person in choices["people"] if person["name"] == "Lucía Ferreiro")
    assert choices["languages"] == ["en", "es"] and choices["places"] == ["file"]
    Finding.objects.filter(meeting=one).delete()
    Finding.objects.create(meeting=one, kind="action", text="x", status="standing", confidence=1, start=0, end=1, done_at=datetime.now(UTC))
    Finding.objects.create(meeting=one, kind="decision", text="x", status="standing", confidence=1, start=0, end=1)
    for narrowed, wanted in (
        ({"person": lucia}, ["Putty two"]),
        ({"person": lucia, "speaking": True}, ["Putty two"]),
        ({"since": "2026-03-04"}, ["Putty three", "Putty two"]),
        ({"until": "2026-03-03"}, ["Putty one"]),
        ({"since": "2026-03-05", "until": "2026-03-05", "time_zone": "Europe/Madrid"}, ["Putty two"]),  # past midnight there
        ({"place": "room"}, []),
        ({"language": "es"}, ["Putty two"]),
    ):
        assert titles(look("putty", order="newest", **narrowed)) == wanted, narrowed
        rows = call("get", f"/api/library?{urlencode(narrowed)}").json()["rows"]
        assert [row["title"] for row in rows] == wanted, narrowed
    assert "Putty one" in titles(look("putty", holds=["decisions"])) and "Putty one" not in titles(look("putty", holds=["open actions"]))
    assert titles(look("putty", holds=["sound"])) == []
    assert titles(look("putty", order="oldest")) == ["Putty one", "Putty two", "Putty three"]
    assert call("get", "/api/search?q=putty&order=sideways").status_code == 422
    assert call("get", "/api/library?time_zone=Nowhere/Else&since=2026-03-03").status_code == 422


def test_one_narrows_by_nothing_that_one_does_not_see(three, maren, member, caller):
    idris = member("Idris Quaye")
    Meeting.objects.update(visibility="mine")
    seen = caller(idris)("get", "/api/library/narrow").json()
    assert seen == {"people": [], "series": [], "languages": [], "places": [], "shelves": []}


@pytest.mark.parametrize("words", ["x " * 5000, "the of and", '"unbalanced', '-"', 'a "b" -"c', "%_\\", "ключ от оранжереи", "مفتاح البيت", "温室の鍵", "กุญแจ", "🌿🔑", "\x00\x02key", "'); drop", "or or or", "a & | !b <-> (c"])
def test_whatever_is_typed_is_answered_or_refused_in_words(caller, maren, make_meeting, words):
    make_meeting(maren, "Locks")
    answer = caller(maren)("get", f"/api/search?{urlencode({'q': words})}")
    assert answer.status_code in (200, 422), words
    assert answer.status_code == 200 or answer.json()["detail"]


def test_what_one_made_and_what_others_let_one_into(three, maren, member, caller):
    idris = member("Idris Quaye")
    Meeting.objects.filter(pk=three[0].pk).update(visibility="named")
    Reader.objects.create(meeting=three[0], user=idris.user)
    rows = lambda who, whose: [row["title"] for row in caller(who)("get", f"/api/library?whose={whose}").json()["rows"]]  # noqa: E731
    assert rows(maren, "mine") == ["Putty three", "Putty two", "Putty one"] and rows(maren, "shared") == []
    assert rows(idris, "mine") == [] and rows(idris, "shared") == ["Putty one"]


def test_a_search_is_kept_counts_what_is_new_and_tells_once(three, maren, member, caller, make_meeting, settings):
    call = caller(maren)
    kept = call("post", "/api/searches", {"name": "Putty", "words": "putty", "wanted": {"language": "en", "time_zone": "Europe/London"}, "tells": True}).json()
    assert (kept["new"], kept["wanted"]["language"], kept["wanted"]["time_zone"]) == (0, "en", "Europe/London")
    for title, ready, language in (("Putty four", True, "en"), ("Putty five", False, "en"), ("Putty six", True, "es"), ("Linseed", True, "en")):
        meeting = make_meeting(maren, title)
        Meeting.objects.filter(pk=meeting.pk).update(ready_at=timezone.now() if ready else None, language=language)
    assert [one["new"] for one in call("get", "/api/searches").json()] == [1]
    assert (tell_of_new(), tell_of_new()) == (1, 0)
    letter = Letter.objects.get(kind="found")
    assert letter.to == "maren@larkmoor.example" and "Putty four" in letter.text and "Putty six" not in letter.text
    assert call("post", f"/api/searches/{kept['id']}/seen").status_code == 204
    assert [one["new"] for one in call("get", "/api/searches").json()] == [0]
    # Of what one does not see nothing is new, also not as a number.
    idris = member("Idris Quaye")
    theirs = caller(idris)
    theirs("post", "/api/searches", {"name": "Putty", "words": "putty", "wanted": {}, "tells": True})
    KeptSearch.objects.filter(membership=idris).update(seen_at=three[0].started_at, told_at=three[0].started_at)
    Meeting.objects.update(visibility="mine")
    assert [one["new"] for one in theirs("get", "/api/searches").json()] == [0] and tell_of_new() == 0
    assert theirs("delete", f"/api/searches/{kept['id']}").status_code == 404
    assert call("delete", f"/api/searches/{kept['id']}").status_code == 204 and call("get", "/api/searches").json() == []
    for wrong in ({"name": "x", "words": " ", "wanted": {}}, {"name": " ", "words": "a", "wanted": {}}, {"name": "x", "words": "a", "wanted": {"place": "moon"}}):
        assert call("post", "/api/searches", wrong).status_code == 422
