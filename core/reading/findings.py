"""Decisions, actions and open questions, from how likely each turn is part of one."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from datetime import date

import numpy as np

from core.reading import wording
from core.reading.base import STATED, Finding, Said
from core.reading.due import due_of, find_due
from core.reading.encoder import LABELS
from core.reading.owner import ACCEPTS, ASKS, COMMITS, NOBODY, as_typed, find_owner
from core.reading.words import terms
from core.record.model import Record, Turn


@dataclass(frozen=True, slots=True)
class Kind:
    """How turns become findings of a kind: the probability from which one is stated, how far apart the turns of one may be, and the
    share of its best turn's probability that another has to have, and how many turns it may span. Chosen by cross-validation on two thirds of the labelled meetings and series; where F1 hardly differs, so that little is left out."""

    stated: float
    gap: int
    share: float
    most: int


KINDS = {"decision": Kind(0.65, 4, 0.4, 5), "action": Kind(0.75, 1, 0.6, 3), "question": Kind(0.65, 2, 0.7, 3)}
_STANDS = 0.6  # how much of a decision's likelihood is that it stands; the rest, that anything is settled at all
_TAKEN_BACK = 0.25  # of the likelihood that something is settled, below which what stands of it is taken back later
_SHOWN = 0.3  # of `stated`, below which nothing is even proposed
_LINES = 2  # of a turn that are cited
_SHORT = 6  # words of a turn that says no more than a date, or that it is agreed
_AFTER = 2  # turns after an action in which its date may be named


def find_findings(record: Record, lines: Sequence[Said], likely: np.ndarray) -> list[Finding]:
    """Findings with a confidence: 0.5 and up is sure enough to be stated.

    likely: shape (turns, labels), see core.reading.encoder.
    """
    of_turn: dict[int, list[Said]] = {}
    for said in lines:
        of_turn.setdefault(said.turn, []).append(said)
    make = {"decision": _decision, "action": _action, "question": _question}
    found = []
    for kind, settings in KINDS.items():
        begins = _begins(record) if kind == "action" else None
        grouped = list(groups(_likely(kind, likely), settings, begins))
        for group, best in _with_later(record, grouped, settings.stated) if kind == "action" else grouped:
            sure = round(_confidence(best, settings.stated), 3)
            group = _with_proposal(record, group) if kind == "decision" else group
            turns = [record.turns[i] for i in group if of_turn.get(record.turns[i].id)]
            if turns:
                found.append(make[kind](record, turns, of_turn, sure))
    return found + _taken_back(record, of_turn, likely, found)


_BACK = 6  # turns before a vote in which what is voted on is put


def _with_proposal(record: Record, group: list[int]) -> list[int]:
    """A vote alone does not say what was settled: the nearest proposal before it goes with it."""
    if not all(wording.PROCEDURE.search(record.turns[i].text) for i in group):
        return group
    before = range(group[0] - 1, max(-1, group[0] - 1 - _BACK), -1)
    put = next((i for i in before if wording.puts(record.turns[i].text)), None)
    return group if put is None else [put, *group]


_AGAIN = re.compile(
    r"\b(?:go(?:ing)? back|back to|hang on|hold on|oh,? no|actually|sorry|i said|just seen|just looked|i've just|won't (?:work|do|make)|can't do|not going to work|"
    r"no good|instead|too (?:tight|late|soon)|take (?:it|that|them|the \w+) off you|give me the|let me (?:do|take|have)|i'll (?:do|take) (?:it|that|them|those)|"
    r"come to think|another week|longer|in that case|that's? (?:\w+ )?\w+,|would you\?|could it be|can i have (?:till|until|another)|all right\?)"
)
"""Somebody comes back to a task: takes it over, or moves its date."""
_SAME = 1.0  # rarity-weighted words that a task and the coming back to it have to share
_AGAIN_AT = 0.7  # of `stated`, from which a coming back counts
_LATER = 8  # turns after which it is a coming back and not still the same talk


