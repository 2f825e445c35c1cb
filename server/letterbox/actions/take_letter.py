"""A letter to the clerk: an invitation is put into its sender's days, and where there is only a link, the clerk goes there now."""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import timedelta
from functools import partial
from pathlib import PurePath
from urllib.parse import urlsplit
from zoneinfo import ZoneInfo

from django.conf import settings
from django.utils import timezone

from core.formats import READERS
from core.planning.joining import Reason
from core.planning.letters import Letter, read_letter, taken_in, vouched_for
from core.planning.links import Link, conferences, link_in
from core.planning.recordings import said_moment, title_in
from core.problems import InputProblem
from server.accounts.models import Membership, Workspace
from server.acting import acting
from server.calendars.keep import store
from server.calendars.models import Calendar, CalendarKind, Planned
from server.calendars.sources import Fetched
from server.capture.actions.take_upload import Given, take_upload
from server.capture.fetching import laid
from server.clerk.actions.send import send_clerk
from server.clerk.visits import gatherings, plan_visits, planned_rows, verdicts
from server.folders.keep import MEDIA
from server.languages import translated
from server.letterbox.models import Arrived, Sender
from server.mail.models import Letter as Post
from server.mail.post import post
from server.mail.wording import Kind
from server.notes.actions.comment import write_comment
from server.problems import Refused
from server.sharing.policy import Can, may
from server.sharing.visibility import visible_meetings

MOST_AN_HOUR = 40
"""Letters of one member's."""
MOST_KEPT = 500
"""Events that one member sent in; the oldest make room."""
STAYS = 180
"""Minutes, where nothing says how long the call is."""
_EARLY = timedelta(minutes=15)


@dataclass(frozen=True)
class _Outcome:
    goes: bool
    words: str


def take_letter(workspace: Workspace, data: bytes) -> None:
    """Take in a mail. Its sender is told what came of it; whoever is no member is told nothing. One that comes again changes nothing.

    Raises Refused where it should be sent again later.
    """
    letter = read_letter(data)
    key = hashlib.sha256(letter.key.encode() or data).hexdigest()
    listed = Sender.objects.filter(membership__workspace=workspace, address__iexact=letter.sender).select_related("membership__user", "membership__workspace").first()
    if not listed and settings.MAIL_JUDGE and not vouched_for(data, settings.MAIL_JUDGE):
        return
    member = listed.membership if listed else _member(workspace, letter.sender)
    if member is None and (asked := _from_within(workspace, letter)):
        member = asked
    if member is None or not may(member, Can.ADD) or member.letters.filter(key=key).exists():
        return
    if member.letters.filter(at__gt=timezone.now() - timedelta(hours=1)).count() >= MOST_AN_HOUR:
        raise Refused(429, f"{MOST_AN_HOUR} letters came from this sender within an hour, which is the most there is.")
    title = letter.subject or "a call"
    with acting(member, Can.ADD, "letter to the clerk") as act:
        try:
            outcome = _what_comes_of_it(member, letter)
        except (Refused, InputProblem) as problem:
            outcome = _Outcome(False, problem.detail if isinstance(problem, Refused) else str(problem))
        act.note(goes=outcome.goes)
        Arrived.objects.create(membership=member, key=key, title=title, goes=outcome.goes, words=outcome.words[:400])
        post(Kind.CLERK, member.user.email, link=settings.BASE_URL, workspace=workspace, by=member.user, title=title, words=partial(translated, outcome.words))


def _member(workspace: Workspace, address: str) -> Membership | None:
    return Membership.objects.filter(workspace=workspace, user__email__iexact=address).select_related("user", "workspace").first()


def _what_comes_of_it(member: Membership, letter: Letter) -> _Outcome:
    if letter.invitations:
        return _put_into_days(member, letter)
    files = [(name, data) for name, data in letter.files if PurePath(name).suffix.lower() in MEDIA | set(READERS)]
    return _make_meetings(member, letter, files) if files else _go_now(member, letter)


def _make_meetings(member: Membership, letter: Letter, files: Sequence[tuple[str, bytes]]) -> _Outcome:
    """Each recording and each transcript that is attached is one, as if it had been given."""
    zone, said = ZoneInfo(member.user.time_zone or "UTC"), []
    for name, data in files:
        start = said_moment(name, zone) or letter.at or timezone.now()
        title = letter.subject if len(files) == 1 and letter.subject else title_in(name) or PurePath(name).stem
        try:
            with laid(member.user, name, data) as upload:
                take_upload(member, upload.pk, Given(title[:200], start, zone.key))
            said.append(f"“{name}” has become a meeting.")
        except Refused as refused:
            said.append(f"“{name}”: {refused.detail}")
    return _Outcome(False, " ".join(said))


