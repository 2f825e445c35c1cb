"""Excerpts: cut, titled, shared, removed."""

from __future__ import annotations

from collections.abc import Sequence

from django.conf import settings
from django.core.files.storage import default_storage
from django.db import transaction
from django.utils import timezone

from core.media.copies import excerpt_copy
from core.record.timeline import Span
from core.text import one_line
from server.accounts.models import Membership, User
from server.acting import acting
from server.capture.queries import refuse_withheld
from server.excerpts.models import Excerpt, excerpt_path
from server.mail.post import post
from server.mail.wording import Kind
from server.meetings.models import Meeting
from server.notify import Part
from server.pipeline.files import local, put, scratch
from server.problems import Refused, not_allowed
from server.sharing.policy import Can, may, require
from server.sharing.visibility import visible_meetings

SHORTEST, LONGEST = 0.5, 600.0
"""Seconds of an excerpt. What is longer gives the meeting away, and is shared as the meeting."""


def cut_excerpt(membership: Membership, meeting: Meeting, title: str, span: Span) -> Excerpt:
    """Make an excerpt; nobody else sees it who does not see the meeting, until it is shared. Raises Refused."""
    with acting(membership, Can.CHANGE, "cut excerpt", meeting, tells=(Part.COMMENTS,), seconds=round(span.duration, 1)):
        _check(meeting, span)
        title = one_line(title)[:200] or "Excerpt"
        return Excerpt.objects.create(meeting=meeting, user=membership.user, title=title, start=span.start, end=span.end)


def _check(meeting: Meeting, span: Span) -> None:
    if span.duration < SHORTEST:
        raise Refused(422, "An excerpt has a length: choose more words.")
    if span.duration > LONGEST:
        raise Refused(422, f"An excerpt is at most {LONGEST / 60:.0f} minutes long. For more, let people see the meeting.")
    if span.start < 0 or span.start >= meeting.duration:
        raise Refused(422, "This passage is not in the recording.")


def change_excerpt(
    membership: Membership,
    excerpt: Excerpt,
    *,
    title: str | None = None,
    span: Span | None = None,
    seen: str | None = None,
    chosen: Sequence[str] | None = None,
    removed: bool | None = None,
) -> Excerpt:
    """Title, trim, share, remove or put back one's own excerpt. chosen: names of members. Raises Refused.

    Whoever may not (or no longer) see its meeting can still title it, show it to fewer and remove it; never give more of the meeting, or
    give it to more people.
    """
    if excerpt.user_id != membership.user_id and not may(membership, Can.GOVERN, excerpt.meeting):
        raise not_allowed("An excerpt is changed by whoever cut it, or by who governs its meeting.")
    with acting(membership, None, "change excerpt", excerpt.meeting, tells=(Part.COMMENTS,)) as act:
        if span is not None or removed is False or _widens(excerpt, seen, chosen):
            _require_meeting(membership, excerpt)
        if title is not None:
            excerpt.title = one_line(title)[:200] or excerpt.title
        if span is not None:
            _check(excerpt.meeting, span)
            dropped, excerpt.start, excerpt.end, excerpt.sound = excerpt.sound.name, span.start, span.end, ""
            if dropped:
                transaction.on_commit(lambda: default_storage.delete(dropped))
        fresh = _share(membership, excerpt, seen, chosen)
        if removed is not None:
            excerpt.removed_at = timezone.now() if removed else None
        excerpt.save()
        act.note(seen=excerpt.seen, removed=bool(excerpt.removed_at))
        _tell(membership, excerpt, fresh)
    return excerpt


def _require_meeting(membership: Membership, excerpt: Excerpt) -> None:
    if not visible_meetings(membership).filter(pk=excerpt.meeting_id).exists():
        raise not_allowed("You no longer see the meeting that this is from, so you can show it to fewer people or remove it, no more.")
    require(membership, Can.CHANGE, excerpt.meeting)


def _widens(excerpt: Excerpt, seen: str | None, chosen: Sequence[str] | None) -> bool:
    """Would more people see it?"""
    order = list(Excerpt.Seen)
    if seen is not None and order.index(Excerpt.Seen(seen)) > order.index(Excerpt.Seen(excerpt.seen)):
        return True
    return chosen is not None and not set(chosen) <= {user.called for user in excerpt.chosen.all()}


def _share(membership: Membership, excerpt: Excerpt, seen: str | None, chosen: Sequence[str] | None) -> list[User]:
    """Returns those with whom it was not shared before."""
    if seen is not None:
        excerpt.seen = seen
    if chosen is None:
        return []
    members = {one.user.called: one.user for one in membership.workspace.memberships.select_related("user")}
    if unknown := [name for name in chosen if name not in members]:
        raise Refused(422, f"{unknown[0]} is not in this workspace. Invite them first.")
    before = set(excerpt.chosen.values_list("pk", flat=True))
    excerpt.chosen.set([members[name] for name in chosen])
    return [members[name] for name in chosen if members[name].pk not in before and members[name] != membership.user]


def _tell(membership: Membership, excerpt: Excerpt, people: Sequence[User]) -> None:
    by, seconds = membership.user, f"{excerpt.end - excerpt.start:.0f}"
    link = f"{settings.BASE_URL}/excerpts/{excerpt.pk}"
    for user in people:
        post(
            Kind.EXCERPT, user.email, meeting=excerpt.meeting, by=by, link=link, by_name=by.called, title=excerpt.title, seconds=seconds
        )


def sound_of(excerpt: Excerpt) -> Excerpt:
    """The excerpt with its sound, cut from the listening copy where it has not been cut yet. Raises Refused where there is none to give."""
    recording = excerpt.meeting.recording
    if not recording.listening:
        raise Refused(404, "There is nothing to hear here: this meeting has no sound.")
    refuse_withheld(recording)
    if not excerpt.sound:
        with scratch(excerpt.meeting_id) as folder, local(recording.listening) as path:
            target = folder / "excerpt.webm"
            excerpt_copy(path, target, Span(excerpt.start, excerpt.end))
            name = put(excerpt_path(excerpt, f"{excerpt.pk}.webm"), target)
        # A strike or a trim that came meanwhile has made this cut worthless.
        fresh = Excerpt.objects.filter(pk=excerpt.pk, start=excerpt.start, end=excerpt.end, sound="")
        fresh = fresh.filter(meeting__recording__withheld=False, meeting__recording__listening=recording.listening.name)
        if not fresh.update(sound=name):
            default_storage.delete(name)
            raise Refused(409, "This excerpt is being changed. Try again in a moment.")
        excerpt.sound = name
    return excerpt
