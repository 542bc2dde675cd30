"""Recipes that formulas are read from: their page, their questions, and what their maker always means."""
