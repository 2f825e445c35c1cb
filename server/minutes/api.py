"""The minutes of a meeting: what was drawn, what people wrote, what they say of it; drawn anew."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence
from datetime import date
from uuid import UUID

from django.db.models import Exists, OuterRef, Q
from django.http import HttpRequest, JsonResponse
from ninja import Router, Schema
from pydantic import Field

from core.minutes.action_line import NOTHING, Agreed, agreed_in, whom
from server.accounts.current import membership_of, signed_in
from server.accounts.models import Membership
from server.answers import Answer
from server.bounds import Name, Number
from server.convening.seen import seen
from server.meetings.models import Meeting
from server.meetings.people import day_of, names_of
from server.minutes.actions import draw_minutes
from server.minutes.actions.judge_finding import confirm, dismiss, set_done
from server.minutes.actions.keep_action import give, put_to
from server.minutes.actions.write_line import add_line, correct_line, move_line, set_confirmed, set_removed
from server.minutes.models import WORDED, Finding, FindingKind, FindingStatus, MinutesLine, WordedBy
from server.minutes.queries import sections_of, takes, template_of
from server.problems import Refused
from server.sharing.visibility import visible_meetings

router = Router(tags=["minutes"], auth=signed_in)
"""Minutes as part of a meeting."""
lines_router = Router(tags=["minutes"], auth=signed_in)
"""A line, and a finding, by themselves."""


class EarlierOut(Schema):
    text: str
    start: float
    lines: list[int]


class FindingOut(Schema):
    id: int
    kind: FindingKind
    text: str
    written: WordedBy
    status: FindingStatus
    confidence: float
    owner: str | None
    due: date | None
    done: bool
    start: float
    lines: list[int]
    earlier: list[EarlierOut]


class AgreedOut(Schema):
    owner: str | None
    due: date | None


class MinutesLineOut(Schema):
    """otherwise: what an action's sentence says of owner and day, where that is not what stands beside it."""

    id: int
    section: str
    text: str
    hand: str | None
    hand_name: str | None
    confirmed: str | None
    lines: list[int]
    start: float | None
    finding: FindingOut | None
    otherwise: AgreedOut | None
    removed: bool


class ChapterOut(Schema):
    title: str
    turn: int
    start: float


class SectionOut(Schema):
    """actions: a line written there is an action."""

    key: str
    heading: str
    actions: bool


class TopicOut(Schema):
    """times: when the turns begin in which it comes up, the first so many."""

    text: str
    count: int
    times: list[float]


class ChangedOut(Schema):
    """What reading the record anew, or the writer, has changed since a version: told until somebody accepts it."""

    since: int
    worded: bool
    lines: int


class MinutesOut(Schema):
    changed: ChangedOut | None
    template: str
    chosen: bool
    sections: list[SectionOut]
    lines: list[MinutesLineOut]
    proposed: list[FindingOut]
    findings: list[FindingOut]
    chapters: list[ChapterOut]
    topics: list[TopicOut]


def _line_of(request: HttpRequest, line_id: int) -> tuple[Membership, MinutesLine]:
    membership = membership_of(request)
    row = MinutesLine.objects.filter(pk=line_id, meeting__in=visible_meetings(membership)).select_related("meeting", "finding").first()
    if row is None:
        raise Refused(404, "This line of the minutes is gone; they were written anew. Look at them again.")
    return membership, row


def _finding_of(request: HttpRequest, finding_id: int) -> tuple[Membership, Finding]:
    membership = membership_of(request)
    row = Finding.objects.filter(pk=finding_id, meeting__in=visible_meetings(membership)).select_related("meeting").first()
    if row is None:
        raise Refused(404, "This is gone; the record was read anew. Look at the minutes again.")
    return membership, row


