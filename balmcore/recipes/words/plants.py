"""What a plant's name stands for beside the word of a form: infused oil, tincture, water, extract, the plant itself.

What is named is what goes in: none of these is ever read as the plant's essential oil.
"""

import re
from collections.abc import Mapping, Sequence
from functools import cache

from balmcore.recipes.doubts import DOUBTED, LIKELY, LOST, Doubted
from balmcore.recipes.words import vocabulary
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
from balmcore.recipes.words.vocabulary import HERBS, HOW_INFUSED, PLANT_ITSELF, PRAISE, WATERS
from balmcore.tables import Ingredient, Role, Tables, shipped
from balmcore.tables.herbs import OTHER, UNNAMED, herb, herb_name, herbs, of_recipe
from balmcore.tables.records import SPIRIT
from balmcore.wording import in_sentence, listed

LONGEST_FORM = 24  # words and marks: no form is longer
_LONGEST_PLANT, _LONGEST_OIL = 4, 5
# Other names of the same plants, common and botanical.
_ALSO = {
    "arnica_oil": ("leopards bane",),
    "comfrey_oil": ("symphytum", "knitbone"),
    "st_johns_wort_oil": ("hypericum", "st john wort", "saint johns wort", "saint john wort", "st johnswort"),
    "calendula_oil": ("marigold", "pot marigold"),
    "plantain_oil": ("plantago", "ribwort", "broadleaf plantain"),
    "alkanet_oil": ("alkanna", "ratanjot"),
    "annatto_oil": ("bixa", "achiote"),
    "turmeric_oil": ("curcuma",),
    "yarrow_infused_oil": ("achillea",),
    "cayenne_infused_oil": ("capsicum", "chilli", "chili", "cayenne pepper"),
    "poplar_bud_infused_oil": ("poplar", "balm of gilead", "cottonwood bud", "cottonwood"),
}
# What an oil is called beside its plant, and no part of the plant's name.
_OF_AN_OIL = vocabulary.words_of("absolute otto co2 resinoid crystals oil balsam expressed distilled")
_NO_PLANTS = frozenset({"fragrance_oil", "lip_flavour_oil", "camphor_white"})

_STEEPED = vocabulary.words_of("infused infusion infusions macerate macerated maceration steeped")
_TINCTURE = frozenset({"tincture", "tinctures"})
_DRAWN = vocabulary.words_of(
    "extract extracts oleoresin glycerite resinoid essence absolute concrete syrup flavour flavouring flavor flavoring "
    "co2 concentrate distillate"
)
_WET = WATERS | {"decoction", "brew", "infused water"}
_ITSELF = PLANT_ITSELF | vocabulary.words_of(
    "powder powdered ground crushed chopped peel zest rind seeds berries berry needles needle pods stick sticks resin "
    "tops stems stalks cut sifted whole bud leaf seed flowerheads chips shavings sawdust wood heartwood bark twig "
    "twigs sprig sprigs cone cones pod hips granules grated minced shredded chopped"
)
# What a plant only flavours, beside all that has a name of one word: neither its oil nor the plant.
_FLAVOURED = vocabulary.words_of("vinegar sugar salt salts juice paste puree milk soap gel cream jelly jam wax butter")
_SCENTED = vocabulary.words_of("scented perfumed flavoured flavored")
# Before or after a plant's name in that of its essential oil: sweet fennel, juniper berry.
_KINDS = vocabulary.words_of("sweet bitter roman german black pink wild common true")
_BEFORE = _ITSELF | PRAISE | vocabulary.words_of("freshly finely coarsely roughly")
_JOINS = frozenset({"and", "&", "+", ",", "/", "plus", "-", "–"})
_OF = frozenset({"with", "of", "in", "into", "by", "from", "using"})
_OIL = frozenset({"oil", "oils"})
_SCENT = frozenset({"eo", "eos", "essential"})
# Words that are never the name of a herb that nobody knows.
_COMMON = frozenset().union(
    vocabulary.UNITS, vocabulary.COUNTED, vocabulary.VAGUE, vocabulary.FORMS, vocabulary.FILLERS, vocabulary.METHOD,
    vocabulary.WORDS, vocabulary.NUMBERS, vocabulary.FRACTIONS, vocabulary.HEAPED, vocabulary.CONTAINERS,
    vocabulary.TIMES, HOW_INFUSED, _BEFORE, _STEEPED, _OF, _OIL,
)  # fmt: skip
_MARKS = frozenset({"(", ",", "-", "–", ":", "["})


