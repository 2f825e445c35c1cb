"""Calendars connected as a user would, the sheet of the day, and a capture made from it."""

from __future__ import annotations

import re
from datetime import UTC, datetime, timedelta

import pytest
from playwright.sync_api import expect

from standins import calendar as caldav_server
from standins.calendar import Account, Engagement

MAREN = "maren@larkmoor.example"
WHO = [
    ("Gwen Castellow", "gwen@castellow.example", "ACCEPTED"),
    ("Maren Tollefsen", MAREN, "ACCEPTED"),
    ("Pavel Drozd", "pavel@larkmoor.example", "DECLINED"),
]


@pytest.fixture
def account(house, tmp_path):
    running = caldav_server.start(house.calendar_port, tmp_path, {"maren": "cold frame"})
    yield Account(f"http://127.0.0.1:{house.calendar_port}", "maren", "cold frame")
    running.terminate()
    running.wait(10)


def planned(uid: str, title: str, minutes: int, **more) -> bytes:
    """An event that begins in so many minutes."""
    start = (datetime.now(UTC) + timedelta(minutes=minutes)).isoformat()
    return caldav_server.written(Engagement(uid, title, start, 30, people=WHO, **more))


def test_an_account_is_connected_and_the_day_stands_on_its_sheet(house, enter, account):
    account.make("works", "Works")
    account.put("works", "glazing", planned("glazing", "Glazing call", -5, text="Join the call: https://calls.example/r/palm\nPasscode: 4711"))
    account.put("works", "heating", planned("heating", "Heating check", -10, place="Boiler house"))
    page = enter(house, MAREN)
    sheet = page.get_by_role("region", name=re.compile(r"\d{4}"))
    sheet.get_by_role("link", name="Connect a calendar").click()
    form = page.get_by_role("region", name="Calendars")
    form.get_by_label("How to connect one").select_option("account")
    form.get_by_label("Address").fill(f"{account.home}/")
    form.get_by_label("Name there").fill("maren")
    form.get_by_label("Password there").fill("wrong")
    form.get_by_role("button", name="Connect").click()
    expect(form.get_by_role("alert")).to_contain_text("does not let maren in")
    form.get_by_label("Password there").fill("cold frame")
    form.get_by_role("button", name="Connect").click()
    expect(form.get_by_text("maren at 127.0.0.1")).to_be_visible()

    page.get_by_role("link", name="Today").click()
    call = sheet.get_by_role("listitem").filter(has_text="Glazing call")
    expect(call).to_contain_text("at the same time as another")
    expect(call.get_by_role("link", name="Go to the call")).to_have_attribute("href", "https://calls.example/r/palm")
    call.get_by_text("Who and where").click()
    expect(call).to_contain_text("Passcode: 4711")
    expect(call).to_contain_text("Pavel Drozd does not come")
    sheet.get_by_role("link", name=re.compile("A day ahead")).click()
    expect(sheet).to_contain_text("Nothing is planned")
    assert re.search(r"\?day=\d{4}-\d\d-\d\d$", page.url)
    page.get_by_role("link", name="Back to today").click()

    call.get_by_role("link", name="Capture it").click()
    expect(page.get_by_label("What is it?")).to_have_value("Glazing call")
    expect(page.get_by_role("button", name="Take Gwen Castellow out")).to_be_visible()
    expect(page.get_by_role("button", name="Take Pavel Drozd out")).to_have_count(0)
    expect(page.get_by_role("radio", name=re.compile("computer"))).to_be_checked()


def test_a_file_is_connected_and_taken_away(house, enter, tmp_path):
    path = tmp_path / "garden.ics"
    path.write_bytes(planned("open-day", "Open day", 5))
    page = enter(house, "idris@larkmoor.example", to="/account")
    form = page.get_by_role("region", name="Calendars")
    expect(form).to_contain_text("No calendar is connected yet")
    form.get_by_label("How to connect one").select_option("file")
    form.get_by_label("File").set_input_files(path)
    form.get_by_role("button", name="Connect").click()
    expect(form.get_by_text("garden", exact=True)).to_be_visible()
    page.get_by_role("link", name="Today").click()
    expect(page.get_by_text("Open day")).to_be_visible()
    page.goto(f"{house.url}/account")
    form.get_by_role("button", name="Take away garden").click()
    expect(form).to_contain_text("No calendar is connected yet")
