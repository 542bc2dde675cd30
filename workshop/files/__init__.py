"""Files that come and go: their bounds, photographs, spreadsheets, and tables that are brought."""
