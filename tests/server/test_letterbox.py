"""Mail to the clerk, handed in as a mail server does: an invitation is a yes, a link sends it now, and nobody else's mail does anything."""

from __future__ import annotations

import smtplib
from datetime import UTC, datetime, timedelta
from email.message import EmailMessage

import pytest
from aiosmtpd.lmtp import LMTP
from aiosmtpd.smtp import SMTP
from django.db import OperationalError
from django.utils import timezone

from house.postgres import free_port
from server.calendars.models import Calendar, CalendarKind, Planned
from server.clerk.models import Visit
from server.letterbox.actions import take_letter
from server.letterbox.management.commands import letterbox
from server.letterbox.models import Arrived
from server.mail.models import Letter
from server.mail.post import replied_to
from server.meetings.models import Meeting
from server.notes.models import Comment
from tests.server.conftest import TALK, delivered

ROOM = "https://calls.standin.example/join/palm-house"
MAREN, IDRIS = "Maren Tollefsen <Maren@larkmoor.example>", "Idris Quaye <idris@larkmoor.example>"


@pytest.fixture(autouse=True)
def domain(settings):
    settings.CONFERENCES, settings.MAIL_DOMAIN = ["whep=https://calls.standin.example"], "post.larkmoor.example"


@pytest.fixture(params=[(SMTP, smtplib.SMTP)])
def hand_in(request, transactional_db, maren):
    """Hands a letter to the clerk in: hand_in(text=, sender=, calendar=, key=, to=). Returns nothing, or raises what smtplib does."""
    kind, client = request.param
    door = letterbox.Door(letterbox.Letterbox(), kind, hostname="127.0.0.1", port=free_port(18900))
    door.start()

    def send(text: str = "", sender: str = MAREN, calendar: str = "", key: str = "1", to: str = "", subject: str = "Fwd: Glazing", **headers: str) -> None:
        message = EmailMessage()
        message["From"], message["Subject"], message["Message-ID"] = sender, subject, f"<{key}@mail.example>"
        for name, value in headers.items():
            message[name.replace("_", "-")] = value
        message.set_content(text or "See there.")
        if calendar:
            message.add_alternative(calendar.encode(), "text", "calendar", params={"method": "REQUEST"})
        with client("127.0.0.1", door.port, timeout=10) as session:
            session.ehlo("mail.example")
            session.sendmail("bounces@mail.example", to or maren.workspace.clerk_address, message.as_bytes())

    yield send
    door.stop()


def invitation(minutes: float = 5, method: str = "REQUEST", link: str = ROOM, **more: str) -> str:
    start = f"{datetime.now(UTC) + timedelta(minutes=minutes):%Y%m%dT%H%M%SZ}"
    facts = {"UID": "glazing", "DTSTAMP": "20260301T000000Z", "DTSTART": start, "DURATION": "PT30M", "SUMMARY": "Glazing", "LOCATION": link, **more}
    return "\r\n".join(["BEGIN:VCALENDAR", "VERSION:2.0", f"METHOD:{method}", "BEGIN:VEVENT", *(f"{k}:{v}" for k, v in facts.items()), "END:VEVENT", "END:VCALENDAR", ""])


def outcome(member) -> tuple[bool, str]:
    found = member.letters.first()
    return found.goes, found.words


def test_an_invitation_is_a_yes_until_it_is_called_off(hand_in, maren, caller):
    hand_in(calendar=invitation())
    [visit] = Visit.objects.all()
    assert (visit.title, visit.asked_by, visit.why) == ("Glazing", maren, "goes, because Maren Tollefsen sent it the invitation")
    assert outcome(maren)[0] and "the clerk goes, because" in outcome(maren)[1]
    assert Letter.objects.get().to == "maren@larkmoor.example"
    hand_in(calendar=invitation())  # the same letter, sent again by a server that heard no answer
    assert (Arrived.objects.count(), Letter.objects.count(), Planned.objects.count()) == (1, 1, 1)
    hand_in(calendar=invitation(method="CANCEL", SEQUENCE="1"), key="2")
    assert not Visit.objects.exists() and "stays away, because the meeting is called off" in outcome(maren)[1]
    shown = caller(maren)("get", "/api/letterbox").json()
    assert shown["address"] == maren.workspace.clerk_address and [one["goes"] for one in shown["letters"]] == [False, True]


def test_a_link_in_a_mail_sends_it_there_now(hand_in, maren):
    hand_in(f"Are you coming?\n\n{ROOM}?pass=4711")
    visit = Visit.objects.get()
    assert (visit.title, visit.passcode, visit.uid) == ("Glazing", "4711", "") and visit.starts_at <= timezone.now()
    hand_in("Lunch at noon?", key="2")
    assert outcome(maren) == (False, "There is no link to a call in that. Paste the address that one joins by, beginning with https://.")


