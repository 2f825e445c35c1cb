"""Every view with the demo in it: axe-core finds nothing serious, the keyboard reaches everything, hands stand."""

import re
import uuid

import pytest
from playwright.sync_api import expect

from tests.conftest import ROOT
from tests.live import Client

AXE = ROOT / "web/node_modules/axe-core/axe.min.js"
MAREN = "maren@larkmoor.example"


def meeting_id(house, title: str) -> str:
    return str(house.rows("select id from meetings_meeting where title like %s", f"{title}%")[0][0])


LOOK = """async () => {
  const rules = { runOnly: ["wcag2a", "wcag2aa", "wcag21aa", "wcag22aa"] };
  const grave = (found) => found.violations.filter((one) => ["serious", "critical"].includes(one.impact));
  const told = [];
  for (const one of grave(await axe.run(document, rules)))
    for (const node of one.nodes) {
      // What the edge of its page cuts off seems smaller than it is: it is looked at again in the middle.
      document.querySelector(node.target[0])?.scrollIntoView({ block: "center" });
      const again = one.id === "target-size" ? grave(await axe.run({ include: [node.target] }, rules)) : [one];
      if (again.some((other) => other.id === one.id)) told.push(`${one.id}: ${node.html.slice(0, 160)}`);
    }
  return told;
}"""


def serious(page) -> list[str]:
    """Violations that axe-core (Deque Systems, the rules of WCAG 2.2 AA) calls serious or critical."""
    page.evaluate(AXE.read_text())
    return page.evaluate(LOOK)


def half_captured(house) -> tuple[str, str]:
    """A meeting that another device captures, with some lines; its id, and the address of its notice."""
    client = Client(house, MAREN)
    key = str(uuid.uuid4())
    begun = {"id": key, "title": "Half captured", "started_at": "2026-10-06T09:00:00Z", "people": ["Idris Quaye"]}
    meeting = client.call("POST", "/api/captures", begun).json()["meeting"]
    client.call("PUT", f"/api/captures/{key}/stretches/0", {"tracks": ["room"], "begun_at": "2026-10-06T09:00:00Z"})
    client.call("PUT", f"/api/meetings/{meeting}/agenda", {"points": [{"text": "Glass", "minutes": 5}]})
    client.call("POST", f"/api/meetings/{meeting}/notes", {"text": "Ask about the grant", "at": 3.0, "shared": True})
    client.call("POST", f"/api/meetings/{meeting}/marks", {"kind": "Important", "start": 0, "end": 3})
    house.python(f"""
from server.capture.models import Capture
capture = Capture.objects.get(pk="{key}")
capture.lines.create(number=1, start=0, end=2, text="Morning all.", settled=True)
capture.lines.create(number=2, start=2, end=3, text="Is that", settled=False)
""")
    return meeting, client.call("GET", f"/api/meetings/{meeting}/notices").json()["page"]


@pytest.mark.parametrize("scheme", ["day", "night"])
@pytest.mark.parametrize("size", [(1280, 800), (390, 844)], ids=["desktop", "phone"])
def test_axe_finds_nothing_serious(demo_house, enter, size, scheme):
    page = enter(demo_house, MAREN, size)
    page.evaluate("scheme => localStorage.setItem('scheme', scheme)", scheme)
    frost = meeting_id(demo_house, "What happened on the frost")
    captured, notice = half_captured(demo_house)
    views = {
        "/": "Today",
        "/library": "Library",
        "/library?q=boiler": "Library",
        "/give": "Give files",
        "/capture": "Capture a meeting",
        "/rehearsal": "Rehearsal",
        "/account": "Account",
        f"/meetings/{frost}": "What happened",
        f"/meetings/{frost}?leaf=ask": "What happened",
        "/templates": "Templates",
        f"/meetings/{frost}/settings": "People and sharing",
        f"/meetings/{frost}/review": "Review",
        "/words": "Word list",
        f"/meetings/{captured}": "Half captured",
        notice: "This meeting is being recorded",
    }
    found = {}
    for path, heading in views.items():
        page.goto(demo_house.url + path)
        expect(page.get_by_role("heading", name=re.compile(heading), level=1)).to_be_visible()
        expect(page.get_by_text("Fetching…")).to_have_count(0)
        width = page.evaluate("document.documentElement.scrollWidth")
        assert width <= size[0], f"{path} is {width} wide"
        if bad := serious(page):
            found[path] = bad
    assert found == {}


def test_the_door_has_nothing_serious(demo_house, chromium):
    page = chromium.new_page()
    page.goto(demo_house.url)
    expect(page.get_by_role("heading", name="Sign in")).to_be_visible()
    assert serious(page) == []
    page.get_by_label("E-mail").fill(MAREN)
    page.get_by_label("Password").fill("not this one")
    page.get_by_role("button", name="Sign in").click()
    expect(page.get_by_role("alert")).to_have_text("That e-mail and password do not go together.")
    page.close()


