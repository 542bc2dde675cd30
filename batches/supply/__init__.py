"""What batches take from the stock: what planned ones hold, what is to be bought, and what it costs."""