@pytest.mark.parametrize(
    ("calendar", "words"),
    [
        ({"minutes": -120}, "It is over already"),
        ({"minutes": 70 * 24 * 60}, "more than nine weeks ahead"),
        ({"link": "Potting shed"}, "has no link to a call"),
        ({"method": "REPLY"}, "no invitation"),
    ],
)
def test_what_comes_of_an_invitation_is_told(hand_in, maren, calendar, words):
    hand_in(calendar=invitation(**calendar))
    assert words in outcome(maren)[1] and not Visit.objects.exists() and Letter.objects.count() == 1


def test_who_has_it_among_those_invited_need_send_nothing(hand_in, maren, member):
    idris = member("Idris Quaye")
    asked = f"mailto:{maren.workspace.clerk_address.upper()}"
    from server.calendars.actions.connect import give_calendar

    give_calendar(idris, "Works", invitation(method="PUBLISH", **{"ATTENDEE;CN=Clerk": asked, "ORGANIZER": "mailto:idris@larkmoor.example", "CLASS": "PRIVATE"}))
    row = Planned.objects.get()
    assert row.clerk_asked and [one["address"] for one in row.people] == ["idris@larkmoor.example"]
    from server.clerk.visits import plan_visits

    plan_visits(maren.workspace, timezone.now())
    assert Visit.objects.get().why == "goes, because it is among those invited"


def test_nobody_elses_mail_does_anything(hand_in, maren, member, settings):
    member("Gwen Castellow", "guest")
    for number, sender in enumerate(("gwen@larkmoor.example", "stranger@elsewhere.example", "not an address", "")):
        hand_in(calendar=invitation(), sender=sender or "<>", key=str(number))
    settings.MAIL_JUDGE = "mx.larkmoor.example"
    hand_in(calendar=invitation(), key="forged")
    assert not (Arrived.objects.exists() or Visit.objects.exists() or Planned.objects.exists() or Letter.objects.exists())
    hand_in(calendar=invitation(), key="own", Authentication_Results="mx.larkmoor.example; dmarc=pass")
    assert Visit.objects.count() == 1
    for address in ("clerk-nobody@post.larkmoor.example", maren.workspace.clerk_address.replace("post.", "elsewhere."), "maren@post.larkmoor.example"):
        with pytest.raises(smtplib.SMTPRecipientsRefused):
            hand_in(f"Come: {ROOM}", to=address, key=address)


def test_from_within_a_call_that_a_member_has_in_the_calendar(hand_in, maren, member):
    sent_by_it = {"text": f"You are asked to join: {ROOM}", "sender": "calls <no-reply@standin.example>", "subject": "Join us"}
    hand_in(**sent_by_it)
    assert not Visit.objects.exists()
    calendar = Calendar.objects.create(membership=maren, kind=CalendarKind.FILE, name="Works")
    begun = timezone.now() - timedelta(minutes=5)
    Planned.objects.create(calendar=calendar, uid="a", start=begun, end=begun + timedelta(hours=1), status="confirmed", title="Glazing", link=ROOM)
    hand_in(**{**sent_by_it, "sender": "no-reply@elsewhere.example"}, key="2")
    assert not Visit.objects.exists()
    hand_in(**sent_by_it, key="3")
    assert Visit.objects.get().asked_by == maren


def test_what_cannot_be_taken_now_is_to_come_again(hand_in, maren, monkeypatch):
    taken = take_letter.take_letter
    monkeypatch.setattr(letterbox, "take_letter", lambda *given: (_ for _ in ()).throw(OperationalError("gone")))
    with pytest.raises(smtplib.SMTPDataError, match="come again later"):
        hand_in(calendar=invitation())
    monkeypatch.setattr(letterbox, "take_letter", taken)
    monkeypatch.setattr(take_letter, "MOST_AN_HOUR", 1)
    hand_in(calendar=invitation())
    with pytest.raises(smtplib.SMTPDataError, match="which is the most"):
        hand_in(calendar=invitation(), key="2")


@pytest.mark.parametrize("hand_in", [(LMTP, smtplib.LMTP)], indirect=True)
def test_by_lmtp_too_and_the_old_address_is_refused_once_it_is_renewed(hand_in, maren, member, caller):
    hand_in(calendar=invitation())
    assert Visit.objects.count() == 1
    old = maren.workspace.clerk_address
    assert caller(member("Idris Quaye"))("post", "/api/letterbox/renew").status_code == 403
    new = caller(maren)("post", "/api/letterbox/renew").json()["address"]
    assert new != old
    with pytest.raises(smtplib.SMTPRecipientsRefused):
        hand_in(f"Come: {ROOM}", to=old, key="2")
    hand_in(f"Come: {ROOM}", to=new, key="3")
    assert outcome(maren)[0]


def test_without_a_domain_there_is_no_address(caller, maren, settings):
    settings.MAIL_DOMAIN = ""
    assert caller(maren)("get", "/api/letterbox").json() == {"address": "", "letters": [], "senders": []}


