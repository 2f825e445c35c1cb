"""The ledger as a member sees it: matters by what meetings that they may see do with them, and by nothing else."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from datetime import UTC, date, datetime

from django.db import models
from django.db.models import Exists, F, OuterRef, Prefetch, Q, QuerySet
from django.db.models.functions import Coalesce
from django.utils import timezone

from server.accounts.models import Membership
from server.cursors import cut, moment_of, read_cursor
from server.ledger.models import CLOSING, Matter, MatterKind, Step, StepKind, StepState
from server.meetings.models import Meeting
from server.minutes.models import NEVER, FindingKind, FindingStatus, MinutesLine
from server.problems import Refused
from server.record.models import Line
from server.sharing.visibility import listed_meetings

PAGE = 40
_LATEST = (100, 1000)
"""Meetings of which a page is taken if they fill it."""
_LATELY = 2
"""Meetings of a series in which what is overdue has to be spoken of, not to count as forgotten."""


class View(models.TextChoices):
    """What is open: actions that are neither done nor dropped, the next due first; what stands: decisions, the latest first; what meetings since
    a day did; what was forgotten: open, past its day, and not spoken of in the last meetings of its series; what is closed."""

    OPEN = "open"
    STANDS = "stands"
    CHANGED = "changed"
    FORGOTTEN = "forgotten"
    CLOSED = "closed"


@dataclass(frozen=True)
class Wanted:
    """What of the ledger. mine: what I am to do; nobody: what nobody is; person: key of somebody; series: key; words: in the text of it.
    since: of the view of what was changed. today: where its reader is."""

    view: View
    today: date
    mine: bool = False
    nobody: bool = False
    person: int | None = None
    series: int | None = None
    words: str = ""
    since: date | None = None


@dataclass(frozen=True)
class Entry:
    """A matter as one member sees it. current: the step by whose finding it stands as it does; steps: in order of time."""

    matter: Matter
    current: Step
    steps: list[Step] = field(default_factory=list)

    @property
    def closed(self) -> str | None:
        """How it ended, if it did."""
        if self.current.finding and self.current.finding.done_at:
            return StepKind.DROPPED if self.current.finding.given_up else StepKind.DONE
        ended = [step.kind for step in self.steps if step.kind in CLOSING and step.state == StepState.CONFIRMED]
        return ended[-1] if ended else None

    @property
    def asked(self) -> Step | None:
        """A step that waits for somebody to say whether the matter is done or dropped by it."""
        if self.closed:
            return None
        return next((step for step in reversed(self.steps) if step.kind in CLOSING and step.state == StepState.READ), None)


def worded(step: Step) -> str:
    """How the minutes word what it settles; "" where it settles nothing anew."""
    if step.finding is None:
        return ""
    stands = [line.text for line in step.finding.minutes_lines.all() if line.removed_at is None]
    return stands[0] if stands else step.finding.text


def ledger(membership: Membership, wanted: Wanted, cursor: str = "") -> tuple[list[Entry], str | None]:
    """A page of matters, and the cursor of the next (None at the end). Raises Refused on a broken cursor."""
    rows = narrowed(membership, wanted)
    by_due = wanted.view in (View.OPEN, View.FORGOTTEN)
    if by_due:
        rows = rows.annotate(sorted=Coalesce("finding__due", NEVER)).order_by("sorted", "pk")
    else:
        rows = rows.annotate(sorted=F("meeting__started_at")).order_by("-sorted", "-pk")
    until = None
    if cursor:
        value, key = read_cursor(cursor, date.fromisoformat if by_due else moment_of, int, "ledger")
        until = value if isinstance(value, datetime) else None
        after = "gt" if by_due else "lt"
        rows = rows.filter(Q(**{f"sorted__{after}": value}) | Q(**{"sorted": value, f"pk__{after}": key}))
    page, following = cut(rows, PAGE, "sorted") if by_due else _latest(membership, rows, until)
    return entries(membership, page), following


def _latest(membership: Membership, rows: QuerySet[Step], until: datetime | None) -> tuple[list[Step], str | None]:
    """A page of what is ordered by time, out of the latest meetings as far as these fill it: the others are not even looked at."""
    meetings = listed_meetings(membership).order_by("-started_at").values_list("started_at", flat=True)
    for many in _LATEST:
        began = list((meetings.filter(started_at__lte=until) if until else meetings)[many : many + 1])
        if not began:
            break
        page, following = cut(rows.filter(meeting__started_at__gte=began[0]), PAGE, "sorted")
        if following:
            return page, following
    return cut(rows, PAGE, "sorted")


def narrowed(membership: Membership, wanted: Wanted) -> QuerySet[Step]:
    """Of each matter that is wanted the step by which it stands."""
    seen = listed_meetings(membership)
    settling = Step.objects.filter(meeting__in=seen, finding__isnull=False).exclude(state=StepState.REFUSED).exclude(finding__status=FindingStatus.DISMISSED)
    began = OuterRef("meeting__started_at")
    after = Q(meeting__started_at__gt=began) | Q(meeting__started_at=began, pk__gt=OuterRef("pk"))
    # Most matters have one step alone: that is told by a column, so that only of the others it is asked which step is the last.
    anew = Exists(settling.filter(after, matter=OuterRef("matter")))
    rows = settling.filter(Q(finding__status=FindingStatus.STANDING) & Q(matter__followed=False) | Q(matter__followed=True) & ~anew)
    # Whose line somebody took out of the minutes, that is not settled any more.
    worded = MinutesLine.objects.filter(finding=OuterRef("finding"))
    rows = rows.exclude(Exists(worded) & ~Exists(worded.filter(removed_at=None)))
    ended = Exists(Step.objects.filter(matter=OuterRef("matter"), kind__in=CLOSING, state=StepState.CONFIRMED, meeting__in=seen))
    closed = Q(finding__done_at__isnull=False) | ended
    if wanted.view in (View.OPEN, View.FORGOTTEN):
        rows = rows.filter(matter__kind=MatterKind.ACTION, finding__kind=FindingKind.ACTION, finding__done_at=None).exclude(ended)
    elif wanted.view == View.STANDS:
        rows = rows.filter(matter__kind=MatterKind.DECISION).exclude(closed)
    elif wanted.view == View.CLOSED:
        rows = rows.filter(closed)
    elif wanted.since:
        day = datetime.combine(wanted.since, datetime.min.time(), UTC)
        moved = Step.objects.filter(matter=OuterRef("matter"), meeting__in=seen, meeting__started_at__gte=day).exclude(state=StepState.REFUSED)
        rows = rows.filter(Exists(moved))
    if wanted.view == View.FORGOTTEN:
        rows = _forgotten(rows, seen, wanted.today)
    if wanted.mine:
        rows = rows.filter(finding__owner__user=membership.user)
    if wanted.nobody:
        rows = rows.filter(finding__owner_name="")
    if wanted.person:
        rows = rows.filter(finding__owner=wanted.person)
    if wanted.series:
        rows = rows.filter(meeting__series=wanted.series)
    if wanted.words:
        rows = rows.filter(finding__text__icontains=wanted.words)
    return rows.select_related("matter", "finding__owner", "meeting__series")


def gone_on(membership: Membership) -> Exists:
    """Of findings: a later meeting that this member sees has settled them anew, or somebody has said that they are given up. What is open, is
    open in the later one, or not at all."""
    steps = Step.objects.filter(matter__steps__finding=OuterRef("pk"), meeting__in=listed_meetings(membership)).exclude(state=StepState.REFUSED)
    anew = Q(finding__isnull=False, meeting__started_at__gt=OuterRef("meeting__started_at"))
    return Exists(steps.filter(anew | Q(kind=StepKind.DROPPED, state=StepState.CONFIRMED)))


def _forgotten(rows: QuerySet[Step], seen: QuerySet[Meeting], today: date) -> QuerySet[Step]:
    """Overdue, and at least so many meetings of the series came after the last in which it was spoken of."""
    spoken = Step.objects.filter(matter=OuterRef("matter"), meeting__in=seen).exclude(state=StepState.REFUSED).order_by("-meeting__started_at")
    rows = rows.filter(finding__due__lt=today).alias(spoken=models.Subquery(spoken.values("meeting__started_at")[:1]))
    later = seen.filter(series=OuterRef("meeting__series"), started_at__gt=OuterRef("spoken"), started_at__lte=timezone.now())
    enough = models.Subquery(later.order_by("started_at").values("pk")[_LATELY - 1 : _LATELY])
    return rows.alias(enough=enough).filter(Q(meeting__series=None) | Q(enough__isnull=False))


def entries(membership: Membership, current: Sequence[Step]) -> list[Entry]:
    """The matters of these steps, with all the steps of them that a member may see."""
    seen = (
        Step.objects.filter(matter__in=[step.matter_id for step in current], meeting__in=listed_meetings(membership))
        .exclude(state=StepState.REFUSED)
        .exclude(finding__status=FindingStatus.DISMISSED)
        .select_related("meeting__series", "finding__owner", "judged_by")
        .prefetch_related(
            Prefetch("lines", Line.objects.select_related("turn__voice__person").only("number", "start", "text", "turn__number", "turn__voice__label", "turn__voice__person__name")),
            Prefetch("finding__minutes_lines", MinutesLine.objects.only("finding", "text", "removed_at")),
        )
        .order_by("meeting__started_at", "pk")
    )
    of_matter: dict[int, list[Step]] = {}
    for step in seen:
        of_matter.setdefault(step.matter_id, []).append(step)
    return [Entry(step.matter, next((one for one in of_matter[step.matter_id] if one.pk == step.pk), step), of_matter[step.matter_id]) for step in current]


def carried_into(membership: Membership, meeting: Meeting, today: date) -> list[Entry]:
    """What earlier meetings of its series have left open, the next due first, with what has been ticked off in it so far."""
    if meeting.series_id is None:
        return []
    wanted = Wanted(View.OPEN, today, series=meeting.series_id)
    left = narrowed(membership, wanted).filter(meeting__started_at__lt=meeting.started_at).exclude(meeting=meeting)
    ticked = Step.objects.filter(meeting=meeting, at__isnull=False, matter=OuterRef("matter"))
    closed = narrowed(membership, replace(wanted, view=View.CLOSED)).filter(Exists(ticked))
    rows = [*left.annotate(sorted=Coalesce("finding__due", NEVER)).order_by("sorted", "pk")[:PAGE], *closed[:PAGE]]
    return sorted(entries(membership, rows), key=lambda one: (one.current.finding and one.current.finding.due or NEVER, one.matter.pk))


def step_of(membership: Membership, key: int) -> Step:
    """A step that this member sees. Raises Refused."""
    step = Step.objects.filter(pk=key, meeting__in=listed_meetings(membership)).select_related("matter", "meeting", "finding__meeting").first()
    if step is None:
        raise Refused(404, "There is no such step, or its meeting is not shared with you.")
    return step


def entry_of(membership: Membership, matter: int) -> Entry:
    """A matter, by its key, as this member sees it. Raises Refused."""
    settling = Step.objects.filter(matter=matter, meeting__in=listed_meetings(membership), finding__isnull=False)
    step = settling.exclude(state=StepState.REFUSED).select_related("matter", "finding__owner", "meeting__series").order_by("-meeting__started_at", "-pk").first()
    if step is None:
        raise Refused(404, "There is no such matter, or no meeting of it that you may see.")
    return entries(membership, [step])[0]
