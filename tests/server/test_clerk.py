"""The clerk in a call that is played to it, and taken over by another."""

from __future__ import annotations

import asyncio
import time
from datetime import timedelta

import numpy as np
import pytest
from django.utils import timezone

from core.media.chunks import CAPTURE_RATE
from core.planning.attending import Cause, Standing
from core.problems import InputProblem
from server.audit.models import Entry
from server.capture.models import Capture, Chunk, LiveLine, Message, Notice, Participant
from server.capture.queries import gaps_of, messages_of, seconds_of
from server.clerk import attend, keep
from server.clerk.actions.steer import go_off, go_on_again, send_away
from server.clerk.attend import Attendance
from server.clerk.conferences.base import EVERYBODY, Gone, Heard, Here, Laid, LetIn, Out, Shown, Written
from server.clerk.conferences.whep import ice_servers
from server.clerk.models import Visit
from server.meetings.models import Meeting
from server.stages import voices

ROOM = "https://calls.standin.example/join/palm-house"


@pytest.fixture(autouse=True)
def known_conference(settings):
    settings.CONFERENCES = ["whep=https://calls.standin.example"]


class Played:
    """A conference in which happens what a test says."""

    def __init__(self, call):
        self.call, self.events, self.said, self.gone = call, asyncio.Queue(), [], False
        CALLS.append(self)

    async def enter(self):
        pass

    async def say(self, text):
        self.said.append(text)

    async def fetch(self, address):
        if self.files.get(address) is None:
            raise InputProblem("It is not there.")
        return self.files[address]

    async def leave(self):
        self.gone = True

    async def speak(self, key: str, seconds: float, level: int = 6000):
        """In real time, in packets of 20 ms."""
        begun = time.monotonic()
        stamp = getattr(self, f"_stamp_{key}", 0.0)
        for number in range(round(seconds / 0.02)):
            await asyncio.sleep(max(0.0, begun + (number + 1) * 0.02 - time.monotonic()))
            tone = (level * np.sin(np.arange(480) / 9)).astype(np.int16)
            self.events.put_nowait(Heard(key, stamp + number * 0.02, time.monotonic(), tone))
        setattr(self, f"_stamp_{key}", time.monotonic())


CALLS: list[Played] = []


@pytest.fixture
def play(transactional_db, monkeypatch, settings, tmp_path):
    """play(visit, script): the clerk goes to a call; `script(conference, visit)` says what happens there. Returns what the clerk did."""
    monkeypatch.setattr(attend, "ADAPTERS", {"whep": Played})
    monkeypatch.setattr(attend, "_LOOK", 0.1)
    monkeypatch.setattr(attend, "_AGAIN", (0.1,))
    settings.MEDIA_ROOT, settings.CLERK_ALONE = tmp_path / "media", 1.0
    CALLS.clear()

    def go(visit: Visit, *scripts, holder: str = "one") -> Visit:
        async def run():
            assert await attend.kept(keep.claim, holder, 5) == [visit.pk]
            task = asyncio.create_task(Attendance(visit.pk, holder).attend())
            for number, script in enumerate(scripts):
                end = time.monotonic() + 10
                while len(CALLS) <= number and time.monotonic() < end:
                    await asyncio.sleep(0.05)
                await script(CALLS[number], visit)
            await asyncio.wait_for(task, 20)

        asyncio.run(run())
        return Visit.objects.get(pk=visit.pk)

    return go


def visit_to(member, **more) -> Visit:
    now = timezone.now()
    facts = {"call": "c", "address": ROOM, "adapter": "whep", "title": "Glazing", "starts_at": now, "until": now + timedelta(hours=1)}
    visit = Visit.objects.create(workspace=member.workspace, asked_by=member, **facts | more)
    visit.wanted_by.add(member)
    return visit


def loud() -> np.ndarray:
    """Which of the samples that were kept are loud."""
    sound = np.concatenate([np.frombuffer(bytes(one.data), "<i2").reshape(-1, 4) for one in Chunk.objects.order_by("stretch__number", "number")])
    return (np.abs(sound) > 10000).any(axis=1)


async def until(true, patience: float = 8.0):
    end = time.monotonic() + patience
    while not await attend.kept(true):
        assert time.monotonic() < end, "it did not come to that"
        await asyncio.sleep(0.05)


def unusual(name: str) -> str:
    """As nobody would be called."""
    return f"{name}\x00\n" + "x" * 200


