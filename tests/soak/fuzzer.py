"""A fuzzer: requests made of the application's own forms, addresses and API description, with odd text in any field.

Seeded: the same seed sends the same requests to the same data.
"""

import json
import random
import re
from collections import Counter
from collections.abc import Iterator
from copy import deepcopy
from dataclasses import dataclass, field
from html.parser import HTMLParser
from typing import Any
from urllib.parse import urljoin, urlsplit

ODD: list[str] = [
    "", " ", "0", "-1", "1e999", "1e30", "NaN", "Infinity", "²", "١٢", "½", "1_000", "0x1F", "9" * 400, "3' 6\"", "12 ft", "-0", "1,5",
    "1,000",     "x", "null", "true", "[]", "{}", "<script>alert(1)</script>", "'; DROP TABLE jobs; --",
    "%00", "\x00", "\x07", "\u202e", "\ud83c\udfe0",
    "../../etc/passwd", "{{7*7}}", "%s%s%n", "=1+1", "a" * 3000, "2026-13-45", "0000-00-00", "9999-12-31", "2026-09-15",
    "25:99", "16:15",     "#12", "#gggggg", "#aabbcc", "nobody", "0" * 36,
    "\r\nX: y", "é", "日本",
]  # fmt: skip
ODD_JSON: list[Any] = [
    None, True, False, 0, -1, 1.5, 1e308, -1e308, 10**30, "", "x", "NaN", [], {}, [[]], {"a": 1}, [1] * 500,
    "2026-09-15T06:50:00-05:00", "\x00", float("nan"), float("inf"), "9" * 400, -0.0,
]  # fmt: skip
# What would end the run: the clock's end, and jobs that are needed to ask about.
_LEFT_OUT = re.compile(r"/demo/clock|/remove$|/settings/backup|/api/reckon")


@dataclass
class Form:
    """A form of a page: its address and, for each field, what it holds and what it offers."""

    path: str
    is_file: bool
    fields: dict[str, list[str]] = field(default_factory=dict)


class _Reader(HTMLParser):
    """Collects forms and links of a page."""

    def __init__(self) -> None:
        super().__init__()
        self.forms: list[Form] = []
        self.links: list[str] = []
        self._open: Form | None = None
        self._select = ""

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        values = {k: v or "" for k, v in attrs}
        if tag == "a" and values.get("href"):
            self.links.append(values["href"])
        if "hx-get" in values:
            self.links.append(values["hx-get"])
        if "hx-post" in values:
            form = Form(values["hx-post"], "multipart" in values.get("hx-encoding", ""))
            self.forms.append(form)
            if tag == "form":
                self._open = form
            elif "hx-vals" in values:
                form.fields |= {k: [str(v)] for k, v in json.loads(values["hx-vals"]).items()}
        name = values.get("name", "")
        if self._open is not None and name and tag in ("input", "textarea", "select", "button"):
            self._open.fields.setdefault(name, []).append(values.get("value", ""))
            self._select = name if tag == "select" else ""
        if tag == "option" and self._open is not None and self._select:
            self._open.fields[self._select].append(values.get("value", ""))

    def handle_endtag(self, tag: str) -> None:
        if tag == "form":
            self._open = None
        if tag == "select":
            self._select = ""


