"""Choosing an ingredient by typing: by name, INCI name or what makers call it; and reading what was typed."""

import re
from collections.abc import Collection, Mapping

from rapidfuzz import fuzz, process

from balmcore.errors import Problem
from balmcore.recipes.words.known import clean, names_known
from balmcore.recipes.words.names import exactly
from balmcore.tables import ROLES, Tables

NEAR, LONGEST = 70, 120  # likeness in percent from which a name is worth proposing; letters that are read
NAMED, OTHER_NAME, WITHIN, NOWHERE = -1, 2, 3, 4  # how far from a name letters stand, as _how_far says
HIDDEN = "aroma"  # stands in declarations alone


def offered(
    text: str, tables: Tables, others: Mapping[str, str] | None = None, roles: Collection[str] = ()
) -> list[str]:
    """The keys that a few letters could mean: the one they name, then those whose name begins so; when none holds
    them, the nearest. ``others`` are names of other things by key, such as containers; ``roles`` narrows the
    ingredients to some."""
    wanted = " ".join(text.lower().split())[:LONGEST]
    if not wanted:
        return []
    names = _names(tables, others or {}, roles)
    others_of = {key: tables.ingredients[key].inci.lower() for key in names if key in tables.ingredients}
    for name, key in names_known(tables).items():
        if key in others_of:
            others_of[key] += f" {name}"
    far = {key: _how_far(wanted, name.lower(), others_of.get(key, "")) for key, name in names.items()}
    if (named := _named(wanted, tables)) in far:
        far[named] = NAMED
    nearest = min(far.values(), default=NOWHERE)
    if nearest < NOWHERE:
        held = [key for key in names if far[key] <= max(nearest, OTHER_NAME)]
        return sorted(held, key=lambda key: (far[key], _role(key, tables), names[key]))
    lower = {key: name.lower() for key, name in names.items()}
    return [key for _, _, key in process.extract(wanted, lower, scorer=fuzz.WRatio, limit=8, score_cutoff=NEAR)]


def picked(text: str, tables: Tables, others: Mapping[str, str] | None = None, roles: Collection[str] = ()) -> str:
    """The key of what was typed or picked: a key, a name, an INCI name, what makers call it, or letters that only one
    name holds. Raises :class:`Problem` with what it could be."""
    names = _names(tables, others or {}, roles)
    said = " ".join(text.split())[:LONGEST]
    if said in names:
        return said
    for key, name in names.items():
        if said.lower() in (name.lower(), _inci(key, tables).lower()):
            return key
    if (named := _named(said, tables)) in names:
        return named
    near = offered(said, tables, others, roles)
    # Letters within a word are no name: gold is no marigold.
    if len(near) == 1 and len(said) > 2 and re.search(rf"\b{re.escape(said.lower())}", names[near[0]].lower()):
        return near[0]
    if not near:
        raise Problem(f"“{said[:40]}” is not in the pantry: make it there first, or choose another name.")
    if len(near) == 1:
        raise Problem(f"“{said[:40]}” is not in the pantry. Nearest: {names[near[0]]}.")
    raise Problem(f"“{said[:40]}” could be {_or([names[key] for key in near[:4]])}: choose one.")


def _named(text: str, tables: Tables) -> str:
    """The key of the ingredient that makers call so; empty for none, and for one that has to be asked about."""
    meant = exactly(tuple(clean(text).split()), tables) if clean(text) else None
    return meant.ingredient.key if meant and meant.ingredient and not meant.why else ""


def _how_far(wanted: str, name: str, others: str) -> int:
    """How far from its name the letters stand: at its beginning, at that of a word of it, of another name of it,
    within a word, or nowhere."""
    begins = rf"\b{re.escape(wanted)}"
    if name.startswith(wanted):
        return 0
    if re.search(begins, name):
        return 1
    return OTHER_NAME if re.search(begins, others) else WITHIN if wanted in f"{name} {others}" else NOWHERE


def _names(tables: Tables, others: Mapping[str, str], roles: Collection[str]) -> dict[str, str]:
    own = {
        key: item.name
        for key, item in tables.ingredients.items()
        if key != HIDDEN and (not roles or item.role in roles)
    }
    return {**own, **others}


def _inci(key: str, tables: Tables) -> str:
    return tables.ingredients[key].inci if key in tables.ingredients else ""


def _role(key: str, tables: Tables) -> int:
    """Waxes before butters, oils and extras; containers last."""
    return ROLES.index(tables.ingredients[key].role) if key in tables.ingredients else len(ROLES)


def _or(names: list[str]) -> str:
    return f"{', '.join(names[:-1])} or {names[-1]}"
