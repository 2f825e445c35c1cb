"""Search over everything that one may see: each source by itself, then the meetings by how high they stand in all of them."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from typing import Any
from uuid import UUID

from django.contrib.postgres.search import SearchHeadline, SearchQuery, SearchRank, TrigramWordSimilarity
from django.db.models import Count, F, FloatField, Max, QuerySet, TextChoices, Value, Window
from django.db.models.functions import RowNumber

from core.reading.words import terms
from core.record.spacing import UNSPACED
from server.accounts.models import Membership
from server.library.narrow import Narrowed, narrowed
from server.library.queries import with_people
from server.library.senses import Near, meetings_of, nearest
from server.library.sources import SOURCES, Field, Source
from server.meetings.models import Meeting
from server.pipeline.ear import encoder
from server.problems import Refused
from server.record.models import Line
from server.searched import asked_for

_START, _STOP = "\x02", "\x03"  # around each hit of a snippet: signs that no text holds
_SNIPPETS, _OF_ONE, _MOST, _CANDIDATES = 3, 2, 50, 200
FUSED = 60.0
"""Added to a place before its reciprocal is taken: reciprocal rank fusion as Cormack, Clarke and Büttcher (SIGIR 2009) have it."""
_ABOUT, _MOST_ABOUT = 0.45, 10
"""How near what is said has to be to what is looked for, to be about the same; and so many meetings at the most."""
_EXCLUDED = re.compile(r'(?<!\S)-("[^"]*"?|\S+)')
_SIGNS = re.compile(r'["-]')


class Order(TextChoices):
    """In which order what is found is shown."""

    BEST = "best"
    NEWEST = "newest"
    OLDEST = "oldest"


@dataclass(frozen=True)
class Hit:
    """A place that holds what is looked for. line: of the record, that it leads to, where there is a record. parts: its words, each with whether
    it is what was looked for."""

    field: Field
    parts: list[tuple[str, bool]]
    start: float | None
    line: int | None
    who: str


@dataclass
class Hits:
    """A meeting with what was found in it: how many places hold the words, and the best of them; none where it is only about the same."""

    meeting: Meeting
    count: int
    best: list[Hit] = field(default_factory=list)


@dataclass(frozen=True)
class Found:
    """What a search found. alike: nothing holds the words as they were typed; these hold words that are like them."""

    meetings: list[Hits]
    alike: bool = False


@dataclass(frozen=True)
class _Looked:
    """How one looks into a source: what its rows have to hold, how they are ranked, and how what they hold is shown."""

    holds: dict[str, Any]
    rank: Any
    query: SearchQuery | None
    words: str


def search(membership: Membership, words: str, wanted: Narrowed, order: str, *, by_meaning: bool = True) -> Found:
    """Meetings that hold the words, in the web's form: words, "quoted phrases", -excluded, or. Where none does, those that hold words like them.

    by_meaning: those as well in which something is said that is about the same; never where the words are asked for by signs. Raises Refused when there is nothing to search for.
    """
    words = words.replace("\x00", " ").strip()[:200]
    if not re.search(r"\w", _EXCLUDED.sub("", words)):
        raise Refused(422, "Type a word to search for.")
    meetings = narrowed(membership, wanted)
    query = asked_for(words)
    exact = _Looked({"search": query}, lambda source: SearchRank(F(source.search), query), query, words)
    ways = [exact, *_unspaced(words)]
    looser = not _SIGNS.search(words) and " or " not in words.lower()
    near = nearest(meetings, encoder().plain([words])[0], _ABOUT) if by_meaning and looser and terms(words) else []
    found = _search(membership, meetings, ways, order, near)
    if any(one.count for one in found) or not looser or len(words) < 3:
        return Found(_with_meant(found, near))
    similar = _Looked({"trigram_word_similar": words}, lambda source: TrigramWordSimilarity(words, source.text), None, words)
    alike = _search(membership, meetings, [similar], order, near)
    return Found(_with_meant(alike, near), alike=any(one.count for one in alike))


def _with_meant(found: list[Hits], near: Sequence[Near]) -> list[Hits]:
    """Each meeting that has something about the same with the best of that, where there is room for it."""
    best: dict[UUID, Near] = {}
    for one in near:
        best.setdefault(one.meeting, one)
    shown = {one.meeting.pk: one for one in found if len(one.best) < _SNIPPETS}
    turns = {one.turn for key, one in best.items() if key in shown}
    lines = Line.objects.filter(turn__in=turns).select_related("turn__voice__person").order_by("turn", "number").distinct("turn")
    for line in lines:
        hits = shown[line.meeting_id].best
        if all(hit.line != line.number for hit in hits):
            hits.append(Hit(Field.MEANING, [(line.text, False)], line.start, line.number, line.turn.voice.name))
    return found


def _unspaced(words: str) -> list[_Looked]:
    """PostgreSQL takes a run of letters without spaces for one word: of such scripts any part of a text is found."""
    if not re.search(UNSPACED, words):
        return []
    return [_Looked({"icontains": words}, lambda source: Value(0.1, output_field=FloatField()), None, words)]


def _search(membership: Membership, meetings: QuerySet[Meeting], ways: Sequence[_Looked], order: str, near: Sequence[Near]) -> list[Hits]:
    counts: dict[UUID, int] = defaultdict(int)
    scores: dict[UUID, float] = defaultdict(float)
    looked = [
        (source, way, source.found(membership, meetings, **way.holds).annotate(rank=way.rank(source))) for source in SOURCES for way in ways
    ]
    for source, _, rows in looked:
        best = rows.order_by().values("of").annotate(count=Count("pk", distinct=True), best=Max("rank")).order_by("-best", "-of")[:_CANDIDATES]
        for place, row in enumerate(best):
            counts[row["of"]] += row["count"]
            scores[row["of"]] += source.weight / (FUSED + place)
    for place, about in enumerate(meetings_of(near)[:_MOST_ABOUT]):
        scores[about] += 1.0 / (FUSED + place)
    chosen = sorted(scores, key=lambda key: (-scores[key], str(key)))[: _MOST if order == Order.BEST else _CANDIDATES]
    shown = {meeting.pk: Hits(meeting, counts[meeting.pk]) for meeting in with_people(meetings.filter(pk__in=chosen))}
    hits = [shown[key] for key in chosen if key in shown]
    if order != Order.BEST:
        hits.sort(key=lambda one: one.meeting.started_at, reverse=order == Order.NEWEST)
    hits = hits[:_MOST]
    _fill(membership, {one.meeting.pk: one for one in hits}, looked)
    return hits


def _fill(membership: Membership, shown: dict[UUID, Hits], looked: Iterable[tuple[Source, _Looked, QuerySet[Any]]]) -> None:
    """The best places of each meeting, those of weightier sources first, but not all of one as long as there are others."""
    spare: dict[UUID, list[Hit]] = defaultdict(list)
    for source, way, rows in sorted(looked, key=lambda one: -one[0].weight):
        nth = Window(RowNumber(), partition_by=F("of"), order_by=[F("rank").desc(), F("pk").asc()])
        keys = [row["pk"] for row in rows.filter(of__in=list(shown)).annotate(nth=nth).filter(nth__lte=_SNIPPETS).values("pk")]
        if not keys:
            continue
        best = source.placed(source.rows(membership).filter(pk__in=keys).annotate(of=F(source.meeting)))
        if way.query is not None:
            best = best.annotate(snippet=SearchHeadline(source.text, way.query, config="english", start_sel=_START, stop_sel=_STOP, highlight_all=True))
        else:
            best = best.annotate(snippet=F(source.text))
        for row in sorted(best, key=lambda one: (one.leads_to or 0, one.pk)):
            hit, hits = Hit(source.field, _parts(_marked(row.snippet, way)), row.second, row.leads_to, source.who(row)), shown[row.of].best
            (hits if sum(one.field == hit.field for one in hits) < _OF_ONE else spare[row.of]).append(hit)
    for key, hits_of in shown.items():
        hits_of.best = _with_a_line([*hits_of.best, *spare[key]])


def _with_a_line(hits: list[Hit]) -> list[Hit]:
    """As many as are shown; where words were spoken, one of them is what was said, to be read and heard in its place."""
    shown = hits[:_SNIPPETS]
    if any(hit.field == Field.LINE for hit in shown):
        return shown
    line = next((hit for hit in hits[_SNIPPETS:] if hit.field == Field.LINE), None)
    return shown if line is None else [*shown[:-1], line]


def _marked(snippet: str, way: _Looked) -> str:
    if way.query is not None:
        return snippet
    return re.sub(re.escape(way.words), lambda hit: f"{_START}{hit[0]}{_STOP}", snippet, flags=re.IGNORECASE)


def _parts(snippet: str) -> list[tuple[str, bool]]:
    parts = []
    for index, piece in enumerate(snippet.split(_START)):
        hit, _, rest = piece.partition(_STOP) if index else ("", "", piece)
        parts += [(text, marked) for text, marked in ((hit, True), (rest, False)) if text]
    return parts
