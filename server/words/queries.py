"""The words that a meeting's hearing knows, and what is offered for the list."""

from __future__ import annotations

from django.db.models import Count

from core.speech.word_list import Term, is_jargon
from core.text import folded
from server.accounts.models import Membership
from server.meetings.models import Meeting
from server.sharing.policy import Can, may
from server.sharing.visibility import visible_meetings
from server.words.models import DeclinedOffer, ListedTerm, WordFix

OFFERED_AFTER = 3
"""Times that the same was put right before it is offered for the list."""
_MOST_EXPECTED = 60  # what the recogniser is told to expect; with more it begins to hear them where they are not


def word_list(meeting: Meeting) -> list[Term]:
    """What was said of the meeting, who is there, its agenda's jargon, then the workspace's list."""
    names = meeting.people.order_by("attendee__id").values_list("name", flat=True)
    known = [Term(text) for text in meeting.terms]
    known += [Term(part) for name in names for part in name.split()[:1]]
    known += [Term(word) for text in meeting.points.values_list("text", flat=True) for word in text.split() if is_jargon(word)]
    listed = [Term(one.text, tuple(one.sounds), tuple(one.mistaken)) for one in ListedTerm.objects.filter(workspace=meeting.workspace_id)]
    # Of a word that is there twice, the list's entry says most.
    by_text = {term.text.casefold(): term for term in known} | {term.text.casefold(): term for term in listed}
    return list(by_text.values())


def expected(meeting: Meeting) -> list[str]:
    """The words the recogniser is told to expect."""
    return [term.text for term in word_list(meeting)[:_MOST_EXPECTED]]


def offers(membership: Membership) -> list[dict]:
    """What was put right again and again in meetings that a member sees, and is not on the list yet: {"heard", "meant", "times"}."""
    if not may(membership, Can.ARRANGE):
        return []
    workspace = membership.workspace
    listed = set(ListedTerm.objects.filter(workspace=workspace).values_list("folded", flat=True))
    declined = set(DeclinedOffer.objects.filter(workspace=workspace).values_list("heard", "meant"))
    fixes = WordFix.objects.filter(meeting__in=visible_meetings(membership))
    often = fixes.values("heard", "meant").annotate(times=Count("id")).filter(times__gte=OFFERED_AFTER)
    return [
        dict(row)
        for row in often.order_by("-times", "meant")
        if folded(row["meant"]) not in listed and (row["heard"], row["meant"]) not in declined
    ]
