"""Reference tables: species, ingredients, aromatics, colourants, containers, kinds, limits.

They live as text in ``balmcore/tables/data`` so that a maker can mend a row; every file explains
its own columns on top. They are read once and checked while they are read: a bad row is a
:class:`~balmcore.errors.TableProblem` that names the file and the line.
"""

from collections.abc import Mapping
from dataclasses import replace
from functools import cache
from pathlib import Path

from balmcore.tables.csv_rows import Row, read
from balmcore.tables.records import (
    ALLERGENS,
    CARRIER,
    COLOURS,
    INCI,
    ROLES,
    WHICH_HERB,
    AromaLimit,
    Aromatic,
    Colourant,
    Container,
    Ingredient,
    Kind,
    Role,
    Species,
    Starter,
    Substance,
    Tables,
)

DATA = Path(__file__).parent / "data"
# What only the supplier's papers can say, by its word in the column ``papers``.
PAPERS = {"herb": WHICH_HERB, "carrier": CARRIER, "inci": INCI, "allergens": ALLERGENS, "colours": COLOURS}
OLD_ENOUGH = 2.0  # years from which a scent may be worn that is not one of the mild ones


def _species(row: Row) -> tuple[str, Species]:
    key = row.need("key")
    return key, Species(
        key,
        row.number("melt_c", -100, 200),
        row.number("dh_j_mol", 0, 1e6),
        row.number("molar_g_mol", 10, 5000),
    )


def _fractions(row: Row, species: Mapping[str, Species]) -> tuple[tuple[Species, float], ...]:
    pairs = row.pairs("fractions")
    for key, share in pairs:
        if key not in species:
            raise row.refuse(f"fractions: there is no species “{key}”")
        if not 0 < share <= 1:
            raise row.refuse(f"fractions: {key} should be above 0 and at most 1, not {share:g}")
    total = sum(share for _, share in pairs)
    if pairs and abs(total - 1) > 1e-6:
        raise row.refuse(f"fractions add to {total:.4f}, not 1")
    return tuple((species[key], share) for key, share in pairs)


def _ingredient(row: Row, species: Mapping[str, Species]) -> tuple[str, Ingredient]:
    key = row.need("key")
    low, high = row.maybe("melt_low_c", -50, 150), row.maybe("melt_high_c", -50, 150)
    if low is not None and high is not None and low > high:
        raise row.refuse(f"melt_low_c {low:g} is above melt_high_c {high:g}")
    return key, Ingredient(
        key=key,
        name=row.need("name"),
        inci=row.need("inci"),
        role=Role(row.choice("role", *ROLES)),
        group=row.need("group"),
        density_g_ml=row.number("density_g_ml", 0.5, 10),
        bulk_density_g_ml=row.maybe("bulk_density_g_ml", 0.05, 3),
        bulk_form=row.text("bulk_form"),
        melt_low_c=low,
        melt_high_c=high,
        damage_c=row.maybe("damage_c", 30, 200),
        strength=row.number("strength", 0, 5),
        fractions=_fractions(row, species),
        feel_weight=row.maybe("feel_weight", 0, 5),
        sink_minutes=row.maybe("sink_minutes", 0, 600),
        shelf_months=row.maybe("shelf_months", 0, 1200),
        aroma=row.text("aroma"),
        vegan=row.choice("vegan", "yes", "no", "varies", ""),
        allergens=row.words("allergens"),
        usual_min_share=row.share("usual_min_pct"),
        usual_max_share=row.share("usual_max_pct"),
        grains=row.maybe("grains", 0, 1) or 0.0,
        water_bearing=row.maybe("water_bearing", 0, 1) == 1,
        confidence=row.choice("confidence", "good", "fair", "low"),
        note=row.text("note"),
        lip_ok=row.choice("lip_ok", "", "yes", "care", "no"),
        avoid_under_years=row.maybe("avoid_under_years", 0, 18),
        pregnancy=row.choice("pregnancy_caution", "", "ask", "no"),
        volatile=row.maybe("volatile", 0, 1) or 0.0,
        caution=row.text("caution"),
        unknown=_unknown(row),
    )


