"""A sample to begin with: a short recording that comes with the program goes the way of every file that is given."""

from __future__ import annotations

from django.conf import settings
from django.db import transaction

from server.accounts.models import Membership
from server.acting import acting
from server.capture.actions.take_upload import Given, create_meeting, keep_file
from server.meetings.models import Meeting
from server.pipeline.work import begin_work
from server.sharing.policy import Can, require
from server.sharing.visibility import visible_meetings

SAMPLE = settings.ROOT / "demo/sound/04-frost-night-review.opus"


def give_sample(membership: Membership, given: Given) -> Meeting:
    """The sample as a meeting of one's own; the one that there is, where one has had it before. Raises Refused."""
    require(membership, Can.ADD)
    with transaction.atomic():
        Membership.objects.select_for_update(no_key=True).get(pk=membership.pk)  # two presses make one
        known = visible_meetings(membership).filter(created_by=membership.user, recording__name=SAMPLE.name).first()
        if known:
            return known
        meeting = create_meeting(membership, given)
        with acting(membership, Can.ADD, "give the sample", meeting):
            keep_file(meeting, SAMPLE, SAMPLE.name, membership)
            begin_work(meeting)
    return meeting
