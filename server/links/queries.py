"""Which link leads where, now: asked at every request, so that what is taken back, struck or over is gone the moment it is."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from django.contrib.auth.hashers import check_password
from django.core import signing
from django.core.cache import cache
from django.db.models import F, Q, QuerySet
from django.http import HttpRequest
from django.utils import timezone

from core.minutes.markdown import in_full, sections_of
from core.reading.base import all_said
from core.record.model import Record
from server.accounts.models import Membership, Workspace
from server.audit.log import log
from server.capture.models import Recording
from server.counting import counted
from server.excerpts.models import Excerpt
from server.excerpts.queries import said_in
from server.languages import translated
from server.links.models import Link, LinkRules, Scope
from server.meetings.models import Meeting
from server.minutes.queries import standing, template_of
from server.problems import Refused
from server.record.keep import load_record
from server.sharing.policy import Can, may
from server.sharing.visibility import visible_meetings

KEY_FOR = timedelta(hours=12)
"""So long a passphrase that was given once counts in the same browser."""
_SALT = "link with a passphrase"
_TRIES, _MISSES, _HOUR = 5, 60, 3600
_NOWHERE = "This link leads nowhere (any more). Ask whoever gave it to you for another one."


def digest_of(token: str) -> str:
    """What a link is found by."""
    return hashlib.sha256(token.encode()).hexdigest()


def rules_of(workspace: Workspace) -> LinkRules:
    """What the workspace wants of links."""
    return LinkRules.objects.filter(workspace=workspace).first() or LinkRules(workspace=workspace)


def links_given(membership: Membership) -> QuerySet[Link]:
    """One's own, the latest first."""
    return _with_targets(Link.objects.filter(made_by=membership))


def links_of_workspace(membership: Membership) -> QuerySet[Link]:
    """All of them, for those who manage the workspace; else one's own."""
    mine = Q(made_by=membership.pk)
    return _with_targets(Link.objects.filter(mine | Q(workspace=membership.workspace_id) if may(membership, Can.MANAGE) else mine))


def _with_targets(links: QuerySet[Link]) -> QuerySet[Link]:
    found = links.select_related("meeting__recording", "excerpt__meeting__recording", "sequence", "made_by__user", "workspace")
    return found.prefetch_related("sequence__parts__excerpt__meeting__recording")


def leads(link: Link, now: datetime, rules: LinkRules) -> bool:
    """Does it lead somewhere? rules: of its workspace."""
    ended = link.revoked_at or link.until and link.until <= now
    kept = rules.allowed and not (rules.must_end and link.until is None) and not (rules.must_have_passphrase and not link.passphrase)
    there = _is_there(link.meeting) if link.meeting else bool(excerpts_of(link))
    return kept and not ended and there


def _is_there(meeting: Meeting) -> bool:
    return meeting.removed_at is None and meeting.going_at is None


def excerpts_of(link: Link) -> list[Excerpt]:
    """Those that it shows, in their order."""
    if link.excerpt:
        parts = [link.excerpt]
    elif link.sequence and link.sequence.removed_at is None:
        parts = [part.excerpt for part in link.sequence.parts.all()]
    else:
        parts = []
    return [one for one in parts if one.removed_at is None and _is_there(one.meeting)]


def followed(request: HttpRequest, token: str) -> Link:
    """The link that somebody follows. Raises Refused: without a word of what there may be."""
    place = f"link-misses-{request.META.get('REMOTE_ADDR')}"
    if (cache.get(place) or 0) >= _MISSES:
        raise Refused(429, "Too many links that lead nowhere were tried from here. Try again in an hour.")
    link = _with_targets(Link.objects.filter(digest=digest_of(token))).first()
    if link is None or not leads(link, timezone.now(), rules_of(link.workspace)) or not _still_given(link):
        counted(place, _HOUR)
        raise Refused(404, _NOWHERE)
    return link


def _still_given(link: Link) -> bool:
    """Whoever gave it could do so now: they see the meeting, and govern it."""
    meeting = link.meeting
    return meeting is None or may(link.made_by, Can.GOVERN, meeting) and visible_meetings(link.made_by).filter(pk=meeting.pk).exists()


