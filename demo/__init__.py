"""The scenario: a botanic garden that was made up, its scripts, sound, transcripts and people."""
