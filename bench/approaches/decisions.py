"""Decisions: a choice said outright, or a proposal and its assent."""

from __future__ import annotations

import re
from collections.abc import Sequence

from core.reading.base import Finding, Said, clause, table
from core.record.model import Record

# Said outright.
SETTLES = table(
    r"let's (?:go with|do|keep|stick with|make it|leave (?:it|them) (?:at|as|where)|say|take|drop|have|use|move|split|call it|plan on)",
    r"(?:we'll|we will|we're going to|we) (?:go|stick|plan|work|stay|proceed) (?:with|on|for)",
    r"that's what we'll do",
    r"(?:it's|that's|we've|we're) (?:agreed|decided|settled)",
    r"(?:then )?we(?:'ve| have) (?:agreed|decided|settled on)",
    r"i(?:'ve| have) decided",
    r"the (?:motion is|motion's) (?:carried|passed|lost)",
    r"(?:motion )?(?:carried|approved)\b",
    r"\w+ it is\b(?!\s+(?:a|the|not|very|in))",
    r"do it, then",
    r"go on,? then",
    r"go ahead",
    r"scrap (?:it|that)",
    r"we go with that",
    r"we(?:'re| are) not (?:doing|having|going to)",
    r"so it's (?:a |the )?\w+(?: \w+){0,3}, then",
    r"happy with that",
)
# Puts a choice forward.
PROPOSES = table(
    r"what if we",
    r"shall we",
    r"should we(?: just)?",
    r"why don't we",
    r"how about",
    r"what about",
    r"could we(?: just)?",
    r"can we(?: just)?",
    r"i(?:'d| would) (?:suggest|propose|say|rather|sooner|go for|keep|leave|lag)",
    r"i (?:propose|move|suggest|vote)",
    r"my vote",
    r"so if (?:we|i)",
    r"we (?:could|should|might)",
    r"i think we (?:should|ought)",
    r"so (?:we|let's)(?!')\b",
    r"let's",
    r"it(?:'s| is) (?:better|best|simpler|cheaper) (?:to|if)",
)
# Takes it up. Weak words count only at the very start of what somebody else says next.
ASSENTS = table(
    r"agreed",
    r"works for me",
    r"fine (?:by|with) me",
    r"makes sense",
    r"sounds good",
    r"i(?:'m| am) (?:happy|fine|good) with",
    r"happy with that",
    r"i can live with",
    r"(?:yes|yeah|yep|okay|ok|right|good|fine),? (?:let's|do|we'll|then|agreed|that's)",
    r"go on,? then",
    r"seconded",
    r"all in favour",
    r"good idea",
    r"no objection",
    r"that(?:'s| is| would be) (?:better|fine|fair|sensible)",
    r"do that",
    r"i(?:'d| would) go with that",
    r"we go with that",
    r"that's what we'll do",
    r"let's do (?:that|it)",
    r"sensible",
    r"i agree",
)
BARE_ASSENT = re.compile(
    r"^(?:oh,? )?(?:yes|yeah|yep|okay|ok|fine|good|sure|deal|done|perfect|lovely|agreed|right|all right|alright)\b[.,!]?"
)
# Takes it back, or was never meant.
AGAINST = table(
    r"if (?:we|it|they|you)",
    r"(?:don't|do not|doesn't|can't) (?:think|want|know|agree)",
    r"not sure",
    r"maybe",
    r"no,",
    r"last (?:time|week|year)",
    r"they (?:decided|agreed)",
    r"i(?:'d| would) not",
    r"kidding",
    r"joking",
    r"let's (?:see|park|leave (?:that|it) (?:for|until)|talk|not|go(?! with)|look|start|ask|hear)",
    r"i don't",
    r"imagine",
    r"used to",
)
LATER = table(
    r"park (?:that|it|this)", r"leave (?:it|that) (?:for now|until)", r"next time", r"come back to", r"until you've", r"talk about it"
)

_REACH = 3  # lines after a proposal among which an assent is looked for


def find_decisions(lines: Sequence[Said], record: Record) -> list[Finding]:
    """Decisions with the lines they rest on: where it is settled, and the proposal where the assent alone would not say what."""
    found: list[Finding] = []
    for said in lines:
        settled = SETTLES.search(said.plain)
        if settled and "?" not in said.text and not AGAINST.search(said.plain) and not LATER.search(said.plain):
            short = len(said.text.split()) < 7
            proposal = _proposal_before(lines, said) if short else None
            evidence = (proposal, said) if proposal else (said,)
            found.append(Finding("decision", _proposed((proposal or said).text), evidence, 0.62 if proposal or not short else 0.4))
            continue
        if PROPOSES.search(said.plain) and not LATER.search(said.plain) and not said.plain.startswith(("can you", "could you")):
            answer = _assent_after(lines, said)
            if answer is not None:
                sure = 0.55 if ASSENTS.search(answer.plain) else 0.3
                found.append(Finding("decision", _proposed(said.text), (said, answer), sure))
    return _apart(found)


def _proposal_before(lines: Sequence[Said], said: Said) -> Said | None:
    for earlier in reversed(lines[max(0, said.index - 4) : said.index]):
        if PROPOSES.search(earlier.plain) and len(earlier.text.split()) >= 5:
            return earlier
    return None


def _assent_after(lines: Sequence[Said], proposal: Said) -> Said | None:
    for later in lines[proposal.index + 1 : proposal.index + 1 + _REACH]:
        if later.speaker == proposal.speaker:
            continue
        if AGAINST.search(later.plain) or LATER.search(later.plain) or "?" in later.text:
            return None
        if ASSENTS.search(later.plain) or BARE_ASSENT.match(later.plain):
            return later
    return None


_PUT = re.compile(
    r"^(?:so )?(?:what if we|shall we|should we|why don't we|how about|could we|can we|let's|we could|we should|what about|"
    r"i(?:'d| would) suggest (?:that )?(?:you|we)?|i(?:'d| would) say|i propose (?:that )?(?:we)?|i think we should)\s+(?:just )?",
    re.IGNORECASE,
)


def _proposed(text: str) -> str:
    opened = clause(text)
    return clause(_PUT.sub("", opened.replace("’", "'")))


def _apart(found: list[Finding]) -> list[Finding]:
    """Findings that share a line, or stand side by side, are one decision: the surer, with the lines of both."""
    kept: list[Finding] = []
    for finding in found:
        last = kept[-1] if kept else None
        if last and finding.said[0].index - last.said[-1].index <= 1:
            best = max(last, finding, key=lambda f: f.confidence)
            together = sorted({said.index: said for said in last.said + finding.said}.items())
            if len(together) <= 4:
                kept[-1] = Finding("decision", best.text, tuple(said for _, said in together), min(0.95, best.confidence + 0.1))
                continue
        kept.append(finding)
    return kept
