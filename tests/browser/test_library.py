"""The library in a browser: searched, narrowed, sent to a colleague; a series over time; taken out, had back, deleted for good."""

from __future__ import annotations

import re
import uuid

from playwright.sync_api import expect

from tests.browser.test_record import worked_off
from tests.browser.test_views import MAREN, meeting_id, serious
from tests.conftest import ROOT
from tests.live import Client

IDRIS = "idris@larkmoor.example"


def test_a_search_is_narrowed_ordered_and_sent_to_a_colleague(demo_house, enter):
    page = enter(demo_house, MAREN, to="/library")
    page.get_by_role("searchbox").fill("glass")
    status = page.get_by_role("main").get_by_role("status").first
    expect(status).to_have_text(re.compile(r"^\d+ places in \d+ meetings$"))
    before = page.get_by_role("article").count()
    page.get_by_label("In order of").select_option(label="time, the first one first")
    expect(page).to_have_url(re.compile("order=oldest"))
    expect(page.get_by_role("article").get_by_role("mark").first).to_have_text(re.compile("glass", re.I))
    page.get_by_role("button", name="Narrow it").click()
    page.get_by_label("With whom").select_option(label="Gwen Castellow")
    page.get_by_label("They speak in it").click()
    page.get_by_label("decisions", exact=True).click()
    expect(page).to_have_url(re.compile(r"(?=.*person=\d)(?=.*speaking=true).*holds=decisions"))
    expect(page.get_by_role("button", name="Take off: Gwen Castellow speaks")).to_be_visible()
    expect(page.get_by_role("article")).not_to_have_count(before)
    assert serious(page) == []
    address = page.url.removeprefix(demo_house.url)
    colleague = enter(demo_house, IDRIS, to=address)
    expect(colleague.get_by_role("button", name="Take off: with decisions")).to_be_visible()
    expect(colleague.get_by_role("article").first).to_be_visible()
    # A hit leads to its line; taking off brings the others back.
    colleague.get_by_role("article").first.get_by_role("listitem").first.get_by_role("link").first.click()
    expect(colleague).to_have_url(re.compile("/meetings/"))
    page.get_by_role("button", name="Take off: Gwen Castellow speaks").click()
    page.get_by_role("button", name="Take off: with decisions").click()
    expect(page.get_by_role("article")).to_have_count(before)
    # Kept under a name, it stands above the library, and can be had back when it is let go of.
    page.get_by_role("button", name="Keep this search").click()
    leaf = page.get_by_role("dialog")
    leaf.get_by_label("What is it to be called?").fill("All about glass")
    leaf.get_by_label("Write to me when something new matches").click()
    assert serious(page) == []
    leaf.get_by_role("button", name="Keep this search").click()
    expect(leaf).to_have_count(0)
    page.get_by_role("button", name="All meetings").click()
    kept = page.get_by_role("navigation", name="Kept searches")
    kept.get_by_role("button", name="Let go of the search All about glass").click()
    expect(kept).to_have_count(0)
    page.get_by_role("button", name="Put it back").last.click()
    kept.get_by_role("link", name="All about glass").click()
    expect(page).to_have_url(re.compile(r"/library\?q=glass$"))
    expect(page.get_by_role("article")).to_have_count(before)
    page.get_by_role("searchbox").fill("scafolding")
    expect(status).to_contain_text("Nothing holds “scafolding”. What follows holds words like it")
    page.get_by_role("searchbox").fill('"xylophonist"')
    expect(status).to_contain_text("Nothing that you may see holds")


