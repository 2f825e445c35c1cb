"""How the work on a meeting stands: stage, percent, estimate."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta
from typing import Any

from django.db.models import Avg, ExpressionWrapper, F, FloatField, Q, QuerySet, TextChoices
from django.db.models.functions import Extract
from django.utils import timezone

from server.meetings.models import Meeting
from server.pipeline.models import RunState, StageRun
from server.pipeline.work import STAGES, stages_of

_RECENT = timedelta(days=30)
OPEN = (RunState.WAITING, RunState.RUNNING)


class WorkState(TextChoices):
    """How the work on a meeting stands."""

    CAPTURING = "capturing"
    WORKING = "working"
    FAILED = "failed"
    READY = "ready"


@dataclass(frozen=True)
class Work:
    """percent: 0 to 100. left: estimated seconds of work, None where nothing is being done."""

    state: WorkState
    stage: str
    words: str
    percent: int
    left: int | None
    message: str


def result_of(meeting: Meeting, stage: str) -> Any:
    """What a stage handed on."""
    return StageRun.objects.get(meeting=meeting, stage=stage).result


def _rates() -> dict[str, float]:
    took = ExpressionWrapper(Extract(F("finished_at") - F("started_at"), "epoch") / F("meeting__duration"), output_field=FloatField())
    measured = (
        StageRun.objects.filter(state=RunState.DONE, finished_at__gt=timezone.now() - _RECENT, started_at__isnull=False, meeting__duration__gt=20)
        .annotate(rate=took)
        .values("stage")
        .annotate(mean=Avg("rate"))
        .values_list("stage", "mean")
    )
    return {**{stage.name: stage.rate for stage in STAGES.values()}, **{stage: rate for stage, rate in measured if rate}}


def estimate(duration: float) -> float:
    """Seconds of work on so many seconds of sound, from what stages took on this server, with what waits before it."""
    rates = _rates()
    open_runs = StageRun.objects.filter(state__in=OPEN, stage__in=_ahead())
    waiting = Meeting.objects.filter(removed_at=None, stage_runs__in=open_runs).distinct().prefetch_related("stage_runs")
    before = sum(work_on(meeting, rates).left or 0 for meeting in waiting.select_related("recording", "capture"))
    return before + sum(rates[name] for name in _ahead()) * duration + 0.3 * len(_ahead())


def _ahead() -> list[str]:
    """The stages that a meeting is not ready without."""
    return [name for name, stage in STAGES.items() if not stage.behind]


def work_on(meeting: Meeting, rates: dict[str, float] | None = None) -> Work:
    """The state of the work, its estimate from what stages took on this server per second of sound."""
    runs = {run.stage: run for run in meeting.stage_runs.all() if not STAGES[run.stage].behind}
    if not runs and hasattr(meeting, "capture"):
        return Work(WorkState.CAPTURING, "", "being captured", 0, None, "")
    failed = next((run for run in runs.values() if run.state == RunState.FAILED), None)
    if failed:
        return Work(WorkState.FAILED, failed.stage, STAGES[failed.stage].words, 0, None, failed.message)
    # A meeting that was read just before its capture became a recording has none yet, though its stages are there.
    names = [name for name in (stages_of(meeting.recording) if hasattr(meeting, "recording") else STAGES) if name in runs]
    open_names = [name for name in names if runs[name].state != RunState.DONE]
    if not open_names:
        return Work(WorkState.READY, "", "", 100, None, "")
    rates = rates or _rates()
    length = max(meeting.duration or 60.0, 1.0)
    expected = {name: rates[name] * length + 0.3 for name in names}
    left = sum(expected[name] * (1 - runs[name].progress) for name in open_names)
    current = next((name for name in open_names if runs[name].state == RunState.RUNNING), open_names[0])
    waiting = runs[current].state == RunState.WAITING
    words = f"waiting for a worker ({STAGES[current].words} is next)" if waiting else STAGES[current].words
    return Work(WorkState.WORKING, current, words, min(99, round(100 * (1 - left / sum(expected.values())))), max(1, round(left)), "")


def behind(meeting: Meeting) -> Work | None:
    """What is still done on a meeting that is ready; None where nothing is."""
    for run in meeting.stage_runs.all():
        stage = STAGES[run.stage]
        if not stage.behind or run.state == RunState.DONE:
            continue
        if run.state == RunState.FAILED:
            return Work(WorkState.FAILED, run.stage, stage.words, 0, None, run.message)
        whole = _rates()[run.stage] * max(meeting.duration or 60.0, 1.0)
        return Work(WorkState.WORKING, run.stage, stage.words, round(100 * run.progress), max(1, round(whole * (1 - run.progress))), "")
    return None


def being_worked_on(meetings: QuerySet[Meeting]) -> list[tuple[Meeting, Work]]:
    """Of a query of meetings, those whose work is not finished, each with how it stands."""
    unfinished = (
        meetings.filter(
            Q(stage_runs__in=StageRun.objects.filter(state__in=[*OPEN, RunState.FAILED], stage__in=_ahead()))
            | Q(capture__isnull=False, stage_runs=None)
        )
        .distinct()
        .select_related("recording", "capture")
        .prefetch_related("stage_runs")
        .order_by("-created_at")
    )
    # What stages take is only asked for when something is being worked on.
    found = list(unfinished)
    rates = _rates() if found else None
    return [(meeting, work_on(meeting, rates)) for meeting in found]
