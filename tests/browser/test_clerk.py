"""The whole path of a call: planned in a calendar, one press, the clerk is let in, everybody by name, off the record, minutes.

Two people speak from files, one into Chromium's microphone, which is fed from a file; all three are of one recording of the demo.
"""

from __future__ import annotations

import re
from datetime import UTC, datetime, timedelta

import numpy as np
import pytest
from PIL import Image, ImageDraw
from playwright.sync_api import expect

from core.media.chunks import CAPTURE_RATE, read_flac, write_flac
from demo.call import turns_of, voices_of
from standins import calendar as caldav_server
from standins.calendar import Account, Engagement
from tests.browser.test_capture import FED
from tests.browser.test_passages import dump
from tests.calls import clocks, conference, join_address
from tests.live import CHROMIUM, FLAGS, Client, until
from tests.sounds import write_wav

MAREN, RECORDING, LEAD = "maren@larkmoor.example", "08-heating-call", 9.0
PEOPLE = ("Pavel Drozd", "Anselm Odukoya")


@pytest.fixture(scope="module")
def call(house, tmp_path_factory):
    """A conference with a room in which two speak from files, as soon as somebody is there; and the third one's sound, for a microphone."""
    folder = tmp_path_factory.mktemp("call")
    whole = voices_of(RECORDING, folder)
    for path in whole.values():
        sound = np.concatenate(list(read_flac(path)))
        write_flac(path, [np.zeros((int(LEAD * CAPTURE_RATE), 1), np.int16), sound], 1)
    own = np.concatenate(list(read_flac(whole["Maren Tollefsen"])))[:, 0]
    write_wav(folder / "maren.wav", own, CAPTURE_RATE)
    slide = Image.new("RGB", (1280, 720), "white")
    for at, size, text in ((80, 64, "Boilers of the palm house"), (260, 34, "Two, of 90 kW each"), (340, 34, "Heat lost: a fifth less")):
        ImageDraw.Draw(slide).text((90, at), text, fill="black", font_size=size)
    slide.save(folder / "slide.png")
    voices = [{"name": name, "sound": str(whole[name])} for name in PEOPLE]
    voices[1] |= {"pictures": [str(folder / "slide.png")], "seconds": 300}
    with conference(house, [{"name": "heating", "title": "Heating", "passcode": "4711", "lobby": True, "voices": voices, "starts": "with somebody"}]):
        yield join_address(house, "heating"), folder / "maren.wav"


@pytest.fixture
def calendar(house, tmp_path, call):
    """Maren's calendar, with a call that begins now."""
    running = caldav_server.start(house.calendar_port, tmp_path, {"maren": "cold frame"})
    account = Account(f"http://127.0.0.1:{house.calendar_port}", "maren", "cold frame")
    account.make("works", "Works")
    start = (datetime.now(UTC) - timedelta(minutes=1)).isoformat()
    people = [("Maren Tollefsen", MAREN, "ACCEPTED"), *((name, f"{name.split()[0].lower()}@larkmoor.example", "ACCEPTED") for name in PEOPLE)]
    text = f"Boilers and flow temperatures.\n\nJoin the call: {call[0]}\nPasscode: 4711"
    account.put("works", "heating-call", caldav_server.written(Engagement("heating-call", "Heating call", start, 30, people=people, text=text)))
    yield f"{account.home}/"
    house.python("from server.calendars.models import Calendar; Calendar.objects.all().delete()")
    running.terminate()
    running.wait(10)


@pytest.fixture
def talker(playwright, call):
    """Maren in the conference, in a browser whose microphone plays her part."""
    flags = [*FLAGS, *FED, f"--use-file-for-fake-audio-capture={call[1]}%noloop"]
    browser = playwright.chromium.launch(executable_path=CHROMIUM, args=flags)
    page = browser.new_context(permissions=["microphone"], viewport={"width": 1000, "height": 800}).new_page()
    page.goto(call[0])
    page.get_by_label("Your name").fill("Maren Tollefsen")
    page.get_by_label("Passcode").fill("4711")
    yield page
    browser.close()


