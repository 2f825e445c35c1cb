"""From a sound file to shared minutes, on real sound, as a person would."""

import re

import pytest
from playwright.sync_api import Page, expect

from standins.mail import messages
from tests.live import Client, until


def time_of(page: Page) -> float:
    minutes, seconds = page.locator("text=/^\\d+:\\d\\d \\//").inner_text().split(" /")[0].split(":")
    return int(minutes) * 60 + int(seconds)


def test_the_whole_way(house, enter, talk):
    maren = enter(house, "maren@larkmoor.example")

    # Give a recording, with a title, a date, the people who were there.
    maren.get_by_role("link", name="Give files").click()
    maren.set_input_files("input[type=file]", talk)
    maren.get_by_label("What was it?").fill("Heating: boiler sizes 🌧")
    maren.get_by_label("When did it begin?").fill("2026-10-06T11:00")
    for name in ("Maren Tollefsen", "Pavel Drozd", "Anselm Odukoya"):
        maren.get_by_role("combobox", name="Who was there?").fill(name)
        maren.keyboard.press("Enter")
    expect(maren.get_by_text("It has arrived.")).to_be_visible()
    maren.get_by_role("button", name="Take it in").click()

    # Watch it being worked on; leave the page and come back.
    expect(maren.get_by_role("progressbar")).to_be_visible()
    expect(maren.get_by_text(re.compile(r"\d+ %, about .* left"))).to_be_visible()
    address = maren.url
    maren.get_by_role("link", name="Today").click()
    expect(maren.get_by_role("heading", name="Being worked on")).to_be_visible()
    maren.get_by_role("link", name="Heating: boiler sizes 🌧").first.click()
    expect(maren.get_by_role("heading", name="Record", exact=True)).to_be_visible(timeout=90_000)
    assert maren.url == address

    # The spread: the record plays, follows, and seeks.
    line = maren.locator("[data-line]", has_text=re.compile("boilers", re.I)).first
    line.dblclick()
    expect(maren.get_by_role("button", name="Pause")).to_be_visible()
    expect(line).to_have_attribute("aria-current", "true")
    maren.wait_for_timeout(1500)
    assert time_of(maren) >= 10
    maren.keyboard.press("Escape")
    maren.get_by_role("button", name="Pause").click()
    maren.get_by_role("slider", name="Position in the recording").press("Home")
    maren.wait_for_timeout(300)
    assert time_of(maren) == 0

    # A sentence of the minutes cites its line: press it, and hear it.
    gist = maren.get_by_role("region", name="In short")
    gist.get_by_role("button", name=re.compile("^Hear it at")).first.click()
    expect(maren.get_by_role("button", name="Pause")).to_be_visible()
    expect(maren).to_have_url(re.compile(r"line=\d+"))
    maren.get_by_role("button", name="Pause").click()

    # Name a voice: once, everywhere.
    record = maren.get_by_role("region", name="Record")
    expect(record.get_by_role("button", name=re.compile("^Voice A: say who"))).not_to_have_count(0)
    record.get_by_role("button", name=re.compile("^Voice A: say who")).first.click()
    maren.get_by_role("button", name="Maren Tollefsen", exact=True).click()
    expect(maren.get_by_role("button", name=re.compile("^Voice A"))).to_have_count(0)
    expect(record.get_by_role("button", name=re.compile("^Maren Tollefsen: say who")).first).to_be_visible()

    # Until it is shared, a colleague who was not there finds nothing.
    idris = enter(house, "idris@larkmoor.example")
    idris.get_by_role("link", name="Library", exact=True).click()
    idris.get_by_role("searchbox").fill("boilers")
    expect(idris.get_by_text("Nothing that you may see holds “boilers”")).to_be_visible()

    # Set who may see it.
    maren.get_by_role("link", name=re.compile("Seen by")).click()
    maren.get_by_label("Everyone in the workspace").click()
    maren.get_by_role("button", name="Keep the changes").click()
    expect(maren.get_by_text("Kept.").first).to_be_visible()

    # The colleague searches, lands on the very line, and hears it.
    idris.get_by_role("searchbox").fill("boiler")
    expect(idris.get_by_text("in 1 meeting")).to_be_visible()
    said = idris.get_by_role("listitem").filter(has_text=re.compile(r"^\d+:\d\d")).first
    expect(said.get_by_role("mark")).to_have_text(re.compile("boiler", re.I))
    said.get_by_role("link", name="Hear it").click()
    landed = idris.locator("[data-line][aria-current=true]")
    expect(landed).to_be_in_viewport()
    expect(landed).to_contain_text(re.compile("boiler", re.I))
    expect(idris.get_by_role("button", name="Pause")).to_be_visible()

    # Whoever gave it was told by mail.
    until(lambda: "Ready to read: Heating: boiler sizes 🌧" in [str(message["subject"]) for message in messages(house.mail)])


