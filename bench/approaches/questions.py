"""Open questions: put by somebody, answered by nobody."""

from __future__ import annotations

from collections.abc import Sequence

from core.reading.base import Finding, Said, clause, table
from core.record.model import Record

# An answer that is none.
UNKNOWN = table(
    r"(?:i|we|nobody|no one) (?:honestly |really |still )?(?:don't|do not|doesn't|does not|didn't) know",
    r"no idea",
    r"not (?:certain|sure)",
    r"nobody knows",
    r"can't say",
    r"couldn't say",
    r"good question",
    r"find (?:that |it )?out",
    r"have to ask",
    r"i'd (?:have to|want to) (?:look|ask|check)",
    r"leave (?:it|that) (?:for now|until|open)",
    r"park (?:that|it|this)",
    r"we don't know",
    r"can't tell",
    r"haven't got (?:it|that)",
    r"without a number",
    r"who knows",
    r"come back to (?:that|it)",
    r"i wish i knew",
    r"still don't know",
    r"ask \w+ (?:about|when)",
)
# Says outright that something is open.
STATES = table(
    r"(?:i|we) (?:still )?don't know (?:yet )?(?:who|what|when|where|whether|if|how|which|why)",
    r"the question is",
    r"(?:i'm|we're) not (?:certain|sure) (?:who|what|when|where|whether|if|how|which)",
    r"(?:somebody|someone) (?:needs|has) to find (?:that )?out",
    r"still open",
)
# Questions that want no answer.
IDLE = table(
    r"can (?:you|everyone|we all) (?:hear|see)",
    r"is that (?:better|everyone|you|right|okay|ok|it)",
    r"how are you",
    r"anything else",
    r"right\?",
    r"okay\?",
    r"you know\?",
    r"isn't it\?",
    r"doesn't it\?",
    r"shall we (?:start|begin)",
    r"anyone else",
    r"what's that",
    r"sorry\?",
    r"really\?",
    r"yeah\?",
    r"can i just",
    r"do you want to (?:start|go)",
    r"milk|kettle|coffee|tea\b",
    r"(?:can|could|would|will) you",
)

_REACH = 4


def find_questions(lines: Sequence[Said], record: Record) -> list[Finding]:
    """Questions of substance that nobody answers, with the lines that put them and, where there is one, the reply that is none."""
    found: list[Finding] = []
    for said in lines:
        if STATES.search(said.plain) and "?" not in said.text:
            found.append(Finding("question", clause(said.text), (said,), 0.45))
        if "?" not in said.text or len(said.text.split()) < 4 or IDLE.search(said.plain):
            continue
        after = [later for later in lines[said.index + 1 : said.index + 1 + _REACH]]
        unknown = next((later for later in after if UNKNOWN.search(later.plain)), None)
        if unknown is not None:
            near = unknown.index - said.index
            found.append(
                Finding("question", clause(said.text) + "?", (said, unknown) if near <= 2 else (said,), 0.62 if near <= 2 else 0.4)
            )
        elif not any(later.speaker != said.speaker for later in after):
            found.append(Finding("question", clause(said.text) + "?", (said,), 0.35))
    return _apart(found)


def _apart(found: list[Finding]) -> list[Finding]:
    """Two that stand side by side are one matter: the surer."""
    kept: list[Finding] = []
    for finding in found:
        if kept and finding.said[0].index - kept[-1].said[0].index <= 2:
            kept[-1] = max(kept[-1], finding, key=lambda f: f.confidence)
        else:
            kept.append(finding)
    return kept
