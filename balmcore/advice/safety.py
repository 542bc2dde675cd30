"""Cautions for a composition: who wears it, where, and by which policy of caution.

Each caution has one line that decides and its reasons behind it. Figures come from the reference
tables. The supplier's papers, local rules and professionals come before anything said here, and
nothing here is medical advice.
"""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from decimal import ROUND_FLOOR, Decimal
from enum import StrEnum

from balmcore.advice.caution import Caution, Level, Remedy, by_gravity
from balmcore.advice.facts import facts
from balmcore.advice.wearers import AUDIENCES, FOR, ON
from balmcore.composition import GRID, Composition, Line, percent_text
from balmcore.display import figure
from balmcore.tables import Colourant, Ingredient, shipped
from balmcore.wording import as_sentence, in_sentence, listed

# The column that tells of an audience, and the words for it.
ASKED = {
    "pregnant": ("pregnancy_caution", "pregnancy", "in pregnancy"),
    "nursing": ("nursing_caution", "nursing", "while nursing"),
}
FLAVOUR, FLAVOUR_YEARS = "lip_flavour_oil", 6.0
KNOWN_FOR = 0.1  # an oil that is at least so much of a substance is asked about as that is
# Castor oil does not mix with hydrocarbons where there is more than so much of both (docs/model.md).
CASTOR, CASTOR_FROM, HYDROCARBONS, HYDROCARBONS_FROM = "castor_oil", Decimal("0.15"), "mineral", Decimal("0.1")
CATS_MIND = ("tea_tree", "wintergreen", "birch_sweet", "peppermint", "cornmint", "eucalyptus_globulus")
ABOUT = Decimal("1.02")  # a sum of means of wide ranges is not over for a hair


class Policy(StrEnum):
    """How much scent is wise: handbooks differ. Cautious is our default."""

    CAUTIOUS = "cautious"
    USUAL = "usual"


@dataclass(frozen=True)
class Wearer:
    """Who wears it, where, by which policy of caution: ``audience`` is a key of :data:`AUDIENCES`, ``area`` of
    :data:`AREAS`, ``policy`` a :class:`Policy`."""

    audience: str = "adult"
    area: str = "body"
    policy: str = Policy.CAUTIOUS

    @property
    def years(self) -> float:
        """The youngest age of the audience."""
        return AUDIENCES[self.audience][1]

    @property
    def most(self) -> Decimal:
        """The greatest share of all scent together."""
        return shipped().limits[self.audience, self.area].most(self.policy)

    @property
    def note(self) -> str:
        """What is always said of them and the place."""
        return shipped().limits[self.audience, self.area].note

    @property
    def words(self) -> str:
        """``for adults, on lips``."""
        return f"{FOR[self.audience]}, {ON[self.area]}"


def cautions(composition: Composition, wearer: Wearer) -> tuple[Caution, ...]:
    """Everything the tables warn of, the gravest first."""
    total = composition.total or Decimal(1)
    written = {line.key: line.share for line in composition.lines}
    lines = [line._replace(share=round(line.share / total, 6)) for line in composition.expanded.lines if line.share > 0]
    # What an earlier melt brought along cannot be lowered by changing a line.
    hidden = {line.ingredient for line in composition.expanded.lines if written.get(line.key) != line.share}
    found = [
        *_all_scent(lines, wearer),
        *_who_and_where(lines, wearer),
        *(caution for line in lines for caution in _aromatic(line, wearer)),
        *_phototoxic(lines),
        *_sun(lines),
        *_substances(lines, wearer),
        *(caution for line in lines for caution in _ingredient(line, wearer)),
        *_separates(lines),
        *_handled(lines),
        *_kept_limits(lines, wearer),
        *facts(lines),
    ]
    offered = [replace(c, remedy=()) if any(item in hidden for item, _ in c.remedy) else c for c in found]
    return tuple(by_gravity(offered))


