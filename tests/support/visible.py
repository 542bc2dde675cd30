"""What a page shows, as lines: its words and numbers, what stands in its fields, and a mark for each picture."""

import zlib
from collections.abc import Mapping

from lxml import etree, html

LINES = {"article", "aside", "br", "button", "caption", "dd", "details", "div", "dl", "dt", "fieldset", "figure", "form",
         "h1", "h2", "h3", "h4", "label", "legend", "li", "ol", "option", "p", "section", "summary", "table", "title",
         "tr", "ul"}  # fmt: skip
UNSEEN = {"script", "style", "head"}
DRAWN = {"cx", "cy", "d", "height", "points", "r", "transform", "width", "x", "x1", "x2", "y", "y1", "y2"}
TOLD = ("aria-label", "title", "alt")


def parsed(page: str) -> etree._Element:
    """A page, or a part of one that comes alone, as a browser would read it."""
    return html.document_fromstring(page)


def visible(page: str) -> list[str]:
    """The lines of the main part of a page, or of a part that comes alone."""
    told = _Told()
    for main in parsed(page if "<main" in page else f"<main>{page}</main>").iter("main"):
        told.inside(main)
        told.end_line()
    return told.lines


class _Told:
    """Lines as they come, and the words of the one that is not at its end."""

    def __init__(self) -> None:
        self.lines: list[str] = []
        self.words: list[str] = []

    def element(self, element: etree._Element) -> None:
        """What one element shows, and all that is in it."""
        tag, given = element.tag, element.attrib
        if tag in UNSEEN or ("hidden" in given and tag != "input"):
            return
        if tag in LINES:
            self.end_line()
        self.words += [f"({given[name]})" for name in TOLD if given.get(name)]
        if tag == "select":
            self.choice(element)
        else:
            self.inside(element)
        if tag == "input":
            self.field(given)
        elif tag == "svg" and not any(above.tag == "svg" for above in element.iterancestors()):
            self.words.append(f"{{picture {_mark(element):08x}}}")
        if tag in LINES:
            self.end_line()

    def inside(self, element: etree._Element) -> None:
        """The texts and elements in an element, as they stand."""
        self.text(element.text)
        for child in element:
            if isinstance(child.tag, str):  # a comment is none
                self.element(child)
            self.text(child.tail)

    def text(self, text: str | None) -> None:
        """Words, one space apart."""
        if text and text.strip():
            self.words.append(" ".join(text.split()))

    def choice(self, select: etree._Element) -> None:
        """A list to choose from, by what is chosen."""
        options = list(select.iter("option"))
        if options:
            self.end_line()
        chosen = [option for option in options if "selected" in option.attrib] or options
        self.words.append(f"[{select.get('name', '')}: {chosen[0].get('value', '') if chosen else ''}]")

    def field(self, given: Mapping[str, str]) -> None:
        """A field with what stands in it; one that is hidden is not shown."""
        kind, name, value = given.get("type", "text"), given.get("name", ""), given.get("value", "")
        if kind in ("checkbox", "radio"):
            self.words.append(f"[{'x' if 'checked' in given else ' '} {name} {value}]")
        elif kind != "hidden":
            self.words.append(f"[{name}: {value}]")

    def end_line(self) -> None:
        """What stands so far is one line."""
        if self.words:
            self.lines.append(" ".join(self.words))
        self.words = []


def _mark(svg: etree._Element) -> int:
    """One number for where everything of a picture lies."""
    mark = 0
    for element in svg.iter(etree.Element):
        drawn = " ".join(f"{name}={value}" for name, value in sorted(element.attrib.items()) if name in DRAWN)
        mark = zlib.crc32(f"{element.tag} {element.get('class', '')} {drawn}".encode(), mark)
    return mark
