"""What tests of every app begin with: a browser, a server, forms read out of pages, formulas and batches."""
