"""A rehearsal: laid over a batch in memory, and driven with the stand-in."""
