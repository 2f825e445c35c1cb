"""Questions put to records, answered by their own lines."""

from core.search.ask import Answer, ask

__all__ = ["Answer", "ask"]
