"""What a page shows, as lines: its words and numbers, what stands in its fields, and a mark for each picture."""

import zlib
from html.parser import HTMLParser

LINES = {"article", "aside", "br", "button", "caption", "dd", "details", "div", "dl", "dt", "fieldset", "figure", "form",
         "h1", "h2", "h3", "h4", "label", "legend", "li", "ol", "option", "p", "section", "summary", "table", "title",
         "tr", "ul"}  # fmt: skip
UNSEEN = {"script", "style", "head"}
DRAWN = {"cx", "cy", "d", "height", "points", "r", "transform", "width", "x", "x1", "x2", "y", "y1", "y2"}
TOLD = ("aria-label", "title", "alt")


class _Page(HTMLParser):
    def __init__(self) -> None:
        super().__init__()
        self.lines: list[str] = []
        self.words: list[str] = []
        self.depth = 0  # within main
        self.unseen = 0
        self.hidden = ""  # the tag of an element that is hidden with all that is in it
        self.within = 0
        self.picture = 0
        self.mark = 0
        self.select = ""
        self.chosen: str | None = None

    def handle_starttag(self, tag: str, pairs: list[tuple[str, str | None]]) -> None:
        given = {name: value or "" for name, value in pairs}
        if not self.enters(tag, given):
            return
        if tag in LINES:
            self.end_line()
        if tag == "svg":
            self.picture, self.mark = self.picture + 1, 0 if not self.picture else self.mark
        if self.picture:
            drawn = " ".join(f"{name}={value}" for name, value in sorted(given.items()) if name in DRAWN)
            self.mark = zlib.crc32(f"{tag} {given.get('class', '')} {drawn}".encode(), self.mark)
        self.words += [f"({given[name]})" for name in TOLD if given.get(name)]
        if tag == "input":
            self.field(given)
        elif tag == "select":
            self.select, self.chosen = given.get("name", ""), None
        elif tag == "option" and (self.chosen is None or "selected" in given):
            self.chosen = given.get("value", "")

    def enters(self, tag: str, given: dict[str, str]) -> bool:
        """True where an element is within main, and seen."""
        if tag == "main":
            self.depth += 1
        if tag in UNSEEN:
            self.unseen += 1
        if self.hidden or ("hidden" in given and tag != "input"):
            self.hidden = self.hidden or tag
            self.within += tag == self.hidden
            return False
        return bool(self.depth and not self.unseen)

    def field(self, given: dict[str, str]) -> None:
        """A field with what stands in it; one that is hidden is not shown."""
        kind, name, value = given.get("type", "text"), given.get("name", ""), given.get("value", "")
        if kind in ("checkbox", "radio"):
            self.words.append(f"[{'x' if 'checked' in given else ' '} {name} {value}]")
        elif kind != "hidden":
            self.words.append(f"[{name}: {value}]")

    def handle_endtag(self, tag: str) -> None:
        if tag in UNSEEN:
            self.unseen -= 1
        if self.hidden:
            self.within -= tag == self.hidden
            self.hidden = self.hidden if self.within else ""
            return
        if tag == "main":
            self.end_line()
            self.depth -= 1
        if not self.depth or self.unseen:
            return
        if tag == "svg":
            self.picture -= 1
            if not self.picture:
                self.words.append(f"{{picture {self.mark:08x}}}")
        elif tag == "select":
            self.words.append(f"[{self.select}: {self.chosen or ''}]")
            self.select = ""
        if tag in LINES:
            self.end_line()

    def handle_data(self, text: str) -> None:
        if self.depth and not (self.unseen or self.hidden or self.select) and text.strip():
            self.words.append(" ".join(text.split()))

    def end_line(self) -> None:
        """What stands so far is one line."""
        if self.words:
            self.lines.append(" ".join(self.words))
        self.words = []


def visible(page: str) -> list[str]:
    """The lines of the main part of a page, or of a part that comes alone."""
    parser = _Page()
    parser.feed(page if "<main" in page else f"<main>{page}</main>")
    return parser.lines