def test_a_colleague_who_may_not_see_it_finds_nothing_anywhere(house, enter):
    maren = Client(house, "maren@larkmoor.example")
    transcript = house.folder / "private.vtt"
    transcript.write_text(
        "WEBVTT\n\n00:00:01.000 --> 00:00:04.000\n<v Maren Tollefsen>The quagga is behind the potting shed.\n", encoding="utf-8"
    )
    meeting = maren.give(transcript, visibility="mine")
    maren.ready(meeting)
    page = enter(house, "yuki@larkmoor.example", to=f"/meetings/{meeting}")
    expect(page.get_by_text("There is no such meeting, or it is not shared with you.")).to_be_visible()
    page.get_by_role("link", name="To the library").click()
    page.get_by_role("searchbox").fill("quagga")
    expect(page.get_by_text("Nothing that you may see holds “quagga”")).to_be_visible()
    yuki = Client(house, "yuki@larkmoor.example")
    for path in ("", "/record", "/minutes", "/progress", "/record.json", "/sound"):
        answer = yuki.call("GET", f"/api/meetings/{meeting}{path}")
        assert (answer.status, b"quagga" in answer.body) == (404, False), path
    assert str(meeting) not in yuki.call("GET", "/api/library").body.decode() + yuki.call("GET", "/api/today").body.decode()


@pytest.mark.parametrize(
    ("name", "content", "said"),
    [
        ("notes.mp3", b"these are notes and no sound" * 40, "This is not a sound or video file"),
        ("broken.vtt", b"WEBVTT\n\n00:00:01.000 --> 00:0x:00.000\nHello\n", "line 3"),
    ],
)
def test_what_cannot_be_used_is_said_and_becomes_no_meeting(house, enter, tmp_path, name, content, said):
    page = enter(house, "maren@larkmoor.example", to="/give")
    path = tmp_path / name
    path.write_bytes(content)
    page.set_input_files("input[type=file]", path)
    expect(page.get_by_text("It has arrived.")).to_be_visible()
    page.get_by_role("button", name="Take it in").click()
    expect(page.get_by_role("alert").filter(has_text=said)).to_be_visible()
    expect(page.get_by_role("form", name=name)).to_be_visible()  # what was said of it is still there
    page.get_by_role("link", name="Library").click()
    expect(page.get_by_role("heading", name="Library")).to_be_visible()
    expect(page.get_by_text(path.stem.title())).to_have_count(0)


def test_the_same_file_twice_is_said_and_the_first_one_offered(house, enter, tmp_path):
    path = tmp_path / "twice.vtt"
    path.write_text("WEBVTT\n\n00:00:01.000 --> 00:00:04.000\n<v Maren Tollefsen>Only once, please.\n")
    meeting = Client(house, "maren@larkmoor.example").give(path)
    page = enter(house, "maren@larkmoor.example", to="/give")
    page.set_input_files("input[type=file]", path)
    expect(page.get_by_text("It has arrived.")).to_be_visible()
    page.get_by_role("button", name="Take it in").click()
    page.get_by_role("link", name="Open that one").click()
    expect(page).to_have_url(re.compile(meeting))
