"""Mail to the clerk: who sends it, and what the invitations in it come to."""

from __future__ import annotations

from datetime import UTC, datetime
from email.message import EmailMessage

import pytest

from core.planning.events import Status, read_events
from core.planning.letters import read_letter, taken_in, vouched_for
from core.planning.links import link_in
from core.problems import InputProblem

SINCE, UNTIL = datetime(2026, 3, 1, tzinfo=UTC), datetime(2026, 4, 1, tzinfo=UTC)


def event(method: str = "REQUEST", sequence: int = 0, start: str = "20260306T090000Z", stamp: str = "20260301T000000Z", **more: str) -> str:
    facts = {"UID": "works-1", "SEQUENCE": str(sequence), "DTSTAMP": stamp, "DTSTART": start, "SUMMARY": "Works meeting", **{name.replace("_", "-"): value for name, value in more.items()}}
    lines = ["BEGIN:VCALENDAR", "VERSION:2.0", f"METHOD:{method}", "BEGIN:VEVENT", *(f"{name}:{value}" for name, value in facts.items()), "END:VEVENT", "END:VCALENDAR"]
    return "\r\n".join(lines) + "\r\n"


def letter(*calendars: str, text: str = "", sender: str = "Maren Tollefsen <Maren@Larkmoor.example>", subject: str = "Fwd: Works meeting") -> EmailMessage:
    message = EmailMessage()
    message["From"], message["Subject"], message["Message-ID"] = sender, subject, "<1@larkmoor.example>"
    message.set_content(text or "See the invitation.")
    for one in calendars:
        message.add_attachment(one.encode(), "text", "calendar", filename="invite.ics", params={"method": "REQUEST"})
    return message


def planned(*letters: str) -> list:
    kept: dict[str, str] = {}
    for one in letters:
        kept |= taken_in(kept, one)
    return [found for text in kept.values() for found in read_events(text.encode(), SINCE, UNTIL).events]


def test_a_mail_is_read_with_the_invitation_it_forwards():
    inner, outer = letter(event()), EmailMessage()
    outer["From"], outer["Subject"], outer["Message-ID"] = "Idris <idris@larkmoor.example>", "WG: Fwd: Works meeting", "<2@x>"
    outer.set_content("For you.")
    outer.add_attachment(inner)
    found = read_letter(outer.as_bytes())
    assert (found.sender, found.subject, len(found.invitations)) == ("idris@larkmoor.example", "Works meeting", 1)
    twice = read_letter(letter(event(), event()).as_bytes())
    assert twice.sender == "maren@larkmoor.example" and len(twice.invitations) == 1


def test_a_link_is_found_in_text_and_in_html():
    message = letter(text="Join us: https://calls.example/join/palm-house\nPasscode: 4711")
    message.add_alternative("<p>Come <a href='https://calls.example/join/palm-house'>in</a></p>", subtype="html")
    link = link_in(read_letter(message.as_bytes()).words, {"https://calls.example": "whep"})
    assert link and (link.address, link.passcode) == ("https://calls.example/join/palm-house", "4711")


@pytest.mark.parametrize("broken", [b"", b"\xff\xfe\x00", b"From: \xe9\xe9@\r\nContent-Type: text/calendar; charset=nobody\r\n\r\nBEGIN:VCALENDAR", b"Content-Type: multipart/mixed; boundary=\r\n\r\n--"])
def test_mail_that_breaks_the_rules_is_read_as_far_as_it_goes(broken):
    assert read_letter(broken).sender in ("", "éé@")


def test_the_later_revision_counts_whichever_comes_first():
    """RFC 5546, 2.1.5: by SEQUENCE, then by DTSTAMP."""
    moved = event(sequence=1, start="20260307T090000Z")
    for order in ([event(), moved], [moved, event()], [event(), moved, event(stamp="20260302T000000Z")]):
        [found] = planned(*order)
        assert found.start.day == 7
    [found] = planned(event(), event(stamp="20260302T000000Z", start="20260308T090000Z"))
    assert found.start.day == 8


def test_what_is_called_off_is_called_off():
    """RFC 5546, 3.2.5: a CANCEL may carry hardly more than the UID."""
    off = "BEGIN:VCALENDAR\r\nMETHOD:CANCEL\r\nBEGIN:VEVENT\r\nUID:works-1\r\nSEQUENCE:1\r\nDTSTAMP:20260302T000000Z\r\nEND:VEVENT\r\nEND:VCALENDAR"
    [found] = planned(event(), off)
    assert found.status == Status.CANCELLED and found.title == "Works meeting"


def test_one_of_a_series_is_moved_called_off_and_forgotten_when_all_move():
    weekly = event(RRULE="FREQ=WEEKLY;COUNT=3")
    moved = event(sequence=1, start="20260313T150000Z", RECURRENCE_ID="20260313T090000Z")
    off = event("CANCEL", 1, start="20260320T090000Z", RECURRENCE_ID="20260320T090000Z")
    found = planned(weekly, moved, off)
    assert [(one.start.day, one.start.hour, one.status) for one in found] == [(6, 9, "confirmed"), (13, 15, "confirmed"), (20, 9, "cancelled")]
    anew = event(sequence=2, start="20260305T100000Z", RRULE="FREQ=WEEKLY;COUNT=3")
    assert [(one.start.day, one.start.hour) for one in planned(weekly, moved, off, anew)] == [(5, 10), (12, 10), (19, 10)]


def test_answers_are_no_invitations_and_what_is_no_calendar_is_said():
    assert taken_in({}, event("REPLY")) == {}
    with pytest.raises(InputProblem, match="cut off"):
        taken_in({}, "BEGIN:VCALENDAR\r\nBEGIN:VEVENT\r\n")


@pytest.mark.parametrize(
    ("headers", "vouched"),
    [
        (["mx.larkmoor.example; dkim=pass header.d=larkmoor.example; dmarc=pass (p=reject) header.from=larkmoor.example"], True),
        (["mx.larkmoor.example 1; dmarc = PASS"], True),
        (["mx.larkmoor.example; dkim=pass; dmarc=fail"], False),
        (["mx.larkmoor.example; spf=pass (dmarc=pass)"], False),
        (["mx.elsewhere.example; dmarc=pass"], False),
        (["mx.larkmoor.example; dmarc=fail", "mx.larkmoor.example; dmarc=pass"], False),
        ([], False),
    ],
)
def test_the_judge_alone_vouches_for_a_sender(headers, vouched):
    """The forms of RFC 8601, appendix B."""
    message = letter()
    data = "".join(f"Authentication-Results: {one}\r\n" for one in headers).encode() + message.as_bytes()
    assert vouched_for(data, "mx.larkmoor.example") is vouched
