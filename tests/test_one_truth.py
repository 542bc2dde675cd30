"""Laws of one truth, walked over the demo workshop in grams and in ounces: what stands in a table adds to its total, and
one thing has one figure on every page."""

import re
from collections import defaultdict
from collections.abc import Iterator
from decimal import Decimal

from lxml import etree

from batches.models import Batch, BatchLine
from tests.support.morning import MorningCase
from tests.support.net_loft import load
from tests.support.pages import walk
from tests.support.visible import parsed
from workshop.models import Preferences

NUMBER = re.compile(r"(-?\d+(?:\.\d+)?)(?: (?:g|oz|€))?")
TIN = re.compile(r"(.*?), (?:wax|butter|oil|extra).*firmness (\d+), ([a-z -]+), ")


def cells(row: etree._Element) -> list[str]:
    """What stands in the cells of a row, one for each column."""
    found: list[str] = []
    for cell in row:
        found += [" ".join("".join(cell.itertext()).split())] * int(cell.get("colspan", "1"))
    return found


def totals(page: str) -> Iterator[tuple[list[str], list[list[str]]]]:
    """The cells of every row that is a total, and those of the rows that it is the total of."""
    for table in parsed(page).iter("table"):
        marked = [row for row in table.iter("tr") if row.get("class") == "total"]
        foot = table.find("tfoot")
        for row in marked or ([] if foot is None else list(foot)[:1]):
            bodies = [row.getparent()] if marked else table.findall("tbody")
            yield cells(row), [cells(each) for body in bodies for each in body if each is not row]


def added(column: int, rows: list[list[str]]) -> Decimal:
    """The sum of the numbers in a column."""
    found = (NUMBER.fullmatch(row[column]) for row in rows if column < len(row))
    return sum((Decimal(each[1]) for each in found if each), Decimal(0))


class OneTruthTests(MorningCase):
    @classmethod
    def setUpTestData(cls) -> None:
        load()

    def pages(self, unit: str) -> dict[str, str]:
        Preferences.objects.update_or_create(pk=1, defaults={"mass_unit": unit})
        return {address: page for address, page in walk(self.client, a_view=12).items() if page.strip()}

    def test_sums_and_figures_agree_on_every_page(self) -> None:
        """Every total is that of the figures above it; a version, a batch or a pour has one firmness wherever its tin
        stands, and the word beside it is of that figure."""
        for unit in ("g", "oz"):
            seen, tins = 0, defaultdict[str, set[str]](set)
            for address, page in self.pages(unit).items():
                for total, rows in totals(page):
                    for column, text in enumerate(total):
                        if number := NUMBER.fullmatch(text):
                            seen += 1
                            self.assertEqual(added(column, rows), Decimal(number[1]), (unit, address, total))
                for label in re.findall(r'class="tin [^>]*aria-label="([^"]*)"', page):
                    if (tin := TIN.match(label)) and address not in ("/formulas/new", "/formulas/from-pantry"):
                        tins[tin[1]].add(f"{tin[2]} {tin[3]}")
            self.assertGreater(seen, 12)
            self.assertGreater(len(tins), 25)
            self.assertEqual({name: each for name, each in tins.items() if len(each) > 1}, {})

    def test_a_difference_is_that_of_the_figures_that_are_shown(self) -> None:
        """Beside the scale: what is in the pot, and how much firmer it is than its plan says on the sheet."""
        compared = 0
        # One pot with far more wax than planned, so that there is a difference to tell.
        wax = BatchLine.objects.filter(batch__pours=None, ingredient_key__startswith="beeswax", finish=None).first()
        assert wax is not None
        BatchLine.objects.filter(pk=wax.pk).update(actual_g=wax.target_g * 2)
        for batch in Batch.objects.all():
            sheet = self.client.get(batch.get_absolute_url()).content.decode()
            planned = re.search(r"tin-96.*?tin-number[^>]*>(\d+)<", sheet)
            page = self.client.get(f"/bench/{batch.pk}/weigh").content.decode()
            now = re.search(r'id="true-firmness">(\d+)<', page)
            told = re.search(r'id="moved"> *([^<]*?) *<', page)
            assert planned and now and told, batch
            gap = int(now[1]) - int(planned[1])
            words = f"{abs(gap)} {'firmer' if gap > 0 else 'softer'} than planned" if gap else "as planned"
            self.assertEqual(told[1], words, batch)
            compared += bool(gap)
        self.assertGreater(compared, 0)