async def come(conference: Played, visit: Visit, *names: str) -> None:
    conference.events.put_nowait(LetIn("As the room is called"))
    for name in names:
        conference.events.put_nowait(Here(name.split()[0], name))
    await until(lambda: Visit.objects.get(pk=visit.pk).state == Standing.ON)


def words(visit: Visit) -> list[str]:
    return [one.words for one in visit.changes.all()]


def test_a_call_is_taken_in_track_by_track_and_everybody_is_told(play, maren, member):
    idris = member("Idris Quaye")
    visit = visit_to(maren)
    visit.wanted_by.add(idris)

    async def script(call, visit):
        await come(call, visit, "Idris Quaye", "Gwen Castellow")
        await call.speak("Idris", 1.2)
        await asyncio.sleep(0.4)  # a packet may be late, and all that follow it are laid down as late
        await call.speak("Gwen", 1.2)
        call.events.put_nowait(Gone("Gwen"))
        call.events.put_nowait(Gone("Idris"))

    visit = play(visit, script)
    assert visit.state == Standing.LEFT and words(visit)[-1] == "left, because nobody else was there any more"
    assert "Larkmoor Botanic Garden" in CALLS[0].said[0] and "Maren Tollefsen" in CALLS[0].said[0] and "/notice/" in CALLS[0].said[0]
    assert CALLS[0].gone and Notice.objects.get(meeting=visit.meeting).how == Notice.How.CHAT
    capture = visit.meeting.capture
    assert {one.name: one.slot for one in capture.participants.all()} == {"Idris Quaye": 0, "Gwen Castellow": 1}
    assert all(one.moments[0][1] for one in capture.participants.all())
    assert capture.participants.get(name="Idris Quaye").person.user_id == idris.user_id
    assert set(visit.meeting.readers.values_list("user_id", flat=True)) == {idris.user_id}  # one clerk, for both
    sound = np.concatenate([np.frombuffer(bytes(one.data), "<i2").reshape(-1, 4) for one in Chunk.objects.order_by("number")])
    spoken = (np.abs(sound) > 3000).sum(axis=0) / (np.abs(np.sin(np.arange(480) / 9)) > 0.5).mean() / CAPTURE_RATE
    assert spoken[:2] == pytest.approx([1.2, 1.2], abs=0.05) and not spoken[2:].any()
    assert not ((np.abs(sound[:, 0]) > 3000) & (np.abs(sound[:, 1]) > 3000)).any()
    assert capture.stopped_at and visit.meeting.stage_runs.exists()


def test_off_the_record_keeps_nothing_from_the_press_on_and_tells(play, maren):
    pressed = {}

    async def script(call, visit):
        await come(call, visit, "Idris Quaye")
        await call.speak("Idris", 1.0)
        call.events.put_nowait(Written("Idris", "The order number is 7714", time.monotonic()))
        speaking = asyncio.create_task(call.speak("Idris", 3.0, level=20000))
        await asyncio.sleep(0.01)
        await attend.kept(go_off, maren, visit)
        pressed["off"] = timezone.now()
        call.events.put_nowait(Written("Idris", "Not for the minutes", time.monotonic()))
        await until(lambda: Visit.objects.get(pk=visit.pk).state == Standing.OFF)
        await speaking
        await attend.kept(go_on_again, maren, visit)
        await until(lambda: Visit.objects.get(pk=visit.pk).state == Standing.ON)
        await call.speak("Idris", 1.0)
        await attend.kept(send_away, maren, visit)

    visit = play(visit_to(maren), script)
    assert words(visit)[-1] == "left, because Maren Tollefsen sent it away"
    assert [(name, text) for _, name, text in messages_of(visit.meeting.capture)] == [("Idris Quaye", "The order number is 7714")]
    first, second = visit.meeting.capture.stretches.all()
    cut = (visit.off_at - first.begun_at).total_seconds()
    assert first.samples / CAPTURE_RATE == pytest.approx(cut, abs=0.001)
    assert loud().sum() / CAPTURE_RATE < (pressed["off"] - visit.off_at).total_seconds() + 0.08
    assert [gap.reason for gap in gaps_of(visit.meeting.capture)] == ["pause"]
    assert any(said.startswith("Off the record: Maren Tollefsen") for said in CALLS[0].said) and "On the record again." in CALLS[0].said


