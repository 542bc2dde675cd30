"""What a row of each reference table is, as a record: species, ingredients, limits, containers, kinds."""

from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal

from balmcore.errors import Problem

ROLES = ("wax", "butter", "oil", "extra")


@dataclass(frozen=True)
class Species:
    """What melts as one: melting point in degrees C, enthalpy in J/mol, molar mass in g/mol."""

    key: str
    melt_c: float
    dh_j_mol: float
    molar_g_mol: float


@dataclass(frozen=True)
class Ingredient:
    """Anything a formula can hold. ``fractions`` are mass shares of species, empty when it does
    not dissolve in fat (powders, water-bearing extras).

    ``like`` is the key of the ingredient it was described by. ``species`` are those that only this
    ingredient brings. ``made_of`` is for what was mixed before, such as the rest of a melt: plain
    ingredients in shares adding to 1; its own ``fractions`` and ``strength`` then say nothing.
    """

    key: str
    name: str
    inci: str
    role: str
    group: str
    density_g_ml: float
    bulk_density_g_ml: float | None = None
    bulk_form: str = ""
    melt_low_c: float | None = None
    melt_high_c: float | None = None
    damage_c: float | None = None
    strength: float = 0.0
    fractions: tuple[tuple[str, float], ...] = ()
    feel_weight: float | None = None
    sink_minutes: float | None = None
    shelf_months: float | None = None
    aroma: str = ""
    vegan: str = "yes"
    allergens: tuple[str, ...] = ()
    usual_min_share: float | None = None
    usual_max_share: float | None = None
    grains: float = 0.0
    water_bearing: bool = False
    confidence: str = "good"
    note: str = ""
    flash_c: float | None = None
    drops_per_ml: float | None = None
    like: str = ""
    species: tuple[Species, ...] = ()
    made_of: "tuple[tuple[Ingredient, float], ...]" = ()

    @property
    def parts(self) -> "tuple[tuple[Ingredient, float], ...]":
        """The plain ingredients in it with their shares: itself, or what it was mixed from."""
        return self.made_of or ((self, 1.0),)

    @property
    def is_powder(self) -> bool:
        """True for what stays a powder in the melt and stiffens it as a filler."""
        dry = not self.fractions and not self.made_of
        return dry and not self.water_bearing and self.group != "preservative"


@dataclass(frozen=True)
class Aromatic:
    """Limits of one essential, flavour or fragrance oil, as shares of the finished product."""

    key: str
    name: str
    max_leave_on: float | None
    phototoxic_max: float | None
    lip_max: float | None
    lip_suitable: str
    avoid_under_years: float | None
    pregnancy_caution: bool
    nursing_caution: bool
    allergens: tuple[str, ...]
    caution: str

    def own_limit(self, area: str) -> Decimal | None:
        """Its own greatest share where it is worn, None when no figure is known."""
        limits = [self.max_leave_on, self.lip_max if area == "lips" else None]
        return min((Decimal(str(limit)) for limit in limits if limit is not None), default=None)


@dataclass(frozen=True)
class Colourant:
    """Where a colour may be worn: ``yes``, ``no`` or ``varies`` by country or grade."""

    key: str
    name: str
    lip_ok: str
    eye_ok: str
    caution: str


@dataclass(frozen=True)
class Container:
    """A vessel by its brimful capacity in mL and the share of it that is usually filled."""

    key: str
    name: str
    kind: str
    capacity_ml: float
    fill: float
    diameter_mm: float
    height_mm: float
    empty_g: float | None
    suits: tuple[str, ...]
    note: str


@dataclass(frozen=True)
class Kind:
    """A kind of product: its firmness window at 21 degrees C, the firmness it must keep up to
    ``hold_temp_c`` (none for a gloss), usual overrun and a starting composition in percent."""

    key: str
    name: str
    firm_low: float
    firm_high: float
    hold_firmness: float | None
    hold_temp_c: float | None
    overrun: float
    area: str
    suits: tuple[str, ...]
    start: tuple[tuple[str, float], ...]
    about: str

    @property
    def hold(self) -> tuple[float, float] | None:
        """Firmness to keep and the temperature up to which, None where nothing has to hold."""
        if self.hold_firmness is None or self.hold_temp_c is None:
            return None
        return self.hold_firmness, self.hold_temp_c


@dataclass(frozen=True)
class School:
    """A way of putting a balm together: a starting composition in percent and what speaks for it."""

    key: str
    name: str
    kind: str
    start: tuple[tuple[str, float], ...]
    reason: str


@dataclass(frozen=True)
class AromaLimit:
    """Greatest share of all aromatics together, by the cautious and by the usual school."""

    audience: str
    area: str
    cautious: float
    usual: float
    note: str

    def most(self, school: str) -> Decimal:
        """The limit by a school."""
        return Decimal(str(self.cautious if school == "cautious" else self.usual))


@dataclass(frozen=True, eq=False)
class Library:
    """All reference tables, by key. Two are the same only if they are one object."""

    species: Mapping[str, Species]
    ingredients: Mapping[str, Ingredient]
    aromatics: Mapping[str, Aromatic]
    colourants: Mapping[str, Colourant]
    containers: Mapping[str, Container]
    kinds: Mapping[str, Kind]
    schools: Mapping[str, School]
    limits: Mapping[tuple[str, str], AromaLimit]

    def ingredient(self, key: str, where: str = "") -> Ingredient:
        """The ingredient of that key. Raises :class:`Problem` when there is none."""
        found = self.ingredients.get(key)
        if found is None:
            raise Problem(f"There is no ingredient “{key[:60]}” in the pantry.", where)
        return found