def cookie_of(link: Link) -> str:
    """Under which name a browser keeps that the passphrase was given."""
    return f"link-{link.pk.hex}"


def seen_by_name(link: Link) -> str:
    """Under which name a browser keeps that it was opened there."""
    return f"link-opened-{link.pk.hex}"


def unlocked(request: HttpRequest, link: Link) -> bool:
    """Needs it no passphrase, or was that given in this browser?"""
    if not link.passphrase:
        return True
    try:
        return bool(signing.loads(request.COOKIES.get(cookie_of(link), ""), salt=_SALT, max_age=KEY_FOR) == link.passphrase[-16:])
    except signing.BadSignature:
        return False


def unlock(request: HttpRequest, link: Link, passphrase: str) -> str:
    """The proof that the passphrase was given. Raises Refused, after five wrong ones from one place with growing pauses: of that place alone."""
    place = f"link-tries-{link.pk}-{request.META.get('REMOTE_ADDR')}"
    tries, again = cache.get(place) or (0, 0.0)
    now = timezone.now().timestamp()
    if now < again:
        raise Refused(429, f"That was wrong several times. Try again in {int(again - now) + 1} s.")
    if not check_password(passphrase.strip(), link.passphrase):
        tries += 1
        cache.set(place, (tries, now + (2 ** min(tries - _TRIES, 10) if tries >= _TRIES else 0)), 24 * _HOUR)
        raise Refused(403, "That is not the passphrase.")
    cache.delete(place)
    return signing.dumps(link.passphrase[-16:], salt=_SALT)


def heard_of(link: Link) -> Recording | None:
    """The recording of the meeting, where it can be heard as a whole by this link now."""
    recording = getattr(link.meeting, "recording", None) if link.sound and link.scope == Scope.RECORD else None
    return recording if recording and _is_heard(recording) else None


def _is_heard(recording: Recording) -> bool:
    return bool(recording.listening) and not recording.withheld


def note_opening(link: Link) -> None:
    """How often and when it was opened is for who gave it, and for the audit."""
    log(link.workspace, None, "open link", link.meeting, link=str(link.pk), scope=link.scope)
    Link.objects.filter(pk=link.pk).update(opened=F("opened") + 1, opened_at=timezone.now())


@dataclass(frozen=True)
class Shown:
    """What a link shows, as it stands now. sections: of the minutes, each a heading and its sentences. said: of the record, or of each excerpt."""

    title: str
    when: datetime | None
    sections: list[tuple[str, list[str]]]
    said: list[dict[str, Any]]
    excerpts: list[dict[str, Any]]


def shown(link: Link) -> Shown:
    """Nothing but what it leads to: no other names, no address of anything else."""
    if link.meeting is None:
        title = link.sequence.title if link.sequence else excerpts_of(link)[0].title
        return Shown(title, None, [], [], [_excerpt(link, place, one) for place, one in enumerate(excerpts_of(link))])
    record = load_record(link.meeting)
    when = link.meeting.started_at.astimezone(ZoneInfo(link.meeting.time_zone))
    said = _said(record) if link.scope == Scope.RECORD else []
    return Shown(link.meeting.title, when, _sections(link.meeting, record), said, [])


def _sections(meeting: Meeting, record: Record) -> list[tuple[str, list[str]]]:
    lines = [line for _, line in standing(meeting, all_said(record), removed=False)]
    return [(heading, [in_full(line, translated) for line in inside]) for heading, inside in sections_of(template_of(meeting), lines, translated)]


def _said(record: Record) -> list[dict[str, Any]]:
    return [{"speaker": turn.speaker, "text": turn.text, "start": turn.start} for turn in record.turns]


def _excerpt(link: Link, place: int, excerpt: Excerpt) -> dict[str, Any]:
    playable = link.sound and _is_heard(excerpt.meeting.recording)
    said = [{"speaker": one.speaker, "text": one.text, "start": one.start} for one in said_in(excerpt)]
    return {"title": excerpt.title, "place": place, "playable": playable, "said": said}
