"""The minutes in a browser: laid out, corrected, confirmed, drawn anew, taken away, sent; the meeting asked."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from standins.mail import messages
from tests.browser.test_views import MAREN, meeting_id, serious


def open_glazing(house, enter, size=(1280, 800), leaf: str = "") -> Page:
    page = enter(house, MAREN, size, f"/meetings/{meeting_id(house, 'Glazing: laminated')}{leaf}")
    expect(page.get_by_role("heading", name=re.compile("Glazing"), level=1)).to_be_visible()
    return page


def do(page: Page, what: str) -> None:
    page.get_by_role("button", name="Do more with the minutes").click()
    page.get_by_role("menuitem", name=what).click()


def test_the_human_lines_stand_when_the_template_changes_and_the_minutes_are_drawn_anew(demo_house, enter):
    page = open_glazing(demo_house, enter)
    decisions, steps, questions = (page.get_by_role("region", name=name) for name in ("Decisions", "Next steps", "Open questions"))

    def on(line, press: str) -> None:
        line.hover()
        line.get_by_role("button", name=re.compile("^Do something")).click()
        page.get_by_role("menuitem", name=press, exact=True).click()

    # Correct a line, confirm two, move one.
    corrected = steps.get_by_role("listitem").first
    on(corrected, "Correct")
    steps.get_by_role("textbox").fill("Gwen prices thirty bars and thirty splices.")
    page.keyboard.press("Enter")
    expect(steps.get_by_text("Gwen prices thirty bars")).to_be_visible()
    kept = [questions.get_by_role("listitem").nth(number).locator("span.font-serif").first.inner_text().split("\n")[0] for number in (0, 1)]
    for number in (0, 1):
        on(questions.get_by_role("listitem").nth(number), "It is right")
        expect(questions.get_by_role("listitem").nth(number)).to_contain_text("✓MT")
    moved = steps.get_by_role("listitem").nth(1).locator("span.font-serif").first.inner_text().split("\n")[0]
    on(steps.get_by_role("listitem").nth(1), "Decisions")
    expect(decisions.get_by_text(moved)).to_be_visible()

    # Another template: what would change is shown before it does.
    page.get_by_label("Laid out as").select_option(label="As it went")
    leaf = page.get_by_role("dialog")
    expect(leaf.get_by_text("comes in").first).to_be_visible()
    expect(leaf.get_by_text("Gwen prices thirty bars")).to_have_count(0)
    assert serious(page) == []
    leaf.get_by_role("button", name="Draw them so").click()
    expect(page.get_by_role("region", name="In order of time")).to_be_visible()
    expect(page.get_by_role("region", name=re.compile("Actions|Next steps")).get_by_text("Gwen prices thirty bars")).to_be_visible()
    for text in kept:
        expect(questions.get_by_text(text)).to_be_visible()
    expect(decisions.get_by_text(moved)).to_be_visible()

    # As before, and the version that was kept.
    page.get_by_role("button", name="Put it back").last.click()
    expect(page.get_by_role("region", name="In order of time")).to_have_count(0)
    do(page, "Earlier versions")
    page.get_by_role("dialog").get_by_role("listitem").first.get_by_role("button").click()
    expect(page.get_by_role("dialog").get_by_text("As they stood", exact=True)).to_be_visible()
    assert serious(page) == []
    page.keyboard.press("Escape")
    page.reload()
    expect(steps.get_by_text("Gwen prices thirty bars")).to_be_visible()
    expect(questions.get_by_text("✓MT")).to_have_count(2)


def test_a_menu_stays_in_the_window_whatever_happens_above_it(demo_house, enter):
    page = open_glazing(demo_house, enter, (1280, 420))
    line = page.get_by_role("region", name="Next steps").get_by_role("listitem").first
    line.hover()
    line.get_by_role("button", name=re.compile("^Do something")).click()
    rows = page.get_by_role("menuitem")
    expect(rows.first).to_be_in_viewport()
    page.evaluate("document.querySelector('main').prepend(Object.assign(document.createElement('div'), { style: 'flex: none; height: 3000px' }))")
    expect(rows.first).to_be_in_viewport()
    # More of them than there is room for, and still within reach.
    rows.last.scroll_into_view_if_needed()
    expect(rows.last).to_be_in_viewport(ratio=1)
    assert page.get_by_role("menu").bounding_box()["height"] < 420


def test_an_action_is_written_given_put_in_its_place_and_taken_away(demo_house, enter, tmp_path):
    page = open_glazing(demo_house, enter)
    steps = page.get_by_role("region", name="Next steps")
    steps.get_by_role("button", name="Write a line").click()
    steps.get_by_role("textbox", name="Write a line").fill("Tobias to ring the church about the scaffold")
    page.get_by_label("By when", exact=True).fill("2027-01-15")
    steps.get_by_role("button", name="Keep").click()
    line = steps.get_by_role("listitem").filter(has_text="ring the church")
    agreed = line.get_by_role("button", name=re.compile("^Whose it is and by when: Tobias Renn, .*15"))
    expect(agreed).to_be_visible()

    # To somebody else; the sentence in its writer's words says another name, and that is said.
    agreed.click()
    page.get_by_role("dialog").get_by_label("Whose", exact=True).select_option("Maren Tollefsen")
    assert serious(page) == []
    page.get_by_role("dialog").get_by_role("button", name="Keep").click()
    expect(line.get_by_text("The sentence says Tobias Renn.")).to_be_visible()
    line.get_by_role("button", name="Take that").click()
    expect(agreed).to_be_visible()

    # By key, then by hand, to the head of its section.
    rows = steps.get_by_role("listitem")
    last = rows.count() - 1
    expect(rows.nth(last)).to_contain_text("ring the church")
    line.focus()
    page.keyboard.press("Alt+ArrowUp")
    expect(rows.nth(last - 1)).to_contain_text("ring the church")
    expect(line).to_be_focused()
    rows.first.scroll_into_view_if_needed()
    line.scroll_into_view_if_needed()
    line.hover()
    grip = line.get_by_title(re.compile("^Drag"))
    handle = grip.bounding_box()
    page.mouse.move(handle["x"] + 4, handle["y"] + 8)
    page.mouse.down()
    above = rows.nth(last - 3).bounding_box()
    page.mouse.move(above["x"] + above["width"] - 40, above["y"] + 10, steps=12)
    page.mouse.up()
    expect(rows.nth(last - 3)).to_contain_text("ring the church")

    # Done, and shown as done in what is taken away.
    line.get_by_role("button", name=re.compile("^Open: Tobias")).click()
    expect(line.get_by_role("button", name=re.compile("^Done: Tobias"))).to_be_visible()
    with page.expect_download() as taken:
        page.evaluate("address => { const a = document.createElement('a'); a.href = address; a.download = ''; a.click(); }", f"/api{path_of(page)}/minutes.md")
    assert taken.value.suggested_filename.endswith("Glazing- laminated or not, and the programme, minutes.md")
    taken.value.save_as(tmp_path / "minutes.md")
    assert "- [x] Tobias to ring the church about the scaffold (by 2027-01-15, done)" in (tmp_path / "minutes.md").read_text()


def path_of(page: Page) -> str:
    return page.evaluate("location.pathname")


def test_only_a_pointer_that_moves_points(demo_house, enter):
    page = open_glazing(demo_house, enter)
    line = page.locator("[data-minutes]").first
    lit = page.locator("[data-minutes].bg-glow")
    line.hover()
    expect(lit).to_have_count(1)
    other = page.locator("[data-minutes]").nth(3)
    page.mouse.wheel(0, other.bounding_box()["y"] - line.bounding_box()["y"])  # another line comes to lie under it
    expect(lit).to_have_count(0)
    page.wait_for_timeout(500)
    expect(lit).to_have_count(0)
    page.locator("[data-minutes]:hover").wait_for()


def test_what_is_proposed_is_walked_and_answered_by_single_keys(demo_house, enter):
    page = enter(demo_house, MAREN, to=f"/meetings/{meeting_id(demo_house, 'Works meeting: signs')}")
    proposed = page.get_by_role("region", name="Perhaps also").get_by_role("listitem")
    expect(proposed.first).to_be_visible()
    count, first, second = proposed.count(), *(proposed.nth(number).get_attribute("aria-label") for number in (0, 1))
    proposed.first.focus()
    page.keyboard.press("ArrowDown")
    expect(proposed.nth(1)).to_be_focused()
    page.keyboard.press(" ")
    expect(page).to_have_url(re.compile(r"line=\d+"))
    proposed.nth(1).focus()
    page.keyboard.press("n")
    expect(proposed).to_have_count(count - 1)
    proposed.first.focus()
    page.keyboard.press("y")
    expect(proposed).to_have_count(count - 2)
    stated = first.split(": ", 1)[1]
    expect(page.get_by_role("main").get_by_role("listitem").filter(has_text=stated).filter(has_text="MT").first).to_be_attached()
    assert second not in [one.get_attribute("aria-label") for one in proposed.all()]


def test_the_meeting_is_asked(demo_house, enter):
    page = open_glazing(demo_house, enter)
    page.keyboard.press("a")
    ask = page.get_by_label("Ask this meeting")
    ask.fill("What does the whole roof cost?")
    page.keyboard.press("Enter")
    answer = page.get_by_role("listitem").filter(has=page.get_by_role("heading", name="What does the whole roof cost?"))
    expect(answer).to_contain_text("forty-six thousand")
    answer.get_by_text("forty-six thousand").hover()
    expect(page.locator("[data-line].bg-glow").first).to_be_in_viewport()
    answer.get_by_role("button", name=re.compile("^Hear it at")).first.click()
    expect(page).to_have_url(re.compile(r"line=\d+"))
    expect(page.get_by_role("button", name="Ask something else")).to_have_count(0)  # the next stands by itself
    for question, said in (
        ("Which bishop opened the cathedral?", "The record does not say."),
        ("How often did Tobias mention putty?", "once"),
    ):
        ask.fill(question)
        page.keyboard.press("Enter")
        asked = page.get_by_role("listitem").filter(has=page.get_by_role("heading", name=question))
        expect(asked).to_contain_text(re.compile(said, re.I))
    answer.get_by_role("button", name="Share", exact=True).click()
    expect(answer).to_contain_text("asked by Maren Tollefsen")
    asked.get_by_role("button", name="Remove").click()
    expect(asked).to_have_count(0)
    page.reload()  # the address says which leaf is open
    expect(answer).to_contain_text("forty-six thousand")


def test_minutes_are_taken_away_gathered_and_sent(demo_house, enter):
    page = open_glazing(demo_house, enter)
    do(page, "Take the minutes away")
    with page.expect_download() as download:
        page.get_by_role("dialog").get_by_role("link", name="PDF").click()
    assert download.value.path().read_bytes().startswith(b"%PDF")
    assert serious(page) == []
    page.keyboard.press("Escape")
    do(page, "Gather from the record")
    page.get_by_label("All", exact=True).select_option("")
    page.get_by_role("textbox", name="about", exact=True).fill("putty")
    page.get_by_role("button", name="Gather", exact=True).click()
    expect(page.get_by_role("dialog").get_by_role("listitem").first).to_contain_text(re.compile("putty", re.I))
    assert serious(page) == []
    page.keyboard.press("Escape")
    do(page, "Write a mail")
    page.get_by_label("Tone").select_option("short")
    page.get_by_role("button", name="Draft it").click()
    page.get_by_label("Subject").fill("Glass: what we said")
    assert serious(page) == []
    page.get_by_role("button", name="Send it").click()
    expect(page.get_by_text(re.compile("^On its way to"))).to_be_visible()
    demo_house.deliver()
    sent = [one for one in messages(demo_house.mail) if one["subject"] == "Glass: what we said"]
    assert sent and all("maren@larkmoor.example" not in str(one["to"]) for one in sent)


def test_the_map_of_the_talk_leads_to_its_lines_by_hand_and_by_key(demo_house, enter):
    page = open_glazing(demo_house, enter)
    do(page, "Map of the talk")
    drawn = page.get_by_role("dialog").get_by_role("group", name="Map of the talk")
    parts = drawn.get_by_role("button")
    assert serious(page) == [] and parts.count() > 8
    with page.expect_download() as download:
        page.get_by_role("dialog").get_by_role("link", name="SVG").click()
    assert b"<polyline" in download.value.path().read_bytes()
    parts.first.focus()
    page.keyboard.press("ArrowDown")
    page.keyboard.press("ArrowDown")
    expect(parts.nth(2)).to_be_focused()
    parts.last.focus()
    page.keyboard.press("Enter")
    opening = page.locator("[data-line='1']").first
    expect(page.get_by_role("dialog")).to_have_count(0)
    expect(opening).not_to_be_in_viewport()
    do(page, "Map of the talk")
    parts.first.click()
    expect(opening).to_be_in_viewport()


def test_a_template_of_our_own_lays_out_the_minutes(demo_house, enter):
    page = enter(demo_house, MAREN, to="/templates")
    page.get_by_role("button", name="Copy Supplier or client call").click()
    page.get_by_role("textbox", name="Name", exact=True).fill("Glass calls")
    page.get_by_role("button", name="One section more").click()
    page.get_by_role("textbox", name="Section 10: Heading").fill("Putty and glue")
    page.get_by_role("listitem").last.get_by_label("With one of the words").fill("putty, linseed")
    page.get_by_role("button", name="Keep the template").click()
    expect(page.get_by_role("region", name="Our own").get_by_text("Glass calls")).to_be_visible()
    page.goto(f"{demo_house.url}/meetings/{meeting_id(demo_house, 'Glazing: laminated')}")
    page.get_by_label("Laid out as").select_option(label="Glass calls")
    page.get_by_role("button", name="Draw them so").click()
    expect(page.get_by_role("region", name="Putty and glue").get_by_role("listitem").first).to_contain_text(
        re.compile("putty|linseed", re.I)
    )


def test_on_a_phone_the_pages_turn_to_asking(demo_house, enter):
    page = open_glazing(demo_house, enter, (390, 844))
    page.get_by_role("tab", name="Ask").click()
    expect(page.get_by_label("Ask this meeting")).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    page.get_by_role("tab", name="Minutes").click()
    page.get_by_role("button", name="Do more with the minutes").click()
    page.get_by_role("menuitem", name="Write a mail").click()
    assert serious(page) == [] and page.evaluate("document.documentElement.scrollWidth") <= 390
