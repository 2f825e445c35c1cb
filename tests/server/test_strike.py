"""A strike: seen before it is done, under one's name, gone from every table and file, and what rested on it drawn anew."""

import uuid

import pytest
from django.core.files.base import ContentFile
from django.utils import timezone

from core.media.chunks import CAPTURE_RATE
from server.audit.models import Entry
from server.capture.models import Capture, Picture, Recording, Stretch
from server.capture.queries import pictures_of
from server.excerpts.models import Excerpt
from server.library.models import HeldWord
from server.meetings.models import Meeting
from server.minutes.models import Finding, MinutesLine
from server.notes.models import Comment, Mark, Note
from server.pipeline.models import RunState, StageRun
from server.pipeline.work import STAGES, Change, stages_after
from server.record.models import Line, Turn, Voice
from server.stages.tasks import run
from tests.server.conftest import run_stages

ALL = {"first": [3, 0], "last": [3, -1]}  # "What if we change the lock on the boiler door?"


@pytest.fixture
def locks(maren, make_meeting) -> Meeting:
    return make_meeting(maren)


@pytest.fixture
def do(maren, caller, locks):
    call = caller(maren)
    return lambda method, path, data=None: call(method, f"/api/meetings/{locks.pk}/{path}", data)


def struck(do, chosen: dict, **more):
    before = do("post", "strike/preview", chosen).json()["text"]
    return do("post", "strike", {**chosen, "name": "Maren Tollefsen", "before": before, **more})


def finish(meeting: Meeting) -> None:
    """What a worker does afterwards."""
    meeting = Meeting.objects.get(pk=meeting.pk)
    run_stages(meeting, *stages_after(Recording.objects.get(meeting=meeting), Change.STRIKE))


def everywhere(settings, text: str) -> list[str]:
    """Tables and files that hold a text."""
    from django.apps import apps

    found = [
        f"{model.__name__} {row.pk}"
        for model in apps.get_models()
        for row in model.objects.all()
        if any(text.casefold() in str(value).casefold() for value in row.__dict__.values())
    ]
    files = [path for path in settings.MEDIA_ROOT.rglob("*") if path.is_file()]
    return found + [path.name for path in files if text.encode().lower() in path.read_bytes().lower()]


def test_a_strike_shows_first_what_goes_and_what_rests_on_it(do, locks):
    seen = do("post", "strike/preview", ALL).json()
    assert (seen["text"], seen["words"]) == ("What if we change the lock on the boiler door?", 10) and seen["files"]
    assert {one["kind"] for one in seen["drawn"]} >= {"decision", "minutes"}
    assert Line.objects.filter(meeting=locks).count() == 5, "nothing has gone yet"


def test_a_struck_sentence_is_in_no_table_and_no_file(do, locks, maren, settings):
    line = Line.objects.get(meeting=locks, number=3)
    Note.objects.create(meeting=locks, user=maren.user, text="Idris: change the lock on the boiler door!!", at=8.0)
    Comment.objects.create(meeting=locks, user=maren.user, text="Really “the lock on the boiler door”?", start=7.0, end=10.0)
    Mark.objects.create(meeting=locks, user=maren.user, kind="important", start=7.2, end=9.0)
    do("put", "lines/3", {"text": line.text.replace("What if", "Suppose"), "before": line.text})
    do("post", "minutes/lines", {"section": "decisions", "text": "We change the lock on the boiler door, I think.", "lines": [3]})
    finish(locks)
    do("post", "minutes/draw", {"template": "status"})
    before = do("get", "record").json()["turns"][0]
    assert everywhere(settings, "lock on the boiler door")
    assert struck(do, ALL, take_own=False).json()["words"] == 9
    assert [one for one in everywhere(settings, "lock on the boiler door") if not one.endswith(".vtt")] == [], (
        "gone at once from all tables"
    )
    assert HeldWord.objects.filter(word__in=["lock", "boiler"]).get().word == "lock", "a word of it is known where another line holds it"
    finish(locks)
    assert everywhere(settings, "lock on the boiler door") == everywhere(settings, "boiler door") == []
    own = MinutesLine.objects.get(meeting=locks, hand=maren.user)
    assert own.text == "[struck], I think.", "one's own words stay, without what they quote"
    assert Note.objects.get().text == "Idris: [struck]!!" and Note.objects.get().at is None
    assert Comment.objects.get().text == "Really “[struck]”?" and not Mark.objects.exists()
    after = do("get", "record").json()
    assert after["turns"][0] == before
    assert [line["number"] for turn in after["turns"] for line in turn["lines"]] == [1, 2, 3, 4]
    [gap] = after["struck"]
    assert gap["by"] == "Maren Tollefsen" and gap["start"] <= 7.0 and gap["end"] >= 10.0
    for form in ("txt", "md", "vtt", "srt", "json", "csv"):
        assert b"boiler" not in do("get", f"record.{form}").content


