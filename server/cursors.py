"""Where the next page of a list begins: the value and the key of the last row, packed for an address."""

from __future__ import annotations

import base64
import binascii
import json
from collections.abc import Callable
from datetime import date, datetime
from typing import TypeVar

from django.db.models import Model, QuerySet

from server.bounds import EARLIEST, LATEST
from server.problems import Refused

Value = TypeVar("Value", bound=date)
Key = TypeVar("Key")
Row = TypeVar("Row", bound=Model)


def cursor_at(value: date, key: object) -> str:
    """After the row with this value, by which the list is sorted, and this key."""
    return base64.urlsafe_b64encode(json.dumps([value.isoformat(), str(key)]).encode()).decode()


def read_cursor(cursor: str, value: Callable[[str], Value], key: Callable[[str], Key], what: str) -> tuple[Value, Key]:
    """What `cursor_at` packed. value, key: read one, and raise ValueError for what is none. Raises Refused; what: the list, as people call it."""
    try:
        said, named = json.loads(base64.urlsafe_b64decode(cursor))
        return value(said), key(named)
    except (ValueError, binascii.Error, TypeError, AttributeError, OverflowError, RecursionError) as error:
        raise Refused(422, f"This page of the {what} cannot be found. Start from its first page.") from error


def cut(rows: QuerySet[Row], size: int, by: str) -> tuple[list[Row], str | None]:
    """A page of rows, and the cursor of the next one (None at the end). by: the attribute by whose value they are sorted, before their key."""
    page = list(rows[: size + 1])
    return page[:size], cursor_at(getattr(page[size - 1], by), page[size - 1].pk) if len(page) > size else None


def moment_of(said: str) -> datetime:
    """A moment that a row can have. Raises ValueError."""
    moment = datetime.fromisoformat(said)
    if not (moment.tzinfo and EARLIEST <= moment <= LATEST):
        raise ValueError("no moment of a page")
    return moment
