"""New here: the first steps, the interface in one's own language, what the program stands on, a meeting walked without a pointer."""

from __future__ import annotations

import re

from playwright.sync_api import expect

from tests.browser.test_views import MAREN, meeting_id, serious
from tests.live import PASSWORD, Client, until


def test_whoever_is_new_is_shown_five_steps_left_and_taken_up_at_will(house, enter):
    house.python(f"""
from server.accounts.models import *
user = User.objects.create_user("colm@larkmoor.example", "{PASSWORD}", name="Colm Reyes")
Membership.objects.create(user=user, workspace=Workspace.objects.get(), role="member")
""")
    page = enter(house, "colm@larkmoor.example")
    expect(page.get_by_text("5 of 5 left")).to_be_visible()
    page.get_by_role("link", name="Begin").click()
    expect(page.get_by_role("heading", name="First steps")).to_be_visible()
    assert serious(page) == []
    page.get_by_role("button", name="To the word list").click()
    expect(page.get_by_role("heading", name="Word list")).to_be_visible()
    page.get_by_role("link", name="Today").click()
    expect(page.get_by_text("4 of 5 left")).to_be_visible()
    page.get_by_role("link", name="Go on").click()
    expect(page.get_by_role("checkbox", name="Say how your names are written: done")).to_be_checked()
    # The sample goes the way of every file, and is there once.
    page.get_by_role("button", name="Take the sample").click()
    expect(page.get_by_role("heading", name="A sample: what happened on the frost night")).to_be_visible()
    sample = page.url
    page.go_back()
    page.get_by_role("button", name="Look at the sample").click()
    expect(page).to_have_url(sample + "/settings")
    page.goto(house.url)
    page.get_by_role("button", name="Not for me").click()
    expect(page.get_by_role("heading", name="First steps")).to_have_count(0)
    page.reload()
    expect(page.get_by_role("heading", name="Today")).to_be_visible()
    expect(page.get_by_role("heading", name="First steps")).to_have_count(0)
    # It is heard and read by the worker there is.
    colm = Client(house, "colm@larkmoor.example")
    until(lambda: colm.call("GET", f"/api/meetings/{sample.rsplit('/', 1)[1]}/progress").json()["state"] == "ready", 240, 1)
    page.goto(sample)
    expect(page.get_by_role("region", name="Record").locator("[data-line]").first).to_be_visible()


def test_the_interface_speaks_spanish_and_counts_in_it(demo_house, enter):
    page = enter(demo_house, MAREN, to="/account")
    page.get_by_label("Language of the interface").select_option("es")
    expect(page.get_by_role("heading", name="Cuenta")).to_be_visible()
    expect(page.locator("html")).to_have_attribute("lang", "es")
    page.goto(demo_house.url + "/library?q=palm")
    expect(page.get_by_text(re.compile(r"^\d+ lugares en \d+ reuniones$"))).to_be_visible()
    page.goto(f"{demo_house.url}/meetings/{meeting_id(demo_house, 'What happened')}")
    expect(page.get_by_role("region", name="Acta").locator("[data-minutes]").first).to_be_visible()
    assert serious(page) == []
    # Of what is the program's and not the meeting's nothing is in English.
    own = page.locator("header a, header button, label, main h2").all_inner_texts()
    assert [text for text in own if re.search(r"\b(the|minutes|record|who|search|give)\b", text, re.I)] == []
    # Nor is what the server has to say.
    page.goto(f"{demo_house.url}/words")
    page.get_by_label("Como se escribe").fill("…")
    page.get_by_role("button", name="Poner en la lista").click()
    expect(page.get_by_text("Una palabra tiene letras. Escríbela como ha de estar en el registro.")).to_be_visible()
    assert demo_house.rows("select language from accounts_user where email = %s", MAREN) == [("es",)]
    page.goto(demo_house.url + "/account")
    page.get_by_label("Idioma de la interfaz").select_option("en")
    expect(page.get_by_role("heading", name="Account")).to_be_visible()


def test_what_the_program_stands_on_is_listed_with_its_licences(demo_house, enter):
    page = enter(demo_house, MAREN)
    page.get_by_role("button", name=re.compile("^Account")).click()
    page.get_by_role("menuitem", name="About").click()
    for group, one in (
        ("Models", "speech recognition"),
        ("Python packages", "procrastinate"),
        ("Packages of the web application", "tus-js-client"),
    ):
        expect(page.get_by_role("region", name=group).get_by_role("listitem").filter(has_text=one)).to_contain_text(re.compile("MIT"))
    assert serious(page) == []


def test_minutes_and_record_are_walked_by_arrows_with_few_stops_for_tab(demo_house, enter):
    page = enter(demo_house, MAREN, to=f"/meetings/{meeting_id(demo_house, 'What happened')}")
    lines = page.locator("[data-minutes]")
    lines.first.wait_for()
    page.locator("[data-line]").first.wait_for()
    stops = page.evaluate("""() => {
      const first = document.querySelector("[data-line]");
      return [...document.querySelectorAll("a[href], button, input, select, textarea, [tabindex]")]
        .filter((one) => one.tabIndex >= 0 && !one.disabled && one.checkVisibility())
        .filter((one) => one.compareDocumentPosition(first) & Node.DOCUMENT_POSITION_FOLLOWING).length;
    }""")
    assert stops < 60, stops
    lines.first.focus()
    page.keyboard.press("ArrowDown")
    expect(lines.nth(1)).to_be_focused()
    page.keyboard.press("Tab")  # what can be pressed within the line
    assert page.evaluate("document.activeElement.closest('[data-minutes]') !== null")
    lines.nth(1).focus()
    for _ in range(lines.count() - 1):
        page.keyboard.press("ArrowUp")
    expect(lines.first).to_be_focused()
    said = page.locator("[data-line]")
    said.first.focus()
    page.keyboard.press("ArrowDown")
    expect(said.nth(1)).to_be_focused()
    expect(said.nth(1)).to_have_attribute("aria-current", "true")
    page.keyboard.press("?")
    signs = page.get_by_role("dialog", name="Keys and signs")
    expect(signs.get_by_text("A word that was not heard for certain")).to_be_visible()
    assert serious(page) == []
