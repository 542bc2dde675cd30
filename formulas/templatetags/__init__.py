"""Template tags of the formulas app."""