@cache
def plants() -> Mapping[tuple[str, ...], str]:
    """Every name of a plant, by its words, to the key of its herb (see :func:`balmcore.tables.herbs.herb`)."""
    found = {tuple(name.split()): "-".join(name.split()) for name in HERBS.split("|")}
    for item in shipped().ingredients.values():
        if item.aromatic and item.key not in _NO_PLANTS:
            found.update(dict.fromkeys(_plants_of(item), item.key))
    for name, row in bare_rows().items():
        if shipped().ingredient(row.keys[0]).aromatic:
            found[tuple(name.split())] = row.keys[0]
    found[("orange",)] = "orange_sweet"
    scents = [(words, key) for words, key in found.items() if len(words) > 1 and key in shipped().ingredients]
    for words, key in scents:
        if words[0] in _KINDS:
            found.setdefault(words[1:], key)
        if words[-1] in _ITSELF:
            found.setdefault(words[:-1], key)
    known = {clean(name): key for key in herbs() for name in (herb_name(key), *_ALSO.get(key, ()))}
    found.update((tuple(name.split()), key) for name, key in known.items())
    # Roman chamomile steeped in an oil is chamomile in it, whatever its essential oil is called.
    return {words: key if key in herbs() else known.get(words[-1], key) for words, key in found.items()}


def _plants_of(item: Ingredient) -> list[tuple[str, ...]]:
    """The names of the plant that an essential oil is of: its own, and the other that stands in brackets."""
    name, _, inside = item.name.partition(" (")
    outer = tuple(word for word in clean(name).split() if word not in _OF_AN_OIL)
    other = tuple(clean(inside).split())
    return [outer, other] if len(other) == 1 and other[0] not in _OF_AN_OIL else [outer]


def herbs_named(text: str) -> tuple[str, ...]:
    """The keys of all herbs whose names stand in a text: ``Comfrey and marigold``."""
    words, found, at = clean(text).split(), list[str](), 0
    while at < len(words):
        length, key = _plant(words, at)
        found += [key] if key else []
        at += length or 1
    return tuple(dict.fromkeys(found))


def herb_form(words: Sequence[str], tables: Tables) -> Meant | None:
    """What a whole run of words means as a form of plants; None where it is none."""
    found = form_at(words, tables)
    return found[1] if found and found[0] == len(words) else None


def form_at(texts: Sequence[str], tables: Tables) -> tuple[int, Meant] | None:
    """The form of plants that words and marks, in small letters, begin with: how many of them, and what it means."""
    for way in (_after_plants, _after_oil, _after_form):
        found = way(texts, tables)
        if found is None:
            continue
        length, meant = found
        exact = by_words(tables).get(tuple(sorted(text for text in texts[:length] if text[0].isalnum())))
        if exact is None or tables.ingredients[exact].key in herbs() or exact == UNNAMED:
            return length, _harmful(texts[:length]) or meant
    return None


def _harmful(texts: Sequence[str]) -> Meant | None:
    return barred_inside(" ".join(texts))


def _at(texts: Sequence[str], at: int) -> str:
    return texts[at] if at < len(texts) else ""


def _plant(texts: Sequence[str], at: int) -> tuple[int, str]:
    """How many words from there are the longest name of a plant, and its herb; (0, "") for none."""
    for length in range(min(_LONGEST_PLANT, len(texts) - at), 0, -1):
        words = tuple(texts[at : at + length])
        *first, last = words
        for ending in (last, last.removesuffix("s"), last.removesuffix("es"), re.sub("ies$", "y", last)):
            if key := plants().get((*first, ending)):
                return length, key
    return 0, ""


