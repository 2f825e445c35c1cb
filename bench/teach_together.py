"""Fit what answers a question put to several meetings: `python -m bench.teach_together` writes core/search/together.json.

On the labelled series: the questions put to each as a whole, and those of its single meetings put to all four. A listwise softmax over the
turns, and logistic regression for whether there is an answer at all (bench/listwise.py). Half a minute on one core.
"""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import asdict
from functools import partial

from bench.listwise import Asked, fit
from bench.of_series import Series, load_series
from core.search.together import FITTED, Library
from core.search.weights import Weights

_PENALTY, _SAYS_PENALTY = 100.0, 0.3
_SAID = 0.54
"""The weight of the questions that are answered, of which there are more, beside those that nothing answers."""


def asked(series: Series) -> list[Asked]:
    """All questions of a series, put to the whole of it."""
    meetings = [series.read(number) for number in range(len(series.meetings))]
    library = Library(meetings, series.encoder)
    places: dict[tuple[str, int], int] = {}
    for meeting in meetings:
        for turn in meeting.record.turns:
            places[meeting.record.id, turn.id] = len(places)
    questions = [(one["q"], [(answer["meeting"], turn) for answer in one["answers"] for turn in answer["turns"]]) for one in series.ask]
    # What one meeting does not say another may.
    questions += [(one["q"], [(meeting, turn) for turn in one["turns"]]) for meeting, each in series.single.items() for one in each if one["turns"]]
    measured = [(library.measure(text), [places[where] for where in answers]) for text, answers in questions]
    return [Asked(features, answers, partial(library.says, features)) for features, answers in measured]


def teach(series: Sequence[Series]) -> Weights:
    """Weights from series."""
    return fit([one for each in series for one in asked(each)], _PENALTY, _SAYS_PENALTY, _SAID)


def main() -> None:
    """Teach by all of them."""
    FITTED.write_text(json.dumps(asdict(teach(load_series())), ensure_ascii=False, indent=1) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
