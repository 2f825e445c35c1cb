"""Words that carry a subject, and English ones that carry none of their own."""

from __future__ import annotations

import re
from functools import lru_cache

import snowballstemmer

STOP = frozenset(
    """
a about above actually after again all almost already also alright always am an and another any anybody anyone anything are aren't around as ask asked at away back basically be
because been before being best better between big bit both but by call came can can't cannot come comes coming could couldn't course cos day days did didn't do does doesn't doing
don't done down each either else end enough er erm even ever every everybody everyone everything exactly far feel few find fine first for from gave get gets getting give given go goes
going gone gonna good got great had half happen happened hard has have haven't having he he'd he'll he's hear her here here's hers hi him his hm hmm honest honestly how how's i i'd i'll
i'm i've idea if in into is isn't it it'd it'll it's its itself just keep kind knew know known last later least leave left less let let's like little live ll long look looking lot lots
lovely made make makes many matter may maybe me mean means might mind mine minute mm more morning most much must my myself need needs never next nice no nobody none nor not nothing now
of off oh ok okay old on once one ones only onto or other others our ours out over own part people perfect perhaps person place please point probably put quick quite rather re really
right said same saw say saying says second see seem seems seen send sent set shall she she'd she'll she's should shouldn't show side since so some somebody someone something sometimes
sorry sort start started still stop stuff such suppose sure take taken talk talking tell than thank thanks that that'd that'll that's the their them then there there'll there's these
they they'd they'll they're they've thing things think third this those though thought three through time times to today together told tomorrow too took top tried true try trying turn two
um until up us use used using ve very want wanted wants was wasn't way we we'd we'll we're we've week weeks well went were weren't what what's whatever when where where's which while who
who's whole why will with within without won't wonder work works worth would wouldn't yeah year years yep yes yesterday yet you you'd you'll you're you've your yours
monday tuesday wednesday thursday friday saturday sunday
""".split()
)

# Meetings say the same words again and again.
stem = lru_cache(maxsize=50_000)(snowballstemmer.stemmer("english").stemWord)

_WORD = re.compile(r"[^\W\d_][\w'’-]+")


def content_words(text: str) -> list[str]:
    """The words of a text that say what it is about, as they stand, in lower case."""
    return [word for word in _WORD.findall(text.lower()) if word.replace("’", "'") not in STOP and len(word) > 2]


def terms(text: str) -> list[str]:
    """The content words of a text, stemmed."""
    return [stem(word) for word in content_words(text)]
