"""What was poured, measured."""