def test_the_audit_says_who_and_how_much_and_not_what(do, locks, maren):
    struck(do, ALL)
    entry = Entry.objects.get(verb="strike")
    assert entry.actor == maren.user and entry.detail == {"words": 10, "seconds": 4.0}


def test_words_in_the_middle_of_a_line_go_and_the_line_stays(do, locks):
    struck(do, {"first": [3, 5], "last": [3, 9]})
    assert Line.objects.get(meeting=locks, number=3).text == "What if we change the"
    assert not Finding.objects.filter(meeting=locks, kind="decision").exists(), "what rested on it goes at once, until it is drawn anew"
    finish(locks)
    assert Finding.objects.filter(meeting=locks, kind="decision").exists()


def test_a_voice_goes_with_all_it_said(do, locks):
    voice = Voice.objects.get(meeting=locks, person__name="Idris Quaye")
    struck(do, {"voice": voice.pk})
    finish(locks)
    assert not Voice.objects.filter(pk=voice.pk).exists()
    assert [turn.voice.name for turn in Turn.objects.filter(meeting=locks)] == ["Maren Tollefsen"] * 2
    # The strip shows what is left, before any worker has done its part.
    [left] = Voice.objects.filter(meeting=locks)
    assert {size: [lane["voice"] for lane in lanes] for size, lanes in Meeting.objects.get(pk=locks.pk).strip.items()} == {
        "small": [left.pk],
        "wide": [left.pk],
    }


def test_own_words_that_rest_on_it_go_along_where_asked(do, locks):
    do("post", "minutes/lines", {"section": "decisions", "text": "Idris changes it.", "lines": [3]})
    seen = do("post", "strike/preview", ALL).json()
    assert [(one["text"], one["hand"]) for one in seen["own"]] == [("Idris changes it.", "MT")]
    struck(do, ALL, take_own=True)
    assert not MinutesLine.objects.filter(meeting=locks, text="Idris changes it.").exists()


def test_pictures_of_the_screen_go_or_are_shown_from_the_end_of_the_passage(do, locks, maren):
    capture = Capture.objects.create(id=uuid.uuid4(), meeting=locks, stopped_at=timezone.now())
    stretch = Stretch.objects.create(
        capture=capture, number=0, user=maren.user, tracks=["room"], begun_at=timezone.now(), samples=20 * CAPTURE_RATE, gathered=True
    )
    for second in (0, 7.5, 8.5, 16):
        picture = Picture(stretch=stretch, at=round(second * CAPTURE_RATE), sha256="")
        picture.image.save(f"{second}.jpg", ContentFile(b"a picture"))
    assert do("post", "strike/preview", ALL).json()["counts"]["pictures"] == 2
    struck(do, ALL)
    assert [start for _, start in pictures_of(capture)] == pytest.approx([0, 10.5, 16], abs=0.01)


