"""What a batch asks its maker to mind, on every page of it, and the yes that is asked over a limit."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from balmcore.advice.caution import Caution, Level, by_gravity
from balmcore.advice.safety import cautions
from balmcore.composition import Composition
from balmcore.display import CELSIUS, Display
from balmcore.errors import Problem
from balmcore.tables import Tables
from balmcore.wording import as_sentence, in_sentence
from batches.models import Batch
from formulas.models import Version
from pantry.queries import lots_of
from workshop.models import Preferences

MIN_REASON_LENGTH = 8  # letters that say more than yes


@dataclass(frozen=True)
class Warned:
    """The cautions for a composition and who wears it: those to mind, and those to note."""

    wearer: str
    minded: tuple[Caution, ...]
    noted: tuple[Caution, ...]

    @property
    def stops(self) -> tuple[Caution, ...]:
        """Those over a limit, or unfit."""
        return tuple(caution for caution in self.minded if caution.level is Level.STOP)

    def and_stops(self, stops: Sequence[Caution]) -> "Warned":
        """With others that are asked about, before the rest."""
        return replace(self, minded=(*stops, *self.minded))

    def and_by_rounding(self, over: Sequence[Caution]) -> "Warned":
        """With those that only the scale's rounding brings over a limit, to be minded."""
        told = tuple(
            replace(caution, level=Level.CARE, line=f"As the scale rounds it: {in_sentence(caution.line)}")
            for caution in over
        )
        return replace(self, minded=(*self.minded, *told))


def warnings_of(
    made: Mapping[str, Composition],
    version: Version,
    policy: str,
    tables: Tables | None = None,
    show: Display = CELSIUS,
) -> Warned:
    """What is to be minded of what a version becomes, by a policy of caution, and with ``tables`` what goes against
    what it is meant for: compositions by the name of the finish, one without a name where there is only one. What is
    not so of all names its finish."""
    wearer, meant = version.formula.to_wearer(policy), version.meant
    said = {
        name: (
            *cautions(composition, wearer),
            *(version.against(composition, tables, show) if tables else ()),
        )
        for name, composition in made.items()
    }
    found: list[Caution] = []
    for name, own in said.items():
        for caution in own:
            everywhere = all(caution in other for other in said.values())
            told = caution if everywhere else replace(caution, line=f"{name}: {in_sentence(caution.line)}")
            if told not in found:
                found.append(told)
    found = by_gravity(found)
    return Warned(
        f"{wearer.words}{'; ' + meant.words if meant.words else ''}",
        tuple(caution for caution in found if caution.level is not Level.NOTE),
        tuple(caution for caution in found if caution.level is Level.NOTE),
    )


def of_leftovers(composition: Composition) -> tuple[Caution, ...]:
    """What stayed of earlier melts and is not to be used, as nothing else can take its place: every lot of it is
    marked, or holds something of one that is. No query where there is none."""
    rests = {line.key: line.ingredient for line in composition.lines if line.ingredient.made_of and line.share}
    found = []
    for key, lots in lots_of(rests).items() if rests else ():
        full = [lot for lot in lots if lot.left > 0]
        if full and not any(lot.is_fit for lot in full):
            why = full[0].unfit or f"{full[0]} is {full[0].get_state_display().lower()}"
            line = f"{rests[key].name}: not to be used. {as_sentence(why).rstrip('.')}"
            text = "It was in a melt that should not be handed on: keep it out, or take the yes upon yourself."
            found.append(Caution(Level.STOP, line, text, (rests[key],)))
    return tuple(found)


def batch_warnings(batch: Batch, tables: Tables, prefs: Preferences) -> Warned:
    """The same for what is in the pot and in its finishes, weighed where it was weighed."""
    return warnings_of(batch.compositions(tables), batch.version, prefs.scent_policy, tables, prefs.show)


def require_yes(found: Warned, override_reason: str) -> None:
    """Raises :class:`Problem` where something is over a limit and no one said that they know, and why."""
    if found.stops and len(override_reason.strip()) < MIN_REASON_LENGTH:
        told = "; ".join(caution.line for caution in found.stops)
        said = " ".join(override_reason.split())
        short = f"“{said}” does not say why. " if said else ""
        example = "such as “for my own feet, washed off after an hour”"
        raise Problem(
            f"{told}. {short}Change it in the studio, or write here that you know, and why, {example}.",
            "override_reason",
        )