def test_a_line_by_hand_stands_beside_the_drawn_ones(demo_house, enter):
    page = enter(demo_house, MAREN, to=f"/meetings/{meeting_id(demo_house, 'Heating')}")
    actions = page.get_by_role("region", name="Next steps")
    actions.get_by_role("button", name="Write a line").click()
    actions.get_by_role("textbox", name="Write a line").fill("Tobias to cut back the ivy")
    page.keyboard.press("Enter")
    written = actions.get_by_role("listitem").filter(has_text="Tobias to cut back the ivy")
    expect(written).to_contain_text("MT")
    drawn = actions.get_by_role("listitem").first
    drawn.hover()
    drawn.get_by_role("button", name=re.compile("^Do something")).click()
    page.get_by_role("menuitem", name="Correct").click()
    actions.get_by_role("textbox", name="Write a line").fill("Pavel to call the council tomorrow")
    page.keyboard.press("Enter")
    expect(actions.get_by_role("listitem").filter(has_text="Pavel to call the council tomorrow")).to_contain_text("MT")
    written.hover()
    written.get_by_role("button", name=re.compile("^Do something")).click()
    page.get_by_role("menuitem", name="Remove").click()
    expect(written).to_have_count(0)
    page.get_by_role("button", name="Put it back").click()
    expect(written).to_be_visible()
    page.reload()
    expect(written).to_be_visible()


def test_pointing_at_the_minutes_lights_the_record_and_draws_a_thread(demo_house, enter):
    page = enter(demo_house, MAREN, to=f"/meetings/{meeting_id(demo_house, 'What happened on the frost')}")
    page.get_by_role("region", name="To be done").get_by_role("listitem").nth(2).hover()
    lit = page.locator("[data-line].bg-glow")
    expect(lit.first).to_be_in_viewport()
    expect(page.locator("svg.text-brass path").first).to_be_attached()


def test_with_the_keyboard_alone(demo_house, enter):
    page = enter(demo_house, MAREN)
    page.keyboard.press("2")
    expect(page.get_by_role("heading", name="Library")).to_be_visible()
    page.keyboard.press("/")
    expect(page.get_by_role("searchbox")).to_be_focused()
    page.keyboard.type("lagging")
    expect(page.get_by_text("in 2 meetings")).to_be_visible()
    for _ in range(12):
        page.keyboard.press("Tab")
        if page.evaluate("document.activeElement.textContent") == "Hear it":
            break
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Pause")).to_be_visible()
    page.locator("body").press(" ")
    expect(page.get_by_role("button", name="Play")).to_be_visible()
    before = page.url
    page.keyboard.press(".")
    expect(page).not_to_have_url(before)
    page.keyboard.press("?")
    expect(page.get_by_role("dialog", name="Keys and signs")).to_be_visible()
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)


def test_an_action_done_on_today_can_be_opened_again(demo_house, enter):
    page = enter(demo_house, MAREN)
    actions = page.get_by_role("region", name="My open actions").get_by_role("listitem")
    expect(actions.first).to_be_visible()
    count = actions.count()
    first = actions.first.get_by_role("link").inner_text()
    actions.first.get_by_role("button").click()
    # It stays in sight for a day, so that one ticked by mistake can be opened after a reload as well.
    done = actions.filter(has_text=first.split("\n")[0])
    expect(done.get_by_role("button")).to_have_attribute("aria-pressed", "true")
    page.reload()
    done.get_by_role("button").click()
    expect(done.get_by_role("button")).to_have_attribute("aria-pressed", "false")
    expect(actions).to_have_count(count)
    assert actions.first.get_by_role("link").inner_text() == first


def test_a_guest_sees_only_where_they_were_and_changes_nothing(demo_house, enter):
    page = enter(demo_house, "gwen@castellow.example", to="/library")
    rows = page.get_by_role("main").locator("a[href^='/meetings/']")
    expect(rows).to_have_count(1)
    expect(page.get_by_role("link", name="Give files")).to_have_count(0)
    rows.first.click()
    expect(page.get_by_role("heading", name="Minutes", exact=True)).to_be_visible()
    expect(page.get_by_role("button", name="Write a line")).to_have_count(0)


def test_an_invitation_opens_a_way_in(demo_house, enter, chromium):
    page = enter(demo_house, MAREN, to="/account")
    page.get_by_label("E-mail").fill("signe@larkmoor.example")
    page.get_by_role("button", name="Invite").click()
    expect(page.get_by_text("A mail is on its way to signe@larkmoor.example.").first).to_be_visible()
    demo_house.deliver()
    mail = next(text for path in demo_house.mail.glob("*.eml") if "signe@" in (text := path.read_text()))
    link = re.search(r"/invited/[\w-]+", mail.replace("=\n", "")).group()
    signe = chromium.new_context().new_page()
    signe.goto(demo_house.url + link)
    signe.get_by_label("Your name").fill("Signe Holm")
    signe.get_by_label("Password").fill("a kettle without milk")
    signe.get_by_role("button", name="Join").click()
    expect(signe.get_by_role("heading", name="Today")).to_be_visible()
    signe.context.close()
