"""Walking through the pages as a browser would: links and parts that load by themselves, read strictly; the forms on them.

Of each route as many addresses are looked at as are asked for, so that a walk ends.
"""

import json
import re
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, field
from urllib.parse import urlsplit
from xml.etree.ElementTree import Element

import html5lib
from fastapi import FastAPI
from fastapi.routing import APIRoute
from fastapi.testclient import TestClient
from starlette.routing import Match

_H = "{http://www.w3.org/1999/xhtml}"
# What is no page: files, streams, what ends the session.
_NO_PAGE = re.compile(r"\.(pdf|csv|xlsx|ics|json|svg|crt|js|txt)(\?|$)|^/(live|static|photos?|api)\b")


@dataclass
class Form:
    """A form of a page, with what a browser would send of it as it stands.

    Parameters
    ----------
    page : str
        The address that it stands on.
    action, id : str
    fields : list of tuple
        Names and values, in their order.
    button : tuple or None
        Name and value of its first button, where it has a name.
    typed : tuple of str
        Names of the fields in which somebody types or chooses.
    """

    page: str
    action: str
    id: str
    fields: list[tuple[str, str]]
    button: tuple[str, str] | None = None
    typed: tuple[str, ...] = ()

    @property
    def names(self) -> set[str]:
        return {name for name, _ in self.fields}

    def data(self, **changed: str) -> dict[str, list[str]]:
        """Return what is sent, some fields changed."""
        data: dict[str, list[str]] = {}
        for name, value in self.fields + ([self.button] if self.button else []):
            data.setdefault(name, []).append(value)
        return data | {name: [value] for name, value in changed.items()}


def parsed(text: str) -> Element:
    """Return a page, or a part of one, as a tree.

    Raises
    ------
    html5lib.html5parser.ParseError
        If it is not well-formed.
    """
    is_whole = text.lstrip()[:9].lower() == "<!doctype"
    parser = html5lib.HTMLParser(strict=True)
    return parser.parse(text) if is_whole else parser.parseFragment(text, container="tbody" if re.match(r"\s*<tr\b", text) else "div")


def faults_of(text: str) -> list[str]:
    """Return what is wrong with a page: not well-formed, ids twice, no or two main headings, fields without a label, forms in forms."""
    return _looked_through(text)[1]


def _looked_through(text: str) -> tuple[Element, list[str]]:
    """Return a page as a tree, and what is wrong with it."""
    try:
        tree = parsed(text)
    except html5lib.html5parser.ParseError as fault:
        return html5lib.parse(text), [f"not well-formed: {fault}"]
    faults = []
    twice = [name for name, count in Counter(e.get("id") for e in tree.iter() if e.get("id")).items() if count > 1]
    faults += [f"id {name} stands twice" for name in twice]
    if text.lstrip()[:9].lower() == "<!doctype":
        headings = list(tree.iter(f"{_H}h1"))
        if len(headings) != 1:
            faults.append(f"{len(headings)} main headings")
        title = "".join(next(tree.iter(f"{_H}title")).itertext())
        if not 0 < len(title.strip()) <= 120:
            faults.append(f"a title of {len(title)} characters")
    return tree, faults + _forms_in_forms(tree) + _without_label(tree)


def _forms_in_forms(tree: Element) -> list[str]:
    return [
        f"form {inner.get('id')} in a form" for outer in tree.iter(f"{_H}form") for inner in outer.iter(f"{_H}form") if inner is not outer
    ]


def _without_label(tree: Element) -> list[str]:
    named = {e.get("for") for e in tree.iter(f"{_H}label")}
    inside = {id(field) for label in tree.iter(f"{_H}label") for field in label.iter()}
    faults = []
    for kind in ("input", "select", "textarea"):
        for one in tree.iter(f"{_H}{kind}"):
            is_shown = one.get("type") not in ("hidden", "submit", "button")
            has_words = one.get("aria-label") or one.get("aria-labelledby") or one.get("id") in named or id(one) in inside
            if is_shown and not has_words:
                faults.append(f"{kind} {one.get('name')} {one.get('id')} has no label")
    return faults


