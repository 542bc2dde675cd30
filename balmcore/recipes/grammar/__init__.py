"""The sentences of a recipe, parted into clauses and turned by the grammar into shapes."""
