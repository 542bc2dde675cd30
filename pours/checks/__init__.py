"""Looking at a pour again: days on which it is due, what was seen and pressed, photographs, wear tests."""
