"""Passages of a subject that a template may ask for: requests, causes, motions … One file a family, its tables at the top.

To add a subject, write its detector in a file of its family (or a new one) and name it in that file's `SUBJECTS`.
"""

from core.reading.passages import board, client, incident, interview, progress, workshop
from core.reading.passages.base import STRUCTURED, Detector, Passage, by_cues, told

SUBJECTS: dict[str, Detector] = {
    **progress.SUBJECTS,
    **client.SUBJECTS,
    **interview.SUBJECTS,
    **incident.SUBJECTS,
    **workshop.SUBJECTS,
    **board.SUBJECTS,
}
"""Subject → what finds it."""

__all__ = ["STRUCTURED", "SUBJECTS", "Detector", "Passage", "by_cues", "told"]