def over_limit(composition: Composition, wearer: Wearer) -> frozenset[str]:
    """The keys of those that are over a limit by how much there is of them, which less of them would end."""
    return frozenset(
        item.key
        for caution in cautions(composition, wearer)
        if caution.level is Level.STOP
        for item, share in caution.remedy
        if share
    )


def scent_share(composition: Composition, wearer: Wearer) -> Decimal:
    """The share of all aromatics together that count for a wearer, those of earlier melts too."""
    whole = composition.expanded
    scents = (line.share for line in whole.lines if _counts(line.ingredient, wearer))
    return sum(scents, Decimal(0)) / (whole.total or Decimal(1))


def _counts(item: Ingredient, wearer: Wearer) -> bool:
    """Whether something counts among all scent. A flavour documented for lips has its own figure there, and counts for
    small children alone, who swallow all of it."""
    is_flavour = FLAVOUR in (item.key, item.like)
    return item.group == "aromatic" and not (is_flavour and wearer.area == "lips" and wearer.years >= FLAVOUR_YEARS)


def most_scent(composition: Composition, wearer: Wearer, times: Decimal = Decimal(1)) -> dict[str, Decimal]:
    """The share of each aromatic when all are ``times`` as strong, or less: as much as breaks neither its own limit
    nor, together with the others in their present proportion, the limit for all scent, the sun's allowance or that
    of a substance they share."""
    total, allowed = composition.total or Decimal(1), wearer.most
    scents = [
        (line.ingredient, oil, line.share / total * times)
        for line in composition.lines
        if (oil := line.ingredient.aromatic) and line.share
    ]
    if not allowed:
        return {item.key: Decimal(0) for item, _, _ in scents}
    most = {
        item.key: share if (own := oil.own_limit(wearer.area)) is None else min(share, own)
        for item, oil, share in scents
    }
    groups = [{item.key: 1 / allowed for item, _, _ in scents if _counts(item, wearer)}]
    groups.append({item.key: 1 / Decimal(str(oil.phototoxic_max)) for item, oil, _ in scents if oil.phototoxic_max})
    for substance in shipped().substances.values():
        parts = {item.key: substance.share_in(item) / substance.limit_on(wearer.area) for item, _, _ in scents}
        groups.append({key: Decimal(str(part)) for key, part in parts.items() if part})
    for group in groups:  # each a sum of shares times weights that may not pass one
        used = sum((most[key] * weight for key, weight in group.items()), Decimal(0))
        if used > 1:
            for key in group:
                most[key] = (most[key] / used).quantize(GRID, ROUND_FLOOR)
    return most


def _all_scent(lines: list[Line], wearer: Wearer) -> Iterator[Caution]:
    scents = [line for line in lines if _counts(line.ingredient, wearer)]
    total = sum((line.share for line in scents), Decimal(0))
    if not total or total <= wearer.most:
        return
    if wearer.most:
        line = f"Scent {_percent(total)} % in all, {percent_text(wearer.most)} % is our most {wearer.words}"
        text = f"By the {wearer.policy} policy."
    else:
        line = f"No scent at all {wearer.words}"
        text = f"There is {_percent(total)} % in it. By the {wearer.policy} policy it should hold none."
    items = tuple(each.ingredient for each in scents)
    yield Caution(Level.STOP, line, text, items, _lowered(scents, wearer.most / total))


def _who_and_where(lines: list[Line], wearer: Wearer) -> Iterator[Caution]:
    """What is always said: of who wears it and where, and of what is scented while a baby is nursed. An adult's
    unscented balm needs no note, but around the eyes."""
    scents = tuple(line.ingredient for line in lines if line.ingredient.group == "aromatic")
    if scents and wearer.audience == "nursing":
        text = "A baby would take it in. Wash off whatever gets there before you nurse."
        yield Caution(Level.CARE, "Scented: not on the breast", text, scents)
    if wearer.note and (scents or wearer.audience != "adult" or wearer.area == "eyes"):
        first = _first_sentence(wearer.note)
        is_all = wearer.note.count(". ") == 0
        text = "You set this with “For” and “on” in the formula." if is_all else wearer.note
        yield Caution(Level.NOTE, as_sentence(f"{wearer.words}: {first}"), text)


