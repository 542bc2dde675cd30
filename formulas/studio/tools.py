"""The studio's two tools, of which one may be open: ask for a firmness, and swap an ingredient."""

from balmcore.tables import Kind
from formulas.studio.reach import ReachTool, reach
from formulas.studio.state import State
from formulas.studio.swap import SwapTool, swap
from workshop.models import Preferences
from workshop.web import Fields

Tool = ReachTool | SwapTool


def opened(data: Fields, state: State, kind: Kind, prefs: Preferences) -> Tool | None:
    """The tool that is open in the form, with its offers for the state as it is now."""
    if not state.composition.total:
        return None
    if state.tool == ReachTool.name:
        return reach(data, state, kind, prefs)
    return swap(data, state, kind, prefs) if state.tool == SwapTool.name else None
