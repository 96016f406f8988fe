"""Take-off in the browser: a change of colour becomes a change order, rates are refused where they stand, the truck on a phone."""

import re

import pytest
from playwright.sync_api import Page, expect

pytestmark = pytest.mark.e2e

SAGE = "#8fa58a"


@pytest.mark.slow
def test_a_colour_change_becomes_a_change_order_and_is_signed(quiet_page: Page, site):
    page = quiet_page
    page.goto(site.job("price/changes"))
    expect(page.get_by_role("heading", level=1)).to_contain_text("As agreed: revision 1")
    page.goto(site.job("systems/colours"))
    page.get_by_role("link", name=re.compile("^Body")).click()
    page.get_by_label("Colour of the body").fill(SAGE)
    page.get_by_role("button", name="Put it on the house").click()
    expect(page.get_by_role("button", name=re.compile(f"Undo: .*{SAGE}"))).to_be_visible()
    page.goto(site.job("price/changes"))
    # Sage over sage needs no full primer: less paint, fewer hours and days.
    expect(page.get_by_role("heading", level=1)).to_have_text(
        re.compile(r"−\$[23],\d\d\d\.\d\d, −[123] days? since revision 1: to be signed")
    )
    wall = page.locator("#change-order tr", has_text="East wall")
    expect(wall).to_contain_text(f"colour: #ca8a34 → {SAGE}")
    expect(wall).to_contain_text("without: prime: wood primer")
    money = [
        float(t.replace("−$", "-").replace("+$", "").replace(",", ""))
        for t in page.locator("#change-order tbody td:last-child").all_inner_texts()
    ]
    assert sum(money[:-1]) == pytest.approx(money[-1], abs=0.03), "the lines add up"
    with page.expect_download() as download:
        page.get_by_role("link", name="Change order as PDF").click()
    assert download.value.suggested_filename == "tollkeeper-s-house.change-order.pdf"
    page.get_by_role("button", name="Keep it as revision 2").click()
    expect(page.locator("#agree-signed_by-error")).to_contain_text("Who agreed?")
    page.get_by_label("Who signed it").fill("Odile Tansy")
    page.get_by_role("button", name="Keep it as revision 2").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("As agreed: revision 2")
    page.get_by_role("button", name="Undo: revision 2").click()
    expect(page.get_by_role("heading", level=1)).to_contain_text("to be signed")


@pytest.mark.slow
def test_rates_are_refused_where_they_stand_and_move_the_price(quiet_page: Page, site):
    page = quiet_page
    page.goto(site.job("rates"))
    page.get_by_label("Labour, burdened").fill("-55")
    page.get_by_label("Overhead").fill("12")
    page.get_by_role("button", name="Keep our rates").click()
    wrong = page.locator("[id='rates-money.labour_per_h-error']")
    expect(wrong).to_have_text("Give a figure above 0 and at most 500, got -55.")
    expect(page.get_by_label("Overhead")).to_have_value("12")
    page.get_by_label("Labour, burdened").fill("60")
    page.get_by_role("button", name="Keep our rates").click()
    expect(page.get_by_role("heading", level=1)).to_have_text("$60.00 an hour; 2 figures of our own.")
    page.get_by_role("link", name="Price", exact=True).click()
    expect(page.locator(".price-lines")).to_contain_text("12 % of $")
    # What if: asked for once the page stands; taken with one click, and undone.
    row = page.locator(".alternatives tr", has_text="Sprayed and back-rolled")
    cost = row.locator("td").first.inner_text()
    row.get_by_role("button", name="Take it").click()
    expect(page.locator(".alternatives .is-now")).to_contain_text("sprayed and back-rolled")
    expect(page.locator(".alternatives .is-now")).to_contain_text(cost)
    page.get_by_role("button", name="Undo: sprayed and back-rolled").click()
    expect(page.locator(".alternatives .is-now")).to_contain_text("brush and roller")


def test_the_truck_is_loaded_and_counted_back_on_a_phone(quiet_page: Page, site):
    page = quiet_page
    page.set_viewport_size({"width": 360, "height": 740})
    page.goto(site.job("truck?work=5"))
    head = page.get_by_role("heading", level=1)
    count = int(head.inner_text().split()[0])
    pole = page.locator("li", has=page.get_by_role("button", name="roller pole"))
    expect(pole).to_contain_text("Last loaded for Quarry Lane 9")
    assert pole.get_by_role("button", name="roller pole").bounding_box()["height"] >= 44
    pole.get_by_role("button", name="It is here").click()
    expect(page.get_by_text("Last loaded for Quarry Lane 9")).to_have_count(0)
    page.get_by_role("button", name="roller pole").click()
    expect(head).to_have_text(f"{count - 1} of {count} still to load.")
    page.get_by_role("link", name="Coming home").click()
    expect(head).to_have_text("1 of 1 not back on the truck.")
    page.get_by_role("button", name="roller pole").click()
    expect(head).to_have_text("What was loaded is back on the truck.")
    assert page.evaluate("document.documentElement.scrollWidth") <= 360


@pytest.mark.slow
def test_an_enquiry_is_priced_in_a_minute_and_followed_up(quiet_page: Page, site):
    page = quiet_page
    page.goto(f"{site.url}/bids")
    expect(page.get_by_role("heading", level=1)).to_have_text("2 bids to follow up today.")
    page.get_by_role("link", name="Quick survey").click()
    for label, value in {"Name": "Willow Row 4", "Once round": "130'", "Eaves height": "18'", "Usual windows": "12", "Doors": "1"}.items():
        page.get_by_label(label, exact=True).fill(value)
    page.get_by_role("button", name="Draw it").click()
    page.get_by_role("link", name="Take-off").click()
    page.get_by_role("link", name="Price", exact=True).click()
    expect(page.get_by_role("heading", level=1)).to_have_text(re.compile(r"\$[\d,]+ to \$[\d,]+, likely \$[\d,]+\."))
    expect(page.locator(".spread")).to_contain_text("Condition a grade better or worse")
    expect(page.locator(".alternatives")).to_contain_text("3 coats")
    page.get_by_role("link", name="Bids").click()
    row = page.locator(".bid", has_text="Willow Row 4")
    row.get_by_text("Move it on").click()
    row.get_by_role("combobox", name="Where it stands").select_option("lost")
    row.get_by_role("button", name="Keep").click()
    expect(row).to_contain_text("Why was it lost?")
    row.get_by_role("combobox", name="Where it stands").select_option("visited")
    row.get_by_label("Ask again on").fill("2026-09-14")
    row.get_by_role("button", name="Keep").click()
    expect(page.get_by_role("heading", level=1)).to_have_text("3 bids to follow up today.")
    expect(row).to_contain_text("Overdue by 1 day")
