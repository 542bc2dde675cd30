"""Cautions for a composition: who wears it, where, and by which policy of caution.

Figures come from the reference tables. The supplier's papers, local rules and professionals
come before anything said here, and nothing here is medical advice.
"""

from dataclasses import dataclass, replace
from decimal import ROUND_FLOOR, Decimal
from enum import StrEnum

from balmcore.composition import GRID, Composition, Line, percent_text
from balmcore.tables import Ingredient, shipped

AUDIENCES = {
    "adult": ("Adults", 15.0),
    "sensitive": ("Sensitive skin", 15.0),
    "elderly": ("Older people", 15.0),
    "pregnant": ("In pregnancy", 15.0),
    "nursing": ("While nursing", 15.0),
    "child_6_15y": ("Children 6 to 15", 6.0),
    "child_2_6y": ("Children 2 to 6", 2.0),
    "baby_3_24m": ("Babies 3 to 24 months", 0.25),
    "newborn_0_3m": ("Newborns", 0.0),
}
AREAS = {
    "body": "Body",
    "face": "Face",
    "lips": "Lips",
    "hands_feet": "Hands and feet",
    "spot": "A small spot",
}
SUNLIT = ("body", "face", "lips", "hands_feet", "spot")


class Level(StrEnum):
    """How grave a caution is: over a limit or unfit, to think about, to print. The gravest first."""

    STOP = "stop"
    CARE = "care"
    NOTE = "note"


class Policy(StrEnum):
    """How much scent is wise: handbooks differ. Cautious is our default."""

    CAUTIOUS = "cautious"
    USUAL = "usual"


LEVELS = tuple(Level)


@dataclass(frozen=True)
class Caution:
    """One thing to know. ``level`` is ``stop`` (over a limit or unfit), ``care`` (think about
    it) or ``note`` (print it); ``key`` names the ingredient, empty for the whole. ``remedy`` are
    shares that end it, where arithmetic can."""

    level: Level
    title: str
    text: str
    key: str = ""
    remedy: tuple[tuple[Ingredient, Decimal], ...] = ()

    @property
    def offer(self) -> str:
        """What the remedy does, for a button; empty when arithmetic cannot help."""
        if not self.remedy:
            return ""
        if len(self.remedy) > 1:
            total = sum((share for _, share in self.remedy), Decimal(0))
            return f"Bring them down to {percent_text(total)} % together" if total else "Take them out"
        item, share = self.remedy[0]
        name = item.name
        return f"Bring {name.lower()} to {percent_text(share)} %" if share else f"Take {name.lower()} out"


def cautions(composition: Composition, audience: str, area: str, policy: str) -> tuple[Caution, ...]:
    """Everything the tables warn of, the gravest first.

    ``audience`` is a key of :data:`AUDIENCES`, ``area`` of :data:`AREAS`, ``policy``
    ``cautious`` or ``usual``.
    """
    total = composition.total or Decimal(1)
    written = {line.key: line.share for line in composition.lines}
    lines = [line._replace(share=round(line.share / total, 6)) for line in composition.expanded.lines if line.share > 0]
    # What an earlier melt brought along cannot be lowered by changing a line.
    hidden = {line.key for line in composition.expanded.lines if written.get(line.key) != line.share}
    found = [
        *_total_aromatics(lines, audience, area, policy),
        *(caution for line in lines for caution in _aromatic(line, audience, area)),
        *_phototoxic(lines, area),
        *(caution for line in lines for caution in _ingredient(line, audience, area)),
        *_whole(lines),
    ]
    offered = [replace(c, remedy=()) if any(item.key in hidden for item, _ in c.remedy) else c for c in found]
    return tuple(sorted(offered, key=lambda caution: LEVELS.index(caution.level)))


