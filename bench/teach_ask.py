"""Fit what answers a question put to one meeting: `python -m bench.teach_ask` writes core/search/ask.json.

On the labelled meetings but for the part that is set aside, each read by the encoder that was taught without it (bench/listwise.py). A minute.
"""

from __future__ import annotations

import json
from collections.abc import Iterator
from dataclasses import asdict
from functools import partial

from bench.hearing import MODELS
from bench.listwise import Asked, fit
from bench.meetings import LABELLED, PARTS, part_of
from core.formats import read_record
from core.reading import READING, Encoder
from core.search import Asker
from core.search.ask import FITTED

_PENALTY, _SAYS_PENALTY, _SAID = 30.0, 0.3, 0.55


def asked(part: int) -> Iterator[Asked]:
    """The questions of a part's meetings."""
    encoder = Encoder(MODELS / READING, [part])
    for path in sorted(LABELLED.glob("*.json")):
        if part_of(path.stem) != part:
            continue
        record, questions = read_record(path), json.loads(path.read_text(encoding="utf-8")).get("ask", [])
        asker, places = Asker(record, encoder), {turn.id: place for place, turn in enumerate(record.turns)}
        for one in questions:
            alike = asker.alike([one["q"]])[:, 0]
            answers = [places[turn] for turn in one["turns"]]
            yield Asked(asker.measure(one["q"].lower(), alike), answers, partial(asker.says, one["q"], alike))


def main() -> None:
    """Fit by all parts but the last."""
    weights = fit([one for part in range(PARTS - 1) for one in asked(part)], _PENALTY, _SAYS_PENALTY, _SAID)
    FITTED.write_text(json.dumps(asdict(weights), ensure_ascii=False, indent=1) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
