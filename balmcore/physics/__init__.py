"""What a melt does: solids, firmness, heat and time, grain."""
