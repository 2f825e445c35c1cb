"""Mail to the clerk: who sends it, the invitations in it (iTIP, RFC 5546, as mail carries it: RFC 6047), or the words that a link stands in."""

from __future__ import annotations

import email
import email.policy
import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from email.message import EmailMessage
from email.utils import parseaddr, parsedate_to_datetime
from typing import Any

from icalendar import Calendar
from mailparser_reply import EmailReplyParser

from core.planning.events import MOST_BYTES, read_calendars
from core.planning.links import Source
from core.text import one_line

_TAKEN = ("", "REQUEST", "PUBLISH", "ADD", "CANCEL")
"""Methods by which an organiser says what is planned; the others are talk between those invited and the organiser."""
_REPLIES = EmailReplyParser(languages=["en", "es", "de", "fr", "it", "pt"])
_DEEPEST = 6
"""Mails within a mail that are looked into: one that is forwarded carries the invitation inside it."""


@dataclass(frozen=True, slots=True)
class Letter:
    """A mail, as far as the clerk cares. sender: an address in small letters. invitations: each an iCalendar object as it came. files: what is attached,
    each with its name. at: when it says it was written."""

    sender: str
    key: str
    subject: str
    invitations: tuple[str, ...]
    words: tuple[Source, ...]
    files: tuple[tuple[str, bytes], ...] = ()
    at: datetime | None = None

    @property
    def reply(self) -> str:
        """What was written in it, without what it answers and without a signature."""
        plain = next((one.text for one in self.words if one.where == "text"), "")
        before = re.split(r"^-- ?$", plain, maxsplit=1, flags=re.MULTILINE)[0]  # RFC 3676, 4.3
        lines = (_REPLIES.parse_reply(text=before) or "").rstrip().split("\n")
        quoted = False
        while lines and (lines[-1].startswith(">") or not lines[-1].strip()):
            quoted = quoted or lines.pop().startswith(">")
        # Above what is quoted stands whose it is, in whatever language.
        return "\n".join(lines[:-1] if quoted and lines[-1:] and lines[-1].rstrip().endswith(":") else lines).strip()


def read_letter(data: bytes) -> Letter:
    """Read a mail (RFC 5322). What cannot be read of it is left out: mail is written by everybody's program."""
    message = email.message_from_bytes(data, policy=email.policy.default)
    assert isinstance(message, EmailMessage)
    invitations: list[str] = []
    words: list[Source] = []
    files: list[tuple[str, bytes]] = []
    for part in _parts(message):
        kind, called = part.get_content_type(), one_line(part.get_filename() or "")[:200]
        name, text = called.lower(), _text(part) if part.get_content_maintype() in ("text", "application") else ""
        if kind in ("text/calendar", "application/ics") or name.endswith(".ics"):
            # The same invitation usually comes twice: once to be read by the mail program, once to be saved.
            if len(text) <= MOST_BYTES and text.strip() not in invitations:
                invitations.append(text.strip())
        elif kind in ("text/plain", "text/html") and part.get_content_disposition() != "attachment":
            words.append(Source("html" if kind == "text/html" else "text", text))
        elif called and isinstance(held := part.get_payload(decode=True), bytes):
            files.append((called, held))
    return Letter(
        parseaddr(_header(message, "From"))[1].lower()[:254],
        one_line(_header(message, "Message-ID"))[:400],
        _bare_subject(one_line(_header(message, "Subject")))[:200],
        tuple(invitations),
        tuple(words),
        tuple(files),
        _written_at(message),
    )


def vouched_for(data: bytes, judge: str) -> bool:
    """Does `judge`, the mail server that let it in, say that the sender's domain stands by this mail (DMARC; RFC 8601)?

    Only the first header of that name counts: those below it may have been written by anybody.
    """
    message = email.message_from_bytes(data, policy=email.policy.compat32)
    said = next((str(value) for value in message.get_all("Authentication-Results", [])), "")
    who, _, results = said.partition(";")
    return who.split()[:1] == [judge] and re.search(r"(?:^|;)\s*dmarc\s*=\s*pass\b", re.sub(r"\([^()]*\)", " ", results), re.IGNORECASE) is not None


