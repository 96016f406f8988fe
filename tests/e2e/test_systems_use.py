"""Systems in the browser: the steps with their reasons, a school tried and taken, a step left out by hand, the cards."""

import re

import pytest
from playwright.sync_api import Page, expect

from tests.support.seeded import running

pytestmark = pytest.mark.e2e


@pytest.fixture
def site(seeded_folder, pool, tmp_path):
    with running(seeded_folder, pool, tmp_path / "data") as found:
        yield found


def ladder(page: Page) -> list[str]:
    return page.locator(".ladder summary strong").all_inner_texts()


@pytest.mark.slow
def test_a_school_is_tried_seen_and_taken(quiet_page: Page, site):
    page = quiet_page
    page.goto(site.job("systems"))
    expect(page.locator("h1")).to_have_text(re.compile(r"^4 systems on 10 parts, 6 held up\.$"))
    expect(page.locator(".ladder-card h2")).to_contain_text("South gable wall")
    before = ladder(page)
    assert "Feather the edges" in before
    # Why is one tap away, and leads to the house rule that would change it.
    page.locator(".ladder summary", has_text="Scrape what no longer bonds").click()
    reason = page.locator(".ladder details[open]")
    expect(reason).to_contain_text("Only what no longer bonds comes off")
    with page.expect_navigation():
        reason.get_by_role("link", name="Peeling wood: house rule").first.click()
    school = page.locator("#school-peeling-wood")
    school.get_by_role("button", name="bonding build-up over what holds").click()
    told = school.locator(".difference")
    expect(told).to_contain_text("would change 1 part")
    expect(told.locator(".comes")).to_have_text("+ High-build bonding primer")
    expect(told.locator(".goes").first).to_have_text("− Feather the edges")
    expect(told).to_contain_text(re.compile(r"[+−]\d+\.\d painter-hours, [+−]\d+\.\d days, [+−]\$\d"))
    # Nothing has changed yet.
    assert ladder_of(page, site) == before
    page.goto(site.job("systems/schools"))
    page.locator("#school-peeling-wood").get_by_role("button", name="bonding build-up over what holds").click()
    with page.expect_navigation():
        page.get_by_role("button", name="Take it for this job").click()
    expect(page.locator("h1")).to_have_text("1 of 21 house rules differ from the usual.")
    after = ladder_of(page, site)
    assert "High-build bonding primer" in after
    assert "Feather the edges" not in after
    with page.expect_navigation():
        page.get_by_role("button", name=re.compile("^Undo: peeling wood")).click()
    assert ladder_of(page, site) == before


def ladder_of(page: Page, site) -> list[str]:
    page.goto(site.job("systems"))
    with page.expect_navigation():
        page.get_by_role("link", name=re.compile("^South gable wall")).last.click()
    return ladder(page)


@pytest.mark.slow
def test_a_step_is_left_out_and_one_put_in_by_hand(quiet_page: Page, site):
    page = quiet_page
    page.goto(site.job("systems"))
    page.locator(".ladder summary", has_text="Caulk joints").click()
    opened = page.locator(".ladder details[open]")
    opened.get_by_label("Why, about caulk joints").fill("The joints are new")
    with page.expect_navigation():
        opened.get_by_role("button", name="Leave it out").click()
    assert "Caulk joints" not in ladder(page)
    expect(page.locator(".system-side")).to_contain_text("Caulk joints was dropped")
    # Words of one's own must say something; what was chosen stays.
    page.locator("#add-step-after").select_option("dry")
    page.get_by_role("button", name="Put it in").click()
    expect(page.locator("#add-step-note-error")).to_have_text("Say what is to be done.")
    page.locator("#add-step-note").fill("Take the dish down")
    with page.expect_navigation():
        page.get_by_role("button", name="Put it in").click()
    assert ladder(page).index("Take the dish down") == ladder(page).index("Let it dry") + 1
    # Moved out of order, it is done so and told.
    page.locator("#shift-step-step").select_option("mask")
    page.locator("#shift-step-after").select_option("clear")
    with page.expect_navigation():
        page.get_by_role("button", name="Change it").click()
    assert ladder(page)[1] == "Mask and cover"
    expect(page.locator(".system-side")).to_contain_text("Mask and cover comes before soft wash")
    with page.expect_navigation():
        page.get_by_role("button", name="Follow the rules").first.click()
    assert "Caulk joints" in ladder(page)


@pytest.mark.slow
def test_a_colour_is_chosen_from_boards_and_a_price_taken_from_a_file(quiet_page: Page, site, tmp_path):
    page = quiet_page
    page.goto(site.job("systems/colours"))
    wall = page.locator("[data-surface-link]", has=page.locator("title", has_text="South gable wall")).locator("path")
    noon = wall.get_attribute("fill")
    with page.expect_navigation():
        page.get_by_role("link", name=re.compile("^Evening")).click()
    assert wall.get_attribute("fill") != noon, "another light"
    expect(page.locator(".boards-lead")).to_contain_text("Make 6 boards")
    # Nonsense is told at its field and stays to be mended.
    page.locator("#candidate-code").fill("Kiln")
    page.locator("#candidate-hex").fill("brown")
    page.get_by_role("button", name="Add a candidate").click()
    expect(page.locator("#candidate-hex-error")).to_contain_text("six digits")
    page.locator("#candidate-hex").fill("#b0602a")
    with page.expect_navigation():
        page.get_by_role("button", name="Add a candidate").click()
    expect(page.locator(".boards-lead")).to_contain_text("Make 8 boards")
    with page.expect_navigation():
        page.get_by_role("button", name="Take Kiln").click()
    expect(page.locator(".zones .is-here")).to_contain_text("#b0602a")
    # A price changed in a spreadsheet: one cell is wrong, then right.
    page.goto(site.job("systems/shelf"))
    with page.expect_download() as sheets:
        page.get_by_role("link", name="Coatings, CSV").click()
    text = sheets.value.path().read_text()
    file = tmp_path / "coatings.csv"
    file.write_text(text.replace("gallon: 3.785 L at 62.00", "gallon: 3.785 L for 59", 1))
    page.locator("#shelf-file-file").set_input_files(file)
    page.get_by_role("button", name="Take them in").click()
    expect(page.locator("#shelf-answer")).to_contain_text("Nothing was taken: 1 row at fault, 33 good")
    file.write_text(text.replace("gallon: 3.785 L at 62.00", "gallon: 3.785 L at 59.00", 1))
    page.locator("#shelf-file-file").set_input_files(file)
    page.get_by_role("button", name="Take them in").click()
    expect(page.locator("#shelf-answer")).to_contain_text("Taken: 0 new, 1 changed")
    page.get_by_role("link", name="See the shelf").click()
    expect(page.locator(".own-mark")).to_have_count(1)


def test_the_safety_card_on_a_phone_names_lead_first(browser, site):
    context = browser.new_context(viewport={"width": 360, "height": 740}, has_touch=True, is_mobile=True)
    page = context.new_page()
    page.goto(site.job("systems/cards"))
    expect(page.locator(".safety-card li").first).to_contain_text("Lead paint")
    expect(page.locator(".safety-card .first-line")).to_contain_text("licensed professionals come first")
    expect(page.locator("#chemical-bleach-wash")).to_contain_text("ammonia, acid")
    page.goto(site.job("systems"))
    expect(page.locator(".ladder summary").first).to_contain_text("Clear the surroundings")
    assert page.evaluate("document.documentElement.scrollWidth") <= 360
    context.close()
