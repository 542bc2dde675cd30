"""The triangle of wax, butter and oil as a map: bands of firmness as country, the composition a dot."""

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import lru_cache

from balmcore.composition import Array, Composition
from balmcore.design.triangle import Region, Triangle, place_of
from balmcore.display import Display
from balmcore.physics.firmness import BANDS
from balmcore.tables import Kind, shipped
from balmcore.wording import in_sentence
from workshop.pictures.tin import Tin

WIDTH, HEIGHT = 440.0, 392.0
LEFT, TOP, SIDE = 18.0, 24.0, 404.0
RISE = SIDE * 0.8660254
TIN = 20  # a small one
WEDGE = 0.1  # so much of each corner shows its material
HIDDEN = 13.0  # a version so near the dot is under it


@dataclass(frozen=True)
class Land:
    """What lies under everything: the outline of each band with its class number, and that of the window."""

    bands: tuple[tuple[int, str], ...]
    window: str


@dataclass(frozen=True)
class Stop:
    """An earlier version on the trail: its number, where it lies, and whether the dot hides it."""

    number: int
    x: float
    y: float
    hidden: bool


@dataclass(frozen=True)
class Poured:
    """A judged pour as a small tin; ``x`` and ``y`` are its upper left corner."""

    x: float
    y: float
    tin: Tin


@dataclass(frozen=True)
class Corner:
    """A corner with its material drawn into it, the composition's percentage of it, and where the
    label stands."""

    role: str
    percent: str
    x: float
    y: float
    anchor: str
    wedge: str


@dataclass(frozen=True)
class Map:
    """What the triangle template draws, on a WIDTH x HEIGHT canvas."""

    land: Land
    names: tuple[tuple[str, float, float], ...]
    hold: str
    reach: str
    trail: tuple[Stop, ...]
    trail_path: str
    poured: tuple[Poured, ...]
    dot: tuple[float, float]
    rings: tuple[tuple[float, float], ...]
    outline: str
    corners: tuple[Corner, ...]
    stand_ins: str
    title: str
    caption: str
    width: float = WIDTH
    height: float = HEIGHT
    left: float = LEFT
    top: float = TOP
    side: float = SIDE
    rise: float = RISE


def at(wax: float, butter: float) -> tuple[float, float]:
    """Place on the canvas: wax on top, butter at the left foot, oil at the right."""
    oil = 1 - wax - butter
    return round(LEFT + SIDE * (oil + wax / 2), 1), round(TOP + RISE * (1 - wax), 1)


def picture(
    triangle: Triangle,
    others: Sequence[Composition],
    trail: Sequence[tuple[int, Composition]],
    poured: Sequence[tuple[Composition, Tin]],
    kind: Kind,
    show: Display,
) -> Map:
    """The map of a survey; ``others`` are offers, drawn as rings at their places; ``trail`` are
    earlier versions (number, composition), the oldest first; ``poured`` are judged pours by what was
    really in the pot, each with its tin."""
    numbers = {name: n for n, (_, name) in enumerate(BANDS)}
    wax, butter, oil = triangle.place
    percent = {"wax": wax, "butter": butter, "oil": oil}
    spots = {
        "wax": (LEFT + SIDE / 2, 16.0, "middle", at(1, 0), at(1 - WEDGE, WEDGE), at(1 - WEDGE, 0)),
        "butter": (4.0, HEIGHT - 4, "start", at(0, 1), at(WEDGE, 1 - WEDGE), at(0, 1 - WEDGE)),
        "oil": (WIDTH - 4, HEIGHT - 4, "end", at(0, 0), at(WEDGE, 0), at(0, WEDGE)),
    }
    tables = shipped()
    here = at(wax, butter)
    stops = tuple(_stop(number, at(*place_of(composition)[:2]), here) for number, composition in trail)
    return Map(
        land=Land(tuple((numbers[band.name], _path(band)) for band in triangle.bands), _path(triangle.window)),
        names=tuple(
            (band.name, *at(*label)) for band, label in zip(triangle.bands, triangle.labels, strict=True) if label
        ),
        hold=_path(triangle.hold) if triangle.hold else "",
        reach=_line(at(*place[:2]) for place in triangle.reachable) + "Z" if is_narrow(triangle) else "",
        trail=stops,
        trail_path=_line([*((stop.x, stop.y) for stop in stops), here]),
        poured=tuple(_poured(composition, tin) for composition, tin in poured),
        dot=here,
        rings=tuple(at(*place_of(other)[:2]) for other in others),
        outline=_line((at(1, 0), at(0, 1), at(0, 0))) + "Z",
        corners=tuple(
            Corner(role, f"{percent[role] * 100:.0f}", x, y, anchor, _line(ends) + "Z")
            for role, (x, y, anchor, *ends) in spots.items()
        ),
        stand_ins=", ".join(tables.ingredient(key).name for key in triangle.stand_ins),
        title=f"Of what is not extra: wax {wax * 100:.0f} %, butter {butter * 100:.0f} %, oil {oil * 100:.0f} %.",
        caption=_caption(kind, show),
    )


def _stop(number: int, place: tuple[float, float], dot: tuple[float, float]) -> Stop:
    return Stop(number, *place, math.dist(place, dot) < HIDDEN)


def _poured(composition: Composition, tin: Tin) -> Poured:
    x, y = at(*place_of(composition)[:2])
    return Poured(round(x - TIN / 2, 1), round(y - TIN / 2, 1), tin)


def _caption(kind: Kind, show: Display) -> str:
    outlined = f"Outlined: the firmness of a {in_sentence(kind.name)}."
    if kind.hold is None:
        return outlined
    return f"{outlined} On the waxier side of the dashes it keeps up to {show.temp_text(kind.hold[1])}."


def is_narrow(triangle: Triangle) -> bool:
    """True when locks or missing groups keep the composition from some of the triangle."""
    return len(triangle.reachable) < 3 or any(min(place) > 1e-6 for place in triangle.reachable)


@lru_cache(maxsize=512)
def _path(region: Region) -> str:
    """The outlines of a region, one after the other."""
    return "".join(f"M{'L'.join(_written(ring))}Z" for ring in region.rings)


def _written(ring: Array) -> Iterable[str]:
    """The places (N, 2) of a ring on the canvas."""
    wax, butter = ring.T
    x, y = LEFT + SIDE * (1 - wax / 2 - butter), TOP + RISE * (1 - wax)
    return (f"{a:.1f},{b:.1f}" for a, b in zip(x.tolist(), y.tolist(), strict=True))


def _line(points: Iterable[tuple[float, float]]) -> str:
    return "M" + "L".join(f"{x:.1f},{y:.1f}" for x, y in points)
