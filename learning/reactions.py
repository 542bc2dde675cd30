"""From reactions on skin to what those balms have in common: a ranking with its counts, never a verdict."""

from collections import defaultdict
from collections.abc import Mapping, Set
from dataclasses import dataclass

from django.db.models import Sum

from balmcore.tables import Tables
from balmcore.trials.suspects import Suspect, Wearing, suspects
from balmcore.wording import as_sentence, in_sentence, listed
from batches.models import Draw
from pantry.models import Lot
from pours.models import Pour, WearTest
from pours.tracing import DEEPEST, sources_of


@dataclass(frozen=True)
class Named:
    """A suspect with its name: an ingredient, a scent allergen that several oils bring, or a lot."""

    suspect: Suspect
    name: str
    lot: int | None


@dataclass(frozen=True)
class Reactions:
    """Who reacted to what; what those things share, and what that list is worth; how many wore anything, and how many
    of them reacted."""

    tests: tuple[WearTest, ...]
    ingredients: tuple[Named, ...]
    lots: tuple[Named, ...]
    sentence: str
    worn: int
    reacted: int


MOST = 8


def reactions(tables: Tables) -> Reactions:
    """All reactions, and what is in the things reacted to more than in what others wore without trouble."""
    said: dict[str, dict[int, bool]] = defaultdict(lambda: defaultdict(bool))
    for who, pour, reaction in WearTest.objects.values_list("who", "pour", "reaction"):
        said[who.strip().casefold()][pour] |= reaction != WearTest.Reaction.NONE
    if not any(any(worn.values()) for worn in said.values()):
        return Reactions((), (), (), "", len(said), 0)
    pours = list(Pour.objects.filter(pk__in={pk for worn in said.values() for pk in worn}).for_reading())
    holds = {pour.pk: frozenset(_ingredients(pour, tables)) for pour in pours}
    # What an allergen of scent does, it does whichever oil brings it.
    brought = _scent_allergens(holds, tables)
    holds = {
        pk: held | {allergen for allergen, oils in brought.items() if held & set(oils)} for pk, held in holds.items()
    }
    lots = _lots(pours)
    lot_rows = {str(lot.pk): lot for lot in Lot.objects.filter(pk__in={pk for held in lots.values() for pk in held})}
    by_lot = {pk: frozenset(map(str, held)) for pk, held in lots.items()}
    found, of_lots = (
        suspects([[Wearing(held[pk], reacted) for pk, reacted in worn.items()] for worn in said.values()])
        for held in (holds, by_lot)
    )
    tests = WearTest.objects.exclude(reaction=WearTest.Reaction.NONE).select_related(
        "pour__batch__version__formula", "pour__finish"
    )
    return Reactions(
        tuple(tests),
        tuple(named for each in found.ranked[:MOST] if (named := _named(each, brought, tables))),
        tuple(
            Named(each, f"{_item(lot_rows[each.key], tables)}, {lot_rows[each.key]}", int(each.key))
            for each in of_lots.ranked[:MOST]
        ),
        found.sentence,
        len(said),
        found.reacted,
    )


def suspected_by(who: str, tables: Tables) -> dict[str, str]:
    """What was in everything that a wearer reacted to and in nothing they wore without trouble: names by key. Empty for
    one who never reacted."""
    tests = WearTest.objects.filter(who__iexact=" ".join(who.split()))
    reacted = {test.pour_id for test in tests if test.reacted}
    if not reacted:
        return {}
    pours = Pour.objects.filter(pk__in={test.pour_id for test in tests}).for_reading()
    holds = {pour.pk: _ingredients(pour, tables) for pour in pours}
    cleared = {key for pk, held in holds.items() if pk not in reacted for key in held}
    suspected = {key for pk in reacted for key in holds.get(pk, ())} - cleared
    return {key: tables.ingredients[key].name for key in sorted(suspected) if key in tables.ingredients}


def risk_for(who: str, pour: Pour, tables: Tables) -> str:
    """Why a pour may not be for somebody who reacted to something, in a sentence; empty where nothing is suspected."""
    held = _ingredients(pour, tables)
    shared = [name for key, name in suspected_by(who, tables).items() if key in held]
    if not shared:
        return ""
    return f"{who} reacted to something that held {listed(shared)}, and so does this. Is it known that it suits them?"


def _scent_allergens(holds: Mapping[int, Set[str]], tables: Tables) -> dict[str, tuple[str, ...]]:
    """The scent allergens that several of the oils worn bring, each with the keys of those: one oil alone stands for
    its own."""
    brought: dict[str, set[str]] = {}
    for key in {key for held in holds.values() for key in held if key in tables.ingredients}:
        scent = tables.ingredients[key].aromatic
        for allergen in scent.allergens if scent else ():
            brought.setdefault(allergen, set()).add(key)
    return {allergen: tuple(sorted(keys)) for allergen, keys in brought.items() if len(keys) > 1}


def _named(suspect: Suspect, brought: Mapping[str, tuple[str, ...]], tables: Tables) -> Named | None:
    """A suspect by the name of its ingredient, or of the scent allergen and the oils that bring it."""
    if suspect.key in tables.ingredients:
        return Named(suspect, tables.ingredients[suspect.key].name, None)
    if suspect.key in brought:
        oils = listed([in_sentence(tables.ingredients[key].name) for key in brought[suspect.key]])
        return Named(suspect, as_sentence(f"{suspect.key}, which {oils} bring"), None)
    return None


def _ingredients(pour: Pour, tables: Tables) -> set[str]:
    """Everything in a pour, what its rests and mixtures were made of too."""
    composition = pour.to_composition(tables)
    return {line.key for each in (composition, composition.expanded) for line in each.lines if line.share}


def _item(lot: Lot, tables: Tables) -> str:
    return tables.ingredients[lot.item_key].name if lot.item_key in tables.ingredients else lot.item_key


def _lots(pours: list[Pour]) -> dict[int, set[int]]:
    """The lots in each pour, followed back through rests and preparations."""
    by_part: dict[tuple[int, int | None], set[int]] = defaultdict(set)
    drawn = Draw.objects.filter(line__batch__in={pour.batch_id for pour in pours})
    for batch, finish, lot, net in drawn.values_list("line__batch", "line__finish", "lot").annotate(net=Sum("grams")):
        if net > 0:
            by_part[batch, finish].add(lot)
    known: dict[int, set[int]] = {}
    found = {}
    for pour in pours:
        held = set(by_part[pour.batch_id, None] | by_part[pour.batch_id, pour.finish_id])
        wave = set(held)
        for _ in range(DEEPEST):
            wave = {before for pk in wave for before in _before(pk, known)} - held
            if not wave:
                break
            held |= wave
        found[pour.pk] = held
    return found


def _before(pk: int, known: dict[int, set[int]]) -> set[int]:
    if pk not in known:
        known[pk] = {source for source, _ in sources_of(Lot.objects.filter(pk=pk)).get(pk, ())}
    return known[pk]
