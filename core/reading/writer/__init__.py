"""The writer: a small language model, taught to turn evidence into one sentence that can be read without the record."""

WRITER = "writer"
"""The name of its folder among the models."""
