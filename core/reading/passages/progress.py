"""How things stand: what is done, what is in the way, what one tells another of their work."""

from __future__ import annotations

from core.reading.base import table
from core.reading.passages.base import Detector, by_cues

DONE = table(
    r"(?:is|are|was|were|it's|that's|they're|all) (?:all )?(?:done|finished|fixed|sorted|ready|delivered|complete|signed|in place|out|up|closed|sent|tested|painted)\b",
    r"(?:we|i|they|he|she)(?:'ve| have|'s| has)? (?:finished|fixed|sorted|delivered|completed|shipped|sent|signed|tested|replaced|moved|cleared|counted|closed|installed|repaired)\b",
    r"(?:came|went) (?:in|out|through|back|live|well)\b", r"on (?:time|schedule|track)\b", r"ahead of\b", r"so far\b",
)  # fmt: skip
BLOCKED = table(
    r"(?:waiting|wait) (?:for|on)\b", r"stuck\b", r"held up\b", r"behind\b", r"late\b", r"delayed?\b", r"short of\b", r"broken\b", r"missing\b",
    r"(?:can't|cannot|couldn't|won't) \w+ (?:until|till|without|because)\b", r"(?:hasn't|haven't|didn't|doesn't) (?:come|arrived?|answered|replied|turned up|worked?)\b",
    r"no (?:answer|reply|word|sign)\b", r"nobody (?:has|is|can)\b", r"in the way\b", r"blocked\b", r"trouble with\b", r"problem\b",
)  # fmt: skip
FEEDBACK = table(
    r"you(?:'ve| have)? (?:did|done|handled|managed|made|are|were)\b", r"well done\b", r"proud\b", r"(?:really|very) (?:good|pleased|impressed|useful)\b",
    r"i(?:'d| would) (?:like|want) (?:you|to see)\b", r"(?:could|might) (?:be|have been) (?:better|clearer|sooner)\b", r"next time\b", r"your strength\b",
    r"i(?:'ve| have) noticed\b", r"people (?:say|like|tell)\b", r"thank you for\b",
)  # fmt: skip
WISHES = table(
    r"i(?:'d| would) (?:like|love|rather|prefer)\b", r"i want\b", r"i(?:'m| am) (?:worried|tired|keen|happy|unhappy|not sure|stretched|bored)\b", r"i need\b",
    r"i find it\b", r"i(?:'ve| have) been (?:thinking|wondering|feeling)\b", r"training\b", r"course\b", r"holiday\b", r"hours\b", r"pay\b", r"i enjoy\b", r"it's (?:hard|difficult|been hard)\b",
)  # fmt: skip

SUBJECTS: dict[str, Detector] = {
    "progress": by_cues(DONE, BLOCKED, quote=False, asked=False),
    "blocked": by_cues(BLOCKED, quote=False, asked=False),
    "feedback": by_cues(FEEDBACK, asked=False),
    "wishes": by_cues(WISHES, asked=False),
}