def most_scent(composition: Composition, audience: str, area: str, policy: str) -> dict[str, Decimal]:
    """The greatest share of each aromatic that breaks neither its own limit nor, together with
    the others in their present proportion, the limit for all scent and the sun's allowance."""
    total = composition.total or Decimal(1)
    scents = [line for line in composition.lines if line.ingredient.aromatic and line.share]
    most: dict[str, Decimal] = {}
    sun: dict[str, Decimal] = {}
    for line in scents:
        oil = line.ingredient.aromatic
        assert oil is not None
        own, share = oil.own_limit(area), line.share / total
        most[line.key] = share if own is None else min(share, own)
        if oil.phototoxic_max:
            sun[line.key] = Decimal(str(oil.phototoxic_max))
    allowed = shipped().limits[audience, area].most(policy)
    part = sum((most[key] / limit for key, limit in sun.items()), Decimal(0))
    factor = min(Decimal(1), allowed / (sum(most.values()) or Decimal(1)))
    for key, share in most.items():
        less = min(factor, 1 / part) if part > 1 and key in sun else factor
        most[key] = (share * less).quantize(GRID, ROUND_FLOOR) if less < 1 else share
    return most


def _total_aromatics(lines: list[Line], audience: str, area: str, policy: str) -> list[Caution]:
    total = sum((line.share for line in lines if line.ingredient.group == "aromatic"), Decimal(0))
    if not total:
        return []
    limit = shipped().limits[audience, area]
    most = limit.most(policy)
    if total <= most:
        return []
    who, where = AUDIENCES[audience][0].lower(), AREAS[area].lower()
    advice = f"bring all scent down to {percent_text(most)} % together" if most else "leave scent out"
    return [
        Caution(
            Level.STOP,
            f"Scent {percent_text(total)} % is over {percent_text(most)} %",
            f"For {who}, {where}, the {policy} school says: {advice}. {limit.note}".strip(),
            remedy=_lowered([line for line in lines if line.ingredient.group == "aromatic"], most / total),
        )
    ]


def _lowered(lines: list[Line], factor: Decimal) -> tuple[tuple[Ingredient, Decimal], ...]:
    """The shares of some lines times a factor, rounded down to the grid."""
    return tuple((line.ingredient, (line.share * factor).quantize(GRID, ROUND_FLOOR)) for line in lines)


def _aromatic(line: Line, audience: str, area: str) -> list[Caution]:
    item, oil = line.ingredient, line.ingredient.aromatic
    if oil is None:
        return []
    found = []
    own = oil.own_limit(area)
    if area == "lips" and oil.lip_suitable == "no":
        found.append(
            Caution(
                Level.STOP,
                f"{item.name}: not for lips",
                f"Leave it out of anything worn on lips. {oil.caution}",
                line.key,
                ((line.ingredient, Decimal(0)),),
            )
        )
    elif own is not None and line.share > own:
        most = percent_text(own)
        found.append(
            Caution(
                Level.STOP,
                f"{item.name} {percent_text(line.share)} % is over its own {most} %",
                f"Bring it down to {most} % or less. {oil.caution}",
                line.key,
                ((line.ingredient, own),),
            )
        )
    age = AUDIENCES[audience][1]
    if oil.avoid_under_years is not None and age < oil.avoid_under_years:
        found.append(
            Caution(
                Level.STOP,
                f"{item.name}: not under {oil.avoid_under_years:g} years",
                f"Choose another scent or none. {oil.caution}",
                line.key,
                ((line.ingredient, Decimal(0)),),
            )
        )
    if audience == "pregnant" and oil.pregnancy_caution:
        found.append(
            Caution(
                Level.CARE,
                f"{item.name}: ask first in pregnancy",
                "Commonly avoided in pregnancy: ask a midwife or doctor.",
                line.key,
            )
        )
    if audience == "nursing" and oil.nursing_caution:
        found.append(
            Caution(
                Level.CARE,
                f"{item.name}: ask first while nursing",
                "Commonly avoided while nursing: ask a midwife or doctor.",
                line.key,
            )
        )
    if not found and oil.caution:
        found.append(Caution(Level.NOTE, item.name, oil.caution, line.key))
    return found


