"""Reads forms out of pages, so that tests post what a page really holds."""

import re
from collections.abc import Iterator
from html import unescape
from typing import Protocol
from urllib.parse import urlsplit

from django.test import Client
from django.urls import Resolver404, resolve
from lxml import etree

from tests.support.visible import parsed

Data = dict[str, list[str]]
LINKS = re.compile(r"\b(?:href|hx-get)=\"(/[^\"#]*)")
MOST_PAGES = 200


class Answer(Protocol):
    """Whatever holds a page."""

    content: bytes


def form_data(response: Answer, wanted: str, **changes: str | list[str]) -> Data:
    """The fields of the form with that id or class, as a browser would send them, with changes."""
    data = Data()
    for form in parsed(response.content.decode()).iter("form"):
        if wanted in (form.get("id"), form.get("class")):
            for element in form.iter():
                for name, sent in _sent(element):
                    data.setdefault(name, []).append(sent)
    assert data, f"no form {wanted}"
    data.pop("once", None)  # tests send one page many times; what is taken once is tested by itself
    for name, value in changes.items():
        data[name] = [value] if isinstance(value, str) else value
    return data


def _sent(element: etree._Element) -> Iterator[tuple[str, str]]:
    """Name and value of what an element of a form sends; a button sends nothing before it is pressed."""
    name = element.get("name", "")
    if "data-drawn" in element.attrib:
        yield "drawn", element.attrib["data-drawn"]
    if not name:
        return
    if element.tag == "input" and (element.get("type") not in ("radio", "checkbox") or "checked" in element.attrib):
        yield name, element.get("value", "")
    elif element.tag == "select":
        options = list(element.iter("option"))
        chosen = next((option for option in options if "selected" in option.attrib), options[0] if options else None)
        yield name, "" if chosen is None else chosen.get("value", "")
    elif element.tag == "textarea":
        yield name, (element.text or "").lstrip("\n")


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
