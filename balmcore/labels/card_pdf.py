"""A recipe card printed: one or more pages of the maker's paper, letters embedded."""

from html import escape
from io import BytesIO

from reportlab.lib.colors import black, grey
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.platypus import KeepTogether, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

from balmcore.labels.card import Card
from balmcore.labels.fonts import PLAIN, STRONG, font, printable
from balmcore.labels.sheets import PAGES

EDGE_MM = 16  # what any home printer leaves white
SIZE = 9.5  # points: read at arm's length


def _style(size: float, name: str = PLAIN, after: float = 3.0, right: bool = False) -> ParagraphStyle:
    return ParagraphStyle(
        f"{name}-{size}-{right}", fontName=name, fontSize=size, leading=size * 1.35, spaceAfter=after,
        alignment=2 if right else 0,
    )  # fmt: skip


def print_card(card: Card, paper: str) -> bytes:
    """A PDF of a card, on ``paper``, a key of :data:`balmcore.labels.sheets.PAGES`."""
    for name in (PLAIN, STRONG):
        font(name)
    wide, high = PAGES[paper]
    kept = BytesIO()
    title = printable(card.title)
    page = SimpleDocTemplate(
        kept, pagesize=(wide * mm, high * mm), leftMargin=EDGE_MM * mm, rightMargin=EDGE_MM * mm,
        topMargin=EDGE_MM * mm, bottomMargin=EDGE_MM * mm, title=title, producer="Calm Tin", invariant=1,
    )  # fmt: skip
    plain, figures = _style(SIZE), _style(SIZE, PLAIN, right=True)
    rows = [("Into the pot", "%", card.mass), *card.rows, ("Total", "100", card.total)]
    table = Table(
        [[_text(name, plain), _text(percent, figures), _text(mass, figures)] for name, percent, mass in rows],
        colWidths=[(wide - 2 * EDGE_MM - 50) * mm, 25 * mm, 25 * mm],
        style=TableStyle(
            [
                ("LINEBELOW", (0, 0), (-1, 0), 0.8, black),
                ("LINEABOVE", (0, -1), (-1, -1), 0.8, black),
                ("LINEBELOW", (0, 1), (-1, -3), 0.25, grey),
                ("BOTTOMPADDING", (0, 0), (-1, -1), 0),
                ("TOPPADDING", (0, 0), (-1, -1), 1),
            ]
        ),
        repeatRows=1,
    )
    story = [_text(card.title, _style(20, STRONG, 2)), _text(card.about, plain), table, Spacer(1, 4 * mm)]
    for number, (name, words) in enumerate(card.steps, 1):
        story.append(KeepTogether([_text(f"{number}. {name}", _style(SIZE, STRONG, 0)), _text(words, plain)]))
    story += [Spacer(1, 2 * mm), *(_text(note, _style(8.5)) for note in card.notes)]
    page.build(story)
    return kept.getvalue()


def _text(text: str, style: ParagraphStyle) -> Paragraph:
    return Paragraph(escape(printable(text)), style)
