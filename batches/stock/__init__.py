"""What a batch takes from the pantry: grams out of lots, and what has to be bought."""
