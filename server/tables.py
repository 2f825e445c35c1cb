"""Tables that are taken away (CSV, RFC 4180)."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence

_ACTS = ("=", "+", "-", "@", "\t", "\r")
"""With these a cell begins that a spreadsheet would take for a formula (OWASP, CSV injection)."""


def to_csv(head: Sequence[str], rows: Iterable[Sequence[str]]) -> str:
    """A table under its head; a cell that would be taken for a formula is marked as words."""
    out = io.StringIO()
    table = csv.writer(out)
    table.writerow(head)
    for row in rows:
        table.writerow([f"'{cell}" if cell.startswith(_ACTS) else cell for cell in row])
    return out.getvalue()
