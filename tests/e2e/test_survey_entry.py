"""The four buildings of the sample world, typed and tapped in as a painter would; one of them on a phone."""

import csv
import io
import re

import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from amber_gable.demo import boathouse, orchard_deck, quarry_lane, tollkeepers
from amber_gable.demo.spec import DemoJob
from tests.support.browsing import fill, go_to, open_card
from tests.support.seeded import running
from tests.support.surveys import BY_HAND, FT

pytestmark = pytest.mark.e2e


@pytest.fixture(scope="module")
def site(seeded_folder, pool, tmp_path_factory):
    """One application whose books are open; each test enters a building of its own."""
    with running(seeded_folder, pool, tmp_path_factory.mktemp("entry") / "data") as found:
        yield found


def settled(page: Page) -> None:
    page.wait_for_function("() => !document.querySelector('.htmx-request, .htmx-swapping, .htmx-settling')")


def new_job(page: Page, site, spec: DemoJob) -> str:
    """Type in the job and its main block; return its address."""
    page.goto(f"{site.url}/jobs/new")
    facts, main = spec.facts, spec.blocks[0]
    fill(
        page,
        "new-job",
        {
            "name": f"{facts.name} again",
            "year_built": str(facts.year_built),
            "latitude_deg": "43.80",
            "longitude_deg": "-91.25",
            "altitude_m": "673 ft",
            "front_azimuth_deg": f"{spec.front_azimuth_deg:g}",
            "roof": main.roof,
            "ridge_runs": main.ridge_runs,
            **main.lengths,
        },
    )
    page.get_by_role("button", name="Draw the house").click()
    page.wait_for_url("**/survey")
    return page.url.removesuffix("/survey")


def add_blocks(page: Page, job: str, spec: DemoJob) -> None:
    labels = {"lean-to": "Lean-to", "porch": "Porch, open", "chimney": "Chimney", "deck": "Deck"}
    for block in spec.blocks[1:]:
        page.goto(f"{job}/survey/blocks")
        page.get_by_role("group", name="What it is").get_by_role("button", name=labels[block.kind], exact=True).click()
        expect(page.locator("#new-block-form input[name=kind]")).to_have_value(block.kind)
        values = dict(block.lengths) | {"name": block.name, "side": block.side, "from_left_m": block.from_left_m or "0"}
        if block.kind not in ("chimney", "deck"):
            values |= {"roof": block.roof}
        if block.steps:
            values["steps"] = block.steps
        fill(page, "new-block-form", values)
        with page.expect_navigation():
            page.get_by_role("button", name=re.compile("^Add the ")).click()
        expect(page.locator(".blocks-list summary", has_text=block.name)).to_be_visible()


def add_openings(page: Page, job: str, spec: DemoJob) -> None:
    for side in dict.fromkeys(o.elevation for o in spec.openings):
        go_to(page, job, f"{side} wall")
        open_card(page, "openings")
        for count, o in enumerate((o for o in spec.openings if o.elevation == side), start=1):
            form = page.locator("#opening-card form").first.get_attribute("id")
            fill(
                page,
                form,
                {
                    "kind": o.kind,
                    "width_m": o.width_m,
                    "height_m": o.height_m,
                    "left_m": o.left_m,
                    "sill_m": o.sill_m,
                    "panes_across": o.panes_across,
                    "panes_up": o.panes_up,
                    "moves": o.moves,
                },
            )
            page.locator("#opening-card").get_by_role("button", name="Add", exact=True).click()
            expect(page.locator("#openings tbody tr")).to_have_count(count)


def set_surface(page: Page, job: str, surface: str, alike: bool = False, **values: str) -> None:
    go_to(page, job, surface)
    open_card(page, "surface")
    form = page.locator(".surface-form").get_attribute("id")
    for name, value in values.items():
        with page.expect_response(re.compile("/surfaces/")):
            fill(page, form, {name: value})
            page.locator(f"#{form}-{name}").blur()
    if alike:
        with page.expect_response(re.compile("/alike")):
            page.get_by_role("button", name=re.compile("^Make every")).click()


def areas(page: Page, job: str) -> dict[str, float]:
    text = page.request.get(f"{job}/surfaces.csv").text()
    return {row["surface"]: float(row["net_area_m2"]) for row in csv.DictReader(io.StringIO(text))}


def check(page: Page, job: str, name: str) -> None:
    found = areas(page, job)
    for surface, by_hand in BY_HAND[name].items():
        assert found[surface] / FT**2 == pytest.approx(by_hand, rel=1e-3), surface


