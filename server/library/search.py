"""Search over everything that one may see: each source by itself, then the meetings by how high they stand in all of them."""

from __future__ import annotations

import json
import re
from collections import defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from itertools import product
from typing import Any
from uuid import UUID

from django.contrib.postgres.search import CombinedSearchQuery, SearchHeadline, SearchQuery, SearchRank, TrigramWordSimilarity
from django.db.models import Count, F, FloatField, Max, QuerySet, TextChoices, Value, Window
from django.db.models.functions import RowNumber

from core.reading.words import terms
from core.record.spacing import UNSPACED
from server.accounts.models import Membership
from server.library.fusion import best_first, fuse
from server.library.narrow import Narrowed, narrowed
from server.library.queries import with_people
from server.library.senses import Near, meetings_of, nearest
from server.library.sources import SOURCES, Field, Source
from server.library.vocabulary import asked_in_forms, languages_of, meant_by
from server.meetings.models import Meeting
from server.pipeline.ear import encoder
from server.problems import Refused
from server.record.models import Line
from server.searched import by_signs

_START, _STOP = "\x02", "\x03"  # around each hit of a snippet: signs that no text holds
PAGE = 20
_SNIPPETS, _OF_ONE, _CANDIDATES = 3, 2, 200
_COMMON, _FIRST = 10_000, 100
"""What more rows hold is not ranked: it is in nearly every meeting, and those of so many of the latest (or the oldest, if these are wanted first)
are shown that hold it."""
_ABOUT, _MOST_ABOUT, _ENOUGH = 0.45, 10, PAGE
"""How near what is said has to be to what is looked for, to be about the same; so many meetings at the most; and none where so many hold the words."""
_SHARE = 1 / 12
"""Of where talk falls, that is looked at for what is so near: three quarters of it lie there (`bench.cells`)."""
_EXCLUDED = re.compile(r'(?<!\S)-("[^"]*"?|\S+)')


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
    """What a search found. total: meetings, of which a page is here; whole: there are no others. places: that hold the words in all of them, None
    where these are too many to count. alike: nothing holds the words as they were typed; these hold words that are like them."""

    meetings: list[Hits]
    total: int
    whole: bool
    places: int | None
    alike: bool = False


@dataclass(frozen=True)
class _Looked:
    """How one looks into a source: what its rows have to hold, how they are ranked, and how what they hold is shown. few: not into those of many rows."""

    holds: dict[str, Any]
    rank: Any
    query: SearchQuery | CombinedSearchQuery | None
    words: str
    few: bool = False


@dataclass(frozen=True)
class _Into:
    """A source that was looked into and holds something. meetings: that do; None where these are too many to count, and the first of them by time were taken."""

    source: Source
    way: _Looked
    meetings: frozenset[UUID] | None


def search(membership: Membership, words: str, wanted: Narrowed, order: str, *, after: int = 0, page: int = PAGE, by_meaning: bool = True) -> Found:
    """Meetings that hold the words, in the web's form: words, "quoted phrases", -excluded, or. Where none does, those that hold words like them.

    after: how many of what is found are known already; page: how many are wanted. by_meaning: where few hold the words, those as well in which
    something is said that is about the same; never where the words are asked for by signs. Raises Refused when there is nothing to search for.
    """
    words = words.replace("\x00", " ").strip()[:200]
    if not re.search(r"\w", _EXCLUDED.sub("", words)):
        raise Refused(422, "Type a word to search for.")
    ranking = _Ranking(membership, narrowed(membership, wanted), order)
    ranking.look([_forms(asked_in_forms(words, languages_of(membership.workspace_id)), words), *_unspaced(words)])
    looser = not by_signs(words)
    alike = False
    if not ranking.scores and looser and len(words) >= 3:
        ranking.look(_similar(words))
        alike = bool(ranking.scores)
    if len(ranking.scores) < _ENOUGH and by_meaning and looser and terms(words):
        ranking.take_in(nearest(ranking.meetings, encoder().plain([words])[0], _ABOUT, _SHARE))
    return ranking.page(after, page, alike)


def _forms(query: SearchQuery | CombinedSearchQuery, words: str) -> _Looked:
    return _Looked({"search": query}, lambda source: SearchRank(F(source.search), query), query, words)


def _unspaced(words: str) -> list[_Looked]:
    """PostgreSQL takes a run of letters without spaces for one word: of such scripts any part of a text is found."""
    if not re.search(UNSPACED, words):
        return []
    return [_Looked({"icontains": words}, lambda source: Value(0.1, output_field=FloatField()), None, words)]


def _similar(words: str) -> list[_Looked]:
    """Few rows are compared with what was typed; of the others the words are known of which a slip makes what was typed."""
    few = _Looked({"trigram_word_similar": words}, lambda source: TrigramWordSimilarity(words, source.text), None, words, few=True)
    instead = meant_by(words)
    return [few] if instead is None else [few, _forms(instead, words)]