def _phototoxic(lines: list[Line], area: str) -> list[Caution]:
    """Sun-sensitising oils share one allowance: their parts of their own limits add up."""
    used = [
        (line, float(line.share) / oil.phototoxic_max)
        for line in lines
        if (oil := line.ingredient.aromatic) and oil.phototoxic_max
    ]
    part = sum(share for _, share in used)
    if area not in SUNLIT or part <= 1 + 1e-9:
        return []
    names = " and ".join(line.ingredient.name for line, _ in used)
    return [
        Caution(
            Level.STOP,
            "Sun and citrus",
            f"{names}: {part * 100:.0f} % of what sunlit skin allows. Divide by {part:.1f}, or use distilled or "
            "furanocoumarin-free oils.",
            remedy=_lowered([line for line, _ in used], 1 / Decimal(str(round(part, 9)))),
        )
    ]


def _ingredient(line: Line, audience: str, area: str) -> list[Caution]:
    item = line.ingredient
    found = []
    if item.water_bearing:
        found.append(
            Caution(
                Level.STOP,
                f"{item.name} brings water",
                "Water invites mould and needs a preservative system, which Calm Tin does not design. "
                f"Leave it out, or drive the water off first. {item.note}".strip(),
                line.key,
                ((line.ingredient, Decimal(0)),),
            )
        )
    colour = item.colourant
    if colour and area == "lips" and colour.lip_ok != "yes":
        level, words = (
            (Level.STOP, "not for lips")
            if colour.lip_ok == "no"
            else (Level.CARE, "for lips only if its papers say so")
        )
        found.append(
            Caution(level, f"{item.name}: {words}", f"Lips swallow what they wear. {colour.caution}", line.key)
        )
    elif colour:
        found.append(Caution(Level.NOTE, item.name, colour.caution, line.key))
    if item.group == "lanolin" and audience == "nursing":
        found.append(
            Caution(
                Level.STOP,
                "Lanolin while nursing",
                "Not for the breast: only a product made and sold for that use belongs there.",
                line.key,
            )
        )
    if line.key == "neem_oil" and audience not in ("adult", "sensitive", "elderly"):
        found.append(Caution(Level.STOP, "Neem oil: adults only", item.note, line.key))
    if item.usual_max_share is not None and float(line.share) > item.usual_max_share + 1e-9:
        found.append(
            Caution(
                Level.CARE,
                f"{item.name} above its usual {item.usual_max_share * 100:g} %",
                "More than makers commonly use. It may be what you want; test a small pour first.",
                line.key,
                ((line.ingredient, Decimal(str(item.usual_max_share))),),
            )
        )
    return found


def _whole(lines: list[Line]) -> list[Caution]:
    found = []
    allergens: dict[str, list[str]] = {}
    for line in lines:
        for allergen in line.ingredient.allergens:
            allergens.setdefault(allergen, []).append(line.ingredient.name)
    if allergens:
        told = "; ".join(f"{allergen} ({', '.join(names)})" for allergen, names in sorted(allergens.items()))
        found.append(Caution(Level.NOTE, "Allergens", told + "."))
    declared = sorted({word for line in lines if (oil := line.ingredient.aromatic) for word in oil.allergens})
    if declared:
        found.append(
            Caution(Level.NOTE, "Scent allergens to declare where rules ask for it", ", ".join(declared) + ".")
        )
    not_vegan = [line.ingredient.name for line in lines if line.ingredient.vegan == "no"]
    unsure = [line.ingredient.name for line in lines if line.ingredient.vegan in ("varies", "")]
    if lines and not_vegan:
        found.append(Caution(Level.NOTE, "Not vegan", ", ".join(not_vegan) + "."))
    elif unsure:
        found.append(Caution(Level.NOTE, "Vegan only if the supplier says so", ", ".join(unsure) + "."))
    elif lines:
        found.append(Caution(Level.NOTE, "Vegan", "Nothing in it comes from animals, as far as the table knows."))
    return found