def test_a_series_over_time_and_the_way_along_it(demo_house, enter):
    maren = Client(demo_house, MAREN)
    for title in ("What happened on the frost night", "Works meeting: signs, bars and the volunteers"):
        assert maren.call("PATCH", f"/api/meetings/{meeting_id(demo_house, title)}", {"series": "Works meetings"}).status == 200
    page = enter(demo_house, MAREN, to=f"/meetings/{meeting_id(demo_house, 'What happened on the frost night')}")
    page.get_by_role("link", name=re.compile("^Before: Works meeting: signs")).click()
    expect(page.get_by_role("heading", name="Works meeting: signs, bars and the volunteers", level=1)).to_be_visible()
    page.get_by_role("link", name="Works meetings", exact=True).click()
    expect(page.get_by_role("heading", name="Works meetings", level=1)).to_be_visible()
    opened = page.get_by_role("region", name="What is open")
    expect(opened.get_by_role("listitem").first).to_be_visible()
    assert serious(page) == []
    at = page.url.removeprefix(demo_house.url)
    page.get_by_role("button", name="Call it otherwise").click()
    page.get_by_label("What is it to be called?").fill("Works")
    page.get_by_role("button", name="Keep the changes").click()
    expect(page.get_by_role("heading", name="Works", level=1)).to_be_visible()
    # What is usual in it is said once, and a meeting that begins takes it.
    page.get_by_role("button", name="Change what is usual").click()
    leaf = page.get_by_role("dialog", name="Usual here")
    leaf.get_by_role("button", name="Add a point").click()
    leaf.get_by_label("Point 1").fill("Glass for the palm house")
    leaf.get_by_label("Who sees them").select_option("workspace")
    leaf.get_by_role("group", name="Who gets the minutes").get_by_role("checkbox").first.check()
    assert serious(page) == []
    leaf.get_by_role("button", name="Keep the changes").click()
    usual = page.get_by_role("region", name="Usual here")
    expect(usual).to_contain_text("Glass for the palm house (10 min)")
    page.goto(f"{demo_house.url}/capture")
    page.get_by_label("Series").fill("Works")
    expect(page.get_by_role("radio", name="Everyone in the workspace")).to_be_checked()
    begun = {"id": str(uuid.uuid4()), "title": "Works again", "started_at": "2027-02-02T09:00:00Z", "series": "Works"}
    meeting = maren.call("POST", "/api/captures", begun).json()["meeting"]
    assert [one["text"] for one in maren.call("GET", f"/api/meetings/{meeting}/agenda").json()] == ["Glass for the palm house"]
    page.goto(f"{demo_house.url}{at}")
    opened.get_by_role("link").first.click()
    expect(page).to_have_url(re.compile(r"/meetings/.*line=\d+"))


def test_taken_out_had_back_and_deleted_for_good(demo_house, enter):
    path = worked_off(demo_house, ROOT / "demo/transcripts/03-works-meeting-signs.vtt", "To be deleted")
    page = enter(demo_house, MAREN)

    def take_out() -> None:
        page.goto(f"{demo_house.url}{path}/settings")
        page.get_by_role("button", name="Take it out of the library").click()
        expect(page).to_have_url(re.compile("/library$"))
        page.get_by_role("link", name="Taken out").click()

    take_out()
    row = page.get_by_role("listitem").filter(has_text="To be deleted")
    expect(row).to_contain_text("taken out")
    expect(row).to_contain_text("by Maren Tollefsen")
    assert serious(page) == []
    row.get_by_role("button", name="Put it back: To be deleted").click()
    expect(row).to_have_count(0)
    page.goto(demo_house.url + path)
    expect(page.get_by_role("heading", name="To be deleted", level=1)).to_be_visible()
    take_out()
    row.get_by_role("button", name="Delete for good: To be deleted").click()
    leaf = page.get_by_role("dialog")
    leaf.get_by_role("textbox").fill("somebody else")
    leaf.get_by_role("button", name="Delete for good").click()
    expect(leaf.get_by_role("alert")).to_contain_text("Type your own name, Maren Tollefsen")
    leaf.get_by_role("textbox").fill("Maren Tollefsen")
    page.keyboard.press("Enter")
    expect(leaf).to_have_count(0)  # only then is the page behind it there to be asked by role
    expect(row).to_have_count(0)
    meeting = path.removeprefix("/meetings/")
    demo_house.python(f"from uuid import UUID; from server.record.actions.delete_meeting import erase_now; erase_now(UUID('{meeting}'))")
    assert demo_house.rows("select count(*) from meetings_meeting where id = %s", meeting) == [(0,)]
    assert not [path for path in (demo_house.folder / "media" / meeting).rglob("*") if path.is_file()]
