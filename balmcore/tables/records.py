"""What a row of each reference table is, as a record: species, ingredients, limits, containers, kinds."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, replace
from decimal import Decimal
from enum import StrEnum
from typing import TYPE_CHECKING

from balmcore.errors import Problem
from balmcore.wording import listed

if TYPE_CHECKING:
    from balmcore.tables.correction import Correction


class Role(StrEnum):
    """What an ingredient does in a melt: wax sets it, butter stiffens, oil softens, the rest is extra."""

    WAX = "wax"
    BUTTER = "butter"
    OIL = "oil"
    EXTRA = "extra"


ROLES = tuple(Role)
SPIRIT = "tincture"
BOILS_OFF = 0.9  # of it leaves a tincture or an aloe gel; honey and glycerin stay


@dataclass(frozen=True)
class Species:
    """What melts as one: melting point in degrees C, enthalpy in J/mol, molar mass in g/mol."""

    key: str
    melt_c: float
    dh_j_mol: float
    molar_g_mol: float


@dataclass(frozen=True)
class Aromatic:
    """Limits of one essential, flavour or fragrance oil, as shares of the finished product; in pregnancy and while
    nursing ``yes`` is to be asked about first, ``never`` not to be used."""

    max_leave_on: float | None
    phototoxic_max: float | None
    face_max: float | None
    lip_max: float | None
    lip_suitable: str
    avoid_under_years: float | None
    pregnancy_caution: str
    nursing_caution: str
    allergens: tuple[str, ...]
    caution: str
    declared_itself: bool = False

    def own_limit(self, area: str) -> Decimal | None:
        """Its own greatest share where it is worn, None when no figure is known."""
        limits = [self.max_leave_on, {"lips": self.lip_max, "face": self.face_max}.get(area)]
        return min((Decimal(str(limit)) for limit in limits if limit is not None), default=None)


@dataclass(frozen=True)
class Colourant:
    """Where a colour may be worn: ``yes``, ``no`` or ``varies`` by country or grade; from which age, and in pregnancy
    and nursing ``ask`` or ``no``."""

    lip_ok: str
    eye_ok: str
    caution: str
    avoid_under_years: float | None = None
    pregnancy: str = ""


ASKS = "name the"  # stands in an INCI that the tables cannot give: ``name the herb``
# What can be open of an ingredient: see ``Ingredient.unknown``.
WHICH_HERB, INCI = "which herb is in it", "its INCI name"
ALLERGENS, WEARERS = "its allergens", "who may not wear it"
CARRIER, COLOURS = "which oil the herb was steeped in", "the exact list of its colours"
USUAL_DROPS_PER_ML = 22.0  # of a plain glass dropper, handbooks count 18 to 26


@dataclass(frozen=True)
class Ingredient:
    """Anything a composition can hold. ``fractions`` are mass shares of species, empty when it does
    not dissolve in fat (powders, water-bearing extras).

    ``lip_ok`` is ``care`` or ``no`` where lips should not wear it freely, ``pregnancy`` ``ask`` or
    ``no``; ``volatile`` is the share of it that leaves while water is driven off. ``aromatic`` and
    ``colourant`` are the limits of a scent or a colour, None for anything else. ``like`` is the key of
    the ingredient it was described by. ``made_of`` is for what was mixed before, such as the rest of a
    melt: plain ingredients in shares adding to 1; its own ``fractions`` and ``strength`` then say nothing.
    ``correction`` is what a maker's tests taught, when ``strength`` is by them. ``unknown`` names what nobody has
    said of it and somebody must, such as ``which herb is in it``. ``herbs`` are those steeped in it here, see
    :mod:`balmcore.tables.herbs`.
    """

    key: str
    name: str
    inci: str
    role: Role
    group: str
    density_g_ml: float
    bulk_density_g_ml: float | None = None
    bulk_form: str = ""
    melt_low_c: float | None = None
    melt_high_c: float | None = None
    damage_c: float | None = None
    strength: float = 0.0
    fractions: tuple[tuple[Species, float], ...] = ()
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
    lip_ok: str = ""
    avoid_under_years: float | None = None
    pregnancy: str = ""
    volatile: float = 0.0
    caution: str = ""
    disperses: str = ""
    like: str = ""
    aromatic: Aromatic | None = None
    colourant: Colourant | None = None
    made_of: "tuple[tuple[Ingredient, float], ...]" = ()
    correction: "Correction | None" = None
    unknown: tuple[str, ...] = ()
    herbs: tuple[str, ...] = ()

    def __hash__(self) -> int:
        """By its key: as quick as a look-up in a table wants it."""
        return hash(self.key)

    @property
    def parts(self) -> "tuple[tuple[Ingredient, float], ...]":
        """The plain ingredients in it with their shares: itself, or what it was mixed from."""
        return self.made_of or ((self, 1.0),)

    @property
    def doubt(self) -> str:
        """What nobody has said of it, as one sentence; empty where nothing is open."""
        return f"{self.name}: nobody has said {listed(self.unknown)}." if self.unknown else ""

    @property
    def stays_wet(self) -> bool:
        """True for what brings water that does not leave on the stove: honey, glycerin, a dye."""
        return self.water_bearing and not self.made_of and self.volatile < BOILS_OFF

    @property
    def evaporates(self) -> float:
        """The share of it that leaves before the wax goes in; what stays wet is not driven off."""
        return 0.0 if self.stays_wet else self.volatile

    @property
    def has_spirit(self) -> bool:
        """True for a tincture: what leaves it burns."""
        return SPIRIT in (self.key, self.like)

    @property
    def is_named(self) -> bool:
        """False where its name for a label is asked for instead of given."""
        return bool(self.inci) and ASKS not in self.inci

    @property
    def is_powder(self) -> bool:
        """True for what stays a powder in the melt and stiffens it as a filler."""
        dry = not self.fractions and not self.made_of
        return dry and not self.water_bearing and self.group != "preservative"

    @property
    def drop_count(self) -> float | None:
        """Drops to the millilitre: its own, the usual of a plain dropper for all else that is liquid; None for what
        does not drop."""
        if self.drops_per_ml is not None:
            return self.drops_per_ml
        return None if self.is_powder or self.melt_high_c is not None else USUAL_DROPS_PER_ML


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
    is_own: bool = False

    @property
    def is_tool(self) -> bool:
        """Whether it comes back: a mould, a pitcher or a bowl."""
        return self.kind in ("mould", "vessel")

    @property
    def is_around(self) -> bool:
        """True for what goes around a piece, and is filled with nothing: a liner, a band, a bag."""
        return self.kind == "around"


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
class Starter:
    """A way of putting a balm together: a starting composition in percent and what speaks for it."""

    key: str
    name: str
    kind: str
    start: tuple[tuple[str, float], ...]
    reason: str


@dataclass(frozen=True)
class Substance:
    """A substance that several oils hold: its greatest share of the product, by area where that is lower, and about
    what share of each oil it is, by the oil's key. Above ``sold`` a product may not be sold in Europe, None for no such
    figure; ``pregnancy`` and ``nursing`` are ``yes`` to ask first, ``never``, or empty, as for an :class:`Aromatic`."""

    key: str
    name: str
    limit: float
    content: tuple[tuple[str, float], ...]
    area_limits: tuple[tuple[str, float], ...] = ()
    sold: float | None = None
    pregnancy: str = ""
    nursing: str = ""

    def limit_on(self, area: str) -> float:
        """Its greatest share of a product that is worn there."""
        return dict(self.area_limits).get(area, self.limit)

    def share_in(self, item: "Ingredient") -> float:
        """About what share of an ingredient it is; one that is like a known oil holds as much."""
        known = dict(self.content)
        return known.get(item.key) or known.get(item.like, 0.0)


@dataclass(frozen=True)
class AromaLimit:
    """Greatest share of all aromatics together, by the cautious and by the usual policy."""

    audience: str
    area: str
    cautious: float
    usual: float
    note: str

    def most(self, policy: str) -> Decimal:
        """The limit by a policy."""
        return Decimal(str(self.cautious if policy == "cautious" else self.usual))


@dataclass(frozen=True, eq=False)
class Tables:
    """All reference tables, by key. Two are the same only if they are one object."""

    species: Mapping[str, Species]
    ingredients: Mapping[str, Ingredient]
    containers: Mapping[str, Container]
    kinds: Mapping[str, Kind]
    starters: Mapping[str, Starter]
    limits: Mapping[tuple[str, str], AromaLimit]
    substances: Mapping[str, Substance]
    model: "Tables | None" = None

    @property
    def plain(self) -> "Tables":
        """The tables of the model alone, where these are corrected by a maker's tests; themselves otherwise."""
        return self.model or self

    @property
    def are_taught(self) -> bool:
        """True where firmness goes by a maker's own tests, and not by the model alone."""
        return self.model is not None

    def with_corrected(self, ingredients: "Mapping[str, Ingredient]") -> "Tables":
        """These tables with ingredients as a maker's tests say they are."""
        return replace(self, ingredients=ingredients, model=self.plain)

    def ingredient(self, key: str, where: str = "") -> Ingredient:
        """The ingredient of that key. Raises :class:`Problem` when there is none."""
        found = self.ingredients.get(key)
        if found is None:
            raise Problem(f"There is no ingredient “{key[:60]}” in the pantry.", where)
        return found

    def kind(self, key: str) -> Kind:
        """The kind of that key. Raises :class:`Problem` when there is none."""
        found = self.kinds.get(key)
        if found is None:
            raise Problem(f"There is no kind “{key[:40]}”.", "kind")
        return found

    def and_kinds(self, kinds: Iterable[Kind]) -> "Tables":
        """These tables with a workshop's kinds, in the place of shipped ones of the same key."""
        return replace(self, kinds={**self.kinds, **{kind.key: kind for kind in kinds}})

    def and_own(self, own: Iterable[Ingredient]) -> "Tables":
        """These tables with a workshop's own ingredients beside the others."""
        return replace(self, ingredients={**self.ingredients, **{item.key: item for item in own}})
