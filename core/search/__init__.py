"""Questions put to records, answered by their own lines."""

from core.search.ask import Answer, Asker
from core.search.question import Question, understand

__all__ = ["Answer", "Asker", "Question", "understand"]
