"""Questions put to records, answered by their own lines."""

from core.search.ask import Answer, Asker

__all__ = ["Answer", "Asker"]