def _unknown(row: Row) -> tuple[str, ...]:
    words = row.words("papers")
    if strange := next((word for word in words if word not in PAPERS), ""):
        raise row.refuse(f"papers: should be one of {', '.join(PAPERS)}, not “{strange}”")
    return tuple(PAPERS[word] for word in words)


def _aromatic(row: Row, aroma: Species) -> tuple[str, Ingredient]:
    key = row.need("key")
    youngest = 0.0 if row.choice("babies", "yes", "") else OLD_ENOUGH
    aromatic = Aromatic(
        max_leave_on=row.share("max_leave_on_pct"),
        phototoxic_max=row.share("phototoxic_max_pct"),
        face_max=row.share("face_max_pct"),
        lip_max=row.share("lip_max_pct"),
        lip_suitable=row.choice("lip_suitable", "yes", "caution", "no"),
        avoid_under_years=max(row.maybe("avoid_under_years", 0, 18) or 0.0, youngest) or None,
        pregnancy_caution=row.choice("pregnancy_caution", "no", "yes", "never"),
        nursing_caution=row.choice("nursing_caution", "no", "yes", "never"),
        allergens=row.words("declarable_allergens"),
        caution=row.text("caution"),
        declared_itself=row.choice("declared_itself", "yes", "no") == "yes",
    )
    return key, Ingredient(
        key=key,
        name=row.need("name"),
        inci=row.need("inci"),
        role=Role.EXTRA,
        group="aromatic",
        density_g_ml=row.number("density_g_ml", 0.5, 2),
        fractions=((aroma, 1.0),),
        shelf_months=row.maybe("shelf_months", 0, 1200),
        note=aromatic.caution,
        flash_c=row.maybe("flash_point_c", 0, 300),
        drops_per_ml=row.maybe("drops_per_ml", 5, 80),
        aromatic=aromatic,
        unknown=_unknown(row),
    )


def _colourant(row: Row, liquid: Species) -> tuple[str, Ingredient]:
    key = row.need("key")
    kind = row.choice("kind", "mineral", "plant_powder", "infused_oil", "dye")
    caution = row.text("caution")
    colourant = Colourant(
        row.choice("lip_ok", "yes", "no", "varies"),
        row.choice("eye_ok", "yes", "no", "varies"),
        caution,
        row.maybe("avoid_under_years", 0, 18),
        row.choice("pregnancy_caution", "", "ask", "no"),
    )
    return key, Ingredient(
        key=key,
        name=row.need("name"),
        inci=row.need("inci"),
        role=Role.EXTRA,
        group="colourant",
        density_g_ml=row.number("density_g_ml", 0.1, 10),
        bulk_density_g_ml=row.maybe("bulk_density_g_ml", 0.05, 3),
        bulk_form="spooned",
        fractions=((liquid, 1.0),) if kind == "infused_oil" else (),
        vegan=row.choice("vegan", "yes", "no", "varies"),
        usual_min_share=row.share("usual_min_pct"),
        usual_max_share=row.share("usual_max_pct"),
        water_bearing="water" in key,
        allergens=row.words("allergens"),
        disperses=row.choice("disperses_in_oil", "well", "poorly", "no"),
        note=caution,
        colourant=colourant,
        unknown=_unknown(row),
    )


def _container(row: Row) -> tuple[str, Container]:
    key = row.need("key")
    return key, Container(
        key=key,
        name=row.need("name"),
        kind=row.need("kind"),
        capacity_ml=row.number("capacity_ml", 0.1, 100_000),
        fill=row.number("usual_fill_fraction", 0.05, 1),
        diameter_mm=row.number("inner_diameter_mm", 1, 2000),
        height_mm=row.number("inner_height_mm", 1, 2000),
        empty_g=row.maybe("piece_mass_g", 0, 10_000),
        suits=row.words("suits"),
        note=row.text("note"),
    )


def _start(row: Row, ingredients: Mapping[str, Ingredient]) -> tuple[tuple[str, float], ...]:
    start = row.pairs("start")
    for ingredient, _ in start:
        if ingredient not in ingredients:
            raise row.refuse(f"start: there is no ingredient “{ingredient}”")
    if abs((total := sum(percent for _, percent in start)) - 100) > 1e-9:
        raise row.refuse(f"start adds to {total:g}, not 100")
    return start


