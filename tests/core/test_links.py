"""Forty ways in which the link of a call and its passcode are written in invitations. The hosts are made up; the forms are common practice."""

import pytest

from core.planning.links import Source, conferences, link_in, unwrapped

HOUSE = "https://calls.larkmoor.example/rooms/palm-house"
KNOWN = conferences(["rooms=https://calls.larkmoor.example/rooms"])

WAYS = [
    # where, text, address, passcode
    ("conference", HOUSE, HOUSE, ""),
    ("conference", "https://anything.example/x9", "https://anything.example/x9", ""),
    ("property", "https://meet.example/abc-defg-hij", "https://meet.example/abc-defg-hij", ""),
    ("address", "https://video.example/j/96012345678?pwd=Zm9vYmFy", "https://video.example/j/96012345678?pwd=Zm9vYmFy", "Zm9vYmFy"),
    ("place", HOUSE, HOUSE, ""),
    ("place", "Potting shed; https://conf.example/room/glazing", "https://conf.example/room/glazing", ""),
    ("place", f"Online ({HOUSE})", HOUSE, ""),
    ("text", f"Join the call: {HOUSE}\nPasscode: 4711", HOUSE, "4711"),
    ("text", f"Join the call:\n{HOUSE}\n\nPasscode:\n4711", HOUSE, "4711"),
    ("text", f"{HOUSE}\nMeeting password is fern-leaf.", HOUSE, "fern-leaf"),
    ("text", f"Join: <{HOUSE}>", HOUSE, ""),
    ("text", f"Join here ({HOUSE}).", HOUSE, ""),
    ("text", f"*Join* {HOUSE}*", HOUSE, ""),
    ("text", f"Call link {HOUSE}, PIN 271828", HOUSE, "271828"),
    ("text", f"{HOUSE}?pwd=in-the-link Passcode: in-words", f"{HOUSE}?pwd=in-the-link", "in-the-link"),
    ("text", f"{HOUSE}#pwd=after-the-cross", f"{HOUSE}#pwd=after-the-cross", "after-the-cross"),
    ("text", f"Passcode: 990011\nTo join: {HOUSE}", HOUSE, "990011"),
    ("text", f"{HOUSE}\nAccess code: 31 41\nHost PIN: 9999", HOUSE, ""),
    ("text", f"{HOUSE}\nPhone passcode: 5550\nPasscode: moss", HOUSE, "moss"),
    ("text", f"Teilnehmen: {HOUSE}\nKenncode: Ahorn7", HOUSE, "Ahorn7"),
    ("text", f"Unirse a la reunión: {HOUSE}\nCódigo de acceso: helecho9", HOUSE, "helecho9"),
    ("text", f"Rejoindre : {HOUSE}\nMot de passe : fougere", HOUSE, "fougere"),
    ("text", f"Deelnemen: {HOUSE}\nWachtwoord: varen12", HOUSE, "varen12"),
    ("text", f"Partecipa: {HOUSE}\nCodice di accesso: felce", HOUSE, "felce"),
    ("text", f"Entrar: {HOUSE}\nSenha: samambaia", HOUSE, "samambaia"),
    ("text", f"A passcode is required. {HOUSE}", HOUSE, ""),
    ("text", "Join: https://guard.example/?url=https%3A%2F%2Fcalls.larkmoor.example%2Frooms%2Fpalm-house&data=05%7C02&reserved=0", HOUSE, ""),
    ("text", "Join: https://www.find.example/url?q=https://calls.larkmoor.example/rooms/palm-house&sa=D&usg=AOv", HOUSE, ""),
    ("text", f"Join: https://guard.example/v3/__{HOUSE}__;!!Ab12!xYz$", HOUSE, ""),
    ("text", "Join: https://guard.example/v2/url?u=https-3A__calls.larkmoor.example_rooms_palm-2Dhouse&d=DwMF", HOUSE, ""),
    (
        "text",
        "Join: https://one.example/?u=https%3A%2F%2Ftwo.example%2F%3Furl%3Dhttps%253A%252F%252Fcalls.larkmoor.example%252Frooms%252Fpalm-house",
        HOUSE,
        "",
    ),
    ("html", f'<p>Hello</p><a href="{HOUSE}">Join the call</a><br>Passcode: <b>4711</b>', HOUSE, "4711"),
    ("html", f'<table><tr><td>Passcode</td><td>: 4711</td></tr></table><a href="{HOUSE}">{HOUSE}</a>', HOUSE, "4711"),
    ("html", f'<a href="https://guard.example/?url={HOUSE}&amp;x=1">here</a>', HOUSE, ""),
    ("text", f'<html><body>Agenda<br><a href="{HOUSE}">Join</a></body></html>', HOUSE, ""),
    ("text", "Join https://web.example/l/meetup-join/19%3ameeting_abc%40thread/0?context=%7b%7d", "https://web.example/l/meetup-join/19%3ameeting_abc%40thread/0?context=%7b%7d", ""),
    ("text", "Click to enter the video call\nhttps://somewhere.example/abc", "https://somewhere.example/abc", ""),
    ("text", f"Agenda: https://docs.example/document/d/1x\nMinutes: https://wiki.example/page\nJoin: {HOUSE}", HOUSE, ""),
    ("text", "Learn more: https://video.example/help/j/1\nMeeting options: https://video.example/meetingOptions/r/2", None, ""),
    ("text", "See you in the shed. Map: https://maps.example/place/4", None, ""),
]


