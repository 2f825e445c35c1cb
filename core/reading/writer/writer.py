"""Sentences from passages."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import ctranslate2
from tokenizers import Tokenizer

from core.reading.passage import Passage
from core.reading.writer.rewording import TOGETHER

LONGEST = 72
"""Tokens of a sentence; the gist of a passage may be two."""
_AMONG, _HEAT = 20, 0.7
"""A sentence that was not held is drawn anew, from the likeliest tokens, by their likelihood at this temperature."""


class Writer:
    """The writer, loaded: about 1.8 GB."""

    def __init__(self, folder: Path, threads: int = 2):
        self._tokenizer = Tokenizer.from_file(str(folder / "tokenizer.json"))
        self._generator = ctranslate2.Generator(str(folder), device="cpu", compute_type="int8", intra_threads=threads)

    def write(self, passages: Sequence[Passage], attempt: int = 0) -> list[str]:
        """A sentence for each, at first the likeliest token after the likeliest. "" where there is none."""
        asked = [self._tokenizer.encode(passage.text, add_special_tokens=False).tokens for passage in passages]
        ctranslate2.set_random_seed(attempt)
        answers = self._generator.generate_batch(
            asked,
            max_batch_size=TOGETHER,
            max_length=LONGEST,
            sampling_topk=_AMONG if attempt else 1,
            sampling_temperature=_HEAT if attempt else 1.0,
            include_prompt_in_result=False,
        )
        return [self._said(answer.sequences_ids[0]) for answer in answers]

    def _said(self, ids: Sequence[int]) -> str:
        text = self._tokenizer.decode(list(ids), skip_special_tokens=True)
        return " ".join(text.split())
