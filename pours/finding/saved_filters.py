"""Looks: how the log was narrowed, kept by a name."""

from django.http import QueryDict

from balmcore.errors import Problem
from pours.models import SavedFilter

KNOWN = (
    "formula", "kind", "verdict", "q", "ingredient", "share_low", "share_high", "firm_low", "firm_high", "finish",
    "since", "until",
)  # fmt: skip
MOST, LONGEST_NAME, LONGEST = 60, 60, 600


def plain_query(query: QueryDict) -> str:
    """What narrows the log in an address, without its page and without what is empty."""
    kept = QueryDict(mutable=True)
    for name in KNOWN:
        if value := (query.get(name) or "")[:120]:
            kept[name] = value
    return kept.urlencode()


def clean(text: str) -> str:
    """The same of an address as text."""
    return plain_query(QueryDict(text))


def keep(name: str, query: str) -> SavedFilter:
    """Keep a look by a name; one of the same name moves. Raises :class:`Problem`."""
    name = " ".join(name.split())
    if not name:
        raise Problem("Give the look a name.", "name")
    if len(name) > LONGEST_NAME:
        raise Problem(f"A name has up to {LONGEST_NAME} letters.", "name")
    plain = clean(query)
    if not plain:
        raise Problem("Narrow the log first: all pours need no look of their own.", "name")
    if len(plain) > LONGEST:
        raise Problem("That is more than a look can keep: use fewer words.", "name")
    if not SavedFilter.objects.filter(name=name).exists() and SavedFilter.objects.count() >= MOST:
        raise Problem(f"{MOST} looks are kept: take one away first.", "name")
    return SavedFilter.objects.update_or_create(name=name, defaults={"query": plain})[0]


def forget(pk: int) -> None:
    """Take a look away; one that is gone is gone."""
    SavedFilter.objects.filter(pk=pk).delete()
