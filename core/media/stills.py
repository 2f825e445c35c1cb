"""What a screen shows, as pictures: a new one when it has changed, and stands still again."""

from __future__ import annotations

import io

import numpy as np
from PIL import Image

_SMALL = (64, 36)
_CHANGED = 8.0
"""Mean difference of grey levels, 0 to 255, in some part of the screen, from which on it shows something else: a cursor or a clock stays under it."""
_WIDEST = 1600
_QUALITY = 82
_PARTS = 6
"""A screen is compared in so many parts across and down, so that a new paragraph counts as much as a new slide."""


class Stills:
    """Sees frames of a screen, some a second at most, and says which of them are worth keeping."""

    def __init__(self) -> None:
        self._kept: np.ndarray | None = None
        self._before: np.ndarray | None = None

    def see(self, image: Image.Image) -> bytes | None:
        """A frame. Returns it as a JPEG where it shows something else than the last that was kept, and the same as the one before it."""
        grey = np.asarray(image.convert("L").resize(_SMALL, Image.Resampling.BOX), np.float32)
        still = self._before is not None and not _differ(grey, self._before)
        self._before = grey
        if not still or self._kept is not None and not _differ(grey, self._kept):
            return None
        self._kept = grey
        kept = image.convert("RGB")
        kept.thumbnail((_WIDEST, _WIDEST))
        written = io.BytesIO()
        kept.save(written, "JPEG", quality=_QUALITY)
        return written.getvalue()


def _differ(one: np.ndarray, other: np.ndarray) -> bool:
    rows, columns = _SMALL[1] // _PARTS, _SMALL[0] // _PARTS
    parts = np.abs(one - other)[: rows * _PARTS, : columns * _PARTS].reshape(_PARTS, rows, _PARTS, columns)
    return float(parts.mean(axis=(1, 3)).max()) > _CHANGED
