"""Working on a survey in the browser: keys, fingers, undo, two people at once, gates, files."""

import json
import re
from contextlib import nullcontext

import pytest
from playwright.sync_api import Page, expect

from tests.support.browsing import fill, go_to, open_card
from tests.support.seeded import running

pytestmark = pytest.mark.e2e


@pytest.fixture(scope="module")
def site(seeded_folder, pool, tmp_path_factory):
    with running(seeded_folder, pool, tmp_path_factory.mktemp("use") / "data") as found:
        yield found


@pytest.fixture
def job(site):
    return site.job("survey").removesuffix("/survey")


def surfaces(page: Page) -> list[str]:
    return page.locator("#surfaces li a").all_inner_texts()


def test_surfaces_are_reached_by_the_keyboard_and_a_tool_is_put_down_by_escape(quiet_page: Page, job):
    page = quiet_page
    page.goto(f"{job}/survey")
    link = page.locator(".band-place").get_by_role("link", name="West wall: to be painted")
    link.focus()
    page.keyboard.press("Enter")
    expect(page.locator("#elevation-name")).to_contain_text("West")
    expect(page.locator("#surfaces a[aria-current=true]")).to_have_text("West wall")
    tool = page.get_by_role("button", name="Mark a part")
    tool.focus()
    page.keyboard.press("Enter")
    expect(tool).to_have_attribute("aria-pressed", "true")
    expect(page.locator("[data-tool-hint]")).to_contain_text("Tap the corners")
    page.keyboard.press("Escape")
    expect(tool).to_have_attribute("aria-pressed", "false")
    expect(page.locator("[data-tool-hint]")).to_be_empty()


def test_a_part_is_marked_corner_by_corner_and_undone(quiet_page: Page, job):
    page = quiet_page
    go_to(page, job, "West wall")
    before = surfaces(page)
    page.get_by_role("button", name="Mark a part").click()
    box = page.locator("#drawing svg").bounding_box()
    corners = [(0.45, 0.45), (0.55, 0.45), (0.55, 0.6), (0.45, 0.6), (0.45, 0.45)]
    for x, y in corners:
        page.mouse.click(box["x"] + x * box["width"], box["y"] + y * box["height"])
    expect(page.locator("#surfaces li")).to_have_count(len(before) + 1)
    expect(page.locator("#surfaces")).to_contain_text("Drawn part 1")
    page.get_by_role("button", name="Undo: divide West").click()
    expect(page.locator("#surfaces li")).to_have_count(len(before))
    assert surfaces(page) == before


@pytest.mark.slow
def test_an_opening_is_changed_copied_removed_and_brought_back(quiet_page: Page, job):
    page = quiet_page
    go_to(page, job, "North gable wall")
    rows = page.locator("#openings tbody tr")
    page.get_by_role("button", name=re.compile("^Change the sash window")).first.click()
    expect(page.locator("#opening-card").get_by_role("button", name="Save the opening")).to_be_visible()
    form = page.locator("#opening-card form").first.get_attribute("id")
    fill(page, form, {"moves": "painted-shut", "panes_up": "3"})
    page.get_by_role("button", name="Save the opening").click()
    expect(rows.first).to_contain_text("painted shut")
    expect(rows.first).to_contain_text("2 x 3")
    copy = page.locator("#opening-card form").nth(1).get_attribute("id")
    fill(page, copy, {"count": "1", "apart_m": "4'"})
    page.get_by_role("button", name="Copy along").click()
    expect(rows).to_have_count(3)
    # A copy that would lie over another is refused, and shown where.
    fill(page, copy, {"apart_m": "11' 10\""})
    page.get_by_role("button", name="Copy along").click()
    expect(page.locator(f"#{copy} .field-error:not(:empty), #notice .notice")).to_contain_text("It would lie over the sash window")
    expect(page.locator("[data-marks] .mark-fault")).to_have_count(2)
    page.get_by_role("button", name=re.compile("^Remove the sash window")).first.click()
    expect(rows).to_have_count(2)
    page.get_by_role("button", name="Undo: remove the sash window").click()
    expect(rows).to_have_count(3)


