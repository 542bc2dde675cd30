"""The account of pieces: who has them, what has to come back, the sheet for a stall."""