class _Evidence:
    """(number, start) of the lines each row of a meeting rests on: read for all rows at once, as a line's words and search vector are heavy."""

    def __init__(self, meeting: Meeting) -> None:
        self.of: dict[type, dict[int, list[tuple[int, float]]]] = {}
        for model, name in ((Finding, "finding"), (MinutesLine, "minutesline")):
            rows = model.lines.through.objects.filter(**{f"{name}__meeting": meeting}).order_by("line__number")
            by_row = self.of[model] = defaultdict(list)
            for row, number, start in rows.values_list(f"{name}_id", "line__number", "line__start"):
                by_row[row].append((number, start))

    def numbers(self, row: Finding | MinutesLine) -> list[int]:
        return [number for number, _ in self.of[type(row)].get(row.pk, ())]

    def start(self, row: Finding | MinutesLine) -> float | None:
        return next((start for _, start in self.of[type(row)].get(row.pk, ())), None)


def _finding(row: Finding, evidence: _Evidence, earlier: Iterable[Finding]) -> dict:
    return {
        "id": row.pk,
        "kind": row.kind,
        "text": row.text,
        "status": row.status,
        "written": row.written,
        "confidence": row.confidence,
        "owner": row.owner_name or None,
        "due": row.due,
        "done": row.done_at is not None,
        "start": row.start,
        "lines": evidence.numbers(row),
        "earlier": [{"text": one.text, "start": one.start, "lines": evidence.numbers(one)} for one in earlier],
    }


def _otherwise(row: MinutesLine, finding: dict, people: Sequence[str], day: date) -> dict | None:
    """What the sentence says and the finding does not."""
    if finding["kind"] != FindingKind.ACTION or row.removed_at:
        return None
    owner = finding["owner"]
    said = agreed_in(row.text, whom(people, owner), day)
    other = Agreed(said.owner if said.owner != owner else None, said.due if said.due != finding["due"] else None)
    return None if other == NOTHING else {"owner": other.owner, "due": other.due}


def _minutes_line(row: MinutesLine, evidence: _Evidence, finding: dict | None, people: Sequence[str], day: date) -> dict:
    return {
        "id": row.pk,
        "section": row.section,
        "text": row.text,
        "hand": row.hand_initials or None,
        "hand_name": row.hand.name if row.hand else None,
        "confirmed": row.confirmed_initials or None,
        "lines": evidence.numbers(row),
        "start": evidence.start(row),
        "finding": finding,
        "otherwise": finding and _otherwise(row, finding, people, day),
        "removed": row.removed_at is not None,
    }


def _one_line(row: MinutesLine) -> dict:
    evidence = _Evidence(row.meeting)
    finding = _finding(row.finding, evidence, row.finding.earlier.all()) if row.finding else None
    return _minutes_line(row, evidence, finding, names_of(row.meeting), day_of(row.meeting))


def _one_finding(row: Finding) -> dict:
    return _finding(row, _Evidence(row.meeting), row.earlier.all())


MOST_PROPOSED = 40
"""Of what is not sure enough to be stated, the likeliest so many are shown; as they are answered, others take their place."""
_OF_MINUTES = ("decision", "action", "question")


@router.get("/{meeting_id}/minutes", response=MinutesOut)
def minutes(request: HttpRequest, meeting_id: UUID) -> Answer:
    """Lines, those taken out too so that they can be put back; what is proposed, likeliest first; what stands, dates and figures too;
    chapters; key terms."""
    _, found = seen(request, meeting_id)
    evidence = _Evidence(found)
    proposed = found.findings.filter(status="proposed", kind__in=_OF_MINUTES).order_by("-confidence", "start")[:MOST_PROPOSED]
    shown = found.findings.filter(~Q(status="proposed") | Exists(MinutesLine.objects.filter(finding=OuterRef("pk"))))
    rows = [*shown.order_by("start"), *proposed]
    earlier = defaultdict(list)
    for row in rows:
        earlier[row.replaced_by_id].append(row)
    drawn = {row.pk: _finding(row, evidence, earlier[row.pk]) for row in rows}
    written = list(found.minutes_lines.select_related("hand"))
    people, day = names_of(found), day_of(found)
    lines = [_minutes_line(row, evidence, drawn.get(row.finding_id or 0), people, day) for row in written]
    untold = draw_minutes.untold(found, written)
    template = template_of(found)
    stated = [line["section"] for line in lines if not line["removed"]]
    made = {
        "changed": untold and {"since": untold.since, "worded": untold.why == WORDED, "lines": untold.lines},
        "template": template.kind,
        "chosen": bool(found.template),
        "sections": [
            {"key": key, "heading": heading, "actions": takes(template, key, FindingKind.ACTION)}
            for key, heading in sections_of(found, stated, template).items()
        ],
        "lines": lines,
        "proposed": [drawn[row.pk] for row in proposed],
        "findings": [finding for finding in drawn.values() if finding["status"] == "standing"],
        "chapters": list(found.chapters.order_by("start").values("title", "turn", "start")),
        "topics": [{"text": text, "count": count, "times": times[0] if times else []} for text, count, *times in found.topics],
    }
    # Hours of talk have thousands of findings; checking each against the schema takes longer than fetching them.
    return JsonResponse(made)


