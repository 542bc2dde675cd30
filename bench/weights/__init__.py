"""What is weighed: one event each, wherever it comes from, and the grams leave their lots as it is written down."""
