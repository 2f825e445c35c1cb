"""How often words are used, by wordfreq's lists."""

from __future__ import annotations


def zipf(word: str, language: str) -> float:
    """The base-10 logarithm of how often a word is used in a thousand million words (Zipf scale, van Heuven et al. 2014); 0.0 where it is on no list."""
    from wordfreq import zipf_frequency  # half a second to load, which every process would wait for

    return zipf_frequency(word, language)
