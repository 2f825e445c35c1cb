"""An interview: who the candidate is, what they have done with what, what they are good at, what was asked and answered."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence

from core.reading.base import Said, first_name, table
from core.reading.passages.base import Detector, Passage, by_cues, by_turn, of_speakers
from core.record.model import Record

BACKGROUND = table(
    r"i (?:studied|trained|grew up|started|began|left|moved|qualified|graduated|apprenticed|come from|live)\b", r"i(?:'ve| have) (?:been|worked|lived)\b", r"i was (?:at|with|in|a|an|the)\b", r"i worked\b",
    r"(?:for|about) (?:\w+ ){1,3}(?:years|months|seasons)\b", r"my (?:first|last|current|previous) (?:job|post|place|boss)\b", r"my (?:degree|apprenticeship|diploma|training)\b", r"at (?:college|university|school)\b",
)  # fmt: skip
EXPERIENCE = table(
    r"i(?:'ve| have)? (?:used|built|ran|run|set up|installed|wired|repaired|programmed|designed|managed|led|taught|fitted|maintained|rebuilt|wrote|written|worked (?:with|on)|looked after|laid|planted|tested|commissioned)\b",
    r"we (?:used|built|ran|had|installed|wired|repaired|programmed|laid|fitted)\b", r"i know (?:the|my|how)\b", r"i(?:'m| am) used to\b", r"experience\b",
)  # fmt: skip
STRENGTHS = table(
    r"i(?:'m| am) (?:good|quick|careful|patient|calm|comfortable|happy|not afraid)\b", r"i (?:like|enjoy|love)\b", r"i can\b", r"i(?:'d| would) (?:say|call) (?:i|my|myself)\b", r"i always\b", r"i never\b",
    r"my strength\b", r"what i (?:do|bring)\b", r"i learn(?:t|ed)?\b", r"people (?:say|tell me|trust)\b", r"proud\b",
)  # fmt: skip
_CANDIDATE = re.compile(r"\b(?:candidate|applicant|interviewee)\b", re.IGNORECASE)


def candidates(lines: Sequence[Said], record: Record) -> set[str]:
    """Who is being interviewed: whoever is there as a candidate, else the one who speaks most for each question they ask."""
    named = {one.name for one in record.participants if _CANDIDATE.search(one.role)}
    if named:
        return named
    words: Counter[str] = Counter()
    asks: Counter[str] = Counter()
    for said in lines:
        words[said.speaker] += len(said.text.split())
        asks[said.speaker] += said.text.rstrip().endswith("?")
    heard = [speaker for speaker in words if words[speaker] >= 0.15 * words.total()]
    return {max(heard, key=lambda speaker: words[speaker] / (1 + asks[speaker]))} if heard else set()


def _of_candidate(find: Detector) -> Detector:
    return lambda lines, record: of_speakers(find, candidates(lines, record))(lines, record)


def _asked(lines: Sequence[Said], record: Record) -> list[Passage]:
    """Questions put to the candidate, each with the fullest line of what was answered."""
    them, turns = candidates(lines, record), list(by_turn(lines))
    found = []
    for turn, following in zip(turns, turns[1:], strict=False):
        question = max((said for said in turn if said.text.rstrip().endswith("?")), key=lambda said: len(said.text), default=None)
        if question is None or question.speaker in them or following[0].speaker not in them or len(question.text.split()) < 5:
            continue
        answer = max(following, key=lambda said: min(30, len(said.text.split())))
        if len(answer.text.split()) >= 4:
            text = f"{question.text.strip()} — {first_name(answer.speaker)}: “{answer.text.strip()}”"
            found.append(Passage(text, (question, answer), min(30, len(answer.text.split())) / 10))
    return found


SUBJECTS: dict[str, Detector] = {
    "background": _of_candidate(by_cues(BACKGROUND, asked=False)),
    "experience": _of_candidate(by_cues(EXPERIENCE, asked=False)),
    "strengths": _of_candidate(by_cues(STRENGTHS, asked=False)),
    "asked": _asked,
}