def _separates(lines: list[Line]) -> Iterator[Caution]:
    """Castor oil beside petrolatum, mineral oil or polyisobutene."""
    castor = [line for line in lines if line.key == CASTOR]
    others = [line for line in lines if line.ingredient.group == HYDROCARBONS]
    shares = [sum((line.share for line in some), Decimal(0)) for some in (castor, others)]
    if shares[0] > CASTOR_FROM and shares[1] > HYDROCARBONS_FROM:
        names = listed([line.ingredient.name for line in others])
        yield Caution(
            Level.CARE,
            f"Castor oil does not mix with {names}: the balm separates",
            "That is so above 15 % castor oil and 10 % of them. Use less of one, or replace the castor oil.",
            tuple(line.ingredient for line in (*castor, *others)),
        )


def _lowered(lines: Iterable[Line], factor: Decimal) -> Remedy:
    """The shares of some lines times a factor, rounded down to the grid."""
    return tuple((line.ingredient, (line.share * factor).quantize(GRID, ROUND_FLOOR)) for line in lines)


def _out(line: Line) -> Remedy:
    return ((line.ingredient, Decimal(0)),)


def _aromatic(line: Line, wearer: Wearer) -> Iterator[Caution]:
    """One oil against its own limits, and what it asks of who wears it."""
    item, oil = line.ingredient, line.ingredient.aromatic
    if oil is None:
        return
    about, own = (item,), oil.own_limit(wearer.area)
    stops = [*_unfit(line, wearer)]
    if not stops and own is not None and line.share > own:
        said = f"{item.name} {_percent(line.share)} %"
        line_said = (
            f"{said}, {percent_text(own)} % is its own most {ON[wearer.area]}" if own else f"{said}: leave it out"
        )
        stops.append(Caution(Level.STOP, line_said, oil.caution or "Its own limit.", about, ((item, own),)))
    yield from stops
    if (when := _asked(item, wearer, "yes")) is not None:
        text = f"Commonly avoided {when}: ask a midwife or doctor."
        yield Caution(Level.CARE, f"{item.name}: ask first {when}", text, about)
    if stops:
        return
    if wearer.area == "lips" and oil.lip_suitable == "caution":
        yield Caution(
            Level.CARE, f"{item.name}: with care on lips", f"Lips swallow what they wear. {oil.caution}", about
        )


def _asked(item: Ingredient, wearer: Wearer, answer: str) -> str | None:
    """``in pregnancy`` or ``while nursing`` where that is asked of the wearer, and this is the strictest answer for an
    oil and for the substances that it is known for; else None."""
    if item.aromatic is None or wearer.audience not in ASKED:
        return None
    column, of_substance, when = ASKED[wearer.audience]
    answers = {getattr(item.aromatic, column)}
    answers |= {
        getattr(substance, of_substance)
        for substance in shipped().substances.values()
        if substance.share_in(item) >= KNOWN_FOR
    }
    strictest = next((each for each in ("never", "yes") if each in answers), "no")
    return when if strictest == answer else None


def most_of(item: Ingredient, wearer: Wearer) -> Decimal:
    """The greatest share of one oil alone: the least of all that binds it there, which are its own limit, that of all
    scent, the sun's and those of the substances in it."""
    oil = item.aromatic
    assert oil is not None
    limits = [wearer.most if _counts(item, wearer) else None, oil.own_limit(wearer.area)]
    limits.append(None if oil.phototoxic_max is None else Decimal(str(oil.phototoxic_max)))
    for substance in shipped().substances.values():
        if part := substance.share_in(item):
            limit = Decimal(str(substance.limit_on(wearer.area)))
            limits.append((limit / Decimal(str(part))).quantize(GRID, ROUND_FLOOR))
    return min(limit for limit in limits if limit is not None)