def _past_parts(texts: Sequence[str], at: int) -> int:
    """Where the words for parts of a plant end that stand there, or behind a comma as the last of the text: petals;
    freshly grated."""
    while _at(texts, at) in _ITSELF:
        at += 1
    end = at + 1
    while _at(texts, end) in _BEFORE:
        end += 1
    is_last = _at(texts, at) == "," and end == len(texts) and texts[-1] in _ITSELF
    return end if is_last else at


def _plants_at(texts: Sequence[str], at: int) -> tuple[list[tuple[int, str]], bool]:
    """The plants that stand there, each with where it ends, and whether the first is said to be the plant itself. One
    whose oil is named after it begins something else."""
    found: list[tuple[int, str]] = []
    itself = False
    while True:
        while _at(texts, at) in _BEFORE and not _plant(texts, at)[0]:
            itself |= not found and texts[at] in _ITSELF
            at += 1
        length, key = _plant(texts, at)
        end = at + length
        itself |= not found and texts[end - 1].endswith("s") and texts[end - 1] in _ITSELF  # berries, and no berry
        if not length or (found and _at(texts, end) in _OIL | _SCENT and _at(texts, end + 1) not in _STEEPED):
            return found, itself
        end = _past_parts(texts, end)
        itself |= not found and end > at + length
        found.append((end, key))
        at = end
        while _at(texts, at) in _JOINS:
            at += 1
        if at == end:
            return found, itself


def _oil_at(texts: Sequence[str], at: int, tables: Tables) -> tuple[int, Ingredient | None]:
    """How many words from there name a plain oil or butter, and which; ``oil`` alone is one of which none is known."""
    for length in range(min(_LONGEST_OIL, len(texts) - at), 0, -1):
        words = tuple(text for text in texts[at : at + length] if text not in PRAISE)
        if not words or not all(text.isalnum() for text in words):
            continue
        for tried in (words, (*words, "oil")):
            item = tables.ingredients.get(by_words(tables).get(tuple(sorted(tried)), ""))
            if item and item.role in (Role.OIL, Role.BUTTER) and item.key not in herbs() and item.key != UNNAMED:
                return length + (_at(texts, at + length) in _OIL), item
    generic = _at(texts, at) in ("carrier", "base", "vegetable") and _at(texts, at + 1) in _OIL
    return (2 if generic else 1 if _at(texts, at) in _OIL else 0), None


def _after_plants(texts: Sequence[str], tables: Tables) -> tuple[int, Meant] | None:
    """``arnica and comfrey infused olive oil``, ``rose petals``, ``lavender hydrosol``, ``fluffwort-infused oil``."""
    found, itself = _plants_at(texts, 0)
    keys = [key for _, key in found]
    end = found[-1][0] if found else 0
    if not found and _may_be_a_herb(_at(texts, 0)):
        word = _at(texts, 1 + (_at(texts, 1) in _MARKS))
        if word in _TINCTURE or (word == "infused" and not _oil_at(texts, 0, tables)[0]):
            keys, end = [texts[0]], 1
    if not keys:
        return None
    after = end + (_at(texts, end) in ("-", "–"))
    word = _at(texts, after)
    if word in _OIL and _at(texts, after + 1) in _STEEPED - {"infused", "steeped"}:
        return after + 2, _steeped(keys, None, tables)
    if word in _STEEPED:
        after += 1
        after += _at(texts, after) in _OF
        length, base = _oil_at(texts, after, tables)
        if itself and not length:  # dried rosemary infused in 2 cups of oil: what is weighed is the plant
            return after, _the_plant(_words(texts[:end]), keys[0])
        is_open = not length and word in ("infusion", "infusions")
        return after + length, _steeped(keys, base, tables, is_open)
    if word in _TINCTURE:
        return after + 1, _tincture(keys, tables)
    return _after_one_plant(texts, *(found[0] if found else (end, keys[0])), itself)


