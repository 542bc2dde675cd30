"""What a formula is meant for: wishes, skin and season, and what of a composition goes against them.

What clogs pores is little known: lists rest on old tests of undiluted oils, and skins differ. Ingredients that such
lists name are told with that word, and none is barred for it.
"""

from collections.abc import Iterator
from dataclasses import dataclass

from balmcore.advice.caution import Caution, Level
from balmcore.advice.feel import feel
from balmcore.composition import Composition
from balmcore.design.wishes import Wishes, names_something, read_wishes
from balmcore.display import Display
from balmcore.physics.firmness import predict
from balmcore.tables import Ingredient, Kind, Tables
from balmcore.wording import in_sentence, listed

SKINS = {"dry": "dry skin", "oily": "oily skin", "clogs": "skin that clogs easily", "reactive": "reactive skin"}
SEASONS = {"summer": "a bag in July", "winter": "a cold bathroom"}
SUMMER_C, WINTER_C = 40.0, 10.0  # our figures for a bag in the sun's warmth, and an unheated bathroom in winter
STIFF_BY = 12.0  # points above its window from which it is hard to scoop in the cold
FLOWS = 10.0  # firmness below which what is set runs
DRY_WANTS, OILY_BEARS = 2.5, 3.0  # greasiness, 1 to 5 (our figures)
LISTED = frozenset({
    "coconut_oil", "coconut_oil_refined", "cocoa_butter", "cocoa_butter_refined", "palm_oil", "wheat_germ_oil",
    "isopropyl_myristate", "lanolin", "lard", "tallow", "flaxseed_oil", "avocado_oil", "murumuru_butter",
    "tucuma_butter", "palm_kernel_oil", "babassu_oil", "stearic_acid", "cetyl_alcohol",
})  # fmt: skip
LITTLE_KNOWN = (
    "Lists of what clogs rest on old tests of undiluted oils, and contradict each other; skins differ more than oils "
    "do. Try a small spot for two weeks before the face. A skin in trouble is a matter for a professional."
)


@dataclass(frozen=True)
class Meant:
    """What a formula is meant to be: ``without`` are wishes as they were said, ``skin`` a key of :data:`SKINS`,
    ``season`` of :data:`SEASONS`, empty for any."""

    vegan: bool = False
    without: tuple[str, ...] = ()
    stock_only: bool = False
    skin: str = ""
    season: str = ""

    @property
    def words(self) -> str:
        """``vegan, without nuts, for dry skin``; empty where nothing is wished."""
        parts = ["vegan"] if self.vegan else []
        parts += [f"without {listed(self.without)}"] if self.without else []
        parts += ["only from stock"] if self.stock_only else []
        parts += [f"for {words}" for words in (SKINS.get(self.skin), SEASONS.get(self.season)) if words]
        return ", ".join(parts)


def against(
    composition: Composition,
    meant: Meant,
    kind: Kind,
    tables: Tables,
    show: Display,
    only: frozenset[Ingredient] | None = None,
) -> tuple[Caution, ...]:
    """What of a composition goes against what it is meant for; ``only`` is what is in stock, for those that are
    to be made of that alone."""
    used = tuple(line.ingredient for line in composition.lines if line.share)
    if not used:
        return ()
    return (
        *_wishes(used, meant, tables, only),
        *_skin(composition, meant, kind),
        *_season(composition, meant, kind, show),
    )


def _wishes(
    used: tuple[Ingredient, ...], meant: Meant, tables: Tables, only: frozenset[Ingredient] | None
) -> Iterator[Caution]:
    bars = {word: read_wishes(tables, False, (word,)) for word in meant.without if names_something(word, tables)}
    vegan = Wishes(vegan=True)
    for item in used:
        why = [f"not without {word}" for word, wish in bars.items() if not wish.allow(item)]
        if meant.vegan and not vegan.allow(item):
            why.append("not vegan" if item.vegan == "no" else "vegan only if the supplier says so")
        if meant.stock_only and only is not None and item not in only:
            why.append("not in stock")
        if why:
            text = f"It is meant to be {meant.words}."
            yield Caution(Level.CARE, f"{item.name}: {' and '.join(why)}", text, (item,))


def _skin(composition: Composition, meant: Meant, kind: Kind) -> Iterator[Caution]:
    if meant.skin not in SKINS:
        return
    felt = feel(composition, kind)
    leaves = [line.ingredient for line in composition.expanded.lines if line.share]
    if meant.skin == "dry" and felt and felt.greasiness < DRY_WANTS:
        text = "Dry skin usually likes more that stays: butters, castor or avocado oil, a little more wax."
        yield Caution(Level.CARE, "Light for dry skin", f"{felt.sentence} {text}")
    if meant.skin in ("oily", "clogs"):
        if felt and felt.greasiness > OILY_BEARS:
            text = "Oily skin usually likes less: lighter oils, less butter."
            yield Caution(Level.CARE, f"Rich for {SKINS[meant.skin]}", f"{felt.sentence} {text}")
        named = [item for item in leaves if item.key in LISTED]
        if named:
            line = f"On lists of what clogs: {listed([in_sentence(item.name) for item in named])}"
            yield Caution(Level.CARE, line, LITTLE_KNOWN, tuple(named))
    if meant.skin == "reactive":
        named = [item for item in leaves if item.aromatic or item.key == "lanolin"]
        if named:
            line = f"Often too much for reactive skin: {listed([in_sentence(item.name) for item in named])}"
            text = "Scents, plant resins and lanolin are what reactive skin answers to most often. Patch-test each."
            yield Caution(Level.CARE, line, text, tuple(named))


def _season(composition: Composition, meant: Meant, kind: Kind, show: Display) -> Iterator[Caution]:
    if meant.season not in SEASONS:
        return
    temp_c = SUMMER_C if meant.season == "summer" else WINTER_C
    prediction = predict(composition, kind.overrun)
    firmness = prediction.firmness_at(temp_c)
    there = f"In {SEASONS[meant.season]}, {show.temp_text(temp_c)}, it is {firmness:.0f}, {prediction.word_at(temp_c)}"
    name = in_sentence(kind.name)
    if meant.season == "summer" and round(firmness) < (wanted := max(kind.hold_firmness or 0.0, FLOWS)):
        yield Caution(Level.CARE, f"{there}: too soft", f"A {name} keeps its shape from {wanted:.0f} on.")
    if meant.season == "winter" and firmness > kind.firm_high + STIFF_BY:
        text = f"A {name} is right up to {kind.firm_high:.0f}; so much above that it is hard to take up cold."
        yield Caution(Level.CARE, f"{there}: hard to take up", text)
