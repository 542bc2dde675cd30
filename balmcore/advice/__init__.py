"""What to say of a composition: safety, verdict, feel, structure, keeping."""
