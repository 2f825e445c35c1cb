"""The record: spans of time, words, lines, turns, and how they are assembled."""
