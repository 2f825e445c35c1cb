"""Who gets what and for how long, who asks and who leaves, how one signs in: in a browser."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from standins.identity import serve
from standins.mail import messages
from tests.browser.test_views import MAREN, meeting_id, serious
from tests.live import CLIENT, PASSWORD, SECRET, until

IDRIS = "idris@larkmoor.example"


def kept(house, code: str) -> None:
    house.python(f"from server.accounts.models import *\nfrom server.meetings.models import *\n{code}")


def test_minutes_are_looked_over_and_go_to_whom_they_are_meant_for(house, enter):
    kept(
        house,
        """
workspace = Workspace.objects.get()
person, _ = Person.objects.get_or_create(workspace=workspace, folded="pavel drozd", defaults={"name": "Pavel Drozd"})
Person.objects.filter(pk=person.pk).update(email="pavel@drozd-glass.example")
""",
    )
    page = enter(house, MAREN)
    give_transcript(page, "Glass for the fern house", "Pavel Drozd")
    page.get_by_role("link", name=re.compile("^Seen by")).click()
    gets = page.get_by_role("region", name="Who gets the minutes")
    expect(gets.get_by_text("The minutes go to nobody by themselves.")).to_be_visible()
    gets.get_by_role("button", name="Change who gets them").click()
    gets.get_by_label("Pavel Drozd").check()
    gets.get_by_role("button", name="Keep the changes").click()
    expect(gets.get_by_text("The minutes go to Pavel Drozd (outside), when somebody sends them.")).to_be_visible()
    assert serious(page) == []
    page.get_by_role("link", name="Today").click()
    waiting = page.get_by_role("region", name="Minutes to look over")
    expect(waiting).to_contain_text("for Pavel Drozd (one of them outside)")
    waiting.get_by_role("link").click()
    page.get_by_role("button", name="Look over and send").click()
    leaf = page.get_by_role("dialog")
    expect(leaf.get_by_text("the document alone")).to_be_visible()
    assert serious(page) == []
    leaf.get_by_role("button", name="Send the minutes").click()
    expect(leaf).to_have_count(0)
    expect(page.get_by_text("Pavel Drozd").first).to_be_visible()
    expect(page.get_by_role("button", name="Look over and send")).to_have_count(0)
    page.get_by_role("link", name=re.compile("^Seen by")).click()
    expect(gets.get_by_text("pavel@drozd-glass.example")).to_be_visible()
    [mail] = until(lambda: [one for one in messages(house.mail) if one["To"] == "pavel@drozd-glass.example"])
    assert [part.get_filename() for part in mail.walk() if part.get_filename()][0].endswith(".pdf")


def give_transcript(page: Page, title: str, *people: str) -> None:
    talk = "WEBVTT\n\n00:00:01.000 --> 00:00:05.000\n<v Maren Tollefsen>Shall we take the laminated glass?\n\n00:00:05.500 --> 00:00:09.000\n<v Pavel Drozd>Yes, the laminated one.\n"
    page.get_by_role("link", name="Give files").click()
    page.set_input_files("input[type=file]", {"name": f"{title}.vtt", "mimeType": "text/vtt", "buffer": talk.encode()})
    page.get_by_label("What was it?").fill(title)
    for name in people:
        page.get_by_role("combobox", name="Who was there?").fill(name)
        page.keyboard.press("Enter")
    expect(page.get_by_text("It has arrived.")).to_be_visible()
    page.get_by_role("button", name="Take it in").click()
    expect(page.get_by_role("heading", name="Record", exact=True)).to_be_visible(timeout=90_000)


def test_asking_to_see_and_leaving(demo_house, enter):
    meeting = meeting_id(demo_house, "Glazing: laminated")
    kept(demo_house, f'Meeting.objects.filter(pk="{meeting}").update(visibility="named")')
    theirs = enter(demo_house, IDRIS, to=f"/meetings/{meeting}")
    expect(theirs.get_by_role("button", name="Ask to see it")).to_be_visible()
    assert serious(theirs) == []
    theirs.get_by_label("A word to them").fill("I hang the glass.")
    theirs.get_by_role("button", name="Ask to see it").click()
    expect(theirs.get_by_role("status")).to_contain_text("If there is such a meeting")
    page = enter(demo_house, MAREN)
    asks = page.get_by_role("region", name="Who asks to see")
    expect(asks).to_contain_text("I hang the glass.")
    assert serious(page) == []
    asks.get_by_role("button", name=re.compile("^Let Idris Quaye in")).click()
    expect(asks).to_have_count(0)
    theirs.reload()
    expect(theirs.get_by_role("heading", name=re.compile("Glazing"), level=1)).to_be_visible()
    # A member's place is taken away: what they leave is seen first.
    kept(
        demo_house,
        f"""
