"""Whole ways through the workshop, in a browser."""
