"""A meeting into the ledger: what it makes, and what it says of what earlier meetings of its series made."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from uuid import UUID

from django.db.models import Prefetch

from core.ledger import come_back
from core.ledger.book import AROUND, FAINT
from core.ledger.matter import MatterKind as Kind
from core.ledger.matter import Open
from core.reading import Encoder
from core.reading.base import all_said
from core.reading.reader import Read
from server.ledger.models import CLOSING, Matter, Step, StepKind, StepState
from server.meetings.models import Meeting
from server.minutes.keep import load_turns
from server.minutes.models import Finding, FindingKind, FindingStatus
from server.minutes.queries import LINE_NUMBERS, evidence, found_of
from server.record.keep import load_record
from server.record.models import Line

BACK = 12
"""Meetings of a series over which a matter is looked for after it was last spoken of."""
SHOWN = 0.3
"""How sure a step has to be to stand in the ledger: of those that are, three in five are right on labelled series that it was not fitted on;
of all that are found, two in five."""
_MOST = 200
"""Open matters that a meeting is read for, the latest first."""
_KINDS = (FindingKind.DECISION, FindingKind.ACTION)


@dataclass(frozen=True)
class Came:
    """That a meeting comes back to a matter: the key of the matter, what with, the finding that is this step, the lines it rests on."""

    matter: int
    kind: str
    finding: int | None
    lines: list[int]
    confidence: float


def read_on(meeting: Meeting, encoder: Encoder) -> list[Came]:
    """What a meeting says of the open matters of the earlier meetings of its series. Long; nothing is kept yet."""
    matters = _open_before(meeting)
    turns = load_turns(meeting) if matters else None
    if turns is None:
        return []
    record = load_record(meeting)
    lines = all_said(record)
    rows = [(row, said) for row in _found(meeting) if (said := evidence(row, lines))]
    found = [found_of(row, said) for row, said in rows]
    keys: dict[int, list[int]] = defaultdict(list)
    for line in Line.objects.filter(meeting=meeting).select_related("turn").only("pk", "turn__number").order_by("number"):
        keys[line.turn.number].append(line.pk)
    came = []
    for one in come_back([opened for _, opened in matters], Read(record, found, turns), encoder):
        settled = rows[one.findings[0]][0].pk if one.findings else None
        rests = [key for turn in one.step.turns for key in keys.get(turn, ())]
        if rests and one.step.confidence >= SHOWN:
            came.append(Came(matters[one.matter][0].pk, one.step.kind, settled, rests, one.step.confidence))
    return came


def _found(meeting: Meeting) -> list[Finding]:
    rows = Finding.objects.filter(meeting=meeting, kind__in=_KINDS, status__in=[FindingStatus.STANDING, FindingStatus.PROPOSED])
    return list(rows.filter(confidence__gte=FAINT).order_by("start", "pk").prefetch_related(LINE_NUMBERS))


def _open_before(meeting: Meeting) -> list[tuple[Matter, Open]]:
    """The open matters of the earlier meetings of the series, as core takes them."""
    if meeting.series_id is None:
        return []
    earlier = Meeting.objects.filter(series=meeting.series_id, started_at__lt=meeting.started_at, removed_at=None, going_at=None)
    order = list(earlier.order_by("-started_at", "-pk").values_list("pk", flat=True)[:BACK])
    ago = {key: place for place, key in enumerate(order, 1)}
    steps = Step.objects.filter(meeting__in=order).exclude(state=StepState.REFUSED).select_related("finding")
    own = Prefetch("steps", steps.prefetch_related(Prefetch("lines", Line.objects.select_related("turn").only("pk", "meeting", "turn__number"))))
    opened = []
    words = _Words()
    for matter in Matter.objects.filter(steps__meeting__in=order).distinct().order_by("-pk").prefetch_related(own)[: 5 * _MOST]:
        there = sorted(matter.steps.all(), key=lambda step: -ago[step.meeting_id])
        settled = [step.finding for step in there if step.finding and step.finding.status != FindingStatus.DISMISSED]
        if not settled or settled[-1].done_at or any(step.kind in CLOSING and step.state == StepState.CONFIRMED for step in there):
            continue
        last = settled[-1]
        sure = 1.0 if len(there) > 1 else last.confidence
        kind: Kind = "decision" if matter.kind == "decision" else "action"
        opened.append(
            (
                matter,
                Open(kind, last.text, words.said(there, (0, 0)), words.said(there, AROUND), last.owner_name or None, ago[there[-1].meeting_id], sure),
            )
        )
    return opened[:_MOST]


class _Words:
    """What is said in the turns of meetings, read once a meeting."""

    def __init__(self) -> None:
        self._turns: dict[UUID, dict[int, str]] = {}

    def said(self, steps: Iterable[Step], around: tuple[int, int]) -> str:
        """In the turns that steps rest on, and so many before and after each."""
        before, after = around
        texts = []
        for step in steps:
            turns = self._of(step.meeting_id)
            wanted = {n for line in step.lines.all() for n in range(line.turn.number - before, line.turn.number + after + 1)}
            texts += [turns[number] for number in sorted(wanted) if number in turns]
        return " ".join(texts)

    def _of(self, meeting: UUID) -> dict[int, str]:
        if meeting not in self._turns:
            turns: dict[int, list[str]] = defaultdict(list)
            for number, text in Line.objects.filter(meeting=meeting).order_by("number").values_list("turn__number", "text"):
                turns[number].append(text)
            self._turns[meeting] = {number: " ".join(own) for number, own in turns.items()}
        return self._turns[meeting]


def keep_steps(meeting: Meeting, came: Sequence[Came]) -> None:
    """Keep what a meeting does with matters, in the transaction that is open. What people have said of a step stays."""
    old = list(Step.objects.filter(meeting=meeting).select_related("matter").prefetch_related(LINE_NUMBERS))
    by_hand = {step.matter_id: step for step in old if step.state != StepState.READ}
    findings = {row.pk: row for row in _found_or_jotted(meeting)}
    _find_again(old, findings.values())
    taken = {step.finding_id for step in by_hand.values() if step.finding_id}
    # What was read is read anew; only by which finding a matter was made is known from before.
    made = {step.finding_id: step for step in old if step.kind == StepKind.MADE and step.finding_id}
    Step.objects.filter(pk__in=[step.pk for step in old if step.state == StepState.READ and step.kind != StepKind.MADE]).delete()
    for one in came:
        if one.matter in by_hand or one.finding in taken or not Matter.objects.filter(pk=one.matter).exists():
            continue
        settled = one.finding if one.finding in findings else None
        if settled is not None:
            taken.add(settled)
            if settled in made:
                _let_go(made.pop(settled))
        step = Step.objects.create(matter_id=one.matter, meeting=meeting, kind=one.kind, finding_id=settled, confidence=one.confidence)
        step.lines.set(one.lines)
    for key, row in findings.items():
        if key not in taken and key not in made:
            _make(row)
    gone = [step for step in old if step.kind == StepKind.MADE and step.state == StepState.READ and step.finding_id is None]
    for step in gone:
        _let_go(step)
    touched = {step.matter_id for step in Step.objects.filter(meeting=meeting)} | {step.matter_id for step in old}
    mark_followed(touched)


def _make(finding: Finding) -> None:
    """A matter by what was found or jotted down."""
    matter = Matter.objects.create(workspace_id=finding.meeting.workspace_id, kind=finding.kind)
    step = Step.objects.create(matter=matter, meeting=finding.meeting, kind=StepKind.MADE, finding=finding, confidence=finding.confidence)
    step.lines.set(finding.lines.all())


def take_jotted(sender: type[Finding], finding: Finding, **more: object) -> None:
    """What somebody has written down by hand, in the transaction that is open."""
    _make(finding)


def _found_or_jotted(meeting: Meeting) -> list[Finding]:
    jotted = Finding.objects.filter(meeting=meeting, kind__in=_KINDS, status=FindingStatus.STANDING).exclude(jotted_by=None)
    return list({row.pk: row for row in [*_found(meeting), *jotted.prefetch_related(LINE_NUMBERS)]}.values())


def _find_again(old: Sequence[Step], findings: Iterable[Finding]) -> None:
    """A record that was read anew has new findings: a step goes with the one on the same lines."""
    there = {(row.kind, frozenset(line.pk for line in row.lines.all())): row for row in findings}
    for step in old:
        row = there.get((step.matter.kind, frozenset(line.pk for line in step.lines.all())))
        settles = step.kind in (StepKind.MADE, StepKind.CHANGED) and step.finding_id is None
        if row and settles and not Step.objects.filter(finding=row).exists():
            step.finding = row
            step.save(update_fields=["finding"])


def _let_go(step: Step) -> None:
    """A matter that was made there, is not made there any more; what later meetings say of it goes with it, where no person has said so."""
    matter = step.matter
    step.delete()
    rest = matter.steps.exclude(state=StepState.REFUSED)
    if not rest.filter(state=StepState.CONFIRMED).exists() and not rest.exclude(finding=None).exists():
        matter.delete()


def mark_followed(matters: Iterable[int]) -> None:
    """Which of these matters have steps of more than one meeting; those without any go."""
    keys = set(matters)
    Matter.objects.filter(pk__in=keys, steps=None).delete()
    several = {step for step in Step.objects.filter(matter__in=keys).exclude(state=StepState.REFUSED).exclude(kind=StepKind.MADE).values_list("matter", flat=True)}
    Matter.objects.filter(pk__in=several).update(followed=True)
    Matter.objects.filter(pk__in=keys - several).update(followed=False)
