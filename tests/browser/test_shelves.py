"""Shelves in a browser: made, filled from a meeting's page, opened to somebody; of a closed one nobody else learns anything."""

from __future__ import annotations

import re

from playwright.sync_api import expect

from tests.browser.test_views import MAREN, meeting_id, serious
from tests.live import Client

IDRIS, YUKI = "idris@larkmoor.example", "yuki@larkmoor.example"


def test_a_closed_shelf(demo_house, enter):
    maren = Client(demo_house, MAREN)
    meeting = meeting_id(demo_house, "What happened")
    page = enter(demo_house, MAREN, to="/library")
    page.get_by_role("link", name="Shelves").click()
    expect(page.get_by_text("There is no shelf yet.")).to_be_visible()
    page.get_by_role("button", name="Make a shelf").click()
    leaf = page.get_by_role("dialog", name="Make a shelf")
    leaf.get_by_label("What is it called?").fill("The quagga file")
    leaf.get_by_label("What is it for?").fill("What the board must not hear yet.")
    leaf.get_by_label("closed").check()
    assert serious(page) == []
    leaf.get_by_role("button", name="Keep").click()
    expect(page.get_by_role("heading", name="The quagga file")).to_be_visible()
    expect(page.get_by_text("Nothing stands on it.")).to_be_visible()
    # From the meeting's page: onto the shelf, and only those of the shelf.
    page.goto(f"{demo_house.url}/meetings/{meeting}/settings")
    page.get_by_role("region", name="Shelves").get_by_label("The quagga file").click()
    expect(page.get_by_role("region", name="Shelves").get_by_label("The quagga file")).to_be_checked()
    page.get_by_label("Those of its shelves").click()
    expect(page.get_by_text(re.compile("^Seen by, once kept: Maren Tollefsen$"))).to_be_visible()
    page.get_by_role("button", name="Keep the changes").click()
    expect(page.get_by_text("Kept.").first).to_be_visible()
    # Nobody else finds the shelf, nor what stands on it.
    yuki = enter(demo_house, YUKI, to="/shelves")
    expect(yuki.get_by_text("There is no shelf yet.")).to_be_visible()
    yuki.goto(f"{demo_house.url}/library?q=happened")
    expect(yuki.get_by_role("main").get_by_role("status").first).to_be_visible()
    expect(yuki.get_by_role("link", name=re.compile("What happened"))).to_have_count(0)
    yuki.goto(f"{demo_house.url}/meetings/{meeting}")
    expect(yuki.get_by_text("There is no such meeting, or it is not shared with you.")).to_be_visible()
    yuki.goto(f"{demo_house.url}/ask?q=Why+did+nobody+hear+the+alarm%3F")
    yuki.get_by_role("button", name="Ask", exact=True).click()
    answer = yuki.get_by_role("listitem").filter(has=yuki.get_by_role("heading", name="Why did nobody hear the alarm?"))
    expect(answer.get_by_role("status")).to_have_count(0)
    expect(answer.get_by_text("What happened")).to_have_count(0)
    key = maren.call("GET", "/api/shelves").json()[0]["id"]
    yuki.goto(f"{demo_house.url}/shelves/{key}")
    expect(yuki.get_by_text("There is no such shelf, or it is closed and you have no place at it.")).to_be_visible()
    # Who is given a place sees both.
    page.goto(f"{demo_house.url}/shelves/{key}")
    page.get_by_label("Give a place to").select_option("Idris Quaye")
    expect(page.get_by_role("button", name="Take the place of Idris Quaye away")).to_be_visible()
    assert serious(page) == []
    idris = enter(demo_house, IDRIS, to="/shelves")
    idris.get_by_role("link", name="The quagga file").click()
    idris.get_by_role("link", name=re.compile("What happened")).click()
    expect(idris.get_by_role("heading", name="Minutes", exact=True)).to_be_visible()
    # The library is narrowed to it, and the address can be sent to whoever has a place.
    page.goto(f"{demo_house.url}/library?shelf={key}")
    expect(page.get_by_role("button", name="Take off: on the shelf The quagga file")).to_be_visible()
    # Back as it was.
    assert maren.call("PATCH", f"/api/meetings/{meeting}", {"visibility": "workspace"}).status == 200
    page.goto(f"{demo_house.url}/shelves/{key}")
    page.get_by_role("button", name="Take it down").click()
    page.get_by_role("dialog").get_by_role("button", name="Take it down").click()
    expect(page.get_by_text("There is no shelf yet.")).to_be_visible()
