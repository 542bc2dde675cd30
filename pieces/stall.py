"""What lies beside the tins on a stall: of every product its ingredients, its cautions and its batches."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import date

from balmcore.tables import Container, Tables
from labels import services
from labels.content import Content, Words, content_of
from labels.models import LabelText
from pieces.models import Price
from pours.models import Pour

MOST_POURS = 60


@dataclass(frozen=True)
class Product:
    """One product as it is shown: batches that say the same stand together, each as what its label says of it; its
    ``prices`` are those that were said, by size."""

    contents: tuple[Content, ...]
    prices: tuple[Price, ...] = ()

    @property
    def first(self) -> Content:
        """What all of them say."""
        return self.contents[0]

    @property
    def cautions(self) -> tuple[str, ...]:
        """Its own, and those of every balm."""
        return self.first.cautions


def products(
    pours: Iterable[Pour], tables: Tables, containers_by_key: dict[str, Container], policy: str, today: date
) -> list[Product]:
    """The products of some pours by name. What differs in a batch, such as an oil that was swapped, stands apart."""
    pours = list(pours)
    texts = services.texts_of({pour.batch.version.formula_id for pour in pours})
    by_words: dict[tuple[object, ...], list[Content]] = {}
    for pour in pours:
        formula = pour.batch.version.formula
        words = Words(names=texts.get(formula.pk, LabelText()).names)
        content = content_of(pour, words, tables, policy, today, containers_by_key)
        said = (formula.name, str(pour.finish or ""), content.declaration.text, content.cautions)
        by_words.setdefault(said, []).append(content)
    prices: dict[tuple[int, str], list[Price]] = {}
    for price in Price.objects.filter(formula__in={pour.batch.version.formula_id for pour in pours}):
        prices.setdefault((price.formula_id, price.finish_name), []).append(price)
    return [
        Product(tuple(own), _of_sizes(own, prices)) for _, own in sorted(by_words.items(), key=lambda pair: pair[0][:2])
    ]


def _of_sizes(contents: Sequence[Content], prices: Mapping[tuple[int, str], Sequence[Price]]) -> tuple[Price, ...]:
    """The prices of the sizes in which some pours of a product were filled."""
    first = contents[0].pour
    sizes = {row.name for content in contents for row in content.pour.containers}
    own = prices.get((first.batch.version.formula_id, str(first.finish or "")), ())
    return tuple(price for price in own if price.size in sizes)
