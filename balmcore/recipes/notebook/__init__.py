"""A table of past work: which column is what, and each row as a recipe or a pour with its test."""

from balmcore.recipes.notebook.columns import ROLES, Column, columns_of
from balmcore.recipes.notebook.entries import UNTOLD_G, Entry, Notebook, read_notebook

__all__ = ["ROLES", "UNTOLD_G", "Column", "Entry", "Notebook", "columns_of", "read_notebook"]
