"""Finding a composition: the triangle, a target, a substitution, a ladder."""
