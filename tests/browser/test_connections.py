"""Outside systems, on stand-ins: an action to the tracker and done there; a thread's digest; a customer's field with its line; and being booked from
another zone, on either side of a change of clocks."""

from __future__ import annotations

import re
from datetime import UTC, date, datetime, timedelta
from zoneinfo import ZoneInfo

import pytest
from playwright.sync_api import expect

from standins import chat, customers, local, tracker
from tests.browser.test_views import MAREN, meeting_id, serious

CALL = "Heating: boiler sizes and the money"


@pytest.fixture
def outside(demo_house):
    """Starts a stand-in where the house may go; what it is of."""
    servers = []

    def start(kind: str, world):
        server, _ = local.serve(world, demo_house.outside_ports[kind])
        servers.append(server)
        return world, f"http://127.0.0.1:{demo_house.outside_ports[kind]}/"

    yield start
    for server in servers:
        server.shutdown()


def test_an_action_goes_to_the_tracker_and_what_is_done_there_is_done_here(demo_house, enter, outside):
    world, address = outside("tracker", tracker.Tracker("tt-key"))
    page = enter(demo_house, MAREN)
    page.goto(demo_house.url + "/connections")
    page.get_by_label("What to connect").select_option("tracker")
    form = page.get_by_role("form", name=re.compile("^Connect: "))
    form.get_by_label("Address", exact=True).fill(address)
    form.get_by_label("Token", exact=True).fill("stale")
    form.get_by_label("Project", exact=True).fill("glasshouse")
    form.get_by_role("button", name="Connect").click()
    expect(form.get_by_role("alert")).to_contain_text("does not let this connection in")
    form.get_by_label("Token", exact=True).fill("tt-key")
    form.get_by_label("What to call it").fill("Glasshouse tasks")
    assert serious(page) == []
    form.get_by_role("button", name="Connect").click()
    expect(page.get_by_role("heading", name="Glasshouse tasks")).to_be_visible()
    assert serious(page) == []
    page.goto(demo_house.url + "/ledger")
    row = page.locator("li[aria-label]").first
    text = row.get_attribute("aria-label")
    row.get_by_role("button", name=re.compile("^What became of it")).click()
    row.get_by_role("button", name="Send elsewhere…").click()
    leaf = page.get_by_role("dialog", name="Send the action to")
    assert serious(page) == []
    leaf.get_by_role("button", name="Send", exact=True).click()
    expect(page.get_by_text("On its way to Glasshouse tasks.", exact=True)).to_be_visible()
    demo_house.carry()
    (task,) = world.tasks.values()
    assert task["text"] == text and task["link"].startswith(f"{demo_house.url}/meetings/")
    there = page.context.new_page()
    there.goto(address)
    expect(there.get_by_text(text)).to_be_visible()
    there.get_by_role("button", name="Done").first.click()
    expect(there.locator("table")).to_contain_text("done")
    # It tells of it by itself: done there is done in the ledger.
    page.goto(demo_house.url + "/ledger?view=closed")
    expect(page.locator(f'li[aria-label="{text}"]')).to_be_visible()
    page.goto(demo_house.url + "/connections")
    expect(page.get_by_role("listitem").filter(has_text=text)).to_contain_text("there")


def test_a_thread_is_read_with_its_messages(demo_house, enter, outside):
    world, address = outside("chat", chat.made("ct-key"))
    page = enter(demo_house, MAREN, to="/connections")
    page.get_by_label("What to connect").select_option("chat")
    form = page.get_by_role("form", name=re.compile("^Connect: "))
    form.get_by_label("Address", exact=True).fill(address)
    form.get_by_label("Token", exact=True).fill("ct-key")
    form.get_by_label("What to call it").fill("Garden chat")
    form.get_by_role("button", name="Connect").click()
    threads = page.get_by_role("region", name="Read a thread")
    threads.get_by_label("Room", exact=True).select_option("r1")
    threads.get_by_label("From when on").select_option("two")
    assert serious(page) == []
    threads.get_by_role("button", name="Read it").click()
    expect(page.get_by_role("status").filter(has_text="Being read…")).to_be_visible()
    demo_house.carry()
    actions = page.get_by_role("region", name="Actions")
    expect(actions.get_by_role("listitem").first).to_be_visible()
    assert serious(page) == []
    cited = actions.get_by_role("link").first
    message = cited.get_attribute("href")
    cited.click()
    expect(page.locator(message)).to_have_class(re.compile("border-brass"))
    assert page.locator(message).inner_text().strip()