def take_reply(answered: Post, data: bytes) -> None:
    """What somebody answers to minutes that were sent to them is a comment, where they see the meeting and may comment. Its sender is told what came of it
    only where nothing did; whoever is somebody else is told nothing. One that comes again changes nothing."""
    letter, meeting = read_letter(data), answered.meeting
    if settings.MAIL_JUDGE and not vouched_for(data, settings.MAIL_JUDGE) or letter.sender != answered.to.lower() or meeting is None:
        return
    key = hashlib.sha256(letter.key.encode() or data).hexdigest()
    member = _member(meeting.workspace, letter.sender)
    if member is None or member.letters.filter(key=key).exists():
        return
    words = ""
    with acting(None, None, "answer by mail", meeting):
        try:
            if not visible_meetings(member).filter(pk=meeting.pk).exists():
                raise Refused(404, "The meeting is not shared with you (any more), so that your answer is not with it. It has gone to whoever sent the minutes.")
            write_comment(member, meeting, letter.reply[:4000], 0.0, 0.0)
        except Refused as refused:
            words = refused.detail
            post(Kind.CLERK, member.user.email, link=settings.BASE_URL, workspace=meeting.workspace, by=member.user, title=answered.subject, words=partial(translated, words))
        Arrived.objects.create(membership=member, key=key, title=answered.subject[:200], goes=False, words=words or "Your answer is a comment on the meeting.")


def _put_into_days(member: Membership, letter: Letter) -> _Outcome:
    """The invitations become part of a calendar of the member's that holds nothing else."""
    calendar, _ = Calendar.objects.get_or_create(membership=member, kind=CalendarKind.MAIL, defaults={"name": "Sent to the clerk"})
    kept = {part.href: part.data for part in calendar.parts.all()}
    fresh: dict[str, str] = {}
    for invitation in letter.invitations:
        fresh |= taken_in(kept | fresh, invitation)
    if not fresh:
        return _Outcome(False, "That is an answer to an invitation, and no invitation. Nothing has changed.")
    oldest = list(calendar.parts.exclude(href__in=fresh).order_by("-pk").values_list("pk", flat=True)[MOST_KEPT:])
    calendar.parts.filter(pk__in=oldest).delete()
    store(calendar, Fetched(fresh))
    now = timezone.now()
    rows = Planned.objects.filter(calendar=calendar, uid__in=fresh).select_related("calendar__membership__user", "calendar__membership__workspace").order_by("start")
    coming = [row for row in rows if row.end > now]
    if not coming:
        over = "It is over already." if rows else "It lies more than nine weeks ahead: it is kept, and looked at when it comes closer."
        return _Outcome(False, f"The clerk does not go there now. {over}")
    plan_visits(member.workspace, now)
    verdict = verdicts(member, coming[:1])[coming[0].pk]
    zone = ZoneInfo(coming[0].zone or member.user.time_zone or "UTC")
    return _Outcome(verdict.goes, f"{coming[0].start.astimezone(zone):%A %-d %B, %H:%M}: the clerk {verdict.words}.")


def _go_now(member: Membership, letter: Letter) -> _Outcome:
    visit = send_clerk(member, letter.words, "", letter.subject, STAYS)
    host = urlsplit(visit.address).hostname
    return _Outcome(True, f"The clerk goes to the call at {host} now, and asks to be let in. To have it go to a later one, send it the invitation as your calendar has it.")


def _from_within(workspace: Workspace, letter: Letter) -> Membership | None:
    """Whom a letter is for that somebody in a call had their conference send: it comes from that conference's own domain, and the call is one
    that just now takes place by the calendar of a member who did not say no to the clerk."""
    link = link_in(letter.words, conferences(settings.CONFERENCES))
    if link is None or not link.adapter or not _of(letter.sender, link):
        return None
    now = timezone.now()
    for one in gatherings(workspace, planned_rows(workspace, now, now + _EARLY)):
        if one.call == link.call and one.verdict.reason not in (Reason.ORGANISER, Reason.CALLED_OFF):
            willing = [row.calendar.membership for row in one.rows if one.single[row.calendar.membership_id].reason != Reason.NOT_BY_HAND]
            return next(iter(one.wanting or willing), None)
    return None


def _of(sender: str, link: Link) -> bool:
    host, domain = (urlsplit(link.address).hostname or "").lower(), sender.rpartition("@")[2]
    return "." in domain and (host == domain or host.endswith(f".{domain}"))
