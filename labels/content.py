"""What stands on the label of one pour, from what was really weighed and poured."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from datetime import date

from balmcore.advice.caution import Level
from balmcore.advice.claims import Claim, claims
from balmcore.advice.safety import cautions
from balmcore.advice.shelf_life import Keeps, keeps
from balmcore.composition import Composition
from balmcore.display import CELSIUS, Display, short_day_words
from balmcore.labels.codes import Code, code
from balmcore.labels.declaration import Declaration, declare
from balmcore.labels.layout import Block
from balmcore.labels.sizes import net_words
from balmcore.labels.warnings import warnings
from balmcore.making.scaling import filled_density, pieces_of
from balmcore.tables import Container, Tables
from balmcore.wording import as_sentence, in_sentence
from batches.showing.queries import best_before_of
from labels.models import LabelText
from pours.models import Pour

ALWAYS = "Keep cool, dark and dry; clean fingers. Try it on a small place first."
OUTWARD = "For outward use."
CAUTIONS = "the cautions"
FONT_SIZES_MM = {
    "name": 5.2,
    "finish": 3.2,
    "net": 2.8,
    "maker": 2.4,
    "code": 2.3,
    "use": 2.3,
    "caution": 2.2,
    "list": 2.2,
}


@dataclass(frozen=True)
class Words:
    """What a maker writes on labels: who makes it, how it is used, which names of ingredients, what net
    weight is declared where it is not that of the lightest piece, which dates, and whether a code stands on it."""

    maker: str = ""
    address: str = ""
    use: str = ""
    names: str = "inci"
    net_g: float | None = None
    dates: str = LabelText.Dates.BEST
    has_code: bool = False


@dataclass(frozen=True)
class Content:
    """Everything a label of a pour could say. ``lightest_g`` is its lightest piece, or what was planned where none was
    weighed; ``cautions`` are for whoever gets it, ``stops`` for its maker, ``otherwise`` what goes against what it was
    meant for; ``doubts`` are sentences on what a maker has
    to look at; ``claims`` those words that promise too much."""

    pour: Pour
    words: Words
    declaration: Declaration
    lightest_g: float | None
    is_net_weighed: bool
    keeps: Keeps | None
    open_months: int
    cautions: tuple[str, ...]
    claims: tuple[Claim, ...]
    stops: tuple[str, ...] = ()
    is_past: bool = False
    otherwise: tuple[str, ...] = ()

    @property
    def net_g(self) -> float | None:
        """The net weight it says: what is declared, or that of the lightest piece."""
        return self.words.net_g or self.lightest_g

    @property
    def declares_too_much(self) -> bool:
        """True where the lightest piece holds less than is declared."""
        return bool(self.words.net_g and self.lightest_g and self.words.net_g > self.lightest_g + 1e-6)

    @property
    def doubts(self) -> tuple[str, ...]:
        """What to look at before it is stuck on."""
        said = [*(f"Not made as we would: {in_sentence(stop)}" for stop in self.stops), *self.declaration.doubts]
        said += [f"Not as it is meant: {in_sentence(line)}." for line in self.otherwise]
        if not self.is_net_weighed:
            said.append("No piece was weighed: the net weight is what was planned.")
        if self.is_past:
            said.append("What it is made of is past its day: smell it, and give it to nobody unless it is fresh.")
        if self.keeps and self.keeps.is_wet:
            said.append(f"{self.keeps.sentence} Give it to nobody.")
        elif self.keeps is None:
            said.append("Nothing in it has a life the tables know: the label has no best before.")
        elif not self.open_months and self.words.dates != LabelText.Dates.BEST:
            said.append("Less than a month is left of it once it is open: the label names no months after opening.")
        if not self.words.maker:
            said.append("A label names who makes it, and where.")
        if any(not each.is_known for each in self.declaration.allergens):
            said.append(
                "Scent allergens whose content is not known are all named: the supplier's papers may spare some."
            )
        return tuple(said)

    @property
    def code(self) -> Code | None:
        """The batch and its day as a code, where it is wanted."""
        pour = self.pour
        return code(f"BATCH {pour.batch_id} {pour.poured_on:%Y-%m-%d}") if self.words.has_code else None

    def _lasts(self) -> Iterator[str]:
        """How long it may be used, as this label says it."""
        dates = LabelText.Dates
        if self.keeps and self.keeps.is_wet:
            yield "keeps no longer than days: holds water"
        elif self.keeps and self.words.dates != dates.OPEN:
            yield f"best before {short_day_words(self.keeps.until)}"
        if self.open_months and self.words.dates != dates.BEST:
            yield f"use within {self.open_months} month{'' if self.open_months == 1 else 's'} of opening"

    def blocks(self, side: str) -> list[Block]:
        """The blocks of a label, the most important first: all on one, or parted into front and back."""
        pour = self.pour
        batch, sizes = pour.batch, FONT_SIZES_MM
        front = [Block("the name", batch.version.formula.name, sizes["name"], is_strong=True, is_needed=True)]
        if pour.finish:
            front.append(Block("the finish", pour.finish.name, sizes["finish"]))
        if self.net_g:
            front.append(Block("the net weight", net_words(self.net_g), sizes["net"], is_needed=side != "back"))
        who = ", ".join(each for each in (self.words.maker, self.words.address) if each)
        maker = [Block("the maker", who, sizes["maker"])]
        said = [f"Batch {batch.pk}, made {short_day_words(pour.poured_on)}", *self._lasts()]
        dated = [Block("batch and date", ", ".join(said), sizes["code"])]
        cared = [Block(CAUTIONS, " ".join(self.cautions), sizes["caution"])]
        listed = [Block("the ingredients", f"Ingredients: {self.declaration.text}", sizes["list"])]
        used = [Block("how to use it", self.words.use, sizes["use"])] if self.words.use else []
        if side == "front":
            return [*front, *maker, *dated]
        if side == "back":
            return [front[0], *listed, *cared, *used, *maker, *dated]
        return [*front, *listed, *dated, *maker, *cared, *used]


def vessel_of(pour: Pour, containers_by_key: Mapping[str, Container]) -> Container | None:
    """The container by which a pour's label is cut: the first it was filled into."""
    rows = pour.containers
    return containers_by_key.get(rows[0].container_key) if rows else None


