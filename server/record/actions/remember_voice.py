"""Known voices: kept with consent, recognised in later meetings of the same workspace, forgotten at any time."""

from __future__ import annotations

import numpy as np

from server.accounts.models import Membership
from server.acting import acting
from server.meetings.models import Person
from server.notify import Part
from server.problems import Refused
from server.record.models import KnownVoice, Voice
from server.removals.ledger import note_removal, replays
from server.sharing.policy import Can

_SAME = 0.6
"""Cosine from which a voice is taken for a known one: runs of one voice lie at 0.69 and up, of different ones at 0.46 and below."""
_CLEARLY = 0.1


def remember_voice(membership: Membership, voice: Voice, consent: bool) -> KnownVoice:
    """Keep what a named voice sounds like. Raises Refused where the workspace does not do that, or without the person's consent."""
    with acting(membership, Can.CHANGE, "remember voice", voice.meeting, tells=(Part.MEETING,), person=voice.person_id):
        if not membership.workspace.known_voices:
            raise Refused(409, "This workspace does not recognise voices. An admin can allow it under Account, Workspace.")
        if voice.person is None or not voice.embedding:
            raise Refused(409, "Say first whose voice this is; and only a voice that was heard can be remembered.")
        if not consent:
            raise Refused(422, f"A voice is kept only with consent. Ask {voice.person.name} first.")
        known, _ = KnownVoice.objects.update_or_create(
            person=voice.person, defaults={"vector": voice.embedding, "meeting": voice.meeting, "consent_noted_by": membership.user}
        )
    return known


def forget_voice(membership: Membership, known: KnownVoice) -> None:
    """Delete a voiceprint: by the person themselves, or by a member. It cannot be undone; names given with its help stay."""
    own = known.person.user_id == membership.user_id
    with acting(membership, None if own else Can.ARRANGE, "forget voice", person=known.person_id):
        note_removal("voice", person=known.person_id)
        known.delete()


@replays("voice")
def _forget_again(facts: dict) -> None:
    KnownVoice.objects.filter(person=facts["person"]).delete()


def recognise(workspace_id: int, vectors: dict[str, list[float]]) -> dict[str, Person]:
    """Which of the heard voices (label → vector) are known ones of the workspace; each known voice once."""
    known = list(KnownVoice.objects.filter(person__workspace=workspace_id, person__workspace__known_voices=True).select_related("person"))
    heard = {label: vector for label, vector in vectors.items() if known and len(vector) == len(known[0].vector)}
    if not heard:
        return {}
    likeness = np.array(list(heard.values())) @ np.array([one.vector for one in known if len(one.vector) == len(known[0].vector)]).T
    found: dict[str, Person] = {}
    for row, label in enumerate(heard):
        best = int(likeness[row].argmax())
        others = np.delete(likeness[:, best], row)
        if likeness[row, best] >= _SAME and not (others >= likeness[row, best] - _CLEARLY).any():
            found[label] = known[best].person
    return found