class NewLineIn(Schema):
    """owner, due: of an action; what is not given is as the sentence says."""

    section: str = Field(max_length=40)
    text: str = Field(max_length=4000)
    lines: list[Number] = Field([], max_length=2000)
    owner: Name = ""
    due: date | None = None


class LinePatch(Schema):
    """before: how the line read where its text is changed."""

    text: str | None = Field(None, max_length=4000)
    before: str | None = Field(None, max_length=8000)
    section: str | None = Field(None, max_length=40)
    position: Number = 10_000
    confirmed: bool | None = None


@router.post("/{meeting_id}/minutes/lines", response={201: MinutesLineOut})
def write(request: HttpRequest, meeting_id: UUID, payload: NewLineIn) -> Answer:
    """Add a line in my hand."""
    return 201, _one_line(add_line(*seen(request, meeting_id), payload.section, payload.text, payload.lines, Agreed(payload.owner or None, payload.due)))


@lines_router.patch("/lines/{line_id}", response=MinutesLineOut)
def change_line(request: HttpRequest, line_id: int, payload: LinePatch) -> Answer:
    """Word a line anew (it is then in my hand), pull it into another section or place, or tick it as right."""
    membership, row = _line_of(request, line_id)
    if payload.text is not None:
        if payload.before is None:
            raise Refused(422, "Say how the line read before (`before`), so that nobody's change is overwritten unseen.")
        row = correct_line(membership, row, payload.text, payload.before)
    if payload.section is not None:
        row = move_line(membership, row, payload.section, payload.position)
    if payload.confirmed is not None:
        row = set_confirmed(membership, row, payload.confirmed)
    return _one_line(row)


@lines_router.delete("/lines/{line_id}", response=MinutesLineOut)
def take_out(request: HttpRequest, line_id: int) -> Answer:
    """Take a line out; it can be put back."""
    membership, row = _line_of(request, line_id)
    return _one_line(set_removed(membership, row, True))


@lines_router.post("/lines/{line_id}/restore", response=MinutesLineOut)
def put_back(request: HttpRequest, line_id: int) -> Answer:
    """Put a line back."""
    membership, row = _line_of(request, line_id)
    return _one_line(set_removed(membership, row, False))


class OwnerIn(Schema):
    """was: whom the caller saw there, so that nobody's change is overwritten unseen."""

    was: Name | None
    now: Name | None


class DueIn(Schema):
    """was: the day the caller saw there."""

    was: date | None
    now: date | None


class JudgementIn(Schema):
    done: bool | None = None
    confirmed: bool | None = None
    dismissed: bool | None = None
    owner: OwnerIn | None = None
    due: DueIn | None = None


@lines_router.patch("/findings/{finding_id}", response=FindingOut)
def judge(request: HttpRequest, finding_id: int, payload: JudgementIn) -> Answer:
    """Say that an action is done, whose it is, when it is due; that a proposed finding is right, or that it is wrong."""
    membership, row = _finding_of(request, finding_id)
    if payload.done is not None:
        row = set_done(membership, row, payload.done)
    if payload.confirmed:
        row = confirm(membership, row)
    if payload.dismissed is not None:
        row = dismiss(membership, row, payload.dismissed)
    if payload.owner is not None:
        row = give(membership, row, payload.owner.was or None, payload.owner.now or None)
    if payload.due is not None:
        row = put_to(membership, row, payload.due.was, payload.due.now)
    return _one_finding(row)
