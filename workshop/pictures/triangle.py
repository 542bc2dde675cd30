"""The triangle of wax, butter and oil as a map: bands of firmness as country, the formula a dot."""

from collections.abc import Sequence
from dataclasses import dataclass

from balmcore.firmness import BANDS
from balmcore.formula import Formula
from balmcore.tables import library
from balmcore.triangle import Country, Triangle, place_of

WIDTH, HEIGHT = 340.0, 306.0
LEFT, TOP, SIDE = 22.0, 26.0, 296.0
RISE = SIDE * 0.8660254


@dataclass(frozen=True)
class Land:
    """A band drawn: its class number, outline, and where its name stands (None when too thin)."""

    number: int
    name: str
    path: str
    label: tuple[float, float] | None


@dataclass(frozen=True)
class Corner:
    """A corner with its material, the formula's percentage of it, and where the label stands."""

    role: str
    percent: str
    x: float
    y: float
    anchor: str


@dataclass(frozen=True)
class Map:
    """What the triangle template draws, on a WIDTH x HEIGHT canvas."""

    lands: tuple[Land, ...]
    window: str
    dot: tuple[float, float]
    rings: tuple[tuple[float, float], ...]
    outline: str
    corners: tuple[Corner, ...]
    stand_ins: str
    title: str
    width: float = WIDTH
    height: float = HEIGHT


def at(wax: float, butter: float) -> tuple[float, float]:
    """Place on the canvas: wax on top, butter at the left foot, oil at the right."""
    oil = 1 - wax - butter
    return LEFT + SIDE * (oil + wax / 2), TOP + RISE * (1 - wax)


def picture(triangle: Triangle, others: Sequence[Formula] = ()) -> Map:
    """The map of a survey; ``others`` are offers, drawn as rings at their places."""
    numbers = {name: n for n, (_, name) in enumerate(BANDS)}
    wax, butter, oil = triangle.place
    percent = {"wax": wax, "butter": butter, "oil": oil}
    spots = {
        "wax": (LEFT + SIDE / 2, 14.0, "middle"),
        "butter": (4.0, HEIGHT - 6, "start"),
        "oil": (WIDTH - 4, HEIGHT - 6, "end"),
    }
    tables = library()
    return Map(
        lands=tuple(
            Land(numbers[band.name], band.name, _path(band), at(*band.label_at) if band.label_at else None)
            for band in triangle.bands
        ),
        window=_path(triangle.window),
        dot=at(wax, butter),
        rings=tuple(at(*place_of(other)[:2]) for other in others),
        outline="M" + "L".join(f"{x:.1f},{y:.1f}" for x, y in (at(1, 0), at(0, 1), at(0, 0))) + "Z",
        corners=tuple(Corner(role, f"{percent[role] * 100:.0f}", *spots[role]) for role in spots),
        stand_ins=", ".join(tables.ingredient(key).name for key in triangle.stand_ins),
        title=f"Of what is not extra: wax {wax * 100:.0f} %, butter {butter * 100:.0f} %, oil {oil * 100:.0f} %.",
    )


def _path(country: Country) -> str:
    return "".join(
        "M" + "L".join(f"{x:.1f},{y:.1f}" for x, y in (at(*place) for place in ring)) + "Z" for ring in country.rings
    )
