"""The ledger in a browser: a matter over four meetings, answered by key, ticked, given and dated; a colleague sees what they may."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import expect

from tests.browser.test_views import MAREN, serious
from tests.live import Client, until

SAID = (
    (
        ("Maren Tollefsen", "The glass for the palm house. Somebody has to order the panes."),
        ("Idris Quaye", "I'll order the forty panes of glass by Friday."),
        ("Maren Tollefsen", "Good. And the hedge can wait until the frost."),
    ),
    (
        ("Maren Tollefsen", "It rained all night. Idris, the panes of glass, have you ordered the forty panes?"),
        ("Idris Quaye", "The forty panes of glass? Not yet, I haven't got round to it."),
        ("Maren Tollefsen", "All right. The hedge looks well."),
    ),
    (
        ("Maren Tollefsen", "How is it going with the panes of glass, Idris?"),
        ("Idris Quaye", "I still haven't ordered the forty panes of glass."),
        ("Maren Tollefsen", "Then we wait. The ducks are back on the pond."),
    ),
    (
        ("Maren Tollefsen", "The ducks have found the ferns."),
        ("Idris Quaye", "I ordered the forty panes of glass on Thursday, they are paid for."),
        ("Maren Tollefsen", "Lovely. That was a long wait."),
    ),
)


@pytest.fixture
def glass(house):
    """The four meetings, a week after one another, in one series; the key of the last."""
    maren = Client(house, MAREN)
    for number, said in enumerate(SAID):
        path = house.folder / f"glass-{number}.vtt"
        cues = [f"00:00:{6 * i:02}.000 --> 00:00:{6 * i + 5:02}.000\n<v {who}>{text}\n" for i, (who, text) in enumerate(said)]
        path.write_text("WEBVTT\n\n" + "\n".join(cues), encoding="utf-8")
        day = f"2026-0{3 + number}-03T09:00:00Z"
        meeting = maren.give(path, language="en", series="Panes", started_at=day, visibility="mine" if number == 1 else "workspace")
        until(lambda meeting=meeting: maren.call("GET", f"/api/meetings/{meeting}/progress").json()["state"] == "ready", 120, 0.5)
    until(lambda: len(course(maren)) >= 4, 120, 0.5)
    return meeting


def course(client: Client) -> list[str]:
    matters = client.call("GET", "/api/ledger?view=changed&words=panes&since=2026-01-01").json()["matters"]
    return [step["kind"] for step in matters[0]["steps"]] if matters else []


def test_a_matter_over_four_meetings(house, enter, glass):
    maren, yuki = Client(house, MAREN), Client(house, "yuki@larkmoor.example")
    assert course(maren) == ["made", "carried", "carried", "done"]
    # For a colleague the meeting that they may not see has never been.
    assert course(yuki) == ["made", "carried", "done"] and "Not yet" not in str(yuki.call("GET", "/api/ledger?words=panes").json())
    page = enter(house, MAREN, to="/ledger?words=panes")
    row = page.get_by_role("listitem", name=re.compile("panes of glass"))
    expect(row.get_by_text(re.compile("^Is it done?"))).to_be_visible()
    expect(row.get_by_text("I ordered the forty panes of glass on Thursday")).to_be_visible()
    assert serious(page) == []
    # What was said in each of them, by keyboard alone.
    row.focus()
    page.keyboard.press("Enter")
    expect(row.get_by_text("I still haven't ordered the forty panes of glass.")).to_be_visible()
    row.focus()
    page.keyboard.press("y")
    expect(page.get_by_text("Nothing is like that.")).to_be_visible()
    page.get_by_role("button", name="Closed").click()
    expect(row).to_be_visible()
    page.get_by_role("button", name="Open", exact=True).click()
    # Taken back, it is asked again; refused, it stays open.
    page.get_by_role("button", name="Put it back").last.click()
    expect(row.get_by_text(re.compile("^Is it done?"))).to_be_visible()
    row.get_by_role("button", name="No", exact=True).click()
    expect(row.get_by_text(re.compile("^Is it done?"))).to_have_count(0)
    # Given to somebody else, with a day, and ticked.
    row.get_by_role("button", name=re.compile("Idris Quaye")).click()
    page.get_by_label("Whose", exact=True).last.select_option("Maren Tollefsen")
    page.get_by_label("By when", exact=True).fill("2030-05-01")
    page.get_by_role("button", name="Keep").click()
    expect(page.get_by_role("heading", name="Later")).to_be_visible()
    expect(row.get_by_role("button", name=re.compile("Maren Tollefsen"))).to_be_visible()
    row.focus()
    page.keyboard.press("d")
    expect(row).to_have_count(0)
    # Reminded by mail as one likes, and followed by one's calendar.
    page.get_by_role("button", name="Reminders").click()
    leaf = page.get_by_role("dialog", name="Reminders")
    leaf.get_by_label("The day before one is due").click()
    expect(leaf.get_by_label("The day before one is due")).not_to_be_checked()
    leaf.get_by_role("button", name="Make an address").click()
    expect(leaf.get_by_label("In your calendar")).to_have_value(re.compile(r"/api/feeds/[\w-]+\.ics$"))
    assert serious(page) == []
    page.keyboard.press("Escape")
    # And out as a file.
    page.get_by_role("button", name="Closed").click()
    page.get_by_role("button", name="Take it out").click()
    with page.expect_download() as loaded:
        page.get_by_role("menuitem", name=re.compile("CSV")).click()
    assert "forty panes of glass" in loaded.value.path().read_text()
