"""Recipes read, amounts understood."""
