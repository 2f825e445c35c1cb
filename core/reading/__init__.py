"""A record → findings, chapters, gist."""

from core.reading.reader import READER_VERSION, Reading, read

__all__ = ["READER_VERSION", "Reading", "read"]
