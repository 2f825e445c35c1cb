"""A look back, or a look for ideas: what went well, what did not, what to try, what is thought up, what speaks against it."""

from __future__ import annotations

from core.reading.base import table
from core.reading.passages.base import Detector, by_cues

WELL = table(
    r"went (?:really |very |so )?(?:well|fine|smoothly)\b", r"(?:really|very|so|was|were) (?:good|great|brilliant|lovely|useful|helpful|smooth|happy|pleased|proud)\b", r"worked (?:well|really|like|a treat)?\b",
    r"(?:people|everyone|everybody|they|visitors) (?:loved|liked|enjoyed|said|thanked)\b", r"glad\b", r"(?:best|nicest) (?:thing|part)\b", r"keep (?:that|doing|the)\b", r"more than (?:last|we)\b", r"on time\b", r"thanks to\b", r"saved (?:us|me|the)\b",
)  # fmt: skip
BADLY = table(
    r"(?:didn't|did not|doesn't|never) (?:work|go|arrive|come|help|know|tell|get)\b", r"went (?:wrong|badly)\b", r"too (?:late|long|slow|few|many|much|little|loud|cold|hot|far)\b", r"ran out\b", r"waste of\b", r"(?:chaos|chaotic|mess|nightmare|disaster|confus\w+|frustrat\w+|painful)\b",
    r"nobody (?:knew|told|was|had|could)\b", r"(?:no one|nobody) (?:could|was)\b", r"couldn't\b", r"waited\b", r"missing\b", r"broke\b", r"forgot(?:ten)?\b", r"worst\b", r"bad(?:ly)?\b",
)  # fmt: skip
CHANGES = table(
    r"next (?:time|year|season|one)\b", r"we (?:should|could|ought to|need to|might)\b", r"(?:instead|rather than)\b", r"what if\b", r"how about\b", r"i(?:'d| would) (?:change|do|have|move|put|start|stop|keep|split)\b", r"let's\b", r"stop (?:doing|\w+ing)\b", r"start (?:doing|\w+ing)\b",
)  # fmt: skip
IDEAS = table(
    r"what if\b", r"how about\b", r"what about\b", r"(?:we|you|they|one) could\b", r"imagine\b", r"(?:an|the|another|my|one) idea\b", r"why (?:don't|not)\b", r"maybe (?:we|a|an|the|it)\b", r"could (?:we|it|there)\b", r"(?:it|there) could be\b", r"suppose\b", r"or (?:a|an|we)\b",
)  # fmt: skip
CONCERNS = table(
    r"but (?:that|we|it|then|who|what|how|you|the|where)\b", r"(?:risk|risky|danger\w*|unsafe|safety)\b", r"too (?:much|expensive|dear|late|long|slow|heavy|small|big|dark|loud)\b", r"(?:won't|can't|couldn't|wouldn't) \w+", r"worr(?:y|ied|ies)\b", r"not sure\b", r"who (?:pays|looks|cleans|would)\b", r"costs?\b", r"permission\b", r"insurance\b",
)  # fmt: skip

SUBJECTS: dict[str, Detector] = {
    "went_well": by_cues(WELL, BADLY, asked=False),
    "went_badly": by_cues(BADLY, asked=False),
    "changes": by_cues(CHANGES),
    "ideas": by_cues(IDEAS, CONCERNS),
    "concerns": by_cues(CONCERNS, IDEAS),
}
