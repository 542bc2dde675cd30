"""What makers call things: runs of words as written to an ingredient, with how it was found."""

import csv
import re
from dataclasses import dataclass
from functools import lru_cache
from itertools import combinations

from rapidfuzz import fuzz, process

from balmcore.recipes.doubts import DOUBTED, LIKELY, LOST, Doubted
from balmcore.recipes.words.vocabulary import CHANGING, GENERIC, INFUSING, PLANT_ITSELF, PRAISE, STEEPED, WATERS
from balmcore.tables import DATA, Ingredient, Tables
from balmcore.tables.herbs import herbs, of_recipe

NEAR = 84  # likeness in percent: good enough to propose
WORD_NEAR = 72  # and of each of its words, so that one that fits does not carry another that does not
LONGEST_NAME = 9  # words
_OILS = ("olive_oil", "sunflower_oil", "sweet_almond_oil", "jojoba_oil", "coconut_oil")
_BUTTERS = ("shea_butter", "cocoa_butter", "mango_butter")
LONGEST_TYPED = 60  # letters: no name of an ingredient is longer
_OFFERED = 5  # of the nearest names: more are not read


@dataclass(frozen=True)
class Meant:
    """What a run of words means: the ingredient, or None; ``near`` are keys to choose among, and ``why`` is what has
    to be said, empty when it is certain. ``words`` are those that an answer is remembered under; ``refused`` says why
    it must not be used."""

    ingredient: Ingredient | None
    near: tuple[str, ...] = ()
    why: str = ""
    kind: Doubted = Doubted.NAME
    words: str = ""
    sure: float = DOUBTED
    refused: str = ""

    @property
    def is_final(self) -> bool:
        """Whether it is known what it is, and that it is no ingredient."""
        return self.kind in (Doubted.HARM, Doubted.WATER)


def clean(text: str) -> str:
    """Small letters and single spaces, without punctuation."""
    return " ".join(re.sub(r"[^\w\s]", " ", text.lower().replace("'", "").replace("’", "")).split())


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
    if why := _refused().get(" ".join(words)) or _refused().get(" ".join(core)):
        return _barred(" ".join(core), why)
    for way in (_plant_itself, _tincture, _infused):
        if meant := way(words, tables):
            return meant
    if bare := _bare(words, core, scent, tables):
        return bare
    known = _by_words(tables)
    for tried in _spellings(stem, scent):
        key = known.get(tuple(sorted(tried)))
        if key and (not scent or tables.ingredients[key].aromatic):
            return _whether_steeped(tables.ingredients[key], words)
    return None


def _bare(words: tuple[str, ...], core: tuple[str, ...], scent: bool, tables: Tables) -> Meant | None:
    """A name that does not say which of several is meant."""
    row = _bare_rows().get(" ".join(words)) or _bare_rows().get(" ".join(core))
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


def _not_worn(name: str, why: str) -> str:
    return f"{name.capitalize()} is not for anything worn. {why}"


def _barred(name: str, why: str) -> Meant:
    """What must not be used, and why: water in a balm, or what harms."""
    is_water = ("water" in why.split(":")[0] and "colour" not in why) or why.startswith("It does not mix with fat")
    told = f"{name.capitalize()} is not for a balm. {why}" if is_water else _not_worn(name, why)
    return Meant(None, (), told, Doubted.WATER if is_water else Doubted.HARM, sure=LOST, refused=why)


def _watery(word: str) -> Meant:
    why = f"{word.capitalize()} does not mix with fat and grows mould: it is not for a balm."
    return Meant(None, (), why, Doubted.WATER, sure=LOST, refused=why)


def refusal(text: str) -> str:
    """Why something that a text names anywhere is not for anything worn; empty where it names no such thing."""
    return found.why if (found := _barred_inside(text)) else ""


def _barred_inside(text: str) -> Meant | None:
    words = f" {clean(text)} "
    return next((_barred(name, why) for name, why in _refused().items() if f" {name} " in words), None)


def _plant_itself(words: tuple[str, ...], tables: Tables) -> Meant | None:
    """A plant that is meant itself: ``dried calendula petals``, ``turmeric powder``."""
    rest = tuple(word for word in words if word not in PLANT_ITSELF)
    if not rest or rest == words or _by_words(tables).get(tuple(sorted(words))):
        return None  # a powder of the table's own
    herb = _steeped_oil(rest, tables) or _scent_of(words, rest, tables)
    if herb is None:
        return None
    told = f"{' '.join(words).capitalize()} is the plant itself: steep it in oil first, and write that oil down"
    return Meant(None, (herb.key,), f"{told}. {herb.caution}".strip(), sure=LOST)


def _steeped_oil(words: tuple[str, ...], tables: Tables) -> Ingredient | None:
    """The infused oil of a plant, None where the table has none."""
    by_words = _by_words(tables)
    tried = (by_words.get(tuple(sorted(spelt))) for spelt in _spellings(words, False))
    item = tables.ingredients.get(next((key for key in tried if key), ""))
    return item if item is not None and _is_infused(item) else None


def _scent_of(words: tuple[str, ...], rest: tuple[str, ...], tables: Tables) -> Ingredient | None:
    """The scent of a plant that is meant itself, None where its oil is: ``dried lavender``, ``clove leaf``."""
    if {"oil", "oils", "eo", "essential"} & set(words):
        return None
    by_words = _by_words(tables)
    if any(tuple(sorted(spelt)) in by_words for spelt in _spellings(words, True)):
        return None
    row = _bare_rows().get(" ".join(rest))
    keys = (row.keys[0] if row else by_words.get(tuple(sorted(spelt))) for spelt in _spellings(rest, True))
    item = tables.ingredients.get(next((key for key in keys if key), "") or "")
    return item if item is not None and item.aromatic else None