def forms_of(page: str, tree: Element) -> Iterator[Form]:
    """Yield the forms of a page that are posted, fields outside that name them by `form` among them."""
    everything = list(tree.iter())
    for form in tree.iter(f"{_H}form"):
        action = form.get("hx-post") or (form.get("action") if (form.get("method") or "").lower() == "post" else None)
        if not action:
            continue
        own = {id(e) for e in form.iter()}
        parts = [e for e in everything if (id(e) in own and not e.get("form")) or (e.get("form") and e.get("form") == form.get("id"))]
        fields, button = _sent(parts)
        typed = tuple(dict.fromkeys(e.get("name") for e in parts if e.get("name") and _is_typed(e)))
        yield Form(page, urlsplit(action).path, form.get("id") or "", fields, button, typed)
    for one in everything:
        if one.get("hx-post") and one.tag != f"{_H}form":
            values = json.loads(one.get("hx-vals") or "{}")
            yield Form(page, urlsplit(one.get("hx-post")).path, "", [(name, str(value)) for name, value in values.items()])


def _is_typed(e: Element) -> bool:
    tag = e.tag.removeprefix(_H)
    return tag in ("select", "textarea") or (tag == "input" and e.get("type") not in ("hidden", "submit", "button", "file", "image"))


def _sent(parts: list[Element]) -> tuple[list[tuple[str, str]], tuple[str, str] | None]:
    fields: list[tuple[str, str]] = []
    button = None
    for e in parts:
        tag, name = e.tag.removeprefix(_H), e.get("name")
        if not name or e.get("disabled") is not None:
            continue
        if tag == "button":
            button = button or (name, e.get("value") or "")
        elif tag == "textarea":
            # The first line end belongs to the tag.
            fields.append((name, "".join(e.itertext()).removeprefix("\n")))
        elif tag == "select":
            options = list(e.iter(f"{_H}option"))
            chosen = [o for o in options if o.get("selected") is not None] or options[:1]
            fields += [(name, o.get("value") if o.get("value") is not None else "".join(o.itertext()).strip()) for o in chosen]
        elif tag == "input":
            kind = (e.get("type") or "text").lower()
            if kind in ("checkbox", "radio"):
                if e.get("checked") is not None:
                    fields.append((name, e.get("value") or "on"))
            elif kind not in ("submit", "button", "file", "image"):
                fields.append((name, e.get("value") or ""))
    return fields, button


def routes(app: FastAPI) -> list[APIRoute]:
    """Return the routes of the application's own pages and forms."""
    routers = [getattr(r, "original_router", None) for r in app.routes]
    return [r for router in routers if router is not None for r in router.routes if isinstance(r, APIRoute)]


@dataclass
class Walk:
    """Pages that were looked at.

    Parameters
    ----------
    client : TestClient
    most : int
        Addresses looked at of each route.
    """

    client: TestClient
    most: int = 2
    looked: Counter[str] = field(default_factory=Counter)
    pages: dict[str, str] = field(default_factory=dict)
    # What is wrong with each page; its forms.
    faults: dict[str, list[str]] = field(default_factory=dict)
    forms: list[Form] = field(default_factory=list)

    def route_of(self, path: str) -> str:
        """Return the shape of the route that an address belongs to; empty where it is none of ours."""
        scope = {"type": "http", "method": "GET", "path": path, "root_path": "", "headers": []}
        for route in routes(self.client.app):
            if route.matches(scope)[0] == Match.FULL:
                return getattr(route, "path", "")
        return ""

    def from_(self, *starts: str) -> "Walk":
        """Look at these addresses and at all that they lead to."""
        left, seen = list(starts), set(starts)
        while left:
            address = left.pop(0)
            path = urlsplit(address).path
            route = self.route_of(path)
            if not route or _NO_PAGE.search(path) or self.looked[route] >= self.most:
                continue
            answer = self.client.get(address, follow_redirects=True)
            if not answer.headers.get("content-type", "").startswith("text/html"):
                continue
            self.looked[route] += 1
            assert answer.status_code == 200, f"{address}: {answer.status_code} {answer.text[:200]}"
            self._look_at(address, answer.text)
            for found in re.findall(r'(?:href|hx-get)="([^"]+)"', answer.text):
                parts = urlsplit(found.replace("&amp;", "&"))
                next_ = parts.path + (f"?{parts.query}" if parts.query else "")
                if parts.netloc in ("", "testserver") and next_.startswith("/") and next_ not in seen:
                    seen.add(next_)
                    left.append(next_)
        return self

    def _look_at(self, address: str, text: str) -> None:
        self.pages[address] = text
        tree, self.faults[address] = _looked_through(text)
        self.forms += forms_of(address, tree)