def _kept_limits(lines: list[Line], wearer: Wearer) -> Iterator[Caution]:
    """A limit that is kept is no caution: the oils within theirs in one quiet line, with what each is known for."""
    kept = []
    for line in lines:
        if line.ingredient.aromatic and not any(_unfit(line, wearer)):
            most = most_of(line.ingredient, wearer)
            if line.share <= most:
                kept.append((line, most))
    if not kept:
        return
    told = []
    for line, most in kept:
        item, oil = line.ingredient, line.ingredient.aromatic
        assert oil is not None
        said = f"{item.name} {_percent(line.share)} %, {percent_text(most)} % is our most {ON[wearer.area]}."
        told.append(f"{said} {oil.caution}".strip())
    yield Caution(Level.NOTE, "Scents within their limits", " ".join(told), tuple(line.ingredient for line, _ in kept))


def _unfit(line: Line, wearer: Wearer) -> Iterator[Caution]:
    """An oil that should not be worn there, or not by one so young."""
    item, oil = line.ingredient, line.ingredient.aromatic
    assert oil is not None
    if wearer.area == "lips" and oil.lip_suitable == "no":
        text = f"Leave it out of anything worn on lips. {oil.caution}"
        yield Caution(Level.STOP, f"{item.name}: not for lips", text, (item,), _out(line))
    if oil.avoid_under_years is not None and wearer.years < oil.avoid_under_years:
        mild = "Under two years only lavender, chamomile and mandarin are usual. " if wearer.years < 2 else ""
        text = f"Choose another scent or none. {mild}{oil.caution}".strip()
        said = f"{item.name}: not under {age_words(oil.avoid_under_years)}"
        yield Caution(Level.STOP, said, text, (item,), _out(line))
    if (when := _asked(item, wearer, "never")) is not None:
        text = f"Listed as not to be used {when}. {oil.caution} Ask a midwife or doctor about what was worn already."
        yield Caution(Level.STOP, f"{item.name}: not {when}", text, (item,), _out(line))


def _percent(share: Decimal) -> str:
    """A share as percent to a thousandth, which is finer than any scale weighs."""
    return percent_text(round(share, 5))


def age_words(years: float) -> str:
    """``1 year``, ``2.5 years``."""
    return f"{figure(years)} year{'' if years == 1 else 's'}"


def burns_in_sun(composition: Composition) -> bool:
    """True where the sun is to be kept off what wears it: over the sun's allowance, or by a word of the tables."""
    total = composition.total or Decimal(1)
    lines = [line._replace(share=line.share / total) for line in composition.expanded.lines if line.share > 0]
    return any(_phototoxic(lines)) or any(_sun(lines))


def _phototoxic(lines: list[Line]) -> Iterator[Caution]:
    """Sun-sensitising oils share one allowance: their parts of their own limits add up."""
    used = [
        (line, line.share / Decimal(str(oil.phototoxic_max)))
        for line in lines
        if (oil := line.ingredient.aromatic) and oil.phototoxic_max
    ]
    part = sum((share for _, share in used), Decimal(0))
    if part <= 1:
        return
    names = listed([line.ingredient.name for line, _ in used])
    yield Caution(
        Level.STOP,
        f"Sun and citrus: {part * 100:.0f} % of what sunlit skin allows",
        f"It comes from {names}. Use less of them, or distilled or furanocoumarin-free oils.",
        tuple(line.ingredient for line, _ in used),
        _lowered((line for line, _ in used), 1 / part),
    )


def _sun(lines: list[Line]) -> Iterator[Caution]:
    """What else makes skin burn sooner, without a figure of its own."""
    for line in lines:
        if "sensitive to the sun" in line.ingredient.caution:
            others = [each.ingredient.name for each in lines if (o := each.ingredient.aromatic) and o.phototoxic_max]
            more = f" It adds to {listed(others)}, which ask for the same." if others else ""
            said = f"{line.ingredient.name}: keep treated skin out of the sun"
            yield Caution(Level.CARE, said, f"{line.ingredient.caution}{more}", (line.ingredient,))