@pytest.mark.slow
def test_tollkeepers_house_is_entered(quiet_page: Page, site, tmp_path):
    page, spec = quiet_page, tollkeepers.JOB
    job = new_job(page, site, spec)
    add_blocks(page, job, spec)
    add_openings(page, job, spec)
    check(page, job, spec.facts.name)

    # A finding, tapped onto the south wall, with its photograph.
    go_to(page, job, "South gable wall")
    page.get_by_role("button", name="Pin a finding").click()
    page.locator("#drawing svg").click(position={"x": 300, "y": 200})
    expect(page.locator("#finding-x_m")).not_to_have_value("")
    picture = tmp_path / "peel.jpg"
    Image.new("RGB", (640, 480), "#9caf94").save(picture)
    fill(page, "finding", {"kind": "peeling", "extent": "to-30", "note": "Down to bare wood"})
    page.locator("#finding-photo").set_input_files(picture)
    page.get_by_role("button", name="Pin it").click()
    expect(page.locator("#findings article")).to_contain_text("Peeling, 10 to 30 %")
    shown = page.locator("#findings img")
    shown.scroll_into_view_if_needed()
    expect(shown).to_have_js_property("naturalWidth", 320)
    expect(page.locator("#drawing .pin")).to_have_count(1)

    # A test, judged at once and kept.
    open_card(page, "tests")
    page.get_by_role("button", name="Cross-cut").click()
    fill(page, "test-cross-cut", {"rating": "2"})
    page.get_by_role("button", name="Judge").click()
    expect(page.locator("#test-verdict")).to_contain_text("Old paint lets go")
    expect(page.locator("#test-list article")).to_have_count(1)


@pytest.mark.slow
def test_slipway_boathouse_is_entered(quiet_page: Page, site):
    page, spec = quiet_page, boathouse.JOB
    job = new_job(page, site, spec)
    add_openings(page, job, spec)
    set_surface(page, job, "South wall", alike=True, substrate="cedar", profile="board-batten", lrv_pct="12")
    set_surface(page, job, "North roof", alike=True, substrate="metal-roof", profile="standing-seam")
    check(page, job, spec.facts.name)
    rows = list(csv.DictReader(io.StringIO(page.request.get(f"{job}/surfaces.csv").text())))
    assert {r["substrate"] for r in rows if r["kind"] in ("wall", "gable")} == {"cedar"}
    # What stands round it: a wooded bank takes the evening sun.
    page.goto(f"{job}/survey/around")
    fill(page, "feature", {"kind": "hill", "shade_from_deg": "200", "shade_to_deg": "300", "shade_up_to_deg": "11"})
    page.get_by_role("button", name="Note it").click()
    expect(page.locator(".feature-list")).to_contain_text("hides the sun from 200° to 300° up to 11°")
    expect(page.locator(".plan-shade")).to_have_count(1)


@pytest.mark.slow
def test_quarry_lane_is_entered_and_divided(quiet_page: Page, site):
    page, spec = quiet_page, quarry_lane.JOB
    job = new_job(page, site, spec)
    add_blocks(page, job, spec)
    add_openings(page, job, spec)
    set_surface(page, job, "South wall", alike=True, substrate="stucco", profile="flat", texture="light-stucco", coating="none")
    # The foot is divided off by a line drawn with the mouse, then drawn again exactly by figures.
    go_to(page, job, "South wall")
    page.get_by_role("button", name="Divide", exact=True).first.click()
    box = page.locator("#drawing svg").bounding_box()
    page.mouse.move(box["x"] + 30, box["y"] + box["height"] - 60)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] - 30, box["y"] + box["height"] - 62, steps=5)
    page.mouse.up()
    expect(page.locator("#surfaces li")).to_have_count(3)
    page.get_by_role("button", name="Join again").click()
    expect(page.locator("#surfaces li")).to_have_count(2)
    open_card(page, "divide")
    fill(page, "divide", {"divide_at_m": "1' 6\""})
    page.locator("#divide").get_by_role("button", name="Divide").click()
    expect(page.locator("#surfaces li")).to_have_count(3)
    check(page, job, spec.facts.name)
    # A part whose corners cross is refused, and shown on the drawing where it crosses.
    page.locator("#part-points").fill("2', 3'\n6', 7'\n6', 3'\n2', 7'")
    page.get_by_role("button", name="Mark the part").click()
    expect(page.locator("#part-points-error")).to_contain_text("crosses itself")
    expect(page.locator("[data-marks] .mark-fault")).to_have_count(2)
    expect(page.locator("#part-points")).to_have_value("2', 3'\n6', 7'\n6', 3'\n2', 7'")


