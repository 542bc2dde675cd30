"""What was ordered: from whom, when it comes, and what it became."""