def test_two_people_on_one_surface_notice_each_other(quiet_page: Page, job, browser):
    page = quiet_page
    go_to(page, job, "North gable wall")
    other = browser.new_context(viewport={"width": 1280, "height": 800}).new_page()
    go_to(other, job, "North gable wall")
    open_card(page, "surface")
    open_card(other, "surface")
    form = page.locator(".surface-form").get_attribute("id")
    fill(page, form, {"coated_year": "2012"})
    with page.expect_response(re.compile("/surfaces/")):
        page.locator(f"#{form}-coated_year").blur()
    fill(other, form, {"coated_year": "2015"})
    other.locator(f"#{form}-coated_year").blur()
    expect(other.locator(f"#{form}-form-error")).to_contain_text("Somebody changed this while you were typing")
    both = other.locator(f"#{form}-coated_year-error")
    expect(both).to_contain_text("Saved meanwhile: 2012")
    expect(both).to_contain_text("Yours: 2015")
    expect(other.locator(f"#{form}-coated_year")).to_have_value("2015")
    # Another field changed meanwhile saves nothing over what the other saved.
    fill(other, form, {"old_lrv_pct": "40"})
    other.locator(f"#{form}-old_lrv_pct").blur()
    expect(both).to_contain_text("Saved meanwhile: 2012")
    for side in other.locator(".conflict").all():
        kept = side.get_by_role("button", name="Keep mine")
        with other.expect_response(re.compile("/surfaces/")) if other.locator(".conflict").count() == 1 else nullcontext():
            kept.click()
    expect(other.locator(f"#{form}-form-error")).to_be_empty()
    page.reload()
    expect(page.locator(f"#{form}-coated_year")).to_have_value("2015")
    other.context.close()


@pytest.mark.slow
def test_a_gate_is_worked_under_and_says_so_in_a_later_stage(quiet_page: Page, job):
    page = quiet_page
    page.goto(f"{job}/windows")
    expect(page.locator("#gate-lead")).to_contain_text("Preparation cannot start")
    page.locator("#gate-lead summary").click()
    page.locator("#gate-lead").get_by_role("link", name="Records").click()
    page.get_by_role("button", name="Put on record").nth(1).click()
    expect(page.locator("#clear-under-certificate-error")).to_contain_text("Write down")
    fill(page, "clear-under", {"certificate": "FR-77", "notice": "By hand, 1 Sep", "containment": "Sheets to 3 m, HEPA, tape"})
    with page.expect_navigation():
        page.get_by_role("button", name="Put on record").nth(1).click()
    expect(page.locator(".feature-list")).to_contain_text("works under the rules: the whole job")
    page.goto(f"{job}/schedule")
    expect(page.locator("#gate-lead")).to_contain_text("Worked under the rules on record")
    page.goto(f"{job}/survey/gates")
    with page.expect_navigation():
        page.get_by_role("button", name="Withdraw the lead record of the whole job").click()
    expect(page.locator("h1")).to_contain_text("parts not cleared")


@pytest.mark.slow
def test_a_survey_leaves_as_files_and_comes_back_as_a_new_job(quiet_page: Page, job, tmp_path):
    page = quiet_page
    page.goto(f"{job}/survey/files")
    expect(page.locator(".sheet-preview img")).to_have_js_property("complete", True)
    assert page.locator(".sheet-preview img").evaluate("i => i.naturalWidth") > 500
    for label, start in (("Drawing, PDF", b"%PDF"), ("Drawing, SVG", b"<svg"), ("Surfaces, CSV", b"elevation,surface")):
        with page.expect_download() as download:
            page.get_by_role("link", name=label).click()
        assert download.value.path().read_bytes().startswith(start), label
    with page.expect_download() as download:
        page.get_by_role("link", name="Job bundle, JSON").click()
    bundle = json.loads(download.value.path().read_text())
    bad = tmp_path / "bad.json"
    bad.write_text(json.dumps(bundle | {"walk": [{"station": "nowhere", "question": "grade", "answer": "good"}]}))
    page.locator("#import-bundle").set_input_files(bad)
    page.get_by_role("button", name="Read it in").click()
    expect(page.locator("#import-bundle-error")).to_contain_text("walk.0.station")
    bundle["job"]["name"] = "Tollkeeper's, read in"
    good = tmp_path / "good.json"
    good.write_text(json.dumps(bundle))
    page.locator("#import-bundle").set_input_files(good)
    with page.expect_navigation():
        page.get_by_role("button", name="Read it in").click()
    expect(page.locator(".bar-title")).to_have_text("Tollkeeper's, read in")
    # Whatever the tests before this one did to the job came along.
    windows = sum(o["kind"] == "sash-window" for e in bundle["building"]["elevations"] for o in e["openings"])
    expect(page.locator(".band .band-sash-window")).to_have_count(windows)
    expect(page.locator(".band .pin")).to_have_count(len(bundle["findings"]))


def test_a_finding_is_pinned_with_a_thumb(browser, job):
    context = browser.new_context(viewport={"width": 360, "height": 740}, has_touch=True, is_mobile=True)
    page = context.new_page()
    go_to(page, job, "West wall")
    page.get_by_role("button", name="Pin a finding").tap()
    page.locator("#drawing svg").tap(position={"x": 120, "y": 90})
    expect(page.locator("#findings-part")).to_have_attribute("open", "")
    expect(page.locator("#finding-x_m")).to_have_value(re.compile(r"^\d+\.\d\d ft$"))
    fill(page, "finding", {"kind": "mildew", "note": "Green"})
    before = page.locator("#findings article").count()
    page.get_by_role("button", name="Pin it").tap()
    expect(page.locator("#findings article")).to_have_count(before + 1)
    assert page.evaluate("document.documentElement.scrollWidth") <= 360
    context.close()