def _after_one_plant(texts: Sequence[str], end: int, key: str, itself: bool) -> tuple[int, Meant] | None:
    """A plant's water, extract or the plant itself: none of them is of several plants that stand there."""
    after = end + (_at(texts, end) in ("-", "–"))
    word = _at(texts, after)
    if word in _WET:
        name = _words(texts[: after + 1])
        return after + 1, barred(name, why) if (why := refused_names().get(name)) else watery(name)
    if word in _DRAWN:
        after += 1 + (_at(texts, after + 1) in _DRAWN)
        return after, _drawn(_words(texts[:after]), key)
    if word in _SCENTED:
        after += 1 + _oil_at(texts, after + 1, shipped())[0]
        return after, _flavoured(_words(texts[:after]), word, key)
    if (word in _FLAVOURED or _is_plain(word)) and _at(texts, after + 1) not in _OIL | _SCENT:
        return after + 1, _flavoured(_words(texts[: after + 1]), word, key)
    itself |= key not in shipped().ingredients  # a herb that is sold as such
    if itself and word not in _OIL | _SCENT:
        return end, _the_plant(_words(texts[:end]), key)
    return None


def _words(texts: Sequence[str]) -> str:
    """The words among words and marks."""
    return " ".join(text for text in texts if text[0].isalnum())


def _may_be_a_herb(word: str) -> bool:
    return len(word) > 2 and word.isalpha() and word not in _COMMON


def _after_oil(texts: Sequence[str], tables: Tables) -> tuple[int, Meant] | None:
    """``olive oil (infused with calendula)``, ``oil infused with nettle and yarrow``, ``olive oil (rose-infused)``."""
    at = 0
    while _at(texts, at) in PRAISE:
        at += 1
    length, base = _oil_at(texts, at, tables)
    if not length:
        return None
    at += length
    opens = _at(texts, at) in ("(", "[")
    at += _at(texts, at) in _MARKS
    found, _ = _plants_at(texts, at)
    end = found[-1][0] if found else at
    end += _at(texts, end) in ("-", "–")
    if found and _at(texts, end) in _STEEPED and not _oil_at(texts, end + 1, tables)[0]:
        end += 1 + (opens and _at(texts, end + 1) in (")", "]"))
        return end, _steeped([key for _, key in found], base, tables)
    while _at(texts, at) in HOW_INFUSED:
        at += 1
    if _at(texts, at) not in _STEEPED or _at(texts, at + 1) not in _OF:
        return None
    return _with_what(texts, at + 2, base, opens, tables)


def _with_what(
    texts: Sequence[str], at: int, base: Ingredient | None, opens: bool, tables: Tables
) -> tuple[int, Meant] | None:
    """The herbs that an oil is said to be infused with; one that nobody knows is still a herb."""
    found, _ = _plants_at(texts, at)
    if found:
        end, keys = found[-1][0], [key for _, key in found]
    else:
        while _at(texts, at) in _BEFORE:
            at += 1
        word = _at(texts, at)
        if word not in HOW_INFUSED and not _may_be_a_herb(word):
            return None
        end, keys = at + 1, [OTHER if word in HOW_INFUSED else word]
    end += opens and _at(texts, end) in (")", "]")
    return end, _steeped(keys, base, tables)


def _after_form(texts: Sequence[str], tables: Tables) -> tuple[int, Meant] | None:
    """``infused calendula oil``, ``sun-infused olive oil (nettle)``, ``tincture of arnica``, ``infusion of rose``."""
    first = 0
    while _at(texts, first) in HOW_INFUSED or (first and _at(texts, first) == "-"):
        first += 1
    first = first if _at(texts, first) == "infused" else 0
    word, at = _at(texts, first), first + 1 + (_at(texts, first + 1) in _OF)
    if word in _TINCTURE | _DRAWN | _WET and at == first + 2:
        found, _ = _plants_at(texts, at)
        if not found:
            return None
        if word in _TINCTURE:
            return found[-1][0], _tincture([key for _, key in found], tables)
        end, key = found[0]
        name = " ".join(texts[:end])
        return end, watery(name) if word in _WET else _drawn(name, key)
    if word not in _STEEPED:
        return None
    found, _ = _plants_at(texts, at)
    if found:
        end, keys = found[-1][0], [key for _, key in found]
        end += _at(texts, end) in _OF
        length, base = _oil_at(texts, end, tables)
        return end + length, _steeped(keys, base, tables, not length and word != "infused")
    length, base = _oil_at(texts, at, tables)
    named = _at(texts, at + length)
    if length and named in ("with", "of"):
        return _with_what(texts, at + length + 1, base, False, tables)
    if length and named in ("(", "[") and _plants_at(texts, at + length + 1)[0]:
        return _with_what(texts, at + length + 1, base, True, tables)
    if first and length:
        return at + length, _steeped([OTHER], base, tables)
    return None


