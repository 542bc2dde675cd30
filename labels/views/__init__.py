"""Pages of the labels app: the label maker; pieces, people and recalls."""
