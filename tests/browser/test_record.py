"""The record in hand: corrected in place, by turn and throughout; found in; taken back."""

from __future__ import annotations

import re
from contextlib import suppress
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from tests.browser.test_views import MAREN, meeting_id, serious
from tests.conftest import ROOT
from tests.live import Client, House


def worked_off(house: House, path: Path, title: str) -> str:
    """Give a transcript and do all the work on it, here and now; its address."""
    meeting = Client(house, MAREN).give(path, title=title, again=True, visibility="workspace")
    house.python(f"""
from server.meetings.models import Meeting
from server.pipeline.work import STAGES, begin, stages_of
from server.stages.tasks import run
meeting = Meeting.objects.select_related("recording").get(pk="{meeting}")
for name in stages_of(meeting.recording):
    run(str(meeting.pk), STAGES[name])
""")
    return f"/meetings/{meeting}"


@pytest.fixture
def talk_of_palms(demo_house):
    """Another copy of a demo meeting, to be changed as one likes; its address."""
    return worked_off(demo_house, ROOT / "demo/transcripts/03-works-meeting-signs.vtt", "Signs again")


def line(page: Page, number: int):
    return page.locator(f"[data-line='{number}']")


def press(page: Page, number: int) -> None:
    """A line that is pressed is chosen. While a page is laid out it may move between button down and button up; then one presses again."""
    line(page, number).click()
    with suppress(AssertionError):
        return expect(line(page, number)).to_have_attribute("aria-current", "true", timeout=5_000)
    line(page, number).click()
    expect(line(page, number)).to_have_attribute("aria-current", "true")


def correct(page: Page, number: int) -> None:
    """A line that is pressed is chosen, and corrected by key."""
    press(page, number)
    page.keyboard.press("e")


def test_a_line_is_corrected_in_place_and_taken_back(demo_house, enter, talk_of_palms):
    page = enter(demo_house, MAREN, to=talk_of_palms)
    before = line(page, 2).inner_text()
    correct(page, 2)
    editor = page.get_by_role("textbox", name="Line 2")
    expect(editor).to_be_focused()
    assert serious(page) == []
    editor.fill("It says so on every sign, twice.")
    page.keyboard.press("Enter")
    expect(line(page, 2)).to_have_text("It says so on every sign, twice.")
    page.locator("body").press("u")
    expect(line(page, 2)).to_have_text(before)
    page.locator("body").press("U")
    expect(line(page, 2)).to_have_text("It says so on every sign, twice.")
    page.get_by_role("button", name="Do more with the record").click()
    page.get_by_role("menuitem", name="What was changed").click()
    expect(page.get_by_role("dialog").get_by_role("listitem")).to_contain_text(["corrected words"])
    assert serious(page) == []


def test_two_who_correct_the_same_line_see_each_other(demo_house, enter, talk_of_palms):
    page, other = enter(demo_house, MAREN, to=talk_of_palms), enter(demo_house, "idris@larkmoor.example", to=talk_of_palms)
    correct(page, 3)
    page.get_by_role("textbox", name="Line 3").fill("Maren's words.")
    correct(other, 3)
    other.get_by_role("textbox", name="Line 3").fill("Idris's words.")
    other.keyboard.press("Enter")
    expect(line(other, 3)).to_have_text("Idris's words.")
    page.get_by_role("textbox", name="Line 3").press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("Idris's words.")
    page.get_by_role("button", name="Keep mine over it").click()
    expect(line(page, 3)).to_have_text("Maren's words.")
    expect(line(other, 3)).to_have_text("Maren's words.")  # told by the server


def test_what_could_not_be_sent_is_kept_on_the_device_and_sent_again(demo_house, enter, talk_of_palms):
    page = enter(demo_house, MAREN, to=talk_of_palms)
    correct(page, 1)
    editor = page.get_by_role("textbox", name="Line 1")
    editor.fill("Kept through the gap.")
    page.context.set_offline(True)
    editor.press("Enter")
    expect(page.get_by_text(re.compile("kept on this device"))).to_be_visible()
    page.context.set_offline(False)
    expect(line(page, 1)).to_have_text("Kept through the gap.")
    correct(page, 2)
    page.get_by_role("textbox", name="Line 2").fill("Typed, and then the page was gone.")
    page.reload()
    expect(page.get_by_role("textbox", name="Line 2")).to_have_value("Typed, and then the page was gone.")