@pytest.fixture
def phone(browser, site):
    context = browser.new_context(viewport={"width": 360, "height": 740}, has_touch=True, is_mobile=True, device_scale_factor=2)
    yield context.new_page()
    context.close()


@pytest.mark.slow
def test_orchard_deck_is_entered_and_walked_on_a_phone(phone: Page, site):
    page, spec = phone, orchard_deck.JOB
    job = new_job(page, site, spec)
    add_blocks(page, job, spec)
    add_openings(page, job, spec)
    check(page, job, spec.facts.name)

    # The walk: big buttons, one thing at a time, each answer saved before the next is asked.
    page.goto(f"{job}/survey/walk")
    page.get_by_role("link", name="Start").tap()
    expect(page.locator("h1")).to_contain_text("Stand back")
    first = page.locator(".question-where strong").inner_text()
    for button in page.locator(".btn-answer").all():
        assert button.bounding_box()["height"] >= 44
    page.get_by_role("button", name="Fair: some spots").tap()
    expect(page.locator("h1")).to_contain_text("Count the openings")
    page.get_by_role("button", name="The drawing is right").tap()
    page.get_by_role("button", name="No windows here").tap()
    page.get_by_label("Sprinkler").check()
    page.get_by_role("button", name="Save, go on").tap()
    expect(page.locator("h1")).to_contain_text("Look up")
    page.goto(f"{job}/survey/walk")
    expect(page.locator(".page-head p")).to_contain_text("4 of")
    expect(page.locator(".station-list li", has_text=first).locator(".is-done")).to_have_count(4)
    expect(page.locator(".missing-list")).to_contain_text("No test on site yet")
    page.goto(f"{job}/survey/around")
    expect(page.locator(".feature-list")).to_contain_text("Sprinkler on the wall")


def test_what_was_typed_when_the_connection_dropped_is_offered_again(page: Page, site):
    page.goto(site.job("survey"))
    open_card(page, "openings")
    card = page.locator("#opening-card form").first
    form = card.get_attribute("id")
    fill(page, form, {"kind": "vent", "width_m": "1'", "height_m": "1'", "left_m": "2' 3\"", "sill_m": "15'"})
    page.context.set_offline(True)
    page.locator("#opening-card").get_by_role("button", name="Add", exact=True).click()
    expect(page.locator("#notice")).to_contain_text("No connection")
    expect(page.locator(f"#{form}-left_m")).to_have_value("2' 3\"")
    # The page is lost as well: a battery ran out.
    page.context.set_offline(False)
    page.reload()
    expect(page.locator(f"#{form}-left_m")).to_have_value("")
    page.locator(".kept").get_by_role("button", name="Put it back").click()
    expect(page.locator(f"#{form}-left_m")).to_have_value("2' 3\"")
    expect(page.locator(f"#{form}-kind")).to_have_value("vent")
    before = page.locator("#openings tbody tr").count()
    page.locator("#opening-card").get_by_role("button", name="Add", exact=True).click()
    expect(page.locator("#openings tbody tr")).to_have_count(before + 1)
    page.reload()
    expect(page.locator(".kept")).to_have_count(0)


def test_a_quick_survey_takes_a_minute_on_the_phone(phone: Page, site):
    page = phone
    page.goto(f"{site.url}/quick")
    fill(
        page,
        "quick",
        {"name": "Miller's cottage", "perimeter_m": "130'", "eaves_height_m": "10'", "storeys": "1", "windows": "8", "doors": "2"},
    )
    page.get_by_role("button", name="Price it").tap()
    page.wait_for_url("**/price")
    page.goto(page.url.replace("/price", "/survey"))
    expect(page.locator(".band-quick")).to_have_text("quick: estimated, not measured")
    expect(page.locator("h1")).to_contain_text("by estimate")
    assert len(page.locator(".band .band-sash-window").all()) == 8
    # Measured later: nothing of it is typed again.
    page.get_by_role("link", name="Blocks").tap()
    page.locator(".blocks-list form input[name=across_m]").fill("40'")
    with page.expect_navigation():
        page.get_by_role("button", name="Measure again").tap()
    page.goto(page.url.replace("/survey/blocks", "/survey"))
    expect(page.locator(".band-quick")).to_have_count(0)
    assert len(page.locator(".band .band-sash-window").all()) == 8
