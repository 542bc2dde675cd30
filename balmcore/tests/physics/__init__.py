"""Solids, firmness, heat and time."""
