"""Questions put to records, answered by their own lines."""

from core.search.ask import Answer, Asker
from core.search.question import Question, understand
from core.search.together import Library, Together

__all__ = ["Answer", "Asker", "Library", "Question", "Together", "understand"]