user = User.objects.create_user("colm@larkmoor.example", "{PASSWORD}", name="Colm Reyes")
Membership.objects.create(user=user, workspace=Workspace.objects.get(), role="member")
""",
    )
    page.goto(demo_house.url + "/account")
    row = page.get_by_role("listitem").filter(has_text="colm@larkmoor.example")
    row.get_by_role("button", name="Take their place away").click()
    leaf = page.get_by_role("dialog")
    expect(leaf.get_by_text("No meeting was made by them")).to_be_visible()
    leaf.get_by_label("Their meetings go to").select_option("Maren Tollefsen")
    assert serious(page) == []
    leaf.get_by_role("button", name="Take their place away").click()
    expect(leaf).to_have_count(0)
    expect(row).to_have_count(0)


def test_for_how_long_what_is_kept_and_who_did_what(demo_house, enter):
    page = enter(demo_house, MAREN, to="/keeping")
    page.get_by_label("Everything, days").fill("15")
    page.get_by_role("button", name="See what it would take").click()
    expect(page.get_by_text(re.compile("things go within thirty days"))).to_be_visible()
    page.get_by_role("button", name="Say so").click()
    rules = page.get_by_role("region", name="For how long")
    expect(rules.get_by_text("everything: 15 days")).to_be_visible()
    expect(page.get_by_role("region", name="What goes soon").get_by_role("listitem").first).to_be_visible()
    expect(page.get_by_text("speech recognition")).to_be_visible()
    assert serious(page) == []
    rules.get_by_role("button", name="Take the rule for all meetings back").click()
    expect(rules.get_by_text("Everything is kept until somebody deletes it.", exact=False)).to_be_visible()
    # A meeting that is held says so, and by whom.
    page.goto(f"{demo_house.url}/meetings/{meeting_id(demo_house, 'Heating')}/settings")
    hold = page.get_by_role("region", name="For how long it is kept")
    hold.get_by_label("Why it is held").fill("The insurer asks")
    hold.get_by_role("button", name="Hold it").click()
    expect(hold.get_by_text(re.compile("Held by Maren Tollefsen since .*: The insurer asks"))).to_be_visible()
    hold.get_by_role("button", name="Hold it no more").click()
    expect(hold.get_by_role("button", name="Hold it")).to_be_visible()
    page.goto(demo_house.url + "/audit")
    page.get_by_label("What").select_option("hold")
    expect(page.get_by_role("row").filter(has_text="Maren Tollefsen")).to_have_count(1)
    expect(page).to_have_url(re.compile("verb=hold"))
    assert serious(page) == []


def test_everything_on_a_person_is_seen_before_they_are_erased(demo_house, enter):
    page = enter(demo_house, MAREN, to="/keeping")
    somebody = page.get_by_role("region", name="A person")
    somebody.get_by_label("Name").fill("nobody of the kind")
    expect(somebody.get_by_text("Nobody here is called so.")).to_be_visible()
    somebody.get_by_label("Name").fill("renn")
    somebody.get_by_role("button", name=re.compile("^Tobias Renn")).click()
    expect(somebody.get_by_text(re.compile(r"\d+ meetings, \d+ lines said"))).to_be_visible()
    with page.expect_download() as taken:
        somebody.get_by_role("link", name="Take it as a file").click()
    assert "Tobias Renn" in taken.value.path().read_text(encoding="utf-8")
    somebody.get_by_role("button", name="Erase them").click()
    leaf = page.get_by_role("dialog")
    assert serious(page) == []
    leaf.get_by_label("Your own name, as a signature").fill("Somebody else")
    leaf.get_by_role("button", name="Erase them").click()
    expect(leaf.get_by_role("alert")).to_contain_text("Type your own name")
    leaf.get_by_role("button", name="Leave it").click()
    assert serious(page) == []


def test_a_passkey_stands_for_password_and_code_and_a_session_elsewhere_is_ended(demo_house, chromium):
    # Passkeys are bound to a name: an address in figures has none.
    url = demo_house.url.replace("127.0.0.1", "localhost")
    kept(demo_house, f'User.objects.create_user("wren@larkmoor.example", "{PASSWORD}", name="Wren Adeyemi")\nMembership.objects.create(user=User.objects.get(email="wren@larkmoor.example"), workspace=Workspace.objects.get(), role="member")')
    context, other = chromium.new_context(locale="en-GB"), chromium.new_context(locale="en-GB", user_agent="Tablet in the glasshouse")
    try:
        pages = []
        for one in (context, other):
            page = one.new_page()
            page.goto(url + "/sign-in")
            page.get_by_label("E-mail").fill("wren@larkmoor.example")
            page.get_by_label("Password").fill(PASSWORD)
            page.get_by_role("button", name="Sign in").click()
            expect(page.get_by_role("navigation", name="Main")).to_be_visible()
            pages.append(page)
        page, elsewhere = pages
        devtools = context.new_cdp_session(page)
        devtools.send("WebAuthn.enable")
        devtools.send(
            "WebAuthn.addVirtualAuthenticator",
            {"options": {"protocol": "ctap2", "transport": "internal", "hasResidentKey": True, "hasUserVerification": True, "isUserVerified": True}},
        )
        page.goto(url + "/account")
        signing = page.get_by_role("region", name="How I sign in")
        signing.get_by_label("What it is on").fill("Field notebook")
        signing.get_by_role("button", name="Add a passkey").click()
        page.get_by_role("dialog").get_by_label("Password").fill(PASSWORD)
        page.get_by_role("dialog").get_by_role("button", name="Go on").click()
        expect(signing.get_by_text("Field notebook")).to_be_visible()
        assert serious(page) == []
        signing.get_by_role("button", name="End the session of Tablet in the glasshouse").click()
        expect(signing.get_by_text("Tablet in the glasshouse")).to_have_count(0)
        elsewhere.reload()
        expect(elsewhere.get_by_role("heading", name="Sign in")).to_be_visible()
        # Out, and in again without a password; with the password alone one does not come in any more.
        page.get_by_role("button", name=re.compile("^Account")).click()
        page.get_by_role("menuitem", name="Sign out").click()
        page.get_by_label("E-mail").fill("wren@larkmoor.example")
        page.get_by_label("Password").fill(PASSWORD)
        page.get_by_role("button", name="Sign in", exact=True).click()
        expect(page.get_by_role("heading", name="The second factor")).to_be_visible()
        assert serious(page) == []
        page.goto(url + "/sign-in")
        page.get_by_role("button", name="With a passkey").click()
        expect(page.get_by_role("navigation", name="Main")).to_be_visible()
    finally:
        context.close()
        other.close()


def test_one_ties_an_identity_and_comes_in_by_way_of_it(house, enter):
    gate, _ = serve(CLIENT, SECRET, house.identity_port)
    page = enter(house, IDRIS, to="/sign-in?to=/account")
    page.goto(f"{house.url}/account")
    page.get_by_role("button", name="Tie it to The front gate").click()
    page.get_by_role("button", name="Idris Quaye").click()
    expect(page.get_by_role("button", name=re.compile("Tie it to|Untie it|Go on")).first).to_be_visible()
    again = page.get_by_role("dialog")
    if again.count():  # who one is was last shown too long ago
        again.get_by_label("Password").fill(PASSWORD)
        again.get_by_role("button", name="Go on").click()
        page.get_by_role("button", name="Idris Quaye").click()
    expect(page.get_by_text("Tied to The front gate.")).to_be_visible()
    assert serious(page) == []
    page.context.clear_cookies()
    page.goto(f"{house.url}/sign-in?to=/library")
    page.get_by_role("button", name="By way of The front gate").click()
    page.get_by_role("button", name="Maren Tollefsen").click()
    expect(page.get_by_role("alert")).to_contain_text("Sign in with its password once")
    page.get_by_role("button", name="By way of The front gate").click()
    page.get_by_role("button", name="Idris Quaye").click()
    expect(page.get_by_role("heading", name="Library")).to_be_visible()
    gate.shutdown()