class _Ranking:
    """The meetings that hold something, by how high they stand in all that was looked into."""

    def __init__(self, membership: Membership, meetings: QuerySet[Meeting], order: str) -> None:
        self.meetings = meetings
        self._order = order
        self._by_time = ("started_at", "pk") if order == Order.OLDEST else ("-started_at", "-pk")
        self.scores: dict[UUID, float] = defaultdict(float)
        self._membership = membership
        self._counts: dict[UUID, int] = defaultdict(int)
        self._looked: list[_Into] = []
        self._near: dict[UUID, Near] = {}

    def look(self, ways: Sequence[_Looked]) -> None:
        """Look into all sources in these ways."""
        for source, way in product(SOURCES, ways):
            if not (way.few and source.many):
                self._look(source, way)

    def _look(self, source: Source, way: _Looked) -> None:
        best = self._first(source, way) if source.many and self._is_common(source, way) else self._best(source, way)
        fuse(self.scores, best, source.weight)

    def _is_common(self, source: Source, way: _Looked) -> bool:
        """Do so many rows hold it, by what PostgreSQL knows of its words, that to rank them all would take long, and say little?"""
        plan = source.found(self._membership, None, **way.holds).order_by().values("pk").explain(format="json")
        return bool(json.loads(plan)[0]["Plan"]["Plan Rows"] >= _COMMON)

    def _first(self, source: Source, way: _Looked) -> list[UUID]:
        first = list(self.meetings.order_by(*self._by_time).values_list("pk", flat=True)[:_FIRST])
        held = set(source.found(self._membership, first, **way.holds).order_by().values_list("of", flat=True).distinct())
        if len(held) < PAGE:
            return self._best(source, way)  # common, but not in what this member sees, or not of late
        self._looked.append(_Into(source, way, None))
        return [key for key in first if key in held]

    def _best(self, source: Source, way: _Looked) -> list[UUID]:
        rows = source.found(self._membership, self.meetings, **way.holds).order_by().annotate(rank=way.rank(source))
        best = rows.values("of").annotate(count=Count("pk"), best=Max("rank")).order_by("-best", "-count", "-of")[:_CANDIDATES]
        for row in best:
            self._counts[row["of"]] += row["count"]
        keys = [row["of"] for row in best]
        if keys:
            self._looked.append(_Into(source, way, frozenset(keys)))
        return keys

    def take_in(self, near: Sequence[Near]) -> None:
        """What is about the same as well."""
        for one in near:
            self._near.setdefault(one.meeting, one)
        fuse(self.scores, meetings_of(near)[:_MOST_ABOUT])

    def page(self, after: int, size: int, alike: bool) -> Found:
        """Some of them, with the best of what was found in each."""
        chosen = best_first(self.scores)[:_CANDIDATES]
        if self._order != Order.BEST:
            chosen = list(self.meetings.filter(pk__in=chosen).order_by(*self._by_time).values_list("pk", flat=True))
        keys = chosen[after : after + size]
        # What changed hands since it was found is left out here: the rule is asked once more.
        there = {meeting.pk: meeting for meeting in with_people(self.meetings.filter(pk__in=keys))}
        shown = {key: Hits(there[key], 0) for key in keys if key in there}
        self._fill(shown)
        self._add_meant(shown)
        for key, hits in shown.items():
            hits.count = self._counts[key]
        many = any(into.meetings is None for into in self._looked)
        places = None if many else sum(self._counts[key] for key in chosen)
        return Found(list(shown.values()), len(chosen), not many and len(chosen) < _CANDIDATES, places, alike)

    def _fill(self, shown: dict[UUID, Hits]) -> None:
        """The best places of each meeting, those of weightier sources first, but not all of one as long as there are others."""
        spare: dict[UUID, list[Hit]] = defaultdict(list)
        for into in sorted(self._looked, key=lambda one: -one.source.weight):
            held = [key for key in shown if into.meetings is None or key in into.meetings]
            for row in self._rows(into, held) if held else ():
                source, hits = into.source, shown[row.of].best
                hit = Hit(source.field, _parts(_marked(row.snippet, into.way)), row.second, row.leads_to, source.who(row))
                (hits if sum(one.field == hit.field for one in hits) < _OF_ONE else spare[row.of]).append(hit)
        for key, hits_of in shown.items():
            hits_of.best = _with_a_line([*hits_of.best, *spare[key]])

    def _rows(self, into: _Into, meetings: Sequence[UUID]) -> Iterable[Any]:
        """The best rows of each of these meetings, which one sees, in the order of the record. What was not counted is, on the way."""
        source, way = into.source, into.way
        inside = source.found(self._membership, meetings, **way.holds).annotate(rank=way.rank(source))
        nth = Window(RowNumber(), partition_by=F("of"), order_by=[F("rank").desc(), F("pk").asc()])
        times = Window(Count("pk"), partition_by=F("of"))
        found = dict(inside.annotate(nth=nth, times=times).filter(nth__lte=_SNIPPETS).values_list("pk", "times"))
        best = source.placed(source.rows(self._membership).filter(pk__in=found).annotate(of=F(source.meeting)))
        if way.query is not None:
            marked = SearchHeadline(source.text, way.query, config="english", start_sel=_START, stop_sel=_STOP, highlight_all=True)
            best = best.annotate(snippet=marked)
        else:
            best = best.annotate(snippet=F(source.text))
        rows = sorted(best, key=lambda one: (one.leads_to or 0, one.pk))
        if into.meetings is None:
            for key, count in {row.of: found[row.pk] for row in rows}.items():
                self._counts[key] += count
        return rows

    def _add_meant(self, shown: dict[UUID, Hits]) -> None:
        """Each meeting that has something about the same with the best of that, where there is room for it."""
        rooms = {key: hits.best for key, hits in shown.items() if key in self._near and len(hits.best) < _SNIPPETS}
        turns = {self._near[key].turn for key in rooms}
        lines = Line.objects.filter(turn__in=turns).select_related("turn__voice__person").order_by("turn", "number").distinct("turn")
        for line in lines if turns else ():
            hits = rooms[line.meeting_id]
            if all(hit.line != line.number for hit in hits):
                hits.append(Hit(Field.MEANING, [(line.text, False)], line.start, line.number, line.turn.voice.name))


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
