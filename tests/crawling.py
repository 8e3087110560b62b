"""Walk through every page a user can reach: its links, and its forms as they stand filled in."""

from __future__ import annotations

import re
from collections import Counter, deque
from collections.abc import Callable
from dataclasses import dataclass, field
from html.parser import HTMLParser
from urllib.parse import urldefrag, urljoin, urlsplit

HERE = "http://127.0.0.1"
LINKS = {"a": "href", "img": "src", "link": "href", "script": "src", "source": "src", "iframe": "src"}
FRAGMENTS = ("hx-get", "data-src", "data-url")


@dataclass
class Form:
    """A form as a browser would send it untouched."""

    action: str
    method: str
    page: str
    multipart: bool = False
    fields: list[tuple[str, str]] = field(default_factory=list)
    files: list[str] = field(default_factory=list)

    @property
    def kind(self) -> str:
        """What the form does, whatever it does it to."""
        names = ",".join(sorted({name for name, _ in self.fields}))
        return f"{self.method} {kind_of(self.action)} {names}"


@dataclass
class Crawl:
    """What was found, with how each address answered."""

    answers: dict[str, int] = field(default_factory=dict)
    forms: list[Form] = field(default_factory=list)

    def failed(self) -> dict[str, int]:
        return {url: status for url, status in self.answers.items() if status >= 400}


class _Page(HTMLParser):
    def __init__(self, url: str) -> None:
        super().__init__()
        self.url, self.links, self.forms = url, list[str](), list[Form]()
        self._form: Form | None = None
        self._select = self._area = ""
        self._chosen: str | None = None
        self._text = ""

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        found = {name: value or "" for name, value in attrs}
        if tag in LINKS and found.get(LINKS[tag]):
            self.links.append(found[LINKS[tag]])
        if tag not in ("form", "input", "select", "button"):  # those send their fields along
            self.links += [found[name] for name in FRAGMENTS if found.get(name)]
        if tag == "form":
            action = found.get("action") or found.get("hx-post") or self.url
            method = found.get("method", "post" if "hx-post" in found else "get").lower()
            self._form = Form(action, method, self.url, "multipart" in found.get("enctype", ""))
        elif self._form is not None:
            self._field(tag, found)

    def _field(self, tag: str, found: dict[str, str]) -> None:
        assert self._form is not None
        name, kind = found.get("name", ""), found.get("type", "")
        if tag == "input" and name and kind == "file":
            self._form.files.append(name)
        elif tag == "input" and name and (kind not in ("checkbox", "radio") or "checked" in found):
            self._form.fields.append((name, found.get("value", "on" if kind == "checkbox" else "")))
        elif tag == "button" and name:
            self._form.fields.append((name, found.get("value", "")))
        elif tag == "select":
            self._select, self._chosen = name, None
        elif tag == "option" and (self._chosen is None or "selected" in found):
            self._chosen = found.get("value", "")
        elif tag == "textarea":
            self._area, self._text = name, ""

    def handle_data(self, data: str) -> None:
        if self._area:
            self._text += data

    def handle_endtag(self, tag: str) -> None:
        if self._form is None:
            return
        if tag == "form":
            self.forms.append(self._form)
            self._form = None
        elif tag == "select" and self._select:
            self._form.fields.append((self._select, self._chosen or ""))
            self._select = ""
        elif tag == "textarea" and self._area:
            self._form.fields.append((self._area, self._text))
            self._area = ""


def kind_of(url: str) -> str:
    """An address without what tells one thing from another: numbers, and the values asked for."""
    parts = urlsplit(url)
    asked = ",".join(sorted({piece.partition("=")[0] for piece in parts.query.split("&") if piece}))
    return re.sub(r"\d+", "N", parts.path) + (f"?{asked}" if asked else "")


def crawl(get: Callable[[str], tuple[int, str, str]], start: str = "/", each: int = 2, most: int = 600) -> Crawl:
    """Follow every kind of link, each so many times; ``get`` answers with status, type and text of a path."""
    found, waiting, met = Crawl(), deque([start]), Counter[str]()
    seen, forms = {start}, Counter[str]()
    while waiting and len(found.answers) < most:
        path = waiting.popleft()
        status, mime, text = get(path)
        found.answers[path] = status
        if "html" not in mime:
            continue
        page = _Page(path)
        page.feed(text)
        for form in page.forms:
            form.action = _inside(form.action, path) or "/"
            forms[form.kind] += 1
            if forms[form.kind] <= each:
                found.forms.append(form)
        for link in page.links:
            inside = _inside(link, path)
            if inside and inside not in seen and met[kind_of(inside)] < each:
                met[kind_of(inside)] += 1
                seen.add(inside)
                waiting.append(inside)
    return found


def _inside(link: str, path: str) -> str:
    """The path of a link of this site; empty for one that leads elsewhere."""
    whole = urldefrag(urljoin(HERE + path, link))[0]
    return whole.removeprefix(HERE) if whole.startswith(f"{HERE}/") else ""
