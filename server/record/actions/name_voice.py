"""Give a voice its person: once, everywhere in the meeting."""

from django.db import transaction

from server.accounts.models import Membership
from server.audit.log import log
from server.meetings.actions.people import find_people
from server.meetings.models import Attendee
from server.pipeline.stages import AFTER_CHANGES
from server.pipeline.tasks import begin
from server.problems import not_allowed
from server.record.models import Voice
from server.sharing.visibility import may_change


def name_voice(membership: Membership, voice: Voice, name: str) -> Voice:
    """The person with this name (made where there is none) is whom this voice is; an empty name takes the naming back.

    The record is read anew, since actions belong to people; lines by hand stand.
    """
    if not may_change(membership, voice.meeting):
        raise not_allowed("Guests read records; they do not change them.")
    with transaction.atomic():
        person = next(iter(find_people(membership.workspace, [name])), None)
        voice.person, voice.recognised = person, False
        voice.save(update_fields=["person", "recognised"])
        if person:
            Attendee.objects.get_or_create(meeting=voice.meeting, person=person)
        log(membership.workspace, membership.user, "name voice", voice.meeting, voice=voice.label, person=person and person.name)
        begin(voice.meeting, AFTER_CHANGES)
    return voice
