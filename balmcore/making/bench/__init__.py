"""At the bench: a method one step at a time, and what instruments say beside what was predicted."""
