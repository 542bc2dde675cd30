"""The words of a recipe: its text, its sentences, what each word is, and what names mean."""
