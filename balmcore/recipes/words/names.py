"""What makers call things: runs of words as written to an ingredient, with how it was found."""

import re
from functools import lru_cache

from rapidfuzz import fuzz, process

from balmcore.recipes.doubts import LIKELY, LOST, Doubted
from balmcore.recipes.words.known import (
    Meant,
    bare_rows,
    barred,
    barred_inside,
    by_words,
    clean,
    names_known,
    refused_names,
    watery,
)
from balmcore.recipes.words.plants import herb_form, plants
from balmcore.recipes.words.vocabulary import (
    CHANGING,
    GENERIC,
    INFUSING,
    PLANT_ITSELF,
    PRAISE,
    SOLD_AS_PLANTS,
    STEEPED,
    WATERS,
)
from balmcore.tables import Ingredient, Tables

NEAR = 84  # likeness in percent: good enough to propose
WORD_NEAR = 72  # and of each of its words, so that one that fits does not carry another that does not
LONGEST_NAME = 9  # words
_OILS = ("olive_oil", "sunflower_oil", "sweet_almond_oil", "jojoba_oil", "coconut_oil")
_BUTTERS = ("shea_butter", "cocoa_butter", "mango_butter")
LONGEST_TYPED = 60  # letters: no name of an ingredient is longer
_OFFERED = 5  # of the nearest names: more are not read


def exactly(words: tuple[str, ...], tables: Tables) -> Meant | None:
    """What a run of words certainly names, in any order, with praise or without; None for no name."""
    if not words or len(words) > LONGEST_NAME:
        return None
    plain = tuple(word for word in words if word not in PRAISE)
    for tried in dict.fromkeys((words, plain)):
        if tried and (found := _known(tried, tables)):
            return found
    return None


def _known(words: tuple[str, ...], tables: Tables) -> Meant | None:
    scent = words[-1] == "eo" or words[-2:] in (("essential", "oil"), ("essential", "oils"))
    stem = tuple(words[: -1 if words[-1] == "eo" else -2]) if scent else words
    if scent and not stem:
        return None
    core = stem[:-1] if stem and stem[-1] in ("oil", "oils") else stem
    if why := refused_names().get(" ".join(words)) or refused_names().get(" ".join(core)):
        return barred(" ".join(core), why)
    if meant := herb_form(words, tables):
        return meant
    if bare := _bare(words, core, scent, tables):
        return bare
    known = by_words(tables)
    for tried in _spellings(stem, scent):
        key = known.get(tuple(sorted(tried)))
        if key and (not scent or tables.ingredients[key].aromatic):
            return _whether_steeped(tables.ingredients[key], words)
    return None


def _bare(words: tuple[str, ...], core: tuple[str, ...], scent: bool, tables: Tables) -> Meant | None:
    """A name that does not say which of several is meant."""
    row = bare_rows().get(" ".join(words)) or bare_rows().get(" ".join(core))
    if row is None:
        return None
    near = tuple(key for key in row.keys if key in tables.ingredients)
    item = tables.ingredient(near[0])
    if row.is_mild:
        if scent:
            return None
        return Meant(item, near, f"It does not say which: {item.name} is taken.", words=row.name, sure=LIKELY)
    if scent or item.aromatic is None or len(core) == len(words) or core != words:
        told = f"It does not say which: read as {item.name}, the strictest of them."
        return Meant(item, near, told, words=row.name)
    return None


def _is_infused(item: Ingredient) -> bool:
    return "infused" in item.name.lower() or item.key == "infused_oil"


def _whether_steeped(item: Ingredient, words: tuple[str, ...]) -> Meant:
    """A plant's name alone can be its oil or the plant."""
    if item.aromatic and not {"oil", "oils", "eo", "absolute"} & set(words) and SOLD_AS_PLANTS & set(_singular(words)):
        name = " ".join(words)
        told = f"“{name}” alone can be the plant: read as its essential oil."
        return Meant(item, (item.key, ""), told, Doubted.FORM, words=name, sure=LIKELY)
    if not _is_infused(item) or STEEPED & set(words) or " ".join(words) in (clean(item.inci), clean(item.name)):
        return Meant(item)
    name = " ".join(words)
    told = f"“{name}” alone can be the plant: read as {item.name}."
    return Meant(item, (item.key, ""), told, words=name)


