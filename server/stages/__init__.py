"""The stages of the work on a meeting, one a file, in their order."""
