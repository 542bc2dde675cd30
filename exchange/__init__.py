"""What leaves the workshop and comes back: the data folder, its copies, and everything in one ZIP."""
