"""The library is asked; what a series has left open is ticked off in its next meeting; what is new comes by mail, and stops."""

from __future__ import annotations

import re
import uuid

from playwright.sync_api import expect

from tests.browser.test_views import MAREN, serious
from tests.live import Client

KEY = "Who has the key to the plant room at night?"


def asked(page, text: str):
    """Ask; the question with its answer."""
    page.get_by_label("Your question").fill(text)
    page.get_by_label("Your question").press("Enter")
    question = page.get_by_role("listitem").filter(has=page.get_by_role("heading", name=text)).first
    expect(question.get_by_text("Looking through")).to_have_count(0)
    return question


def test_the_library_is_asked(demo_house, enter):
    page = enter(demo_house, MAREN, to="/library")
    page.get_by_role("link", name="Ask", exact=True).click()
    expect(page.get_by_text("You have asked nothing yet.")).to_be_visible()
    answer = asked(page, KEY)
    line = answer.get_by_role("link", name=re.compile("^Read it in its place: What happened")).first
    expect(line).to_be_visible()
    expect(answer.get_by_text("What happened on the frost night").first).to_be_visible()
    assert serious(page) == []
    counted = asked(page, "How often was the boiler mentioned?")
    expect(counted.get_by_text(re.compile(r"^\d+ times, in \d+ meetings\.$"))).to_be_visible()
    # It is told to colleagues, taken away and had back.
    answer.get_by_role("button", name="Share with the workspace").click()
    expect(answer.get_by_text("asked by Maren Tollefsen")).to_be_visible()
    idris = enter(demo_house, "idris@larkmoor.example", to="/ask")
    expect(idris.get_by_role("heading", name=KEY)).to_be_visible()
    answer.get_by_role("button", name="Remove").click()
    expect(page.get_by_role("heading", name=KEY)).to_have_count(0)
    page.get_by_role("button", name="Put it back").click()
    expect(page.get_by_role("heading", name=KEY)).to_be_visible()
    # To its place, and from a search on.
    line.click()
    expect(page).to_have_url(re.compile(r"/meetings/.*line=\d+"))
    # Put to a part of it, in which no meeting says.
    page.goto(f"{demo_house.url}/ask?since=2099-01-01")
    expect(asked(page, "Who orders the lock?").get_by_text("No meeting says.")).to_be_visible()
    # Put to meetings chosen one by one.
    page.goto(f"{demo_house.url}/library")
    page.get_by_role("button", name="Choose meetings to ask").click()
    page.get_by_role("checkbox", name="Choose Works meeting: signs, bars and the volunteers").check()
    expect(page.get_by_role("status").filter(has_text="1 meeting chosen")).to_be_visible()
    assert serious(page) == []
    page.get_by_role("link", name="Ask them").click()
    only = asked(page, "Who makes the signs?")
    expect(only.get_by_text("1 chosen meeting")).to_be_visible()
    expect(only.get_by_text(re.compile("Works meeting: signs|No meeting says")).first).to_be_visible()
    page.goto(f"{demo_house.url}/library?q=boiler")
    page.get_by_role("link", name="Ask this as a question").click()
    expect(page.get_by_label("Your question")).to_have_value("boiler")


def test_what_is_left_open_is_ticked_off_in_the_next_meeting(demo_house, enter):
    maren, key = Client(demo_house, MAREN), str(uuid.uuid4())
    [(series,)] = demo_house.rows(
        "select s.name from ledger_step l join minutes_finding f on f.id = l.finding_id join meetings_meeting m on m.id = l.meeting_id "
        "join meetings_series s on s.id = m.series_id where f.kind = 'action' and f.status = 'standing' and f.done_at is null order by m.started_at desc limit 1"
    )
    begun = {"id": key, "title": "Works again", "started_at": "2027-01-05T09:00:00Z", "series": series}
    meeting = maren.call("POST", "/api/captures", begun).json()["meeting"]
    page = enter(demo_house, MAREN, to=f"/meetings/{meeting}")
    left = page.get_by_role("region", name="Left open before")
    first = left.get_by_role("listitem").first
    said = first.get_by_role("button", name=re.compile("^Done: ")).get_attribute("aria-label")
    assert serious(page) == []
    # By keyboard alone.
    first.get_by_role("button", name=re.compile("^Done: ")).focus()
    page.keyboard.press("Enter")
    back = left.get_by_role("button", name=re.compile("^Not after all: "))
    expect(back).to_be_visible()
    expect(page.get_by_text(said).first).to_be_visible()
    back.focus()
    page.keyboard.press("Enter")
    expect(left.get_by_role("button", name=said)).to_be_visible()
    assert maren.call("DELETE", f"/api/captures/{key}").status == 204


def test_what_is_new_comes_by_mail_and_stops(demo_house, enter):
    page = enter(demo_house, MAREN, to="/account")
    digest = page.get_by_role("region", name="What is new, by mail")
    digest.get_by_label("How often").select_option("weekly")
    expect(digest.get_by_label("On")).to_have_value("0")
    digest.get_by_label("At").select_option("17")
    expect(digest.get_by_text(re.compile("^in "))).to_be_visible()
    assert serious(page) == []
    token = demo_house.python(
        "from server.library.models import Digest; from server.mail.stopping import stop_token\n"
        "one = Digest.objects.get(hour=17); print(stop_token('digest', one.membership_id))"
    ).strip()
    stranger = page.context.browser.new_context().new_page()
    stranger.goto(f"{demo_house.url}/stop/{token}")
    expect(stranger.get_by_text("The digest: what is new, and what is ahead")).to_be_visible()
    assert serious(stranger) == []
    stranger.get_by_role("button", name="Stop it").click()
    expect(stranger.get_by_text("Stopped.")).to_be_visible()
    page.reload()
    expect(digest.get_by_label("How often")).to_have_value("never")
    stranger.goto(f"{demo_house.url}/stop/nothing")
    expect(stranger.get_by_role("alert")).to_contain_text("This address stops nothing.")
