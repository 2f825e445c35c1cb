"""Sentences from passages."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import ctranslate2
from tokenizers import Tokenizer

from core.reading.writer.passage import Passage

WRITER = "writer"
"""The name of its folder among the models."""
TOGETHER = 8
"""Passages that are written at once: more is no faster on two cores, and takes more memory."""
LONGEST = 72
"""Tokens of a sentence; the gist of a passage may be two."""


class Writer:
    """The writer, loaded: about 0.6 GB."""

    def __init__(self, folder: Path, threads: int = 2):
        self._tokenizer = Tokenizer.from_file(str(folder / "tokenizer.json"))
        self._generator = ctranslate2.Generator(str(folder), device="cpu", compute_type="int8", intra_threads=threads)

    def write(self, passages: Sequence[Passage]) -> list[str]:
        """A sentence for each, the likeliest token after the likeliest. "" where there is none."""
        asked = [self._tokenizer.encode(passage.text, add_special_tokens=False).tokens for passage in passages]
        answers = self._generator.generate_batch(
            asked, max_batch_size=TOGETHER, max_length=LONGEST, sampling_topk=1, include_prompt_in_result=False
        )
        return [self._said(answer.sequences_ids[0]) for answer in answers]

    def _said(self, ids: Sequence[int]) -> str:
        text = self._tokenizer.decode(list(ids), skip_special_tokens=True)
        return " ".join(text.split())