def test_from_the_calendar_to_the_minutes(house, enter, calendar, talker):
    house.start_live()
    held = " ".join(_words(dump(house)))  # other tests' meetings hold the same talk
    maren = Client(house, MAREN)
    assert maren.call("POST", "/api/calendars/account", {"address": calendar, "username": "maren", "password": "cold frame"}).status == 201
    clerk = house.start_clerk()
    page = enter(house, MAREN)
    entry = page.get_by_role("listitem").filter(has_text="Heating call").first
    expect(entry).to_contain_text("The clerk stays away: nobody asked for it")
    talker.get_by_role("button", name="Come in").click()
    expect(talker.get_by_role("status")).to_have_text("You are in.")
    entry.get_by_role("button", name="Let the clerk go to Heating call").click()
    expect(entry).to_contain_text("The clerk goes: Maren Tollefsen asked it to")

    # It knocks, is let in, and says who it is before anything else.
    visits = page.get_by_role("region", name="The clerk")
    expect(visits).to_contain_text("The clerk knocks")
    talker.get_by_role("button", name=re.compile("^Open: Clerk of Larkmoor")).click()
    chat = talker.get_by_role("list").nth(1)
    expect(chat).to_contain_text("I am a program: the clerk of Larkmoor Botanic Garden, here for Maren Tollefsen.")
    visits.get_by_role("link", name="Read along: Heating call").click()
    standing = page.get_by_role("status").filter(has_text="The clerk")
    expect(standing).to_have_text("The clerk is on the record")
    expect(page.get_by_text(re.compile("In the call: .*Pavel Drozd"))).to_be_visible()
    live = page.get_by_role("region", name="Live record")
    # At his third turn at the latest: how far a microphone and voices that come in one by one lie apart is a matter of the machine,
    # and of two who speak over each other the live record, which hears all of them at once, has one.
    turns = turns_of(RECORDING)
    third = [turn for turn in turns if turn.name == "Pavel Drozd"][2]
    expect(live.get_by_text("Pavel Drozd").first).to_be_visible(timeout=(third.end + LEAD + 20.0) * 1000)

    talker.get_by_label("Write to all").fill("The drawing is number 88")
    talker.get_by_role("button", name="Put it there").click()
    expect(live).to_contain_text("Maren Tollefsen writes: The drawing is number 88")
    talker.get_by_label("Put a file there").set_input_files({"name": "drawing 88.pdf", "mimeType": "application/pdf", "buffer": b"%PDF a drawing"})
    expect(live.get_by_role("link", name=re.compile("^Save drawing 88.pdf"))).to_be_visible()

    # Off the record while somebody says a long sentence: the next one, since how far they are by now is a matter of the machine.
    reached = max(clocks(house, "heating").values())
    unheard = next(turn for turn in turns if turn.name in PEOPLE and turn.start + LEAD > reached + 5.0 and len(turn.text.split()) >= 14)
    until(lambda: clocks(house, "heating")[unheard.name] > unheard.start + LEAD - 3.0, 120)
    page.get_by_role("button", name="Off the record").click()
    assert clocks(house, "heating")[unheard.name] < unheard.start + LEAD
    expect(chat).to_contain_text("Off the record: Maren Tollefsen asked for it.")
    expect(live).to_contain_text("off the record")
    until(lambda: clocks(house, "heating")[unheard.name] > unheard.end + LEAD + 1.0, 120)
    page.get_by_role("button", name="On the record").click()
    expect(chat).to_contain_text("On the record again.")
    house.kill(clerk)  # and another comes
    house.start_clerk()
    talker.get_by_role("button", name=re.compile("^Open: Clerk of Larkmoor")).click(timeout=90_000)
    expect(chat.get_by_text("On the record again.")).to_have_count(2)
    reached = max(clocks(house, "heating").values())
    until(lambda: max(clocks(house, "heating").values()) > reached + 12.0, 120)  # and more is said
    talker.get_by_role("button", name="End it for all").click()

    expect(page.get_by_role("heading", name="Minutes", exact=True)).to_be_visible(timeout=180_000)
    meeting = page.url.split("/")[-1].split("?")[0]
    record = maren.call("GET", f"/api/meetings/{meeting}/record").json()
    names = {voice["id"]: voice["name"] for voice in maren.call("GET", f"/api/meetings/{meeting}").json()["voices"]}
    heard: dict[str, str] = {}
    for turn in (turn for turn in record["turns"] if not turn["written"]):
        name = names[turn["voice"]]
        heard[name] = heard.get(name, "") + " " + " ".join(line["text"] for line in turn["lines"])
    assert heard and set(heard) <= {"Maren Tollefsen", *PEOPLE}
    # Whose it is, is right: what is heard of somebody is what they said.
    right = []
    for name, text in heard.items():
        said = _words(" ".join(turn.text for turn in turns if turn.name == name))
        right += [word in said for word in _words(text) if len(word) > 3]
    assert sum(right) >= 0.75 * len(right), heard
    assert [line["text"] for turn in record["turns"] if turn["written"] for line in turn["lines"]] == ["The drawing is number 88", "drawing 88.pdf"]
    with page.expect_download() as taken:
        page.get_by_role("region", name="Record").get_by_role("link", name=re.compile("^Save drawing 88.pdf")).click()
    assert taken.value.suggested_filename == "drawing 88.pdf"
    shown = until(lambda: [one for one in maren.call("GET", f"/api/meetings/{meeting}/pictures").json() if one["title"]], 30)
    assert shown[0]["title"] == "Boilers of the palm house" and "a fifth less" in shown[0]["text"]
    everything = " ".join(_words(dump(house)))
    runs = _words(unheard.text)
    said = [" ".join(runs[at : at + 5]) for at in range(2, len(runs) - 6)]
    assert not [five for five in said if everything.count(five) > held.count(five)]
    reasons = [gap["reason"] for gap in maren.call("GET", f"/api/meetings/{meeting}").json()["gaps"]]
    assert reasons == ["pause", "cut off"]


def _words(text: str) -> list[str]:
    return re.findall(r"[a-z0-9']+", text.lower())
