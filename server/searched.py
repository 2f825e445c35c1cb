"""Columns that are searched by words: the forms that PostgreSQL makes of them, kept beside them."""

from __future__ import annotations

import re
from functools import reduce
from operator import add

from django.contrib.postgres.search import SearchQuery, SearchVector, SearchVectorField
from django.db.models import GeneratedField

_FORMS = ("english", "simple")
"""Both as English stems and as the bare words, since meetings are held in more than one language."""


_SIGNS = re.compile(r'["-]')


def searched(column: str) -> GeneratedField:
    """What a column of the same table is found by."""
    forms = reduce(add, (SearchVector(column, config=form) for form in _FORMS))
    return GeneratedField(expression=forms, output_field=SearchVectorField(), db_persist=True)


def by_signs(words: str) -> bool:
    """Are they asked for by signs: quoted, excluded, one or the other?"""
    return bool(_SIGNS.search(words)) or " or " in words.lower()


def asked_for(words: str) -> SearchQuery:
    """What somebody types, in the web's form: words, "quoted phrases", -excluded, or. Where something is quoted, it is asked for to the letter:
    of English stems the small words would be left out, and "a bit of" would be any bit."""
    first, *others = (SearchQuery(words, config=form, search_type="websearch") for form in (_FORMS[-1:] if '"' in words else _FORMS))
    return reduce(lambda one, other: one | other, others, first)