@pytest.mark.parametrize("leaves", [False, True])
def test_somebody_says_no_in_the_chat(play, maren, leaves):
    maren.workspace.clerk_leaves = leaves
    maren.workspace.save()

    async def script(call, visit):
        await come(call, visit, "Idris Quaye")
        await call.speak("Idris", 1.0)
        call.events.put_nowait(Written("Idris", "No.", time.monotonic()))
        if not leaves:
            await until(lambda: Visit.objects.get(pk=visit.pk).state == Standing.OFF)
            await call.speak("Idris", 1.0, level=20000)
            call.events.put_nowait(Out(Cause.ENDED))

    visit = play(visit_to(maren), script)
    assert "Idris Quaye does not agree" in " ".join(words(visit))
    assert seconds_of(visit.meeting.capture) > 0.8 and not loud().any() and visit.state == Standing.LEFT


def test_where_all_have_to_agree_nothing_is_taken_before(play, maren):
    maren.workspace.consent_of_all = True
    maren.workspace.save()

    async def script(call, visit):
        call.events.put_nowait(LetIn())
        call.events.put_nowait(Here("Idris", "Idris Quaye"))
        await call.speak("Idris", 1.0, level=20000)
        assert any("Still to agree: Idris Quaye" in said for said in call.said)
        call.events.put_nowait(Written("Idris", "yes", time.monotonic()))
        await until(lambda: Visit.objects.get(pk=visit.pk).state == Standing.ON)
        await call.speak("Idris", 0.5)
        call.events.put_nowait(Out(Cause.ENDED))

    visit = play(visit_to(maren), script)
    assert seconds_of(visit.meeting.capture) > 0.4 and not loud().any()


@pytest.mark.parametrize(
    ("out", "state"),
    [(Cause.REFUSED, Standing.TURNED_AWAY), (Cause.WRONG_PASSCODE, Standing.FAILED), (Cause.NO_ROOM, Standing.FAILED)],
)
def test_who_is_not_let_in_leaves_nothing(play, maren, out, state):
    async def script(call, visit):
        call.events.put_nowait(Out(out))

    visit = play(visit_to(maren), script)
    assert (visit.state, visit.meeting, Meeting.objects.count()) == (state, None, 0)


def test_who_is_shown_out_takes_nothing_after_it_and_keeps_what_was_before(play, maren):
    shown_out = {}

    async def script(call, visit):
        await come(call, visit, "Idris Quaye")
        await call.speak("Idris", 1.0)
        shown_out["at"] = timezone.now()
        call.events.put_nowait(Out(Cause.REMOVED))

    visit = play(visit_to(maren), script)
    there = (shown_out["at"] - visit.meeting.capture.stretches.get().begun_at).total_seconds()
    assert visit.state == Standing.REMOVED and 0.8 < seconds_of(visit.meeting.capture) < there + 0.6
    assert keep.claim("another", 5) == []


def test_where_the_minutes_of_the_month_are_used_up_it_says_so_and_leaves(play, maren):
    maren.workspace.monthly_minutes = 0
    maren.workspace.save()

    async def script(call, visit):
        call.events.put_nowait(LetIn())

    visit = play(visit_to(maren), script)
    assert visit.state == Standing.LEFT and "minutes" in words(visit)[-1] and not Meeting.objects.exists()


def test_nobody_there_is_nothing_captured(play, maren):
    async def script(call, visit):
        call.events.put_nowait(LetIn())
        call.events.put_nowait(Here("x", "Somebody's notes", program=True))

    visit = play(visit_to(maren), script)
    assert visit.state == Standing.LEFT and not Capture.objects.exists() and not Meeting.objects.exists()


def test_a_conference_that_dies_and_comes_back_leaves_a_gap(play, maren):
    went = came_back = 0.0

    async def dies(call, visit):
        nonlocal went
        await come(call, visit, "Idris Quaye")
        went = time.monotonic()
        await call.speak("Idris", 1.0)
        call.events.put_nowait(Out(Cause.LOST))

    async def comes_back(call, visit):
        nonlocal came_back
        await come(call, visit, "Idris Quaye")
        await call.speak("Idris", 1.0)
        came_back = time.monotonic()
        call.events.put_nowait(Out(Cause.ENDED))

    visit = play(visit_to(maren), dies, comes_back)
    [gap] = gaps_of(visit.meeting.capture)
    assert gap.reason == "cut off" and 0 < gap.length < came_back - went
    assert Participant.objects.get().slot == 0


