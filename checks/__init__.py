"""Looking at a pour again: what is seen, pressed, smelled and worn, and the days on which to look."""
