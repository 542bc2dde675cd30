"""What happens at one step of the bench: what is typed, what buttons do, what instruments say, what puts it right."""
