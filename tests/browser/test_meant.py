"""The page does what one means: choosing is not playing, what is selected is what is cut, nothing typed is lost."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from tests.browser.test_passages import FROST, choose, line, meeting_id, open_frost

MAREN = "maren@larkmoor.example"
PLAY, PAUSE = {"name": "Play", "exact": True}, {"name": "Pause"}


def seconds(page: Page) -> float:
    """How far the sound is."""
    return float(page.get_by_role("slider", name="Position in the recording").get_attribute("aria-valuenow"))


def test_a_line_pressed_is_chosen_and_pressed_twice_is_heard(demo_house, enter):
    page = open_frost(demo_house, enter)
    line(page, 3).click()
    expect(line(page, 3)).to_have_attribute("aria-current", "true")
    expect(page).to_have_url(re.compile(r"line=3\b"))
    expect(page.get_by_role("button", **PLAY)).to_be_visible()  # and nothing sounds
    line(page, 4).dblclick()
    expect(page.get_by_role("button", **PAUSE)).to_be_visible()


def test_space_after_a_time_pauses_and_speed_is_kept(demo_house, enter):
    page = open_frost(demo_house, enter)
    page.get_by_role("button", name=re.compile("^Hear it at")).first.click()
    expect(page.get_by_role("button", **PAUSE)).to_be_visible()
    page.keyboard.press("Space")  # the time has the focus still
    expect(page.get_by_role("button", **PLAY)).to_be_visible()
    page.locator("body").press("+")
    expect(page.get_by_label("Speed")).to_have_value("1.25")
    page.reload()
    expect(page.get_by_label("Speed")).to_have_value("1.25")


def test_selected_words_are_what_is_cut_also_when_the_selection_has_gone(demo_house, enter):
    page = open_frost(demo_house, enter)
    line(page, 7).click()
    words = "[...getSelection().getRangeAt(0).toString().matchAll(/\\S+/gu)].length"
    # Two words in the middle of another line than the chosen one.
    page.evaluate(
        """() => { const text = document.querySelector("[data-line='5']").firstChild, at = text.data.indexOf(" ") + 1,
           end = text.data.indexOf(" ", text.data.indexOf(" ", at) + 1), range = document.createRange();
           range.setStart(text, at); range.setEnd(text, end); getSelection().removeAllRanges(); getSelection().addRange(range); }"""
    )
    assert page.evaluate(words) == 2
    two = page.evaluate("getSelection().toString()")
    page.keyboard.press("S")
    leaf = page.get_by_role("dialog")
    expect(leaf).to_contain_text(two)
    page.keyboard.press("Escape")
    expect(leaf).to_have_count(0)
    page.keyboard.press("S")  # once more: the same words, whatever became of the selection
    expect(leaf).to_contain_text(two)
    page.keyboard.press("Escape")
    page.keyboard.press("x")
    ends = [leaf.get_by_label(re.compile(f"^{name} with")).get_attribute("aria-valuetext") for name in ("Begins", "Ends")]
    assert ends == two.split(), "the words, and not their line"


def test_find_wants_all_words_and_counts_while_one_types(demo_house, enter):
    page = open_frost(demo_house, enter)
    line(page, 5).wait_for()
    page.keyboard.press("f")
    field = page.get_by_label("Find in the record")
    text = line(page, 5).inner_text()
    first, *_, last = [word for word in re.findall(r"\w{4,}", text)]
    field.fill(f"{last} {first}")
    status = page.get_by_role("search").get_by_role("status")
    expect(status).to_have_text(re.compile(r"^\d+ lines?$"))
    both = int(status.inner_text().split()[0])
    field.fill(first)
    assert int(status.inner_text().split()[0]) >= both >= 1
    field.fill(f"{first} zzzz")
    expect(status).to_have_text("nowhere")


def test_an_at_sign_offers_those_who_see_the_meeting(demo_house, enter):
    page = open_frost(demo_house, enter)
    line(page, 3).wait_for()
    choose(page, 3)
    page.keyboard.press("n")
    page.get_by_role("dialog").get_by_label("Comment").fill("Look, @yu")
    page.get_by_role("list", name="Colleagues who see this meeting").get_by_role("button", name="@Yuki Hanamori").click()
    expect(page.get_by_role("dialog").get_by_label("Comment")).to_have_value("Look, @Yuki Hanamori ")


def test_a_question_typed_while_another_is_answered_stays(demo_house, enter):
    page = open_frost(demo_house, enter)
    line(page, 3).wait_for()
    page.keyboard.press("a")
    ask = page.get_by_label("Ask this meeting")
    ask.fill("Who was on call?")
    page.keyboard.press("Enter")
    ask.fill("And what was frozen?")
    expect(page.get_by_role("heading", name="Who was on call?")).to_be_visible()
    expect(ask).to_have_value("And what was frozen?")
    expect(page.get_by_text("Going on from")).to_have_count(0)


def test_what_is_said_of_files_is_kept_while_one_is_elsewhere_and_all_are_kept_at_once(house, enter, tmp_path):
    page = enter(house, MAREN, to="/give")
    for name in ("one.vtt", "two.vtt"):
        (tmp_path / name).write_text(f"WEBVTT\n\n00:01.000 --> 00:02.000\n<v Ann>This is {name}, of today.\n")
    page.locator("input[type=file]").set_input_files([tmp_path / "one.vtt", tmp_path / "two.vtt"])
    forms = [page.get_by_role("form", name=name) for name in ("one.vtt", "two.vtt")]
    forms[0].get_by_label("What was it?").fill("Kept while away")
    page.get_by_role("link", name="Today").click()
    page.get_by_role("link", name="Give files").click()
    expect(forms[0].get_by_label("What was it?")).to_have_value("Kept while away")
    page.get_by_role("button", name="Take all 2 in").click()
    expect(page.get_by_role("status").get_by_role("link")).to_have_count(2)


def test_who_will_see_a_meeting_is_said_in_names_before_and_after(demo_house, enter):
    page = enter(demo_house, MAREN, to=f"/meetings/{meeting_id(demo_house, FROST)}/settings")
    expect(page.get_by_text(re.compile("^Seen by: Maren Tollefsen, .*Yuki Hanamori"))).to_be_visible()
    page.get_by_label("Gwen Castellow (guest)").check()
    expect(page.get_by_text(re.compile(r"^Seen by, once kept: .*Gwen Castellow \(guest\)"))).to_be_visible()
    page.get_by_role("button", name="Keep the changes").click()
    expect(page.get_by_text(re.compile(r"^Seen by: .*Gwen Castellow \(guest\)"))).to_be_visible()
    page.get_by_label("Gwen Castellow (guest)").uncheck()
    page.get_by_role("button", name="Keep the changes").click()
    expect(page.get_by_text(re.compile(r"^Seen by: .*Gwen"))).to_have_count(0)
