"""SQLite as the workshop uses it."""
