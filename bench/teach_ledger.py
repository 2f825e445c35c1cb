"""Fit how a meeting comes back to a matter, and what became of it: `python -m bench.teach_ledger` writes core/ledger/fitted.json.

Two small models on the labelled series (bench/labelled/series): a listwise softmax over the turns of a meeting, in which "nowhere" takes part
(Cao et al. 2007), and multinomial logistic regression over what may have become of it; both with an L2 penalty, by Adam (Kingma and Ba 2015).
A minute on one core.
"""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from dataclasses import asdict, dataclass

import numpy as np

from bench.adam import adam
from bench.listwise import softmax
from bench.of_series import Series, load_series, open_before, read_before
from core.ledger.became import LATER, OF_DECISIONS, signs
from core.ledger.fitted import FITTED, Fitted
from core.ledger.matter import Open, StepKind
from core.ledger.returns import measure

_PENALTY, _STEP_PENALTY = 10.0, 3.0


@dataclass(frozen=True)
class Example:
    """A matter and a later meeting: what speaks for each turn, shape (turns, features), and for none; the turns that are labelled; what became of it."""

    matter: Open
    turns: np.ndarray
    never: np.ndarray
    places: list[int]
    step: StepKind | None
    signs: list[list[float]]


def examples(series: Series) -> Iterator[tuple[dict[str, list[str]], list[Example]]]:
    """For each later meeting the names of what is measured, and an example a matter."""
    for number in range(1, len(series.meetings)):
        record, read = series.meetings[number], series.read(number).turns
        matters = [*open_before(series, number), *read_before(series, number)]
        if not matters:
            continue
        features, never = measure([one for one, _ in matters], record.turns, read, series.encoder)
        at = {turn.id: place for place, turn in enumerate(record.turns)}
        plain = [turn.text.lower().replace("’", "'") for turn in record.turns]
        made = []
        for row, (one, step) in enumerate(matters):
            places = [at[turn] for turn in step["turns"]] if step else []
            found = [signs(one, record.turns, plain, place, read.likely) for place in places]
            made.append(
                Example(
                    one,
                    np.stack([values[row] for values in features.values()], axis=1),
                    np.array([values[row] for values in never.values()]),
                    places,
                    StepKind(step["step"]) if step else None,
                    [list(each.values()) for each in found],
                )
            )
        some = signs(matters[0][0], record.turns, plain, 0, read.likely)
        yield {"turns": list(features), "never": list(never), "signs": list(some)}, made


def fit(taught: Sequence[Example], names: dict[str, list[str]]) -> Fitted:
    """The weights, by name."""
    turns, never = _fit_places(taught)
    became = {name: [round(float(one), 4) for one in row] for name, row in zip(names["signs"], _fit_steps(taught), strict=True)}
    return Fitted(_named(names["turns"], turns), _named(names["never"], never), became)


def _named(names: Sequence[str], values: np.ndarray) -> dict[str, float]:
    return {name: round(float(value), 4) for name, value in zip(names, values, strict=True)}


def _fit_places(taught: Sequence[Example]) -> tuple[np.ndarray, np.ndarray]:
    """The features count by how far they spread, so that the penalty is the same for all."""
    every = np.concatenate([one.turns for one in taught])
    centre, spread = every.mean(axis=0), every.std(axis=0) + 1e-6
    width = every.shape[1]

    def gradient(weights: np.ndarray) -> np.ndarray:
        slope = np.r_[_PENALTY * weights[:width], np.zeros(len(weights) - width)]
        # The meeting's length is a law and not a thing to learn from meetings of one length.
        for one in taught:
            scaled = (one.turns - centre) / spread
            logits = np.r_[scaled @ weights[:width], one.never[:-1] @ weights[width:] + one.never[-1]]
            parts = softmax(logits)
            wanted = np.zeros(len(parts))
            aim = one.places or [len(parts) - 1]
            wanted[aim] = parts[aim] / parts[aim].sum()
            slope += np.r_[scaled.T @ (parts - wanted)[:-1], one.never[:-1] * (parts - wanted)[-1]]
        return slope

    weights = adam(np.zeros(width + len(taught[0].never) - 1), gradient)
    plain = weights[:width] / spread
    never = np.r_[weights[width:], 1.0]
    never[0] += float(plain @ centre)  # what the centred features gave all turns alike, "nowhere" now has less of
    return plain, never


def _fit_steps(taught: Sequence[Example]) -> np.ndarray:
    rows = [(sign, one) for one in taught for sign in one.signs]
    signs_of = np.array([sign for sign, _ in rows])
    wanted = np.eye(len(LATER))[[LATER.index(one.step) for _, one in rows if one.step]]
    barred = np.array([[0.0 if one.matter.kind == "action" or kind in OF_DECISIONS else -30.0 for kind in LATER] for _, one in rows])

    def gradient(weights: np.ndarray) -> np.ndarray:
        logits = signs_of @ weights + barred
        parts = np.exp(logits - logits.max(axis=1, keepdims=True))
        return signs_of.T @ (parts / parts.sum(axis=1, keepdims=True) - wanted) + _STEP_PENALTY * weights

    return adam(np.zeros((signs_of.shape[1], len(LATER))), gradient)


def teach(series: Sequence[Series]) -> Fitted:
    """Weights from series."""
    measured = [each for one in series for each in examples(one)]
    return fit([example for _, made in measured for example in made], measured[0][0])


def main() -> None:
    """Teach by all of them."""
    FITTED.write_text(json.dumps(asdict(teach(load_series())), ensure_ascii=False, indent=1) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
