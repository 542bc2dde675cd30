"""What pours teach: the model by the maker's own tests, rates, reactions, ladders, the next thing to try."""
