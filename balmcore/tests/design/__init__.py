"""Targets, advice, trials and what they teach."""
