"""`./aftershower bench series`: matters followed through labelled series of meetings, and questions put to a series as a whole.

Every figure is of a series that what joins its steps was not fitted on: of three, two are fitted and the third is measured.
The rules of scoring are those of bench/labelled/SERIES.md.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import date

import numpy as np
from rank_bm25 import BM25Okapi

from bench.of_series import Label, Series, load_series, matches
from bench.score import match
from bench.tables import table
from bench.teach_ledger import teach as teach_ledger
from bench.teach_together import teach as teach_together
from core.ledger import Matter, Step, StepKind, come_back, follow
from core.ledger.book import made, open_after
from core.ledger.fitted import Fitted
from core.ledger.matter import CLOSING
from core.reading import Encoder
from core.reading.reader import Read
from core.reading.words import terms
from core.search import Library


def joined(matter: Matter, labelled: Label, number: int) -> Step | None:
    """The step of a matter that is a labelled one's later step, where an earlier one of it is an earlier one of that."""
    if matter.kind != labelled["kind"]:
        return None
    for place, step in enumerate(matter.steps[1:], 1):
        if matches(step, labelled["steps"][number]) and any(
            matches(before, label) for before in matter.steps[:place] for label in labelled["steps"][:number]
        ):
            return step
    return None


def score_ledger(ledger: Sequence[Label], matters: Sequence[Matter]) -> dict[str, tuple[int, int]]:
    """Counts: how many of how many. See bench/labelled/SERIES.md."""
    later = [(one, number) for one in ledger for number in range(1, len(one["steps"]))]
    found = [(one, number, next((step for matter in matters if (step := joined(matter, one, number))), None)) for one, number in later]
    of = lambda kind: [step for matter in matters for step in matter.steps if step.kind == kind]  # noqa: E731
    done = [one for one in found if one[0]["steps"][one[1]]["step"] == "done"]
    right_done = sum(step is not None and step.kind == StepKind.DONE for _, _, step in done)
    last = [sum(_ends_alike(matter, one) for matter in matters) > 0 for one in ledger]
    steps = [(kind, made_of) for kind in StepKind for made_of in (_matched(ledger, matters, kind),)]
    return {
        "joined": (sum(step is not None for *_, step in found), len(later)),
        "joined and named": (sum(step is not None and step.kind == one["steps"][number]["step"] for one, number, step in found), len(later)),
        "later steps that are right": (
            sum(step is not None for *_, step in found),
            sum(len(matter.steps) - 1 for matter in matters),
        ),
        "done: precision": (right_done, len(of(StepKind.DONE))),
        "done: recall": (right_done, len(done)),
        "steps: precision": (sum(count for _, count in steps), sum(len(matter.steps) for matter in matters)),
        "steps: recall": (sum(count for _, count in steps), sum(len(one["steps"]) for one in ledger)),
        "stands: recall": (sum(last), len(ledger)),
        "stands: precision": (sum(last), len(matters)),
    }


def _matched(ledger: Sequence[Label], matters: Sequence[Matter], kind: StepKind) -> int:
    """Steps of one kind that are labelled as such, one to one."""
    count = 0
    for of in ("decision", "action"):
        for meeting in {label["meeting"] for one in ledger for label in one["steps"]}:
            ours = [
                {"turns": list(step.turns)}
                for one in matters
                for step in one.steps
                if (one.kind, step.meeting, step.kind) == (of, meeting, kind)
            ]
            labels = [label for one in ledger for label in one["steps"] if (one["kind"], label["meeting"], label["step"]) == (of, meeting, kind)]
            count += len(match(ours, labels))
    return count


def _ends_alike(matter: Matter, labelled: Label) -> bool:
    """Does it end as the labelled one does: the turns, whether it stands, whose it is, when it is due?"""
    ours, label = matter.steps[-1], labelled["steps"][-1]
    if matter.kind != labelled["kind"] or not matches(ours, label) or matter.stands != (label["step"] not in CLOSING):
        return False
    due = ours.due.isoformat() if ours.due else None
    return matter.kind == "decision" or (ours.owner, due) == (label.get("owner"), label.get("due"))


_ALIKE = 0.6
"""Likeness of two texts from which the baseline takes them for one matter; the best of .4, .5, .6, .7 on all three series."""


def by_likeness(meetings: Sequence[Read], encoder: Encoder) -> list[Matter]:
    """The simple way: what is found later is the same matter where the owner is the same and the text alike; it is "changed"."""
    matters: list[Matter] = []
    for meeting in meetings:
        for finding in meeting.findings:
            if finding.kind not in ("decision", "action") or finding.status != "standing":
                continue
            step = made(meeting.record.id, finding)
            same = [one for one in matters if one.kind == finding.kind and one.steps[-1].meeting != step.meeting and one.steps[-1].owner == step.owner]
            alike = encoder.plain([step.text, *(one.steps[-1].text for one in same)])
            near = alike[1:] @ alike[0]
            if len(near) and near.max() >= _ALIKE:
                old = same[int(near.argmax())]
                again = Step(step.meeting, StepKind.CHANGED, step.turns, step.text, step.owner, step.due, float(near.max()))
                matters[matters.index(old)] = Matter(old.kind, (*old.steps, again))
            else:
                matters.append(Matter(finding.kind, (step,)))  # type: ignore[arg-type]
    return matters


