"""The studio: its working state, its tools, and what it answers."""
