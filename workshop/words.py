"""Narrowing a list to what holds every word."""

from functools import reduce
from operator import and_, or_

from django.db.models import Q

MOST_WORDS = 8


def all_in(words: str, *fields: str) -> Q:
    """Every word of a text in one of some fields; everything for no word."""
    found = (reduce(or_, (Q(**{f"{name}__icontains": word}) for name in fields)) for word in words.split()[:MOST_WORDS])
    return reduce(and_, found, Q())