def _own(keys: Sequence[str], like: str, tables: Tables) -> list[Ingredient]:
    """The workshop's own with just these herbs, in a base of that key or in any."""
    return [
        item
        for item in tables.ingredients.values()
        if item.key not in shipped().ingredients
        and set(item.herbs) == set(keys)
        and (item.like == like if like else item.like != SPIRIT)
    ]


def _steeped(keys: Sequence[str], base: Ingredient | None, tables: Tables, is_open: bool = False) -> Meant:
    """Plants steeped in an oil: the workshop's own where it has one, else the table's own where that oil is the same or
    none is named, else the oil with all of them. ``is_open`` where it could be steeped in water."""
    keys = list(dict.fromkeys(keys))
    row = herbs().get(keys[0]) if len(keys) == 1 else None
    if base is not None and (base.key in herbs() or (row is not None and not row.inci.startswith(f"{base.inci},"))):
        row = None
    made = row or of_recipe(base or shipped().ingredient(UNNAMED), *keys)
    own = _own(keys, (base.like or base.key) if base else "", tables)
    if own:
        near = tuple(item.key for item in own) + ((row.key,) if row else ())
        told = f"Read as {own[0].name}, which is in your pantry."
        return Meant(own[0], near, told, words=in_sentence(made.name), sure=LIKELY if len(own) == 1 else DOUBTED)
    if is_open:
        told = f"An infusion can be in oil or in water: read as {in_sentence(made.name)}."
        return Meant(made, (made.key,) if row else (), told, sure=DOUBTED)
    return Meant(made, (made.key,) if row else (), sure=LIKELY)


def _tincture(keys: Sequence[str], tables: Tables) -> Meant:
    """Spirit with plants drawn out in it, whose cautions it carries, and not the oil of them."""
    keys = list(dict.fromkeys(keys))
    spirit = shipped().ingredient(SPIRIT)
    made = next(iter(_own(keys, SPIRIT, tables)), None) or of_recipe(spirit, *keys)
    names = listed([herb_name(key) for key in keys])
    cautions = " ".join(dict.fromkeys(herb(key).caution for key in keys))
    told = f"Read as {in_sentence(made.name)}: spirit and water, not the oil of {names}. {cautions}".strip()
    return Meant(made, (), told, Doubted.WATER, sure=LIKELY)


def _the_plant(name: str, key: str) -> Meant:
    told = f"“{name}” is the plant itself: steep it in oil first, and enter the infused oil."
    return Meant(None, (), f"{told} {_of_herb(key)}".strip(), sure=LOST)


def _of_herb(key: str) -> str:
    """What a herb asks for, whatever its form; what is known of its essential oil alone is no matter of the plant."""
    return herbs()[key].caution if key in herbs() else ""


@cache
def _is_plain(word: str) -> bool:
    """True for a word that by itself names an ingredient without a scent: honey, clay."""
    found = names_known(shipped()).get(word, "")
    return bool(found) and found not in herbs() and not shipped().ingredient(found).aromatic


def _flavoured(name: str, of: str, key: str) -> Meant:
    told = f"“{name}” is not in the pantry, and is not the essential oil of {in_sentence(herb_name(key))}."
    return Meant(None, (names_known(shipped())[of],) if _is_plain(of) else (), told, sure=LOST)


def _drawn(name: str, key: str) -> Meant:
    told = (
        f"“{name}” can be in spirit, glycerin, water or oil, and is not the essential oil of "
        f"{in_sentence(herb_name(key))}. Look on the bottle, and make it an ingredient of your own with its papers."
    )
    return Meant(None, (), f"{told} {_of_herb(key)}".strip(), sure=LOST)