def _handled(lines: list[Line]) -> Iterator[Caution]:
    """What making and wearing it ask of others: dust, and cats."""
    dusty = [line.ingredient for line in lines if line.ingredient.is_powder]
    if dusty:
        names = listed([item.name for item in dusty])
        text = f"{names}: a mask or arm's length, no draught, the lid of the sieve down."
        yield Caution(Level.NOTE, "Powders: do not breathe the dust", text, tuple(dusty))
    cats = [line.ingredient for line in lines if line.ingredient.key in CATS_MIND]
    if cats:
        names = listed([in_sentence(item.name) for item in cats])
        text = f"Cats cannot break down {names}: no stroking with it on, and let none be licked."
        yield Caution(Level.NOTE, "Not where a cat licks it", text, tuple(cats))


def _substances(lines: list[Line], wearer: Wearer) -> Iterator[Caution]:
    """Limits that many oils share belong to a substance in them: what each brings adds up, and lips and face bear
    less."""
    for substance in shipped().substances.values():
        parts = [
            (line, line.share * Decimal(str(part))) for line in lines if (part := substance.share_in(line.ingredient))
        ]
        limit, sold = Decimal(str(substance.limit_on(wearer.area))), Decimal(str(substance.sold or 1))
        total, about = sum((part for _, part in parts), Decimal(0)), tuple(line.ingredient for line, _ in parts)
        if total <= min(limit, sold) * ABOUT:
            continue
        comes = f"It comes from {listed([item.name for item in about])}. The contents are means of wide ranges: the "
        comes += "supplier's paper overrules them."
        held = f"{substance.name} about {percent_text(round(total, 5), 4 if total < Decimal('0.0001') else 2)} %"
        if total > limit * ABOUT:
            line = f"{held}, {percent_text(limit, 2)} % is our most {ON[wearer.area]}"
            yield Caution(Level.STOP, line, comes, about, _lowered((each for each, _ in parts), limit / total))
        else:
            line = f"{held}: over the European figure of {percent_text(sold, 4)} % for what is sold"
            yield Caution(Level.CARE, line, f"That figure is for what stays on the skin. {comes}", about)


def _ingredient(line: Line, wearer: Wearer) -> Iterator[Caution]:
    """What an ingredient that is no scent asks for: water, lips, age, pregnancy, nursing, its usual share."""
    item, about = line.ingredient, (line.ingredient,)
    if item.water_bearing:
        boils = (
            "Leave it out, or drive its water off before any wax, in a water bath, until the weight no longer falls."
        )
        if item.has_spirit:
            boils = (
                "Leave it out, or let its spirit evaporate before any wax: unheated or over hot water, at most 50 g "
                "at a time, with no flame, hot plate, thermostat or electric switch near and the window open."
            )
        stays = "It does not boil off and does not mix with fat: it beads, weeps and spoils. Leave it out."
        text = (
            "Water invites mould and needs a preservative system, which Calm Tin does not design. "
            f"{stays if item.stays_wet else boils} {item.note}"
        )
        yield Caution(Level.STOP, f"{item.name} brings water", text.strip(), about, _out(line))
    if item.doubt:
        text = (
            "What isn't known of it isn't warned of here. Ask the supplier for its papers, make it an ingredient of "
            "your own in the pantry, and enter what they say there. Until then don't use it on lips, for children or "
            "in pregnancy."
        )
        yield Caution(Level.CARE, item.doubt.rstrip("."), text, about, is_open=True)
    if item.aromatic is None:
        yield from _unfit_ingredient(line, wearer)
    if item.colourant is not None:
        yield from _colour(item, wearer)
    if item.group == "lanolin" and wearer.audience == "nursing":
        text = "Not for the breast: only a product made and sold for that use belongs there."
        yield Caution(Level.STOP, "Lanolin while nursing: not for the breast", text, about)
    if item.usual_max_share is not None and float(line.share) > item.usual_max_share + 1e-9:
        most = Decimal(str(item.usual_max_share))
        said = f"{item.name} {_percent(line.share)} %, {percent_text(most, 0)} % is usual at most"
        text = "More than makers commonly use. It may be what you want; test a small pour first."
        yield Caution(Level.CARE, said, text, about, ((item, most),))