def _with_later(record: Record, grouped: Sequence[tuple[list[int], float]], stated: float) -> list[tuple[list[int], float]]:
    """Actions, each together with the turns in which somebody comes back to it: the last owner and the last date stand."""
    bags = [set(terms(turn.text)) for turn in record.turns]
    spread = Counter(term for bag in bags for term in bag)
    names = {part.lower() for name in record.people for part in name.split()}
    rarity = {term: 1 / count for term, count in spread.items() if term not in names}
    kept: list[tuple[list[int], float]] = []
    for group, best in sorted(grouped):
        said = " ".join(as_typed(record.turns[i].text) for i in group)
        words = set().union(*(bags[i] for i in group))
        if best >= _AGAIN_AT * stated and _AGAIN.search(said):
            earlier = [i for i, (other, sure) in enumerate(kept) if sure >= stated and group[0] - other[-1] >= _LATER]
            shared = {i: sum(rarity.get(t, 0.0) for t in words & set().union(*(bags[j] for j in kept[i][0]))) for i in earlier}
            chosen = max(shared, key=lambda i: shared[i], default=None)
            if chosen is not None and shared[chosen] >= _SAME:
                kept[chosen] = (kept[chosen][0] + group, max(kept[chosen][1], best))
                continue
        kept.append((group, best))
    return kept


def _likely(kind: str, likely: np.ndarray) -> np.ndarray:
    own = likely[:, LABELS.index(kind)]
    if kind != "decision":
        return own
    settled = likely[:, LABELS.index("settled")]
    logit = np.log(own / (1 - own)) * _STANDS + np.log(settled / (1 - settled)) * (1 - _STANDS)
    return 1 / (1 + np.exp(-logit))


def _taken_back(record: Record, of_turn: dict[int, list[Said]], likely: np.ndarray, found: Sequence[Finding]) -> list[Finding]:
    """What was settled and does not stand at the end; it is shown as such where a later decision is stated."""
    decisions = [finding for finding in found if finding.kind == "decision"]
    taken = {turn for finding in decisions if finding.confidence >= STATED for turn in finding.turns}
    last = max((finding.start for finding in decisions if finding.confidence >= STATED), default=0.0)
    stands, settled = likely[:, LABELS.index("decision")], likely[:, LABELS.index("settled")]
    gone = np.where(stands < _TAKEN_BACK * settled, settled, 0.0)
    back = []
    for group, best in groups(gone, KINDS["decision"]):
        turns = [record.turns[i] for i in group if of_turn.get(record.turns[i].id)]
        if best >= KINDS["decision"].stated and turns and turns[-1].end <= last and not taken & {turn.id for turn in turns}:
            back.append(replace(_decision(record, turns, of_turn, round(best, 3)), status="superseded"))
    return back


_GOES_ON = re.compile(
    r"(?:(?:and|so|okay|right|oh|um|uh|now|well|sorry),? )*(?:last thing|one (?:more|last|other) thing|another thing|next(?: thing)?[,.:]|anything else|"
    r"moving on|before (?:you|we|i) (?:all )?(?:go|run)|can i go back|talking of|speaking of|the other thing|what else)\b"
)
"""How somebody goes on to something else."""


def _begins(record: Record) -> np.ndarray:
    """Which turns begin another task: a commitment or a request that is not said in answer to one."""
    begins = np.zeros(len(record.turns), bool)
    asked = False
    for i, turn in enumerate(record.turns):
        plain = as_typed(turn.text)
        begins[i] = not asked and len(plain.split()) >= 6 and not ACCEPTS.match(plain) and bool(_DOES.search(plain)) or bool(_GOES_ON.match(plain))
        asked = "?" in plain or bool(ASKS.search(plain) or NOBODY.search(plain))
    return begins


