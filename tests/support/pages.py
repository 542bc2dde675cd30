"""Reads forms out of pages, so that tests post what a page really holds."""

import re
from html import unescape
from html.parser import HTMLParser
from typing import Protocol
from urllib.parse import urlsplit

from django.test import Client
from django.urls import Resolver404, resolve

Data = dict[str, list[str]]
LINKS = re.compile(r"\b(?:href|hx-get)=\"(/[^\"#]*)")
MOST_PAGES = 200


class Answer(Protocol):
    """Whatever holds a page."""

    content: bytes


class _Form(HTMLParser):
    def __init__(self, wanted: str) -> None:
        super().__init__()
        self.wanted, self.inside, self.data = wanted, False, Data()
        self.select, self.area = "", ""
        self.first: str | None = None

    def handle_starttag(self, tag: str, pairs: list[tuple[str, str | None]]) -> None:
        given = {name: value or "" for name, value in pairs}
        if tag == "form":
            self.inside = self.wanted in (given.get("id"), given.get("class"))
        name = given.get("name", "")
        if not self.inside:
            return
        if "data-drawn" in given:
            self.data.setdefault("drawn", []).append(given["data-drawn"])
        if tag == "input" and name and (given.get("type") not in ("radio", "checkbox") or "checked" in given):
            self.data.setdefault(name, []).append(given.get("value", ""))
        elif tag == "select":
            self.select, self.first = name, None
        elif tag == "option" and self.select:
            self.first = given["value"] if self.first is None else self.first
            if "selected" in given:
                self.data.setdefault(self.select, []).append(given["value"])
                self.select = ""
        elif tag == "textarea":
            self.area = name
            self.data[name] = [""]

    def handle_data(self, text: str) -> None:
        if self.area:
            self.data[self.area][0] += text.lstrip("\n")

    def handle_endtag(self, tag: str) -> None:
        if tag == "select" and self.select:
            self.data.setdefault(self.select, []).append(self.first or "")
            self.select = ""
        elif tag == "textarea":
            self.area = ""
        elif tag == "form":
            self.inside = False


def form_data(response: Answer, wanted: str, **changes: str | list[str]) -> Data:
    """The fields of the form with that id or class, as a browser would send them, with changes."""
    parser = _Form(wanted)
    parser.feed(response.content.decode())
    assert parser.data, f"no form {wanted}"
    parser.data.pop("once", None)  # tests send one page many times; what is taken once is tested by itself
    for name, value in changes.items():
        parser.data[name] = [value] if isinstance(value, str) else value
    return parser.data


def walk(client: Client, start: str = "/", a_view: int = 2) -> dict[str, str]:
    """Pages by their address, as far as links lead: so many of each view."""
    found: dict[str, str] = {}
    seen: dict[str, int] = {}
    waiting = [start]
    while waiting and len(found) < MOST_PAGES:
        address = waiting.pop(0)
        try:
            name = resolve(urlsplit(address).path).view_name
        except Resolver404:
            continue
        if address in found or seen.get(name, 0) >= a_view:
            continue
        answer = client.get(address)
        if answer.status_code != 200 or not answer["Content-Type"].startswith("text/html"):
            continue
        seen[name] = seen.get(name, 0) + 1
        found[address] = answer.content.decode()
        waiting += [unescape(link) for link in LINKS.findall(found[address])]
    return found