def test_excerpts_go_or_are_cut_anew(do, locks, maren, settings):
    line = Line.objects.get(meeting=locks, number=3)
    for title, start, end in (("within", line.start, line.end), ("around", line.start - 1, line.end + 1), ("elsewhere", line.end + 1, line.end + 2)):
        made = Excerpt.objects.create(meeting=locks, user=maren.user, title=title, start=start, end=end)
        made.sound.save(f"{title}.webm", ContentFile(title.encode()))
    assert do("post", "strike/preview", ALL).json()["counts"]["excerpts"] == 2
    struck(do, ALL)
    assert {one.title: bool(one.sound) for one in Excerpt.objects.all()} == {"around": False, "elsewhere": True}
    finish(locks)
    assert [path.read_bytes() for path in settings.MEDIA_ROOT.rglob("*.webm")] == [b"elsewhere"]


@pytest.mark.parametrize(
    ("chosen", "status", "said"),
    [
        ({"first": [1, 0], "last": [5, -1]}, 422, "Take the meeting out of the library instead"),
        ({"first": [9, 0], "last": [9, -1]}, 422, "no such words"),
        ({"start": 5.0, "end": 5.0}, 422, "ends after it starts"),
        ({"voice": 0}, 422, "no such voice"),
        ({}, 422, "Choose words"),
    ],
)
def test_a_strike_that_takes_nothing_or_everything_is_refused_in_words(do, chosen, status, said):
    answer = do("post", "strike/preview", chosen)
    assert answer.status_code == status and said in answer.json()["detail"]


def test_a_strike_is_signed_and_takes_only_what_was_seen(do, locks, caller, member):
    refused = do("post", "strike", {**ALL, "name": "maren", "before": "What if we change the lock on the boiler door?"})
    assert refused.status_code == 422 and "Maren Tollefsen" in refused.json()["detail"]
    changed = do("post", "strike", {**ALL, "name": "Maren Tollefsen", "before": "Something else."})
    assert changed.status_code == 409 and changed.json()["text"].startswith("What if")
    guest = caller(member("Gwen Castellow", "guest"))("post", f"/api/meetings/{locks.pk}/strike/preview", ALL)
    assert guest.status_code in (403, 404)


def test_a_meeting_that_is_being_worked_on_is_not_struck(maren, caller, make_meeting):
    meeting = make_meeting(maren, work=False)
    answer = caller(maren)("post", f"/api/meetings/{meeting.pk}/strike/preview", ALL)
    assert answer.status_code == 409 and "when its record is there" in answer.json()["detail"]


def test_what_was_made_of_the_record_before_a_strike_is_not_kept_after_it(do, locks, monkeypatch):
    stage = STAGES["read"]
    StageRun.objects.filter(meeting=locks, stage="read").update(state=RunState.WAITING)
    work = stage.work

    def meanwhile(meeting, report):
        found = work(meeting, report)
        struck(do, ALL)
        return found

    object.__setattr__(stage, "work", meanwhile)
    try:
        run(str(locks.pk), stage)
    finally:
        object.__setattr__(stage, "work", work)
    assert not Finding.objects.filter(meeting=locks, kind="decision").exists()
    assert StageRun.objects.get(meeting=locks, stage="read").state == RunState.WAITING


def test_a_word_behind_a_listed_term_of_several_is_the_one_that_goes(do, locks):
    line = Line.objects.get(meeting=locks, number=3)
    said = ["What", "if", "we", "change", "the", "lock on", "the", "boiler", "door?"]
    line.words = [[word, line.start + 0.2 * at, line.start + 0.2 * at + 0.2, 0.9] for at, word in enumerate(said)]
    line.save(update_fields=["words"])
    chosen = {"first": [3, 8], "last": [3, 8]}  # as they are counted on the page
    assert do("post", "strike/preview", chosen).json()["text"] == "boiler"
    struck(do, chosen)
    line.refresh_from_db()
    assert line.text == "What if we change the lock on the door?" and [word[0] for word in line.words] == [*said[:7], "door?"]
