"""What a batch costs: lot by lot as it would draw on them, or at what was paid for what it drew."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from decimal import Decimal

from django.db.models import Sum

from balmcore.making.cost import NOTHING_AROUND, Bill, Paid, PieceCost, Price, bill, blended, wrapped
from balmcore.making.scaling import Piece, added_up
from balmcore.tables import Tables
from batches.models import Batch
from batches.supply.reserving import free_lots
from pantry.models import Entry, Lot
from pantry.queries import paid, paid_for, tools
from workshop.models import Preferences


@dataclass(frozen=True)
class Cost:
    """A bill with the names of its lines. ``is_paid`` where it is what was paid, and no estimate."""

    bill: Bill
    names: Mapping[str, str]
    is_paid: bool = False

    @property
    def rows(self) -> list[tuple[str, object]]:
        """Items by name."""
        return [(self.names[item.key], item) for item in self.bill.items]

    @property
    def pieces(self) -> list[tuple[str, PieceCost]]:
        """Costs of a piece by the container's name."""
        return [(self.names[piece.key], piece) for piece in self.bill.pieces]

    @property
    def unpriced(self) -> list[str]:
        """Names of what no price, or not the whole of it, is known of."""
        return [self.names[key] for key in dict.fromkeys(self.bill.unpriced)]

    @property
    def is_known(self) -> bool:
        """True when at least one price is known."""
        return len(self.bill.unpriced) < len(self.bill.items)

    @property
    def said(self) -> str:
        """What kind of figure it is, in a sentence."""
        if self.is_paid:
            return "What was paid for what it drew."
        if self.bill.is_estimate:
            return "An estimate: what is still to be bought at what it cost last."
        return "An estimate: by the lots that would serve now."


def cost_at(
    lines: Mapping[str, Decimal],
    pieces: Sequence[Piece],
    names: Mapping[str, str],
    prices: Mapping[str, Price],
    tables: Tables,
    prefs: Preferences,
    is_paid: bool = False,
    around: Mapping[str, Sequence[str]] = NOTHING_AROUND,
) -> Cost:
    """What grams and pieces cost at some prices."""
    found = bill(lines, pieces, prices, prefs.label_price, around)
    return Cost(found, {**{key: tables.ingredient(key).name for key in lines}, **names}, is_paid)


def cost_of(batch: Batch, pieces: Sequence[Piece], tables: Tables, prefs: Preferences) -> Cost:
    """What a stored batch costs. What it drew is priced at what was paid for it, and never anew; what it has still to
    draw by the lots that are free for it."""
    lines = added_up(*({line.ingredient_key: line.mass_g} for line in batch.lines.all()))
    rows, around = batch.containers.all(), batch.around
    names = {row.container_key: row.name for row in rows}
    names |= {each.container_key: each.name for row in rows for each in row.around.all()}
    drawn, filled = drawn_from_lots(batch), _filled(batch, names)
    wanted = {**lines, **added_up(*({piece.key: Decimal(piece.count)} for piece in pieces), wrapped(pieces, around))}
    open_for = {key: amount - _amount(drawn.get(key, ()), filled.get(key, ())) for key, amount in wanted.items()}
    needs = {} if batch.is_over else {key: amount for key, amount in open_for.items() if amount > 0}
    comes_back = tools()
    ahead = paid_for(needs, free_lots(needs, until=batch, comes_back=comes_back), comes_back) if needs else {}
    prices = {}
    for key, amount in wanted.items():
        parts = [*drawn.get(key, ()), *filled.get(key, ())]
        if key in ahead:
            parts.append(Paid(open_for[key], ahead[key].each, ahead[key].source, ahead[key].is_estimate))
        elif (left := amount - _amount(parts)) > 0:
            parts.append(Paid(left, None, ""))
        if price := blended(parts):
            prices[key] = replace(price, is_whole=price.is_whole and (key not in ahead or ahead[key].is_whole))
    prices |= {key: Price(Decimal(0), "it comes back") for key in comes_back if key in names}
    return cost_at(lines, pieces, names, prices, tables, prefs, is_paid=batch.is_over, around=around)


def _amount(*parts: Iterable[Paid]) -> Decimal:
    return sum((part.amount for each in parts for part in each), Decimal(0))


def drawn_from_lots(batch: Batch) -> dict[str, list[Paid]]:
    """What lots gave to each ingredient, with what was paid for it."""
    given: dict[str, dict[Lot, Decimal]] = {}
    for line in batch.lines.all():
        own = given.setdefault(line.ingredient_key, {})
        for draw in line.draws.all():
            own[draw.lot] = own.get(draw.lot, Decimal(0)) + draw.grams
    return {key: [paid(lot, grams) for lot, grams in own.items() if grams > 0] for key, own in given.items()}


def _filled(batch: Batch, names: Mapping[str, str]) -> dict[str, list[Paid]]:
    """The containers that were filled, by the lots that they left, as their accounts say."""
    kinds = (Entry.Kind.USED, Entry.Kind.RETURNED)
    own = Entry.objects.filter(note__startswith=f"Batch {batch.pk},", kind__in=kinds, lot__item_key__in=names)
    sums = own.values_list("lot").annotate(Sum("amount"))
    lots = Lot.objects.in_bulk([pk for pk, _ in sums])
    found: dict[str, list[Paid]] = {}
    for pk, amount in sums:
        if amount < 0:
            found.setdefault(lots[pk].item_key, []).append(paid(lots[pk], -amount))
    return found
