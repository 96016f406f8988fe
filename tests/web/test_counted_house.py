"""A house of our own from nothing to priced and planned over its forms, each field, button and link counted; in soak by hand too."""

import html
import re
from urllib.parse import urljoin
from xml.etree.ElementTree import Element

import html5lib
import pytest

from tests.e2e.test_counted_house import AROUND, BLOCKS, COLOURS, FINDINGS, MOST_ACTIONS
from tests.support.crawl import Form, forms_of
from tests.support.pages import HTMX

pytestmark = pytest.mark.small
_H = "{http://www.w3.org/1999/xhtml}"


class Hand:
    """Goes by the links and forms of its page, as they stand there, and counts what it touches."""

    def __init__(self, client, address: str) -> None:
        self.client, self.address, self.count = client, address, 0
        self.go(address)

    def go(self, address: str) -> None:
        answer = self.client.get(urljoin(self.address, address), follow_redirects=True)
        assert answer.status_code == 200, address
        self.address, self.text = answer.url.path + (f"?{answer.url.query.decode()}" if answer.url.query else ""), answer.text
        self.tree: Element = html5lib.parse(self.text)

    @property
    def heading(self) -> str:
        return _words(next(self.tree.iter(f"{_H}h1")))

    def part(self, address: str) -> None:
        """Let a button of the page load a part of it."""
        self.count += 1
        self.go(address)

    def link(self, name: str) -> None:
        """Follow the first link of that name, a wall on the band among them."""
        # A stage's name stands between its number and how far it is; a wall's on the band before what it is made of.
        links = [a for a in self.tree.iter() if a.tag.endswith("}a")]
        found = next((a for a in links if name in (_words(a), *_words(a).split()[1:2], (a.get("aria-label") or "").split(":")[0])), None)
        assert found is not None, f"no link {name} on {self.address}"
        self.count += 1
        self.go(html.unescape(found.get("href") or found.get("{http://www.w3.org/1999/xlink}href") or ""))

    def form(self, mark: str) -> Form:
        forms = list(forms_of(self.address, self.tree))
        return next(form for form in forms if form.id == mark or re.search(mark, form.action))

    def press(self, mark: str, **given: str) -> None:
        """Press a button that sends something by itself, and sends just that."""
        form = next(f for f in forms_of(self.address, self.tree) if re.search(mark, f.action) and not f.id and dict(f.fields) == given)
        self.send(form.action, form)

    def send(self, mark: str, form: Form | None = None, **typed: str) -> None:
        """Type into a form of the page and send it; a list is chosen from by the words that stand in it."""
        form = form or self.form(mark)
        assert set(typed) <= set(form.typed), set(typed) - set(form.typed)
        self.count += len(typed) + 1
        values = {name: self._value(form, name, words) for name, words in typed.items()}
        answer = self.client.post(form.action, data=form.data(**values), headers=HTMX | {"hx-trigger": form.id})
        assert answer.status_code in (200, 204), answer.text[:300]
        self.go(answer.headers.get("hx-redirect") or self.address)

    def _value(self, form: Form, name: str, words: str) -> str:
        for one in self.tree.iter(f"{_H}select"):
            if one.get("name") == name:
                found = [o.get("value") for o in one.iter(f"{_H}option") if _words(o) == words]
                if found:
                    return found[0] or ""
        return words


def _words(e: Element) -> str:
    return " ".join("".join(e.itertext()).split())


@pytest.mark.takes(14)
def test_a_house_is_entered_priced_and_planned_in_a_hundred_and_forty_actions(client):
    hand = Hand(client, "/")
    hand.link("Jobs")
    hand.link("New job")
    place = {"latitude_deg": "43.8", "longitude_deg": "-91.25", "altitude_m": "670", "time_zone": "America/Chicago"}
    known = {"name": "Weir House", "year_built": "1986", "owner_name": "Lark Sorrel", "front_azimuth_deg": "south-west"}
    size = {"across_m": "38", "deep_m": "26", "eaves_height_m": "18", "ridge_height_m": "27", "overhang_m": "1"}
    hand.send("new-job", **known, **size, **place)

    # Two wings, a dormer, a deck.
    hand.link("Blocks")
    kinds = {"Wing or extension": "wing", "Dormer": "dormer", "Deck": "deck"}
    blocks = hand.address
    for kind, values in BLOCKS:
        hand.part(f"{blocks}/fields/{kinds[kind]}")
        hand.send("new-block-form", **values)
        hand.go(blocks)

    # Fourteen openings in five entries: equal ones together, a storey up and on the other side with them.
    hand.link("Walls")
    for wall, values in (
        ("South-west wall", {"count": "3", "rise_m": "9", "has_shutters": "yes", "has_trim": "yes"}),
        ("South-west wall", {"kind": "Entry door", "left_m": "22.5"}),
        ("South-east gable wall", {"count": "2", "rise_m": "9"}),
        ("North-east wall", {"kind": "Entry door", "left_m": "24"}),
        ("Wing south-west wall", {"kind": "Garage door"}),
        ("Wing 2 north-east wall", {"kind": "Casement window"}),
    ):
        hand.link(wall)
        hand.send("/openings$", **values)

    # Three claddings, each said once; the deck's wood.
    hand.link("South-west wall")
    hand.send("/surfaces/[0-9a-f-]{36}$", coating="Acrylic paint", coated_year="2014")
    hand.press("/alike$")
    for wall, substrate in (("Wing north-west wall", "Stucco or render"), ("Wing 2 north-east wall", "Fibre cement")):
        hand.link(wall)
        hand.send("/surfaces/[0-9a-f-]{36}$", substrate=substrate)
        hand.press("/alike$", of="block")
    hand.link("Deck boards")
    hand.send("/surfaces/[0-9a-f-]{36}$", substrate="Deck boards of cedar or redwood", coating="Bare, never coated")

    # What is wrong, and where; what stands round it; its colours, by zone, in one go.
    for wall, what in FINDINGS:
        hand.link(wall)
        hand.send("/findings$", kind=what, x_m="6", y_m="3")
    hand.link("Around the house")
    for what, before, how_far in AROUND:
        hand.send("/features$", kind=what, elevation_id=before, distance_m=how_far)
    hand.link("Systems")
    hand.link("Colours")
    zones = {name.removeprefix("hex-").partition("-lrv")[0]: name for name in hand.form("all-colours").typed}
    hand.send("all-colours", **{zones[zone.lower().replace(" ", "-")]: code for zone, code in COLOURS.items()})
    assert "every one with its colour" in hand.heading

    # The price, and on what it rests; the plan.
    hand.link("Take-off")
    hand.link("Price")
    assert re.match(r"\$\d\d,\d{3}\.\d\d\.", hand.heading)
    assert 'id="rests-on"' in hand.text
    hand.link("Schedule")
    hand.send("make")
    assert re.search(r"done \w+ \d+ \w+\.$", hand.heading), hand.heading
    assert hand.count <= MOST_ACTIONS, hand.count