def test_a_killed_clerk_is_followed_by_another_that_goes_on(play, maren):
    visit = visit_to(maren, holder="dead", state=Standing.ON, lease_until=timezone.now() - timedelta(seconds=1))
    capture = keep.begin(visit.pk, "dead", "", "en")
    died = timezone.now() - timedelta(seconds=6)
    keep.on_the_record(visit.pk, "dead", 0, 4, died - timedelta(seconds=3))
    for number in range(3):
        keep.keep_second(visit.pk, "dead", 0, number, bytes(CAPTURE_RATE * 8), 4, timezone.now())

    async def script(call, visit):
        await come(call, visit, "Idris Quaye")
        with pytest.raises(keep.Superseded):
            await attend.kept(keep.keep_second, visit.pk, "dead", 0, 3, bytes(CAPTURE_RATE * 8), 4, timezone.now())
        await call.speak("Idris", 0.6)
        call.events.put_nowait(Out(Cause.ENDED))

    visit = play(visit, script, holder="living")
    elapsed = (timezone.now() - died).total_seconds()
    assert [stretch.ended_by for stretch in capture.stretches.all()] == ["cut off", "stop"]
    assert 6.0 <= gaps_of(capture)[0].length < elapsed
    assert "the machine it ran on had stopped" in words(visit)[0]


def test_more_people_than_tracks_and_a_shown_screen(play, maren):
    picture = b"\xff\xd8\xff" + b"0" * 50

    async def script(call, visit):
        await come(call, visit, *(f"Guest{number} Of the call" for number in range(6)))
        call.events.put_nowait(Here("odd", unusual("Guest7")))
        call.events.put_nowait(Shown("Guest0", picture, time.monotonic()))
        await asyncio.gather(*(call.speak(f"Guest{number}", 0.6) for number in range(6)))
        call.events.put_nowait(Out(Cause.ENDED))

    visit = play(visit_to(maren), script)
    assert {len(one.name) for one in visit.meeting.capture.participants.all()} == {18, 120}
    first, second = visit.meeting.capture.stretches.all()
    assert (len(first.tracks), len(second.tracks), first.ended_by) == (4, 8, "more") and gaps_of(visit.meeting.capture) == []
    assert first.pictures.count() + second.pictures.count() == 1


# Planned, and by hand


def test_the_last_minutes_are_struck_while_it_goes_on(play, maren, caller):
    visit = visit_to(maren)

    async def script(call, visit):
        await come(call, visit, "Maren Tollefsen")
        call.events.put_nowait(Written("Maren", "A secret", time.monotonic()))
        await call.speak("Maren", 2.5, level=20000)
        await until(lambda: Message.objects.exists())
        assert (await asyncio.to_thread(caller(maren), "post", f"/api/clerk/{visit.pk}/strike", {"minutes": 1})).status_code == 200
        call.events.put_nowait(Written("Maren", "Now for all", time.monotonic()))
        await call.speak("Maren", 2.0)
        await asyncio.to_thread(send_away, maren, visit)

    visit = play(visit, script)
    capture = visit.meeting.capture
    assert seconds_of(capture) > 1.0 and not loud().any()
    assert [text for _, _, text in messages_of(capture)] == ["Now for all"]
    assert caller(maren)("post", f"/api/clerk/{visit.pk}/strike", {"minutes": 1}).status_code == 409


def test_files_of_the_chat_are_kept_with_the_meeting_and_go_with_a_strike(play, maren, member, caller, settings, tmp_path):
    visit = visit_to(maren)

    async def script(call, visit):
        call.files = {"/f/1": b"%PDF a drawing", "/f/2": None}
        await come(call, visit, "Maren Tollefsen")
        call.events.put_nowait(Laid("Maren", "Drawing 88.pdf", "/f/1", time.monotonic()))
        call.events.put_nowait(Laid("Maren", "gone.txt", "/f/2", time.monotonic() + 0.01))
        await call.speak("Maren", 2.5)
        await until(lambda: Message.objects.count() == 2)
        await asyncio.to_thread(send_away, maren, visit)

    visit = play(visit, script)
    at = f"/api/meetings/{visit.meeting.pk}/files"
    [file] = caller(maren)("get", at).json()
    assert (file["name"], file["called"], file["size"]) == ("Maren Tollefsen", "Drawing 88.pdf", 14)
    taken = caller(maren)("get", f"{at}/{file['id']}")
    assert b"".join(taken.streaming_content) == b"%PDF a drawing" and taken["Content-Disposition"].startswith("attachment") and taken["X-Content-Type-Options"] == "nosniff"
    assert caller(member("Idris Quaye"))("get", f"{at}/{file['id']}").status_code == 404
    assert [text for _, _, text in messages_of(visit.meeting.capture)] == ["Drawing 88.pdf", "gone.txt"]
    kept = tmp_path / "media" / Capture.objects.get().stretches.get().laid.get().file.name
    assert kept.exists()


