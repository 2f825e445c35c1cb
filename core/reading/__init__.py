"""A record → findings, chapters, gist."""

from core.reading.encoder import READING, Encoder
from core.reading.reader import READER_VERSION, Reading, read

__all__ = ["READER_VERSION", "READING", "Encoder", "Reading", "read"]