def _unfit_ingredient(line: Line, wearer: Wearer) -> Iterator[Caution]:
    item, about, found = line.ingredient, (line.ingredient,), False
    why = item.caution or item.note
    if wearer.area == "lips" and item.lip_ok in ("no", "care"):
        found = True
        level = Level.STOP if item.lip_ok == "no" else Level.CARE
        said = "not for lips" if item.lip_ok == "no" else "with care on lips"
        yield Caution(
            level,
            f"{item.name}: {said}",
            f"Lips swallow what they wear. {why}",
            about,
            _out(line) if level is Level.STOP else (),
        )
    if wearer.area == "eyes" and item.lip_ok in ("no", "care"):
        found = True
        text = f"What lips should not wear does not belong at the eye. {why}"
        yield Caution(Level.STOP, f"{item.name}: not near the eyes", text, about, _out(line))
    barred = tuple(_barred(item, item, why, wearer, _out(line)))
    yield from barred
    if item.caution and not found and not barred:
        yield Caution(Level.NOTE, f"{item.name}: {_first_sentence(item.caution)}", item.caution, about)


def _barred(
    item: Ingredient, told: Ingredient | Colourant, why: str, wearer: Wearer, remedy: Remedy
) -> Iterator[Caution]:
    """For whom it is not, by age, pregnancy and nursing: by the row that tells of it, which may be a colour's."""
    if told.avoid_under_years is not None and wearer.years < told.avoid_under_years:
        yield Caution(Level.STOP, f"{item.name}: not under {age_words(told.avoid_under_years)}", why, (item,), remedy)
    if told.pregnancy and wearer.audience in ("pregnant", "nursing"):
        never = told.pregnancy == "no"
        said = f"{item.name}: {'not' if never else 'ask first'} {FOR[wearer.audience]}"
        text = f"{why} Ask a midwife or doctor.".strip()
        yield Caution(Level.STOP if never else Level.CARE, said, text, (item,), remedy if never else ())


def _first_sentence(text: str) -> str:
    return in_sentence(text.split(". ")[0].rstrip("."))


def _colour(item: Ingredient, wearer: Wearer) -> Iterator[Caution]:
    """Where and by whom a colour may be worn: lips swallow it, the eye is near."""
    colour = item.colourant
    assert colour is not None
    yield from _barred(item, colour, colour.caution, wearer, ())
    at_eye = (colour.eye_ok, "the eye", "")
    near = {"lips": (colour.lip_ok, "lips", "Lips swallow what they wear."), "face": at_eye, "eyes": at_eye}
    allowed, where, why = near.get(wearer.area, ("yes", "", ""))
    if allowed == "yes":
        yield Caution(Level.NOTE, f"{item.name}: {_first_sentence(colour.caution)}", colour.caution, (item,))
    elif allowed == "no" and wearer.area == "lips":
        yield Caution(Level.STOP, f"{item.name}: not for lips", f"{why} {colour.caution}", (item,))
    elif allowed == "no":
        level = Level.STOP if wearer.area == "eyes" else Level.CARE
        yield Caution(level, f"{item.name}: not near the eye", colour.caution, (item,))
    else:
        said = (
            f"{item.name}: near {where} only if its papers say so"
            if where == "the eye"
            else f"{item.name}: for lips only if its papers say so"
        )
        yield Caution(Level.CARE, said, f"{why} {colour.caution}".strip(), (item,))