def test_where_a_conference_gives_one_sound_of_all_the_voices_are_told_apart(play, maren):
    visit = visit_to(maren)

    async def script(call, visit):
        await come(call, visit, "Idris Quaye", "Gwen Castellow")
        await call.speak(EVERYBODY, 2.2)
        await asyncio.to_thread(send_away, maren, visit)

    meeting = play(visit, script).meeting
    sound = np.concatenate([np.frombuffer(bytes(one.data), "<i2").reshape(-1, 4) for one in Chunk.objects.order_by("number")])
    assert (np.abs(sound[:, 0]) > 3000).sum() > CAPTURE_RATE and not sound[:, 1:].any()
    assert {one.called: one.slot for one in meeting.capture.participants.all()} == {"Idris Quaye": None, "Gwen Castellow": None}
    assert voices._slots(meeting) == {}  # so that nobody is taken to have said all of it


def test_servers_that_help_through_routers_are_named_by_the_operator():
    found = ice_servers(["stun:stun.larkmoor.example:3478", "turn:turn.larkmoor.example:3478?transport=tcp|clerk|s3cret"])
    assert [(one.urls, one.username, one.credential) for one in found] == [
        ("stun:stun.larkmoor.example:3478", None, None),
        ("turn:turn.larkmoor.example:3478?transport=tcp", "clerk", "s3cret"),
    ]
    for wrong in ("stun.larkmoor.example", "turn:turn.larkmoor.example", "https://x.example", "stun:a|b"):
        with pytest.raises(ValueError, match="is named as"):
            ice_servers([wrong])


def test_while_it_runs_it_can_be_asked_and_told_in_short(play, caller, maren):
    said = [("Idris Quaye", "The new panes come on Thursday morning."), ("Gwen Castellow", "I will send the invoice for the panes tomorrow.")]

    async def script(call, visit):
        await come(call, visit, "Idris Quaye", "Gwen Castellow")
        call.events.put_nowait(Written("Gwen", "The delivery note is 4711", time.monotonic()))
        await call.speak("Idris", 1.0)
        await until(lambda: Message.objects.exists())
        await attend.kept(check, visit)
        call.events.put_nowait(Out(Cause.ENDED))

    def check(visit):
        meeting = Visit.objects.get(pk=visit.pk).meeting
        for number, (name, text) in enumerate(said, start=1):
            LiveLine.objects.create(capture=meeting.capture, number=number, start=3 * number, end=3 * number + 2, text=text, name=name, settled=True)
        ask = caller(maren)
        answer = ask("post", f"/api/meetings/{meeting.pk}/questions", {"text": "When do the new panes come?"}).json()["answer"]
        assert (answer[0]["speaker"], answer[0]["text"]) == said[0]
        short = ask("get", f"/api/meetings/{meeting.pk}/lately?minutes=0").json()["lines"]
        assert any("invoice" in line["text"] for line in short), short
        live = ask("get", f"/api/meetings/{meeting.pk}/live").json()
        assert [(line["name"], line["text"]) for line in live["lines"]] == said
        assert [message["text"] for message in live["messages"]] == ["The delivery note is 4711"]
        in_call = ask("get", f"/api/meetings/{meeting.pk}/clerk").json()
        assert (in_call["visit"]["state"], {one["name"] for one in in_call["people"] if one["here"]}) == ("on", {"Idris Quaye", "Gwen Castellow"})

    play(visit_to(maren), script)


def test_what_is_pressed_twice_happens_once_and_what_comes_too_late_is_said(maren, caller):
    visit = visit_to(maren, state=Standing.ON)
    call = caller(maren)

    def pressed(what: str, **given) -> int:
        return call("post", f"/api/clerk/{visit.pk}/{what}", given).status_code

    assert pressed("off") == 204
    since = Visit.objects.get().off_at
    assert pressed("off") == 204 and Visit.objects.get().off_at == since
    assert pressed("on") == 409  # it is just going there
    Visit.objects.update(state=Standing.OFF)
    assert [pressed("on"), pressed("on"), pressed("away"), pressed("away")] == [204] * 4
    assert sorted(Entry.objects.filter(verb__contains="clerk").values_list("verb", flat=True)) == ["clerk off the record", "clerk on the record", "send clerk away"]
    assert pressed("strike", minutes=5) == 409  # nothing was taken down
    Visit.objects.update(state=Standing.LEFT)
    assert [pressed(what) for what in ("off", "on", "away")] == [409] * 3
