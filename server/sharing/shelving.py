"""What comes onto shelves by itself: the meetings of a series that stands on one."""

from __future__ import annotations

from server.meetings.models import Meeting, Shelved


def shelve_by_series(meeting: Meeting) -> None:
    """Onto the shelves of its series at which whoever made it has a place: their own meetings are theirs to show there. In the transaction
    that is open."""
    if meeting.series is None:
        return
    shelves = meeting.series.shelves.filter(places__membership__user=meeting.created_by_id, workspace=meeting.workspace_id)
    for shelf in shelves:
        Shelved.objects.get_or_create(shelf=shelf, meeting=meeting)
