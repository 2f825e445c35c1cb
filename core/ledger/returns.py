"""Where a meeting comes back to what an earlier one settled or gave out."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from core.ledger.became import became, is_short_question
from core.ledger.fitted import Fitted
from core.ledger.matter import Open, StepKind
from core.reading.base import first_name
from core.reading.encoder import LABELS, Encoder, Turns
from core.reading.words import terms
from core.record.model import Turn

_LENGTH = 110
"""Turns of a labelled meeting: in a longer one there are more turns for chance to find, and none has to be as much likelier."""
_ANSWERS_WITHIN = 2
_SHORT = 8
"""Words of a turn that is nothing without the question before it."""

_CUES = {
    "reports": re.compile(
        r"\b(?:done|did|sent|been|got|gave|told|rang|rung|called|came|come|went|wrote|written|booked|ordered|finished|found|made|put|took|taken|had|saw|"
        r"seen|asked|spoke|spoken|bought|paid|fixed|signed|since|finally|in the end|that (?:mon|tues|wednes|thurs|fri|satur|sun)day)\b|\b\w{3,}ed\b"
    ),
    "denies": re.compile(r"\b(?:yet|haven't|hasn't|not|never|still|didn't|waiting|nobody|nothing|isn't|away|half|third|behind|supposed|no)\b"),
    "asks": re.compile(r"\?|\bhow(?:'s| is| are| did)\b|\b(?:any news|what about|have you|did you|have we|still)\b"),
    "gives up": re.compile(r"\b(?:forget|drop|bin|binned|no longer|needn't|any more|cancel|stop|let (?:it|them) go|scrap|no point|don't)\b"),
    "holds": re.compile(r"\b(?:still|as (?:we|agreed|before)|same|stays?|holds?|remains?|we said|i said|we agreed|been through|no change)\b"),
}
"""What people say when they come back to something."""


@dataclass(frozen=True, slots=True)
class Return:
    """That a meeting comes back to a matter: `place`, the index of the turn that says most; `places`, all that it rests on; `chance`, 0 to 1;
    `alone`, the same where no other matter lays claim to the turns; `steps`, how likely each of what may have become of it is."""

    place: int
    places: tuple[int, ...]
    chance: float
    alone: float
    steps: dict[StepKind, float]

    @property
    def step(self) -> StepKind:
        """The likeliest."""
        return max(self.steps, key=lambda kind: self.steps[kind])


def returns(matters: Sequence[Open], turns: Sequence[Turn], read: Turns, encoder: Encoder, fitted: Fitted) -> list[Return]:
    """For each matter where the turns come back to it, if they do: see `Return.chance`.

    read: what the encoder says of the turns.
    """
    if not matters or not turns:
        return []
    features, never = measure(matters, turns, read, encoder)
    chances = likely(features, never, fitted.turns, fitted.never)
    alone = _shared_out(chances)
    plain = [_plain(turn) for turn in turns]
    found = []
    for row, matter in enumerate(matters):
        place = int(chances[row, :-1].argmax())
        places = _places(turns, plain, place)
        steps = became(matter, turns, plain, place, read.likely, fitted.became)
        found.append(Return(place, places, float(1 - chances[row, -1]), float(1 - alone[row, -1]), steps))
    return found


def likely(features: dict[str, np.ndarray], never: dict[str, np.ndarray], turns: dict[str, float], none: dict[str, float]) -> np.ndarray:
    """The probability of each turn, and in the last column of none, shape (matters, turns + 1): a listwise softmax (Cao et al. 2007) in which
    "none" takes part. turns, none: weights by the names of the features."""
    score = np.sum([turns[name] * values for name, values in features.items()], axis=0)
    silent = np.sum([none[name] * values for name, values in never.items()], axis=0)
    logits = np.concatenate([score, silent[:, None]], axis=1)
    parts = np.exp(logits - logits.max(axis=1, keepdims=True))
    return parts / parts.sum(axis=1, keepdims=True)


def _shared_out(chances: np.ndarray) -> np.ndarray:
    """A turn rarely speaks of two matters: of one that several lay claim to, each keeps the root of its share."""
    claims = chances[:, :-1]
    wide = np.pad(claims, ((0, 0), (1, 1)))
    near = np.maximum(claims, np.maximum(wide[:, :-2], wide[:, 2:])).sum(axis=0)
    kept = claims * np.sqrt(claims / np.maximum(near, 1e-9))
    return np.concatenate([kept, 1 - kept.sum(axis=1, keepdims=True)], axis=1)


def _plain(turn: Turn) -> str:
    return turn.text.lower().replace("’", "'")


def _places(turns: Sequence[Turn], plain: Sequence[str], place: int) -> tuple[int, ...]:
    """The turn, with what somebody else answers to it where it asks, or with the question it answers where it is short."""
    if is_short_question(plain[place]):
        after = range(place + 1, min(place + 1 + _ANSWERS_WITHIN, len(turns)))
        answer = next((i for i in after if turns[i].speaker != turns[place].speaker), None)
        return (place,) if answer is None else (place, answer)
    if place and "?" in plain[place - 1] and len(plain[place].split()) <= _SHORT and turns[place - 1].speaker != turns[place].speaker:
        return (place - 1, place)
    return (place,)


def measure(
    matters: Sequence[Open], turns: Sequence[Turn], read: Turns, encoder: Encoder
) -> tuple[dict[str, np.ndarray], dict[str, np.ndarray]]:
    """What speaks for each turn, by name, each of shape (matters, turns); and for none, each of shape (matters,)."""
    shape = (len(matters), len(turns))
    plain = [_plain(turn) for turn in turns]
    texts, said = [one.text for one in matters], [one.said for one in matters]
    around = encoder.plain([" ".join(turn.text for turn in turns[max(0, i - 1) : i + 2]) for i in range(len(turns))])
    own = encoder.plain([turn.text for turn in turns])
    alike_text, alike_said = encoder.plain(texts), encoder.plain(said)
    answers = encoder.questions(texts) @ read.vectors.T
    about = alike_text @ around.T
    passages = encoder.plain([one.around for one in matters]) @ around.T
    here, near = _words([f"{one.text} {one.said}" for one in matters], turns)
    here_around, near_around = _words([one.around for one in matters], turns)

    def of_turns(values: Sequence[float] | np.ndarray) -> np.ndarray:
        return np.broadcast_to(np.asarray(values, float), shape)

    cues = {name: [bool(cue.search(text)) for text in plain] for name, cue in _CUES.items()}
    features = {
        "answers": answers,
        "answers what was said": encoder.questions(said) @ read.vectors.T,
        "about": about,
        "about what was said": alike_said @ around.T,
        "like what was said": alike_said @ own.T,
        "words": here,
        "words around": near,
        "about the passage": passages,
        "words of the passage": here_around,
        "words of the passage around": near_around,
        "about the passage more than others": _more(passages),
        "words of the passage more than of others": _more(near_around),
        "answers it more than others": _more(answers),
        "about it more than others": _more(about),
        "words of it more than of others": _more(near),
        "owner speaks": np.array([[turn.speaker == one.owner for turn in turns] for one in matters], float),
        "owner named": np.array([_named(one.owner, plain) for one in matters], float).reshape(shape),
        "asked before": of_turns([0.0, *cues["asks"][:-1]]),
        "length": of_turns(np.log1p([len(text.split()) for text in plain])),
        **{name: of_turns(found) for name, found in cues.items()},
        **{f"likely {name}": of_turns(read.likely[:, LABELS.index(name)]) for name in ("action", "decision", "settled")},
    }
    never = {
        "at all": np.ones(len(matters)),
        "long ago": np.array([one.since > 1 for one in matters], float),
        "decision": np.array([one.kind == "decision" for one in matters], float),
        "unsure": np.array([1 - one.sure for one in matters], float),
        "long": np.full(len(matters), max(0.0, math.log(len(turns) / _LENGTH))),
    }
    return features, never


def _more(values: np.ndarray) -> np.ndarray:
    """By how much each matter has more of a turn than any other one has."""
    if len(values) < 2:
        return values
    order = np.sort(values, axis=0)
    best, second = order[-1], order[-2]
    return values - np.where(values == best, second, best)


def _named(owner: str | None, plain: Sequence[str]) -> list[bool]:
    """Is somebody called by name, in the turn or the one before?"""
    if not owner:
        return [False] * len(plain)
    name = re.compile(rf"\b{re.escape(first_name(owner).lower())}\b")
    called = [bool(name.search(text)) for text in plain]
    return [one or before for one, before in zip(called, [False, *called[:-1]], strict=True)]


def _words(texts: Sequence[str], turns: Sequence[Turn]) -> tuple[np.ndarray, np.ndarray]:
    """The words of each text in each turn, and in it and two around it, weighed by how rare they are in the meeting (natural logarithms)."""
    names = {term for turn in turns for term in terms(turn.speaker)}
    bags = [set(terms(text)) - names for text in texts]
    known = {term: i for i, term in enumerate(sorted(set().union(*bags)))}
    there = np.zeros((len(known) or 1, len(turns)))
    for i, turn in enumerate(turns):
        for term in set(terms(turn.text)) & known.keys():
            there[known[term], i] = 1.0
    rarity = np.log((len(turns) + 1) / (there.sum(axis=1) + 0.5))
    weights = np.zeros((len(texts), len(there)))
    for row, bag in enumerate(bags):
        weights[row, [known[term] for term in bag]] = 1.0
    weights *= rarity
    wide = np.pad(there, ((0, 0), (2, 2)))
    near = np.max([wide[:, shift : shift + len(turns)] for shift in range(5)], axis=0)
    return weights @ there, weights @ near
