"""Making it: grams, doses, method, clock, cost and stock."""
