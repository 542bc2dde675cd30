"""Bringing one's notebook: a table of past work becomes formulas with versions, pours with their days, and tests."""
