"""Measurements against baselines in the same run; speed is looked at here and never in a test."""