@pytest.mark.parametrize(("where", "text", "address", "passcode"), WAYS, ids=range(1, len(WAYS) + 1))
def test_forty_ways(where, text, address, passcode):
    link = link_in([Source(where, text)], KNOWN)
    assert (link and link.address, link.passcode if link else "") == (address, passcode)
    assert len(WAYS) == 40


def test_of_several_the_one_to_a_conference_we_know_and_why():
    other = "https://video.example/j/123456789"
    link = link_in([Source("place", other), Source("text", f"Or join {HOUSE}")], KNOWN)
    assert (link.address, link.adapter) == (HOUSE, "rooms") and "we know" in link.why
    link = link_in([Source("text", "Join https://a.example/j/1 or https://b.example/j/2"), Source("place", other)])
    assert (link.address, link.adapter) == (other, "") and "comes first" in link.why


def test_a_call_is_the_same_for_all_who_are_asked():
    """Whatever passcodes and tracks their links carry; another room is another call."""
    ways = [HOUSE, f"{HOUSE}/", f"{HOUSE}?pwd=a", f"{HOUSE}?utm_source=mail", HOUSE.replace("calls", "CALLS"), f"{HOUSE}#pwd=b"]
    calls = {link_in([Source("conference", way)]).call for way in ways}
    assert len(calls) == 1
    assert link_in([Source("conference", f"{HOUSE}-2")]).call not in calls
    assert link_in([Source("conference", "https://v.example/room?id=1")]).call != link_in([Source("conference", "https://v.example/room?id=2")]).call


def test_what_is_under_a_known_address_is_known_and_what_only_looks_like_it_is_not():
    for strange in ("https://calls.larkmoor.example.evil.example/rooms/x", "https://calls.larkmoor.example/roomsx/1", "http://calls.larkmoor.example/rooms/x"):
        assert link_in([Source("conference", strange)], KNOWN).adapter == ""


def test_wrapping_ends():
    """Addresses that wrap themselves without end, and those that wrap nothing."""
    deep = HOUSE
    for _ in range(12):
        deep = f"https://guard.example/?url={deep.replace('%', '%25').replace('&', '%26').replace('?', '%3F')}"
    assert unwrapped(deep).startswith("https://")
    assert unwrapped("https://plain.example/path?u=7") == "https://plain.example/path?u=7"
    assert link_in([Source("text", "https://[broken Join http://")]) is None