@dataclass
class Fuzzer:
    """Sends requests to an application by a client.

    Parameters
    ----------
    client : httpx.Client or TestClient
    seed : int
    """

    client: Any
    seed: int
    faults: list[str] = field(default_factory=list)
    answers: Counter[int] = field(default_factory=Counter)

    def __post_init__(self) -> None:
        self.chance = random.Random(self.seed)
        self.forms: dict[str, Form] = {}
        self.addresses: list[str] = []
        self.reckonings: dict[str, Any] = {}

    def crawl(self, most: int) -> None:
        """Find pages, fragments and forms from the start page on, and the reckonings in the API's description."""
        left, seen = ["/", "/jobs", "/bids", "/quick", "/jobs/new", "/settings", "/reckoner"], set()
        kinds: Counter[str] = Counter()
        while left and len(seen) < most:
            path = left.pop(0)
            plain = re.sub(r"[0-9a-f]{8}-[0-9a-f-]{27}", "*", path.split("?")[0])
            if path in seen or kinds[plain] >= 3:
                continue
            seen.add(path)
            kinds[plain] += 1
            answer = self.client.get(path, headers={"hx-request": "true"} if "card" in path else {})
            self._note("GET", path, answer)
            if "text/html" not in answer.headers.get("content-type", ""):
                continue
            reader = _Reader()
            reader.feed(answer.text)
            for link in reader.links:
                to = urlsplit(urljoin(f"http://x{path}", link))
                left.append(to.path + (f"?{to.query}" if to.query else ""))
            for form in reader.forms:
                form.path = urlsplit(form.path).path
                self.forms.setdefault(re.sub(r"[0-9a-f]{8}-[0-9a-f-]{27}", "*", form.path), form)
        self.addresses = sorted(seen)
        for path, row in self.client.get("/openapi.json").json()["paths"].items():
            if path.startswith("/api/reckon/"):
                self.reckonings[path] = row["post"]["requestBody"]["content"]["application/json"]["example"]

    def _note(self, method: str, path: str, answer: Any, sent: Any = "") -> None:
        self.answers[answer.status_code] += 1
        if answer.status_code >= 500:
            self.faults.append(f"{method} {path} {sent!r:.300}: {answer.status_code}")

    def run(self, count: int) -> None:
        """Send so many requests."""
        acts = [self._form] * 5 + [self._address] * 2 + [self._reckoning] * 2 + [self._bundle]
        for _ in range(count):
            self.chance.choice(acts)()

    def _odd(self, known: list[str]) -> str:
        return self.chance.choice(known) if known and self.chance.random() < 0.55 else self.chance.choice(ODD)

    def _form(self) -> None:
        form = self.chance.choice([f for f in self.forms.values() if not _LEFT_OUT.search(f.path)])
        data = {name: self._odd(values) for name, values in form.fields.items() if self.chance.random() < 0.9}
        if self.chance.random() < 0.2:
            data[self.chance.choice(ODD[:40]) or "more"] = self._odd([])
        data.pop("form_key", None)
        path = self._bent(form.path)
        files = {"file": ("x", self._odd([]).encode("utf-8", "replace"))} if form.is_file and self.chance.random() < 0.5 else None
        clean = {k.encode("utf-8", "replace").decode(): v.encode("utf-8", "replace").decode() for k, v in data.items()}
        self._note("POST", path, self.client.post(path, data=clean, files=files, headers={"hx-request": "true", "hx-trigger": "f"}), clean)

    def _bent(self, path: str) -> str:
        """Return an address, now and then with one of its parts replaced."""
        parts = path.split("/")
        if self.chance.random() < 0.12:
            odd = self.chance.choice(["nobody", "0", "-1", "x", "²", "%2e%2e", "9" * 30, "a" * 300])
            parts[self.chance.randrange(1, len(parts))] = odd
        return "/".join(parts)

    def _address(self) -> None:
        path, _, query = self.chance.choice(self.addresses).partition("?")
        names = [pair.split("=")[0] for pair in query.split("&") if pair] or ["at", "days", "work", "surface", "page", "state", "q", "coat"]
        odd = {n: self._odd([]).encode("utf-8", "replace").decode() for n in names if self.chance.random() < 0.7}
        path = self._bent(path)
        if path.endswith(".pdf") and self.chance.random() < 0.9:
            return
        self._note("GET", path, self.client.get(path, params=odd), odd)

    def _mutated(self, value: Any) -> Any:
        """Return a document with some of it replaced, dropped or added."""
        if self.chance.random() < 0.06:
            return deepcopy(self.chance.choice(ODD_JSON))
        if isinstance(value, dict):
            changed = {k: self._mutated(v) for k, v in value.items() if self.chance.random() > 0.02}
            return changed | ({"more": 1} if self.chance.random() < 0.02 else {})
        if isinstance(value, list):
            return [self._mutated(v) for v in value if self.chance.random() > 0.02]
        return value

    def _reckoning(self) -> None:
        path = self.chance.choice(sorted(self.reckonings))
        body = json.dumps(self._mutated(self.reckonings[path]))
        self._note("POST", path, self.client.post(path, content=body), body)

    def _bundle(self) -> None:
        bundle = getattr(self, "bundle", None)
        if bundle is None:
            exports = [a.replace("/survey", "/survey.json") for a in self.addresses if re.fullmatch(r"/jobs/[^/]+/survey", a)]
            bundle = self.bundle = self.client.get(exports[0]).json() if exports else {}
        # A few places of a large document, not a sixth of all of them.
        document = json.loads(json.dumps(bundle))
        for _ in range(self.chance.choice([1, 1, 2, 5])):
            self._strike(document)
        body = json.dumps(document)
        answer = self.client.post("/api/jobs", content=body)
        self._note("POST", "/api/jobs", answer, body[:200])
        if answer.status_code == 201:
            # What was let in must be shown, and goes again.
            made = answer.json()["job_id"]
            for page in ("survey", "systems", "takeoff", "price", "windows", "schedule", "log"):
                self._note("GET", f"/jobs/{made}/{page}", self.client.get(f"/jobs/{made}/{page}"), body[:200])
            self.client.post(f"/jobs/{made}/remove", headers={"hx-request": "true"})

    def _strike(self, document: Any) -> None:
        places = list(_places(document))
        holder, key = self.chance.choice(places)
        holder[key] = deepcopy(self.chance.choice(ODD_JSON + [o for o in ODD if o]))


def _places(value: Any) -> Iterator[tuple[Any, Any]]:
    pairs = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    for key, part in pairs:
        yield value, key
        yield from _places(part)
