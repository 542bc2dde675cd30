"""The tin: a formula or a pour as a round tin seen from above.

The ring shows the shares of wax, butter, oil and extras, the centre the firmness, the rim
the state. One picture at every size.
"""

import math
from collections.abc import Mapping
from dataclasses import dataclass

from balmcore.physics.firmness import word
from balmcore.tables import ROLES, Role

OUTER, INNER = 42.0, 29.0
CENTRE = 50.0
STATES = {"draft": "draft", "planned": "planned", "poured": "poured", "judged": "judged"}


@dataclass(frozen=True)
class Arc:
    """One material's part of the ring: its role and the outline on a 100 x 100 canvas."""

    role: str
    path: str


@dataclass(frozen=True)
class Tin:
    """What the tin template draws. ``firmness`` is None for an empty tin."""

    arcs: tuple[Arc, ...]
    firmness: float | None
    state: str
    title: str


def tin(shares: Mapping[Role, float], firmness: float | None, state: str, name: str = "") -> Tin:
    """The tin of role shares (adding to 1, or all 0), a firmness and a state."""
    arcs, start = [], 0.0
    for role in ROLES:
        part = shares.get(role, 0.0)
        if part > 0.002:
            arcs.append(Arc(role, _arc(start, min(start + part, 1.0))))
        start += part
    told = ", ".join(f"{role} {shares[role] * 100:.0f} %" for role in ROLES if shares.get(role, 0) > 0.002)
    feel = f"firmness {firmness:.0f}, {word(firmness)}" if firmness is not None else "no firmness yet"
    return Tin(tuple(arcs), firmness, state, ", ".join(part for part in (name, told, feel, STATES[state]) if part))


def _arc(start: float, end: float) -> str:
    """Outline of a part of the ring from ``start`` to ``end`` of a turn, clockwise from the top."""
    if end - start >= 0.9995:
        return _circle(OUTER) + _circle(INNER)
    large = int(end - start > 0.5)
    a, b = _point(start, OUTER), _point(end, OUTER)
    c, d = _point(end, INNER), _point(start, INNER)
    return f"M{a}A{OUTER:g},{OUTER:g} 0 {large} 1 {b}L{c}A{INNER:g},{INNER:g} 0 {large} 0 {d}Z"


def _circle(radius: float) -> str:
    top, bottom = _point(0, radius), _point(0.5, radius)
    return f"M{top}A{radius:g},{radius:g} 0 1 1 {bottom}A{radius:g},{radius:g} 0 1 1 {top}Z"


def _point(turn: float, radius: float) -> str:
    angle = 2 * math.pi * turn
    return f"{CENTRE + radius * math.sin(angle):.2f},{CENTRE - radius * math.cos(angle):.2f}"
