"""Scaling, methods, the bench, stock."""