def with_file(name: str, data: bytes, sender: str = MAREN, subject: str = "Locks", key: str = "1", to: str = "", text: str = "See there.") -> EmailMessage:
    message = EmailMessage()
    message["From"], message["Subject"], message["Message-ID"], message["Date"] = sender, subject, f"<{key}@mail.example>", "Tue, 03 Mar 2026 09:30:00 +0000"
    message.set_content(text)
    if name:
        message.add_attachment(data, maintype="application", subtype="octet-stream", filename=name)
    return message


def test_recordings_and_transcripts_that_are_attached_become_meetings(transactional_db, maren, settings, tmp_path):
    settings.MEDIA_ROOT, settings.FILE_UPLOAD_TEMP_DIR, settings.MAIL_JUDGE = tmp_path / "media", tmp_path / "incoming", ""
    mail = with_file("locks 2026-03-02 1015.vtt", TALK.encode()).as_bytes()
    for _ in range(2):  # twice, as mail servers do
        take_letter.take_letter(maren.workspace, mail)
    [meeting] = Meeting.objects.all()
    assert (meeting.title, meeting.created_by, meeting.started_at) == ("Locks", maren.user, datetime(2026, 3, 2, 10, 15, tzinfo=UTC))
    assert "has become a meeting" in outcome(maren)[1]
    take_letter.take_letter(maren.workspace, with_file("again.vtt", TALK.encode(), key="2").as_bytes())
    assert "in the library already" in outcome(maren)[1]
    take_letter.take_letter(maren.workspace, with_file("picture.vtt", b"\x89PNG", key="3").as_bytes())
    assert "picture.vtt" in outcome(maren)[1] and Meeting.objects.count() == 1


def test_of_whom_nobody_vouches_nothing_is_taken_but_from_addresses_that_are_listed(transactional_db, maren, member, caller, settings, tmp_path):
    settings.MEDIA_ROOT, settings.FILE_UPLOAD_TEMP_DIR, settings.MAIL_JUDGE = tmp_path / "media", tmp_path / "incoming", "mx.larkmoor.example"
    forged = with_file("locks.vtt", TALK.encode())
    forged["Authentication-Results"] = "mx.larkmoor.example; dmarc=fail"
    take_letter.take_letter(maren.workspace, forged.as_bytes())
    assert not Meeting.objects.exists()
    call = caller(maren)
    assert call("post", "/api/letterbox/senders", {"address": "recorder@shed.example"}).json()["senders"][0]["address"] == "recorder@shed.example"
    assert call("post", "/api/letterbox/senders", {"address": "nobody"}).status_code == 422
    idris = member("Idris Quaye")
    assert caller(idris)("post", "/api/letterbox/senders", {"address": "recorder@shed.example"}).status_code == 409
    assert caller(idris)("post", "/api/letterbox/senders", {"address": "maren@larkmoor.example"}).status_code == 409
    take_letter.take_letter(maren.workspace, with_file("locks.vtt", TALK.encode(), sender="Recorder <recorder@shed.example>").as_bytes())
    assert Meeting.objects.get().created_by == maren.user
    assert call("delete", f"/api/letterbox/senders/{maren.senders.get().pk}").json()["senders"] == []


def test_an_answer_to_minutes_is_a_comment_of_whoever_they_went_to(transactional_db, maren, member, make_meeting, settings, caller):
    meeting, idris = make_meeting(maren, visibility="named", people=["Idris Quaye"]), member("Idris Quaye")
    meeting.readers.create(user=idris.user)
    whom = [idris.user.people.get().pk]
    caller(maren)("put", f"/api/meetings/{meeting.pk}/receivers", {"people": whom, "going": "looked over"})
    assert caller(maren)("post", f"/api/meetings/{meeting.pk}/minutes/send", {"people": whom, "form": "pdf"}).status_code == 200
    sent = next(one for one in delivered() if one.subject.startswith("Minutes"))
    assert sent.reply_to[0] == "maren@larkmoor.example" and sent.reply_to[1].startswith("reply-")
    letter = replied_to(sent.reply_to[1].upper())
    assert letter.to == "idris@larkmoor.example" and replied_to(sent.reply_to[1].replace("-", "-1", 1)) is None

    def answer(sender: str, key: str, text: str = "I ordered it.\n\nOn Tue, 3 Mar 2026 at 10:00, Aftershower <a@b.example> wrote:\n> Minutes\n") -> None:
        take_letter.take_reply(letter, with_file("", b"", sender, "Re: Minutes", key, text=text).as_bytes())

    answer(MAREN, "1")  # they did not go to her
    answer(IDRIS, "2")
    answer(IDRIS, "2")
    comment = Comment.objects.get()
    assert (comment.text, comment.user) == ("I ordered it.", idris.user)
    answer(IDRIS, "3", "Hecho.\n\nEl mar, 3 mar 2026, Aftershower escribió:\n> x\n-- \nIdris")
    assert Comment.objects.order_by("pk").last().text == "Hecho."
    meeting.readers.all().delete()
    answer(IDRIS, "4")
    assert Comment.objects.count() == 2 and "not shared with you" in outcome(idris)[1]
