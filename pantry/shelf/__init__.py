"""Many lots at once: received from one form, counted on one sheet, written into one list."""