def _planned_g(pour: Pour, composition: Composition) -> list[float]:
    """What each piece was to hold, by its container."""
    density = filled_density(composition, pour.batch.pour_c, pour.batch.overrun)
    return [piece.net_g for piece in pieces_of([row.filling for row in pour.containers], density)]


def content_of(
    pour: Pour,
    words: Words,
    tables: Tables,
    policy: str,
    today: date,
    containers_by_key: Mapping[str, Container],
    show: Display = CELSIUS,
) -> Content:
    """What a label of a pour can say on a day; ``containers_by_key`` are all containers."""
    composition = pour.to_composition(tables)
    formula = pour.batch.version.formula
    weighed = [float(piece.mass_g) for piece in pour.pieces.all() if piece.mass_g > 0]
    told = list(warnings(composition, formula.area, policy))
    stops = tuple(
        as_sentence(caution.line)
        for caution in cautions(composition, formula.to_wearer(policy))
        if caution.level is Level.STOP
    )
    declaration = declare(composition, words.names, tables)
    if declaration.plain:
        told.insert(0, f"Holds {in_sentence(', '.join(declaration.plain))}.")
    told.append(ALWAYS)
    if formula.area != "lips":
        told.append(OUTWARD)
    spoken = " ".join((formula.name, pour.finish.name if pour.finish else "", words.use))
    kept = keeps(pour.poured_on, composition, best_before_of(pour.batch))
    vessel = vessel_of(pour, containers_by_key)
    open_months = kept.open_months(pour.poured_on, vessel.kind if vessel else "") if kept else 0
    return Content(
        pour,
        words,
        declaration,
        min(weighed or _planned_g(pour, composition), default=None),
        bool(weighed),
        kept,
        open_months,
        tuple(told),
        claims(spoken),
        stops,
        kept is not None and not kept.is_wet and kept.until < today,
        tuple(caution.line for caution in pour.batch.version.against(composition, tables, show)),
    )
