"""Forms of batches: containers, plan, place on the clock, ladder, weights."""