def test_turns_are_given_joined_and_voices_made_one(demo_house, enter, talk_of_palms):
    page = enter(demo_house, MAREN, to=talk_of_palms)
    heads = page.get_by_role("button", name=re.compile("^Turn of"))
    first = heads.first.get_attribute("aria-label").split("Turn of ")[1].split(" at ")[0]

    def turn(number: int, what: str, where: int = 0) -> None:
        heads.nth(number).click()
        page.get_by_role("menuitem", name=what, exact=True).nth(where).click()

    turn(0, "Somebody else…")
    page.get_by_label("Who said it?").last.fill("Rowan Ekdahl")
    page.keyboard.press("Enter")
    expect(heads.first).to_have_attribute("aria-label", re.compile("Rowan Ekdahl"))
    page.get_by_role("button", name="Put it back").click()
    expect(heads.first).to_have_attribute("aria-label", re.compile(first))
    second = line(page, 1).inner_text()
    turn(0, "Join with the next turn")
    expect(page.get_by_text("The turns are one.").first).to_be_visible()
    expect(line(page, 1)).to_have_text(second)


def test_what_is_looked_for_is_counted_walked_and_replaced(demo_house, enter, talk_of_palms):
    page = enter(demo_house, MAREN, to=talk_of_palms)
    page.locator("[data-line]").first.wait_for()
    page.keyboard.press("f")
    search = page.get_by_role("searchbox", name="Find in the record")
    search.fill("bars")
    status = page.get_by_role("search").get_by_role("status")
    expect(status).to_have_text(re.compile(r"^\d+ lines$"))
    count = int(status.inner_text().split(" ")[0])
    page.keyboard.press("Enter")
    expect(status).to_have_text(f"1 of {count}")
    page.get_by_role("heading", name="Record", exact=True).click()  # out of the field, where a bracket is a bracket
    page.keyboard.press("]")
    expect(status).to_have_text(f"2 of {count}")
    assert page.locator(".bg-brass.w-px").count() == count  # each on the rain strip
    page.get_by_role("button", name="Do more with the record").click()
    page.get_by_role("menuitem", name="Replace").click()
    leaf = page.get_by_role("dialog")
    leaf.get_by_label("Put in its place").fill("boards")
    leaf.get_by_role("checkbox", name="Whole words").check()
    leaf.get_by_role("button", name="Look").click()
    boxes = leaf.get_by_role("listitem").get_by_role("checkbox")
    expect(boxes.first).to_be_checked()
    places = boxes.count()
    boxes.first.uncheck()
    assert serious(page) == []
    leaf.get_by_role("button", name=f"Replace {places - 1} place").click()
    expect(page.get_by_text(re.compile("^Replaced in"))).to_be_visible()
    search.fill("boards")
    expect(status).not_to_have_text("nowhere")


def test_a_guest_corrects_nothing(demo_house, enter):
    page = enter(demo_house, "gwen@castellow.example", to=f"/meetings/{meeting_id(demo_house, 'Glazing: laminated')}")
    correct(page, 1)
    expect(page.get_by_role("textbox", name="Line 1")).to_have_count(0)
    expect(page.get_by_role("button", name=re.compile("^Turn of"))).to_have_count(0)


def test_a_long_record_is_made_a_document_of_by_a_worker_and_taken_as_soon_as_it_is_there(demo_house, enter, tmp_path):
    def clock(at: int) -> str:
        return f"{at // 3600:02}:{at // 60 % 60:02}:{at % 60:02}.000"

    cues = "\n\n".join(
        f"{clock(5 * n)} --> {clock(5 * n + 4)}\n<v {('Maren Tollefsen', 'Idris Quaye')[n % 2]}>Line {n} of a long day." for n in range(1201)
    )
    path = tmp_path / "long.vtt"
    path.write_text(f"WEBVTT\n\n{cues}\n", encoding="utf-8")
    page = enter(demo_house, MAREN, to=worked_off(demo_house, path, "A long day"))
    page.get_by_role("button", name="Do more with the record").click()
    page.get_by_role("menuitem", name="Take the record away").click()
    leaf = page.get_by_role("dialog")
    expect(leaf.get_by_role("link", name="Markdown")).to_be_visible()
    leaf.get_by_role("button", name="PDF").click()
    expect(leaf.get_by_role("status").filter(has_text="PDF: 0 %")).to_be_visible()
    with page.expect_download() as download:
        demo_house.python("""
from server.record.actions.copy_record import make
from server.record.models import RecordCopy
make(RecordCopy.objects.get().pk)
""")
    assert download.value.suggested_filename.endswith("A long day, record.pdf")
    assert download.value.path().read_bytes().startswith(b"%PDF")
    expect(leaf.get_by_role("button", name="PDF")).to_be_enabled()