def labelled_matters(series: Series, fitted: Fitted) -> list[Matter]:
    """What is joined where every first step is known, so that joining is measured without reading."""
    matters = {
        number: [Step(one["steps"][0]["meeting"], StepKind.MADE, tuple(one["steps"][0]["turns"]), one["steps"][0]["text"], one["steps"][0].get("owner"), _day(one["steps"][0]), 1.0)]
        for number, one in enumerate(series.ledger)
    }
    ids = [record.id for record in series.meetings]
    for place in range(1, len(series.meetings)):
        known = [
            number
            for number, steps in matters.items()
            if ids.index(steps[0].meeting) < place and steps[-1].kind not in CLOSING
        ]
        opened = [open_after(series.ledger[number]["kind"], matters[number], series.meetings[:place]) for number in known]
        for came in come_back(opened, series.read(place), series.encoder, fitted):
            matters[known[came.matter]].append(came.step)
    return [Matter(series.ledger[number]["kind"], tuple(steps)) for number, steps in matters.items()]


def _day(label: Label) -> date | None:
    return date.fromisoformat(label["due"]) if label.get("due") else None


def score_answers(asked: Sequence[Label], answers: Sequence[Sequence[tuple[str, int]]]) -> dict[str, tuple[float, int]]:
    """Questions to a series, and the turns that are cited for each (meeting, turn), the best first. Counts: how many of how many."""
    first = silent = there = nowhere = 0
    covered: list[float] = []
    for one, cited in zip(asked, answers, strict=True):
        right = {(answer["meeting"], turn) for answer in one["answers"] for turn in answer["turns"]}
        if not right:
            nowhere, silent = nowhere + 1, silent + (not cited)
            continue
        there, first = there + 1, first + (bool(cited) and cited[0] in right)
        if len(meetings := {meeting for meeting, _ in right}) > 1:
            covered.append(len(meetings & {meeting for meeting, _ in cited}) / len(meetings))
    return {
        "first citation right": (first, there),
        "unanswerable told": (silent, nowhere),
        "meetings of what changed that are cited": (sum(covered), len(covered)),
    }


def by_words(series: Series) -> list[list[tuple[str, int]]]:
    """The simple way: the turn with the most of the question's words, weighed by rarity (BM25, Robertson and Walker 1994); nothing where none has any."""
    where = [(record.id, turn) for record in series.meetings for turn in record.turns]
    index = BM25Okapi([terms(f"{turn.speaker} {turn.text}") or [""] for _, turn in where])
    answers = []
    for one in series.ask:
        found = index.get_scores(terms(one["q"]))
        answers.append([(where[i][0], where[i][1].id) for i in np.argsort(-found, kind="stable")[:3] if found[i] > 0])
    return answers


def _print_answers(series: Sequence[Series]) -> None:
    ways: dict[str, dict[str, np.ndarray]] = {"asked together": {}, "BM25": {}}
    for one in series:
        weights = teach_together([other for other in series if other is not one])
        library = Library([one.read(i) for i in range(len(one.meetings))], one.encoder)
        answered = library.ask([question["q"] for question in one.ask], weights)
        ours = [[(cited.meeting, cited.turn.id) for cited in answer.cited] for answer in answered]
        for way, answers in (("asked together", ours), ("BM25", by_words(one))):
            for measure, counts in score_answers(one.ask, answers).items():
                ways[way][measure] = ways[way].get(measure, np.zeros(2)) + np.array(counts)
    print(table(["way", *ways["BM25"]], [[way, *(float(hit / of) for hit, of in found.values())] for way, found in ways.items()]))


def run() -> None:
    """Print how matters are joined and what is answered, beside the simple ways."""
    series = load_series()
    ways: dict[str, Callable[[Series, Fitted], list[Matter]]] = {
        "read and joined": lambda one, fitted: follow([one.read(i) for i in range(len(one.meetings))], one.encoder, fitted),
        "same owner, text alike": lambda one, _: by_likeness([one.read(i) for i in range(len(one.meetings))], one.encoder),
        "joined from the labelled first steps": lambda one, fitted: labelled_matters(one, fitted),
    }
    counts: dict[str, dict[str, np.ndarray]] = {way: {} for way in ways}
    for one in series:
        fitted = teach_ledger([other for other in series if other is not one])
        for way, go in ways.items():
            for measure, (hit, of) in score_ledger(one.ledger, go(one, fitted)).items():
                counts[way][measure] = counts[way].get(measure, np.zeros(2)) + np.array([hit, of])
    measures = list(next(iter(counts.values())))
    rows = [[way, *(float(found[name][0] / max(1, found[name][1])) for name in measures)] for way, found in counts.items()]
    print(table(["way", *measures], rows))
    print()
    _print_answers(series)
