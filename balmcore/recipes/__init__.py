"""Recipes as people write them, read into ingredients and grams."""
