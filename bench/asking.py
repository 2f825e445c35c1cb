"""What a question put to a whole library finds: the labelled meetings in one database, and every question asked of them.

Through the database as a member asks, beside BM25 over all turns alone (Robertson and Walker 1994). The encoder was taught on two thirds of these
meetings and tuned on them, so that this says what the way through the database loses, not how well strange meetings are read: that `bench series`
says.
"""

from __future__ import annotations

import json
import subprocess
from collections.abc import Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any
from zoneinfo import ZoneInfo

import numpy as np
from rank_bm25 import BM25Okapi

from bench.house import running
from bench.meetings import LABELLED
from bench.tables import table
from core.formats import json_record
from core.reading.words import terms
from house.serve import python

UTC = ZoneInfo("UTC")
_ROOT = Path(__file__).resolve().parent.parent
Place = tuple[str, int]


@dataclass
class Scores:
    """Of questions that one of the meetings answers: the ranks, from 1, of the right meeting and of a right line among what is given, 0 where it is
    not there. told: of questions that none answers, whether that was said."""

    meeting: list[int] = field(default_factory=list)
    line: list[int] = field(default_factory=list)
    told: list[bool] = field(default_factory=list)

    def take(self, name: str, turns: Sequence[int], meetings: Sequence[str], lines: Sequence[Place]) -> None:
        """A question of the meeting `name`, answered by these turns of it; the meetings and lines that were found, the best first."""
        if not turns:
            self.told.append(not lines)
            return
        right = {(name, turn) for turn in turns}
        self.meeting.append(next((rank for rank, one in enumerate(meetings, 1) if one == name), 0))
        self.line.append(next((rank for rank, one in enumerate(lines, 1) if one in right), 0))

    def row(self) -> list[float]:
        """Right meeting among the first three, its reciprocal rank; right line first, its reciprocal rank; unanswerable told."""
        meeting, line = np.array(self.meeting), np.array(self.line)
        return [
            float(((meeting > 0) & (meeting <= 3)).mean()),
            float(np.where(meeting > 0, 1 / np.maximum(meeting, 1), 0).mean()),
            float((line == 1).mean()),
            float(np.where(line > 0, 1 / np.maximum(line, 1), 0).mean()),
            float(np.mean(self.told)),
        ]


def _labelled() -> dict[str, dict[str, Any]]:
    return {path.stem: json.loads(path.read_text(encoding="utf-8")) for path in sorted(LABELLED.glob("*.json"))}


def _by_words(labelled: dict[str, dict[str, Any]]) -> dict[str, Scores]:
    where = [(name, turn["id"]) for name, one in labelled.items() for turn in one["turns"]]
    index = BM25Okapi([terms(f"{turn['speaker']} {turn['text']}") or [""] for one in labelled.values() for turn in one["turns"]])
    scores: dict[str, Scores] = {}
    for name, one in labelled.items():
        for asked in one["ask"]:
            found = index.get_scores(terms(asked["q"]))
            lines = [where[place] for place in np.argsort(-found, kind="stable")[:50] if found[place] > 0]
            scores.setdefault(name[0], Scores()).take(name, asked["turns"], list(dict.fromkeys(one for one, _ in lines)), lines)
    return scores


def run() -> None:
    """Print how often the right meeting and the right line are found, by the hands that wrote the meetings."""
    labelled = _labelled()
    with running("asking") as house:
        house.load_people()
        done = subprocess.run(python("-m", "bench.asking"), cwd=_ROOT, env=house.settings, capture_output=True, text=True, check=True)
    ours = {hand: Scores(**found) for hand, found in json.loads(done.stdout.splitlines()[-1]).items()}
    heads = ["way", "meetings", "questions", "right meeting in three", "its MRR", "right line first", "its MRR", "unanswerable told"]
    rows: list[list[object]] = []
    for way, scores in (("asked", ours), ("BM25", _by_words(labelled))):
        rows += [[way, f"{hand}…", len(one.meeting) + len(one.told), *one.row()] for hand, one in scores.items()]
    print(table(heads, rows))


def _ask_all() -> dict[str, Scores]:
    """In the application, on the database that it is given: every labelled meeting is kept and read, and every question asked."""
    from django.utils import timezone

    from server.accounts.models import Membership
    from server.capture.actions.take_upload import Given, create_meeting
    from server.library.asking import answer, likely
    from server.library.models import Inquiry
    from server.meetings.models import Meeting
    from server.pipeline.work import STAGES
    from server.record.keep import keep_record
    from server.record.models import Line
    from server.sharing.visibility import listed_meetings

    member = Membership.objects.get(user__email="maren@larkmoor.example")
    keys: dict[str, str] = {}
    labelled = _labelled()
    for name, one in labelled.items():
        meeting, record = create_meeting(member, Given(name, timezone.now(), "Europe/London", language="en")), json_record.from_data(one, name)
        keep_record(meeting, record, {})
        Meeting.objects.filter(pk=meeting.pk).update(duration=record.duration)
        for stage in ("read", "index"):
            STAGES[stage].keep(meeting, STAGES[stage].work(meeting, lambda done: None))
        Meeting.objects.filter(pk=meeting.pk).update(ready_at=timezone.now())
        keys[str(meeting.pk)] = name
    turns = {(key, line): turn for key, line, turn in Line.objects.values_list("meeting", "number", "turn__number")}
    scores: dict[str, Scores] = {}
    for name, one in labelled.items():
        for asked in one["ask"]:
            chosen = [keys[str(key)] for key in likely(listed_meetings(member), asked["q"])]
            told = answer(member, Inquiry(membership=member, text=asked["q"]), timezone.now(), UTC)
            lines = [(keys[str(cited.meeting.pk)], turns[cited.meeting.pk, cited.lines[0]]) for cited in told.cited]
            scores.setdefault(name[0], Scores()).take(name, asked["turns"], chosen, lines)
    return scores


if __name__ == "__main__":
    import django

    django.setup()
    print(json.dumps({hand: vars(found) for hand, found in _ask_all().items()}))
