"""Timings, as ratios to bare work measured in the same run; never part of the tests."""
