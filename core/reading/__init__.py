"""A record → findings, chapters, gist, key terms."""

from core.reading.chapters import AgendaPoint
from core.reading.encoder import READING, Encoder, Turns
from core.reading.reader import READER_VERSION, Reading, read

__all__ = ["READER_VERSION", "READING", "AgendaPoint", "Encoder", "Reading", "Turns", "read"]