def test_a_customers_field_is_filled_by_what_was_said_once_somebody_looked(demo_house, enter, outside):
    world, address = outside("customers", customers.Customers("kt-key"))
    page = enter(demo_house, MAREN, to="/connections")
    page.get_by_label("What to connect").select_option("customers")
    form = page.get_by_role("form", name=re.compile("^Connect: "))
    form.get_by_label("Address", exact=True).fill(address)
    form.get_by_label("Token", exact=True).fill("kt-key")
    form.get_by_label("What to call it").fill("Customers")
    form.get_by_role("button", name="Connect").click()
    expect(page.get_by_role("heading", name="Customers")).to_be_visible()
    at = page.url
    filled = page.get_by_role("region", name="Fields that are filled")
    filled.get_by_label("Field", exact=True).select_option("concerns")
    filled.get_by_label("Question").fill("What does the hire of the boiler cost?")
    filled.get_by_role("button", name="Fill it", exact=True).click()
    expect(filled.get_by_role("listitem")).to_contain_text("What does the hire of the boiler cost?")
    page.goto(f"{demo_house.url}/meetings/{meeting_id(demo_house, CALL)}/settings")
    page.get_by_role("button", name="Send the minutes to…").click()
    leaf = page.get_by_role("dialog")
    leaf.get_by_label("Connections").select_option(label="Customers")
    leaf.get_by_role("button", name="Send", exact=True).click()
    expect(page.get_by_text("On its way to Customers.", exact=True)).to_be_visible()
    demo_house.carry()
    assert [one["organisation"] for one in world.log.values()] == ["o2"]
    page.goto(at)
    answers = page.get_by_role("region", name="To look at")
    quote = answers.locator("blockquote").first
    expect(quote).to_be_visible()
    assert quote.get_by_role("link").get_attribute("href").startswith("/meetings/") and world.organisations["o2"]["fields"] == {}
    assert serious(page) == []
    value = answers.get_by_label("Value of What worries them")
    value.fill("The hire of the boiler")
    answers.get_by_role("button", name="Write it there").click()
    expect(answers.get_by_text("confirmed", exact=True)).to_be_visible()
    demo_house.carry()
    assert world.organisations["o2"]["fields"] == {"concerns": "The hire of the boiler"}


def next_change(zone: str) -> date:
    """The next day on which clocks are put forward or back there."""
    there, day = ZoneInfo(zone), datetime.now(UTC).date() + timedelta(days=2)
    while datetime(day.year, day.month, day.day, 12, tzinfo=there).utcoffset() == datetime(day.year, day.month, day.day, tzinfo=there).utcoffset():
        day += timedelta(days=1)
    return day


def test_a_time_is_booked_from_another_zone_on_either_side_of_a_change_of_clocks(demo_house, chromium):
    changes = next_change("Europe/London")
    slug = demo_house.python("""
from server.accounts.models import Membership
from server.booking.models import BookingPage
maren = Membership.objects.get(user__email="maren@larkmoor.example")
# Farther ahead than a page may be booked, so that clocks change within it.
print(BookingPage.objects.create(membership=maren, title="Half an hour about the glass", zone="Europe/London", hours={str(day): [[540, 570]] for day in range(7)}, notice=60, ahead=400).slug)
""").strip()
    context = chromium.new_context(viewport={"width": 1280, "height": 800}, timezone_id="America/Phoenix", locale="en-GB")
    page = context.new_page()
    page.goto(f"{demo_house.url}/book/{slug}")
    assert serious(page) == []

    def shown(day: date) -> str:
        for _ in range(30):
            expect(page.get_by_role("heading", name="Choose a time")).to_be_visible()
            expect(page.locator("dl").first).to_be_visible()
            row = page.locator("dl > div").filter(has=page.locator("dt", has_text=re.compile(rf"^{day:%A},? {day.day} {day:%B}$")))
            if row.count():
                return row.get_by_role("button").first.inner_text()
            page.get_by_role("button", name="Later").click()
            page.wait_for_load_state("networkidle")
        raise AssertionError(f"{day} is not shown")

    # Phoenix keeps its clocks: nine in London is another hour there before and after.
    before, after = shown(changes - timedelta(days=1)), shown(changes)
    hour = {day: datetime(day.year, day.month, day.day, 9, tzinfo=ZoneInfo("Europe/London")).astimezone(ZoneInfo("America/Phoenix")) for day in (changes - timedelta(days=1), changes)}
    assert [before, after] == [f"{one:%H:%M}" for one in hour.values()] and before != after
    page.locator("dl > div").filter(has=page.locator("dt", has_text=re.compile(rf"^{changes:%A},? {changes.day} {changes:%B}$"))).get_by_role("button").first.click()
    page.get_by_label("Your name").fill("Lucía Ferreiro")
    page.get_by_label("Your e-mail address").fill("lucia@viveiros-ferreiro.example")
    page.get_by_role("button", name=re.compile("^Book ")).click()
    expect(page.get_by_role("heading", name="It is booked")).to_be_visible()
    assert serious(page) == []
    (start,) = demo_house.rows("select start from booking_booking where name = 'Lucía Ferreiro'")[0]
    assert start.astimezone(ZoneInfo("Europe/London")).strftime("%Y-%m-%d %H:%M") == f"{changes} 09:00"
    page.get_by_role("link", name="Look at it, move it, or call it off").click()
    expect(page.get_by_text(re.compile(rf"{after}.*America/Phoenix"))).to_be_visible()
    page.get_by_role("button", name="Call off").click()
    expect(page.get_by_role("status")).to_contain_text("It is called off.")
    context.close()