def _is_infused(item: Ingredient) -> bool:
    return "infused" in item.name.lower() or item.key == "infused_oil"


def _tincture(words: tuple[str, ...], tables: Tables) -> Meant | None:
    """``arnica tincture``: spirit and herb, whose cautions it shares, and not the oil of it."""
    rest = tuple(word for word in words if word not in ("tincture", "of"))
    item = tables.ingredients.get("tincture")
    if item is None or "tincture" not in words or not rest:
        return None
    herb = _steeped_oil(rest, tables)
    if herb is None and not (_by_words(tables).get(tuple(sorted(rest))) or " ".join(rest) in _bare_rows()):
        return None
    told = f"Read as {item.name}: spirit and water, not the oil of {' '.join(rest)}."
    return Meant(item, (item.key,), f"{told} {herb.caution if herb else ''}".strip(), Doubted.WATER, sure=LIKELY)


def _infused(words: tuple[str, ...], tables: Tables) -> Meant | None:
    """``olive oil infused with plantain``: that oil with the plant in it, which asks for what either asks for; the
    table's own where no oil, or the same one, is named."""
    if "infused" not in words or len(words) < 2 or _by_words(tables).get(tuple(sorted(words))):
        return None
    for start, end in combinations(range(len(words) + 1), 2):
        named = words[start:end]
        herb = None if set(named) & INFUSING else _steeped_oil(named, tables)
        if herb is None:
            continue
        rest = tuple(word for word in (*words[:start], *words[end:]) if word not in INFUSING)
        if not rest:
            return Meant(herb, (herb.key,), sure=LIKELY)
        base = tables.ingredients.get(_by_words(tables).get((*sorted((*rest, "oil")),), ""))
        if base is None or herb.key not in herbs():
            continue
        if herb.inci.startswith(f"{base.inci},"):
            return Meant(herb, (herb.key,), sure=LIKELY)
        made = of_recipe(base, herb.key)
        own = next((item for item in tables.ingredients.values() if item.name == made.name), None)
        return Meant(own or made, sure=LIKELY)
    return None


def _whether_steeped(item: Ingredient, words: tuple[str, ...]) -> Meant:
    """A plant's name alone can be its oil or the plant."""
    if not _is_infused(item) or STEEPED & set(words) or " ".join(words) in (clean(item.inci), clean(item.name)):
        return Meant(item)
    name = " ".join(words)
    told = f"“{name}” alone can be the plant: read as {item.name}."
    return Meant(item, (item.key, ""), told, words=name)


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
    if barred := _barred_inside(name):
        return barred
    if wet := next((word for word in name.split() if word in WATERS), ""):
        return _watery(wet)
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


@lru_cache(maxsize=4)
def names_known(tables: Tables) -> dict[str, str]:
    """Every name a maker may use, in small letters, to its key."""
    found: dict[str, str] = {}
    for item in tables.ingredients.values():
        found.setdefault(clean(item.inci), item.key)
        found.setdefault(clean(re.sub(r"\(.*?\)", " ", item.inci)), item.key)
    for item in tables.ingredients.values():
        found.setdefault(clean(re.sub(r"\(.*?\)", " ", item.name)), item.key)
        found[clean(item.name)] = item.key
        found[item.key.replace("_", " ")] = item.key
    for row in _rows("aliases.csv"):
        found[clean(row["name"])] = tables.ingredient(row["key"], f"aliases.csv: {row['name']}").key
    return {name: key for name, key in found.items() if name and key != "aroma" and name not in GENERIC}


@lru_cache(maxsize=4)
def _by_words(tables: Tables) -> dict[tuple[str, ...], str]:
    """The names by their words in any order: "refined shea butter" is shea butter, refined."""
    found: dict[tuple[str, ...], str] = {}
    for name, key in names_known(tables).items():
        found.setdefault(tuple(sorted(name.split())), key)
    return found


@dataclass(frozen=True)
class _Bare:
    """A row of ``bare_names.csv``: a name, the keys it can mean, and whether they differ little."""

    name: str
    keys: tuple[str, ...]
    is_mild: bool


@lru_cache(maxsize=1)
def _bare_rows() -> dict[str, _Bare]:
    return {
        row["name"]: _Bare(
            row["name"], (row["key"], *filter(None, row["others"].split(";"))), row["differ"] == "little"
        )
        for row in _rows("bare_names.csv")
    }


def may_be_of_a_name(text: str, tables: Tables) -> bool:
    """Whether some name holds a word, in its singular or plural."""
    return all(
        word in _all_words(tables) or word.removesuffix("s") in _all_words(tables) for word in clean(text).split()
    )


@lru_cache(maxsize=4)
def _all_words(tables: Tables) -> frozenset[str]:
    several = (*names_known(tables), *_bare_rows(), *_refused())
    words = {word for name in several for word in name.split()}
    return frozenset(words) | PRAISE | PLANT_ITSELF | INFUSING | {"eo", "essential", "tincture", "butter", "wax"}


@lru_cache(maxsize=1)
def _refused() -> dict[str, str]:
    return {row["name"]: row["why"] for row in _rows("refused_names.csv")}


def _rows(file: str) -> list[dict[str, str]]:
    with (DATA / file).open(encoding="utf-8", newline="") as lines:
        return list(csv.DictReader(line for line in lines if not line.startswith("#")))
