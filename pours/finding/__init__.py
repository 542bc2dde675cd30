"""Finding pours again: the log with its filters, looks kept by name, lists for a spreadsheet."""