def _singular(words: tuple[str, ...]) -> tuple[str, ...]:
    return tuple(word.removesuffix("s") for word in words)


def _spellings(words: tuple[str, ...], scent: bool) -> list[tuple[str, ...]]:
    """The words themselves, without their plural, and with the role that is often left out."""
    single = (*words[:-1], words[-1].removesuffix("s")) if len(words[-1]) > 3 else words
    tried = [words, single]
    for stem in (words, single):
        if stem[-1] == "oil" and len(stem) > 1:
            tried.append(stem[:-1])
        elif not scent and stem[-1] not in ("oil", "butter", "wax"):
            tried += [(*stem, "oil"), (*stem, "butter")]
    return tried


def changes(text: str) -> bool:
    """Whether a word of a text makes another thing of a name beside it: ``extract``, ``leaves``."""
    return bool(CHANGING & set(clean(text).split()))


def nearly(text: str, tables: Tables) -> Meant:
    """The likest to words that name nothing: proposed when near enough, and always to be asked."""
    name = clean(text)
    if found := barred_inside(name):
        return found
    if wet := next((word for word in name.split() if word in WATERS), ""):
        return watery(wet)
    if name in GENERIC:
        usual = _BUTTERS if "butter" in name else () if "essential" in name or "scent" in name else _OILS
        known_here = tuple(key for key in usual if key in tables.ingredients)
        return Meant(None, known_here, f"Which one? “{name}” can be any.", words=name, sure=LOST)
    if not re.search(r"[a-z]{3}", name) or len(name) > LONGEST_TYPED:
        return Meant(None, (), f"“{text.strip()[:40]}” was not understood.", sure=LOST)
    known = names_known(tables)
    likest = process.extract(name[:80], list(known), scorer=fuzz.token_sort_ratio, limit=3 * _OFFERED)
    near = tuple(dict.fromkeys(known[match] for match, _, _ in likest))[:_OFFERED]
    if likest[0][1] >= NEAR and _each_word_is_near(name, likest[0][0]):
        return Meant(tables.ingredients[near[0]], near, f"Read as {tables.ingredients[near[0]].name}.", words=name)
    told = ", ".join(tables.ingredients[key].name for key in near[:3])
    return Meant(None, near, f"“{name[:40]}” is not in the pantry. Nearest: {told}.", words=name, sure=LOST)


def _each_word_is_near(name: str, other: str) -> bool:
    """Whether every word of a name has one like it in the other: ``peach kernel`` is no ``plum kernel``."""
    ours, theirs = [word for word in name.split() if word not in PRAISE], other.split()
    if len(ours) != len(theirs):
        return fuzz.ratio("".join(ours), "".join(theirs)) >= NEAR and min(map(len, (*ours, *theirs))) > 1
    return all(any(fuzz.ratio(word, one) >= WORD_NEAR for one in theirs) for word in ours)


def may_be_of_a_name(text: str, tables: Tables) -> bool:
    """Whether some name holds a word, in its singular or plural."""
    return all(
        word in _all_words(tables) or word.removesuffix("s") in _all_words(tables) for word in clean(text).split()
    )


@lru_cache(maxsize=4)
def _all_words(tables: Tables) -> frozenset[str]:
    several = (*names_known(tables), *bare_rows(), *refused_names())
    words = {word for name in several for word in name.split()}
    words |= {word for plant in plants() for word in plant}
    return frozenset(words) | PRAISE | PLANT_ITSELF | INFUSING | {"eo", "essential", "tincture", "butter", "wax"}