def _starter(row: Row, ingredients: Mapping[str, Ingredient], kinds: Mapping[str, Kind]) -> tuple[str, Starter]:
    key, kind = row.need("key"), row.need("kind")
    if kind not in kinds:
        raise row.refuse(f"there is no kind “{kind}”")
    return key, Starter(key, row.need("name"), kind, _start(row, ingredients), row.need("reason"))


def _kind(row: Row, ingredients: Mapping[str, Ingredient]) -> tuple[str, Kind]:
    key = row.need("key")
    start = _start(row, ingredients)
    low, high = row.number("firm_low", 0, 120), row.number("firm_high", 0, 120)
    if low >= high:
        raise row.refuse(f"firm_low {low:g} is not below firm_high {high:g}")
    return key, Kind(
        key=key,
        name=row.need("name"),
        firm_low=low,
        firm_high=high,
        hold_firmness=row.maybe("hold_firmness", 0, 120),
        hold_temp_c=row.maybe("hold_temp_c", -20, 90),
        overrun=row.number("overrun", 0, 5),
        area=row.choice("area", "body", "face", "lips", "hands_feet", "spot", "eyes"),
        suits=row.words("suits"),
        start=start,
        about=row.need("about"),
    )


def _substance(row: Row, ingredients: Mapping[str, Ingredient]) -> tuple[str, Substance]:
    key, limit = row.need("key"), row.share("limit_pct")
    content = row.pairs("content")
    for oil, percent in content:
        if oil not in ingredients:
            raise row.refuse(f"content: there is no oil “{oil}”")
        if not 0 < percent <= 100:
            raise row.refuse(f"content: {oil} should hold more than nothing and at most 100, not {percent:g}")
    if not limit:
        raise row.refuse("limit_pct is empty")
    areas = {"face": row.share("face_pct"), "lips": row.share("lips_pct")}
    asks = {"ask": "yes", "never": "never", "": ""}
    return key, Substance(
        key,
        row.need("name"),
        limit,
        tuple((oil, percent / 100) for oil, percent in content),
        tuple((area, share) for area, share in areas.items() if share is not None),
        row.share("sold_pct"),
        asks[row.choice("pregnancy", *asks)],
        asks[row.choice("nursing", *asks)],
    )


def _limit(row: Row) -> tuple[tuple[str, str], AromaLimit]:
    audience, area = row.need("audience"), row.need("area")
    cautious, usual = row.share("cautious_max_pct"), row.share("usual_max_pct")
    if cautious is None or usual is None or cautious > usual:
        raise row.refuse("the cautious limit should be a number no higher than the usual one")
    return (audience, area), AromaLimit(audience, area, cautious, usual, row.text("note"))


def load(folder: Path = DATA) -> Tables:
    """Read every table in ``folder``. Raises :class:`TableProblem` at the first bad row."""
    species = read(folder / "species.csv", _species)
    # The bare species, for those who reckon with scent before they have chosen one.
    aroma = Ingredient(
        "aroma", "Scent, not yet chosen", "Parfum", Role.EXTRA, "aromatic", 0.90, fractions=((species["aroma"], 1.0),)
    )
    colours = read(folder / "colourants.csv", lambda row: _colourant(row, species["oil_liquid"]))
    plain = read(folder / "ingredients.csv", lambda row: _ingredient(row, species))
    ingredients = {
        **colours,
        **read(folder / "aromatics.csv", lambda row: _aromatic(row, species["aroma"])),
        aroma.key: aroma,
        # What stands in both tables, such as zinc oxide, has the limits of a colour too.
        **{
            key: replace(item, colourant=colours[key].colourant) if key in colours else item
            for key, item in plain.items()
        },
    }
    kinds = read(folder / "kinds.csv", lambda row: _kind(row, ingredients))
    return Tables(
        species=species,
        ingredients=ingredients,
        containers=read(folder / "containers.csv", _container),
        kinds=kinds,
        starters=read(folder / "starters.csv", lambda row: _starter(row, ingredients, kinds)),
        limits=read(folder / "audience_limits.csv", _limit),
        substances=read(folder / "substances.csv", lambda row: _substance(row, ingredients)),
    )


@cache
def shipped() -> Tables:
    """The shipped tables, read once."""
    return load()