def groups(likely: np.ndarray, kind: Kind, begins: np.ndarray | None = None) -> Iterator[tuple[list[int], float]]:
    """Turns that are one finding together, and the probability of the likeliest of them; the likeliest group first.

    begins: turns before which a group ends, whatever they are like.
    """
    taken = np.zeros(len(likely), bool)
    for peak in np.argsort(-likely, kind="stable"):
        best = float(likely[peak])
        if best < _SHOWN * kind.stated:
            return
        if taken[peak]:
            continue
        group = [int(peak)]
        for step in (-1, 1):
            last, at = int(peak), int(peak) + step
            while (
                0 <= at < len(likely)
                and not (begins is not None and begins[max(at, at - step)])
                and abs(at - last) <= kind.gap
                and max(*group, at) - min(*group, at) < kind.most
                and not taken[at]
            ):
                if likely[at] >= kind.share * best and likely[at] >= _SHOWN * kind.stated:
                    group.append(at)
                    last = at
                at += step
        taken[group] = True
        yield sorted(group), best


def _confidence(probability: float, stated: float) -> float:
    """0.5 at the probability from which a finding is stated."""
    return 0.5 * probability / stated if probability < stated else 0.5 + 0.5 * (probability - stated) / (1 - stated)


def _cited(turns: Sequence[Turn], of_turn: dict[int, list[Said]], cue: re.Pattern[str]) -> tuple[Said, ...]:
    """Of each turn the lines that matter: those with a cue first, then the longest."""
    cited = []
    for turn in turns:
        own = of_turn[turn.id]
        ranked = sorted(own, key=lambda said: (-bool(cue.search(as_typed(said.text))), -len(said.text)))
        cited += sorted(ranked[:_LINES], key=lambda said: said.index)
    return tuple(cited)


_SETTLES = re.compile(
    r"\b(?:let's|we'll|we will|we go|agreed|decided|settled|go for|go with|stick|then|propose|suggest|move that|shall we|what if|why don't|how about|"
    r"i'd|should|from now on|instead|not)\b|\bit is\b"
)
_DOES = re.compile(f"{COMMITS.pattern}|{ASKS.pattern}")
_OPEN = re.compile(r"\?|\b(?:don't know|no idea|not sure|nobody knows|couldn't say)\b")


def _decision(record: Record, turns: Sequence[Turn], of_turn: dict[int, list[Said]], sure: float) -> Finding:
    lines = _cited(turns, of_turn, _SETTLES)
    return Finding("decision", wording.decision(lines), lines, sure)


def _question(record: Record, turns: Sequence[Turn], of_turn: dict[int, list[Said]], sure: float) -> Finding:
    lines = _cited(turns, of_turn, _OPEN)
    return Finding("question", wording.question(lines, record.people), lines, sure)


def _to_the_point(turns: Sequence[Turn], day: date) -> Sequence[Turn]:
    """Without a last turn in which somebody else goes on to something else: neither a task of theirs nor a word on this one, nor a date for it."""
    if len(turns) < 2:
        return turns
    *before, last = turns
    plain = as_typed(last.text)
    named = len(plain.split()) <= _SHORT and find_due(last.text, day)
    aside = last.speaker not in {turn.speaker for turn in before} and not _DOES.search(plain) and not ACCEPTS.search(plain) and not named
    return before if aside else turns


def _action(record: Record, turns: Sequence[Turn], of_turn: dict[int, list[Said]], sure: float) -> Finding:
    pointed = _to_the_point(turns, record.started_at.date() if record.started_at else date.min)
    place = record.turns.index(pointed[-1])
    after = record.turns[place + 1 : place + 1 + _AFTER]
    people = record.people
    owner = find_owner(pointed, after, people)
    due, lines = None, _cited(turns, of_turn, _DOES)
    if record.started_at:
        day = record.started_at.date()
        due, at = due_of([turn.text for turn in pointed], day)
        dated = pointed[at] if due else None
        if not due:
            # "By Monday?" and what is said to it may come right after.
            short = [turn for turn in after if len(turn.text.split()) <= _SHORT and ACCEPTS.search(as_typed(turn.text))]
            dated = next((turn for turn in short if find_due(turn.text, day)), None)
            due = find_due(dated.text, day) if dated else None
        if dated:
            said = [one for one in of_turn[dated.id] if find_due(one.text, day)]
            lines = tuple(sorted({one.index: one for one in (*lines, *said)}.values(), key=lambda one: one.index))
    return Finding("action", wording.action(lines, owner, people), lines, sure, owner, due)
