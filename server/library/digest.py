"""The digest: what is new, by mail, at an hour of one's choosing; nothing where nothing is."""

from __future__ import annotations

from datetime import datetime, timedelta
from functools import partial
from zoneinfo import ZoneInfo

from django.conf import settings
from django.utils import timezone

from core.text import one_line
from server.accounts.models import Membership
from server.acting import acting
from server.languages import DAY, HOUR, at, said, translated
from server.library.models import Digest, Often
from server.library.news import LONGEST, News, news
from server.library.queries import first_line
from server.mail.post import post
from server.mail.stopping import stop_token
from server.mail.wording import Kind
from server.minutes.models import Finding

_AHEAD = {Often.DAILY: 2, Often.WEEKLY: 7}
"""Days of which it says what is on them, today being the first."""


def send_digests() -> int:
    """A letter for each member whose hour it is. Returns how many; one that was missed, as by a server that was off, comes at the next hour."""
    now, sent = timezone.now(), 0
    for wish in Digest.objects.exclude(often=Often.NEVER).select_related("membership__user", "membership__workspace"):
        if is_due(wish, now):
            sent += _send(wish, now)
    return sent


def is_due(wish: Digest, now: datetime) -> bool:
    """Has the last moment at which it was to come gone by since it came?"""
    there = now.astimezone(ZoneInfo(wish.time_zone))
    last = there.replace(hour=wish.hour, minute=0, second=0, microsecond=0)
    if wish.often == Often.WEEKLY:
        last -= timedelta(days=(last.weekday() - wish.weekday) % 7)
    if last > there:
        last -= timedelta(days=7 if wish.often == Often.WEEKLY else 1)
    return wish.sent_at < last


def _send(wish: Digest, now: datetime) -> bool:
    member = wish.membership
    zone = ZoneInfo(wish.time_zone)
    found = news(member, max(wish.sent_at, now - LONGEST), now, zone, _AHEAD[Often(wish.often)])
    with acting(None, None, "send digest"):
        Digest.objects.filter(pk=wish.pk).update(sent_at=now)
        if not found.anything:
            return False
        post(
            Kind.DIGEST,
            member.user.email,
            link=f"{settings.BASE_URL}/",
            workspace=member.workspace,
            stop=stop_token("digest", member.pk),
            subject=partial(_subject, found, member),
            news=partial(_words, found, wish.time_zone),
        )
    return True


def _subject(found: News, member: Membership) -> str:
    counts = ((found.given, "{0} for you to do"), (found.meetings, "{0} to read"), (found.mentions, "{0} where you are mentioned"), (found.ahead, "{0} ahead"))
    return f"{member.workspace.name}: {', '.join(said(what, len(ones)) for ones, what in counts if ones)}"


def _words(found: News, zone: str) -> str:
    def day(moment: datetime) -> str:
        return at(moment, HOUR, zone)

    def settled(finding: Finding, text: str, more: str = "") -> str:
        return f"{one_line(text)}{more} ({one_line(finding.meeting.title)}) <{settings.BASE_URL}/meetings/{finding.meeting_id}?line={first_line(finding)}>"

    def of(key: object) -> str:
        return f"<{settings.BASE_URL}/meetings/{key}>"

    sections = {
        "For you to do": [settled(finding, text, said(", due {0}", at(finding.due, DAY)) if finding.due else "") for finding, text in found.given],
        "Where you are mentioned": [
            f"{said('{0}, in {1}', one_line(one.user.called) if one.user else translated('Somebody'), one_line(one.meeting.title))} <{settings.BASE_URL}/meetings/{one.meeting_id}?at={one.start:.0f}>"
            for one in found.mentions
        ],
        "Without you": [
            f"{one_line(one.meeting.title)}, {day(one.meeting.started_at)}{_short(one.gist)}{_named(one.named)} {of(one.meeting.pk)}" for one in found.missed
        ],
        "New to read": [f"{one_line(one.title)}, {day(one.started_at)} {of(one.pk)}" for one in found.meetings],
        "Decided": [settled(finding, text) for finding, text in found.decisions],
        "Ahead": [f"{one_line(one.planned.title) if one.planned else ''}, {day(one.start)}" for one in found.ahead],
    }
    return "\n\n".join("\n".join([f"{translated(head)}:", *(f"– {line}" for line in lines)]) for head, lines in sections.items() if lines)


def _short(gist: list[str]) -> str:
    return f": {' '.join(one_line(sentence) for sentence in gist)}" if gist else ""


def _named(times: int) -> str:
    return "" if not times else f" {translated('Your name was said once.')}" if times == 1 else f" {said('Your name was said in {0} places.', times)}"
