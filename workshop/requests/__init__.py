"""What surrounds a request: preferences read once, forms taken once, what every template knows."""
