"""A call with a supplier or a client: what somebody needs, what is wrong, what is asked for, what speaks against it, terms named."""

from __future__ import annotations

from core.reading.base import table
from core.reading.passages.base import Detector, by_cues

NEEDS = table(
    r"(?:we|i|they) (?:really )?need\b", r"(?:we|i)(?:'d| would) need\b", r"has to be\b", r"have to (?:have|be|know)\b", r"must (?:have|be|not)\b", r"(?:we|i) (?:want|require)\b",
    r"(?:what|all) (?:we|i) (?:need|want)\b", r"it(?:'s| is) important\b", r"(?:essential|crucial|vital)\b", r"(?:we|i) can't do without\b", r"looking for\b", r"our (?:requirement|priority)\b",
)  # fmt: skip
PROBLEMS = table(
    r"problem\b", r"issue\b", r"trouble\b", r"(?:doesn't|didn't|don't|won't|isn't|wasn't) (?:work|fit|hold|close|open|start|arrive|match|right|good enough)\b", r"broken?\b",
    r"leak(?:s|ed|ing)?\b", r"fail(?:s|ed|ing)?\b", r"wrong\b", r"fault(?:y|s)?\b", r"crack(?:s|ed)?\b", r"complain(?:t|ts|ed)?\b", r"keeps? \w+ing\b", r"late again\b", r"damaged?\b",
)  # fmt: skip
REQUESTS = table(
    r"(?:can|could|would|will) you\b", r"(?:can|could|may) (?:we|i) (?:have|get|ask|see)\b", r"i(?:'d| would) like\b", r"we(?:'d| would) like\b", r"please\b",
    r"would it be possible\b", r"is there any (?:chance|way)\b", r"i(?:'m| am) asking\b", r"if you could\b", r"let (?:us|me) (?:have|know)\b", r"send (?:us|me)\b",
)  # fmt: skip
OBJECTIONS = table(
    r"too (?:much|expensive|dear|late|long|slow|early|soon|heavy|risky|little|short)\b", r"(?:can't|cannot) (?:accept|agree|do that|afford|live with|wait)\b", r"not (?:acceptable|happy|convinced|willing|possible|good enough)\b",
    r"i(?:'m| am) (?:worried|concerned|not sure|afraid)\b", r"but (?:that|we|i|it|then|you)\b", r"however\b", r"(?:we|i) (?:don't|didn't) (?:agree|want|think|like)\b", r"that(?:'s| is) not\b",
    r"(?:we|i)(?:'d| would) rather not\b", r"no way\b", r"against\b", r"out of the question\b",
)  # fmt: skip
TERMS = table(
    r"\d+ (?:pounds|euros|dollars|percent|weeks?|days?|months?)\b", r"(?:hundred|thousand)\b", r"price\b", r"costs?\b", r"discount\b", r"deposit\b", r"invoice\b", r"warranty\b", r"guarantee\b",
    r"lead time\b", r"deliver(?:y|ed|s)?\b", r"contract\b", r"quote\b", r"payment\b", r"in advance\b",
)  # fmt: skip

SUBJECTS: dict[str, Detector] = {
    "needs": by_cues(NEEDS, asked=False),
    "problems": by_cues(PROBLEMS, asked=False),
    "requests": by_cues(REQUESTS),
    "objections": by_cues(OBJECTIONS, asked=False),
    "terms": by_cues(TERMS, asked=False),
}
