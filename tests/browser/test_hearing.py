"""The word list, the review walk and the naming of voices, as people use them."""

from __future__ import annotations

import re

from playwright.sync_api import expect

from tests.browser.test_views import meeting_id

MAREN = "maren@larkmoor.example"


def test_a_word_is_listed_changed_and_taken_off(demo_house, enter):
    page = enter(demo_house, MAREN, to="/words")
    listed = page.get_by_role("region", name="On the list").get_by_role("listitem")
    expect(listed.filter(has_text="Jubaea")).to_contain_text("mistaken for that you be as")
    page.get_by_label("As it is written").fill("Trachycarpus")
    page.get_by_label("Sounds like").fill("tracky car puss")
    page.get_by_role("button", name="Put on the list").click()
    expect(listed.filter(has_text="Trachycarpus")).to_contain_text("sounds like tracky car puss")
    page.get_by_role("button", name="Take Trachycarpus off the list").click()
    expect(listed.filter(has_text="Trachycarpus")).to_have_count(0)
    page.get_by_role("button", name="Put it back").click()
    expect(listed.filter(has_text="Trachycarpus")).to_have_count(1)


def test_a_voice_gets_the_name_it_was_called_by(demo_house, enter):
    page = enter(demo_house, MAREN, to="/library")
    page.goto(f"{demo_house.url}/meetings/{meeting_id(demo_house, 'Works meeting: scaffold')}")
    page.get_by_role("button", name="Voice B: say who this is").first.click()
    expect(page.get_by_text("Perhaps Tobias Renn")).to_be_visible()
    expect(page.get_by_role("button", name="Hear this voice")).to_be_visible()
    page.get_by_role("button", name="That is Tobias Renn").click()
    expect(page.get_by_role("button", name="Tobias Renn: say who this is").first).to_be_visible()


def test_the_review_is_walked_with_the_keys(demo_house, enter):
    page = enter(demo_house, MAREN, to="/library")
    page.get_by_role("link", name=re.compile("What happened on the frost night")).first.click()
    page.get_by_role("link", name="Review").click()
    line = page.get_by_role("article")
    expect(line).to_contain_text("Line 1 of")
    first = line.inner_text()
    page.keyboard.press(".")
    expect(line).to_contain_text("Line 2 of")
    page.keyboard.press(",")
    expect(line).to_contain_text("Line 1 of")
    page.keyboard.press("e")
    page.get_by_label(re.compile("^Instead of")).fill("Beatrix")
    page.keyboard.press("Enter")
    expect(page.get_by_label(re.compile("^Instead of"))).to_have_count(0)
    expect(line).not_to_have_text(first)
    of = re.search(r"of (\d+)", line.inner_text())[1]
    page.keyboard.press("Enter")
    expect(line).to_contain_text(f"of {int(of) - 1}")
