"""What a person does in the browser: filling fields, opening cards, and what axe says of a page."""

import re

from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page, expect

WCAG = {"runOnly": ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa", "best-practice"]}


def fill(page: Page, form: str, values: dict[str, str]) -> None:
    for name, value in values.items():
        field = page.locator(f"#{form}-{name}")
        if field.evaluate("e => e.tagName") == "SELECT":
            field.select_option(value)
        else:
            field.fill(value)


def go_to(page: Page, job: str, surface: str) -> None:
    """Get to an elevation as one does: by clicking its surface on the house band."""
    page.goto(f"{job}/survey")
    link = page.locator(".band-place").get_by_role("link", name=re.compile(rf"^{re.escape(surface)}: "))
    with page.expect_navigation():
        link.evaluate("e => e.dispatchEvent(new MouseEvent('click', {bubbles: true, cancelable: true}))")
    expect(page.locator("#surface-part summary")).to_contain_text(surface)


def open_card(page: Page, name: str) -> None:
    card = page.locator(f"#{name}-part")
    if card.get_attribute("open") is None:
        card.locator("summary").first.click()


def violations(page: Page) -> list[str]:
    found = Axe().run(page, options=WCAG | {"resultTypes": ["violations"]}).response["violations"]
    return [f"{v['id']}: {v['help']} at {[n['target'] for n in v['nodes']][:3]}" for v in found]


def tap_wall(page: Page, name: str, across: float, up: float) -> None:
    """Tap a wall on the inspection's drawing, as far across and up as is said."""
    wall = page.locator("[data-inspect] path[data-surface]").filter(has=page.locator("title", has_text=re.compile(f"^{re.escape(name)}:")))
    # Its script comes after its words; nor does the page stand still before.
    page.wait_for_load_state("load")
    drawing = page.locator("[data-inspect]")
    box, whole = wall.first.bounding_box(), drawing.bounding_box()
    at = {"x": box["x"] - whole["x"] + across * box["width"], "y": box["y"] - whole["y"] + (1 - up) * box["height"]}
    drawing.click(position=at)
    expect(page.locator("#mark")).to_be_visible()
