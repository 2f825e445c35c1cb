"""Give a voice its person: once, everywhere in the meeting."""

from __future__ import annotations

from server.accounts.models import Membership
from server.meetings.models import Attendee
from server.meetings.people import find_people
from server.record.changing import changing
from server.record.models import Voice


def name_voice(membership: Membership, voice: Voice, name: str) -> Voice:
    """The person with this name (made where there is none) is whom this voice is; an empty name takes the naming back.

    They were there, by that; they are not let in by it. The record is read anew, since actions belong to people; lines by hand stand.
    """
    with changing(membership, voice.meeting, "name voice") as act:
        person = next(iter(find_people(membership.workspace, [name])), None)
        voice.person, voice.recognised = person, False
        voice.save(update_fields=["person", "recognised"])
        if person:
            Attendee.objects.get_or_create(meeting=voice.meeting, person=person)
        act.note(voice=voice.label, person=person and person.pk)
    return voice
