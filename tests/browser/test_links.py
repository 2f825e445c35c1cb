"""A link for somebody without an account: given, opened behind its passphrase, taken back."""

from __future__ import annotations

from playwright.sync_api import expect

from tests.browser.test_views import MAREN, meeting_id, serious

TITLE = "What happened on the frost night"


def test_a_link_is_given_opened_and_taken_back(demo_house, enter):
    page = enter(demo_house, MAREN, to=f"/meetings/{meeting_id(demo_house, TITLE)}/settings")
    page.get_by_role("button", name="Give a link").click()
    leaf = page.get_by_role("dialog", name="Give a link")
    leaf.get_by_label("What it leads to").select_option("record")
    leaf.get_by_label("For whom").fill("The insurers")
    leaf.get_by_label("Passphrase").fill("frost and fleece")
    assert serious(page) == []
    leaf.get_by_role("button", name="Give a link").click()
    address = leaf.get_by_label("The link").input_value()
    leaf.get_by_role("button", name="Close").click()
    row = page.get_by_role("listitem").filter(has_text="The insurers")
    expect(row).to_contain_text("minutes and record, with a passphrase")
    expect(row).to_contain_text("not opened yet")
    # Somebody without an account.
    stranger = page.context.browser.new_context(locale="en-GB").new_page()
    stranger.goto(address)
    expect(stranger.get_by_role("heading", name="A passphrase is needed")).to_be_visible()
    assert serious(stranger) == []
    stranger.get_by_label("Passphrase").fill("something else")
    stranger.get_by_role("button", name="Open").click()
    expect(stranger.get_by_role("alert")).to_contain_text("That is not the passphrase.")
    stranger.get_by_label("Passphrase").fill("frost and fleece")
    stranger.get_by_role("button", name="Open").click()
    expect(stranger.get_by_role("heading", name=TITLE)).to_be_visible()
    expect(stranger.get_by_role("heading", name="What was said")).to_be_visible()
    expect(stranger.get_by_role("link")).to_have_count(0)
    assert serious(stranger) == []
    # It is told how often it was opened, and taken back at once.
    page.goto(f"{demo_house.url}/links")
    row = page.get_by_role("listitem").filter(has_text="The insurers")
    expect(row).to_contain_text("opened once")
    assert serious(page) == []
    row.get_by_role("button", name=f"Take back the link to {TITLE}").click()
    expect(row).to_contain_text("taken back")
    stranger.reload()
    expect(stranger.get_by_role("heading", name="Nothing here")).to_be_visible()