def taken_in(kept: Mapping[str, str], arrived: str) -> dict[str, str]:
    """What the invitations to each event so far come to with one that has arrived: UID → iCalendar. An older one than is known changes nothing.

    kept: what they came to before, by UID; of events that are not in `arrived` nothing is given back. Raises InputProblem where what has
    arrived is no invitation.
    """
    messages = [one for one in read_calendars(arrived.encode()) if str(one.get("METHOD", "")).upper() in _TAKEN]
    zones = {str(zone.get("TZID")): zone for message in messages for zone in message.walk("VTIMEZONE")}
    events: dict[str, dict[str, Any]] = {}
    for message in messages:
        for event in message.walk("VEVENT"):
            uid, instance = _place(event)
            if uid not in events:
                before = read_calendars(kept[uid].encode()) if uid in kept else []
                events[uid] = {_place(one)[1]: one for calendar in before for one in calendar.walk("VEVENT")}
                zones = {str(zone.get("TZID")): zone for calendar in before for zone in calendar.walk("VTIMEZONE")} | zones
            _take_in(events[uid], instance, event, called_off=str(message.get("METHOD", "")).upper() == "CANCEL")
    return {uid: _written(list(known.values()), list(zones.values())) for uid, known in events.items() if uid}


def _take_in(known: dict[str, Any], instance: str, event: Any, called_off: bool) -> None:
    """known: of one UID, by instance; "" is all of them."""
    before = known.get(instance)
    if before is not None and _revision(event) < _revision(before):
        return
    if called_off:
        # It may come with hardly more than the key of what is called off.
        event = (before or event).copy()
        event.pop("STATUS", None)
        event.add("STATUS", "CANCELLED")
    if not instance and before is not None and any(before.get(name) != event.get(name) for name in ("DTSTART", "RRULE")):
        # Moved as a whole: what was moved by itself before has no place any more.
        for gone in [key for key, one in known.items() if key and _revision(one) <= _revision(event)]:
            del known[gone]
    known[instance] = event


def _written(events: Sequence[Any], zones: Sequence[Any]) -> str:
    calendar = Calendar()
    calendar.add("VERSION", "2.0")
    calendar.add("PRODID", "-//Aftershower//Letters//EN")
    for part in [*zones, *events]:
        calendar.add_component(part)
    return calendar.to_ical().decode()


def _place(event: Any) -> tuple[str, str]:
    """Its UID, and which of the instances it is; "" for all of them."""
    instance = event.get("RECURRENCE-ID")
    return str(event.get("UID") or "")[:400], instance.to_ical().decode() if instance is not None else ""


def _revision(event: Any) -> tuple[int, str]:
    """RFC 5546, 2.1.5: the greater SEQUENCE is the later, then the greater DTSTAMP."""
    stamp = event.get("DTSTAMP")
    return int(event.get("SEQUENCE") or 0), stamp.to_ical().decode() if stamp is not None else ""


def _parts(message: EmailMessage, depth: int = 0) -> Iterator[EmailMessage]:
    if message.get_content_type() == "message/rfc822" and depth < _DEEPEST:
        inner = message.get_payload()
        for one in inner if isinstance(inner, list) else []:
            if isinstance(one, EmailMessage):
                yield from _parts(one, depth + 1)
    elif message.is_multipart():
        for one in message.iter_parts():
            if isinstance(one, EmailMessage):
                yield from _parts(one, depth)
    else:
        yield message


def _text(part: EmailMessage) -> str:
    data = part.get_payload(decode=True)
    if not isinstance(data, bytes):
        return ""
    try:
        return data.decode(part.get_content_charset() or "utf-8")
    except (UnicodeDecodeError, LookupError):
        return data.decode("utf-8", errors="replace")


def _written_at(message: EmailMessage) -> datetime | None:
    try:
        moment = parsedate_to_datetime(_header(message, "Date"))
        return moment if moment.tzinfo else moment.replace(tzinfo=UTC)
    except (ValueError, TypeError, OverflowError):
        return None


def _header(message: EmailMessage, name: str) -> str:
    try:
        return str(message.get(name, ""))
    except Exception:  # a header that breaks the rules of its kind: the library raises of many kinds
        return ""


def _bare_subject(subject: str) -> str:
    """Without what mail programs put before it (common practice)."""
    return re.sub(r"^(?:(?:re|aw|sv|fwd?|wg|rv|tr|invitation|updated invitation|einladung|invitación)\s*:\s*)+", "", subject, flags=re.IGNORECASE)
