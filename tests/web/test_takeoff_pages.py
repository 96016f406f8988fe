"""Take-off over HTTP: every page answers, screen, PDF and workbook say the same, bad figures are refused at their fields."""

import html
import io
import re
from decimal import Decimal

import openpyxl
import pytest
from pypdf import PdfReader

from amber_gable.core.price.revision import ChangedLine
from amber_gable.services.jobs import jobs
from amber_gable.services.office.extras import extras_of
from amber_gable.services.takeoff.job import job_takeoff
from amber_gable.units import show
from amber_gable.web.views.office.price import changed_words
from amber_gable.web.views.office.rates import typed
from tests.support.pages import errors, send

pytestmark = pytest.mark.small

PAGES = (
    "takeoff", "takeoff/sundries", "takeoff/spray", "takeoff/ways", "takeoff/hours", "price", "price/alternatives", "price/changes",
    "truck", "papers", "rates",
)  # fmt: skip


def words_of(content: bytes) -> str:
    return " ".join(page.extract_text() for page in PdfReader(io.BytesIO(content)).pages)


_PAPERS: dict[str, str] = {}


def paper(client, job_id: str, name: str) -> str:
    """The words of a paper of a seeded job that nothing was changed of; set and read once."""
    path = f"/jobs/{job_id}/papers/{name}.pdf"
    if path not in _PAPERS:
        _PAPERS[path] = words_of(client.get(path).content)
    return _PAPERS[path]


def plain(answer) -> str:
    return html.unescape(re.sub(r"<[^>]+>", " ", answer.text))


@pytest.mark.parametrize("path", PAGES)
def test_every_page_answers_for_every_job(client, opened, path):
    for job in jobs.list_jobs(opened):
        answer = client.get(f"/jobs/{job.id}/{path}")
        assert answer.status_code == 200
        assert "undefined" not in answer.text.lower()


# A paper takes a second to set and another to read.
@pytest.mark.parametrize("number", [0, *(pytest.param(n, marks=pytest.mark.slow) for n in (1, 2, 3))])
def test_screen_pdf_workbook_and_csv_show_the_same_totals(client, opened, number):
    row = jobs.list_jobs(opened)[number]
    takeoff = job_takeoff(opened, jobs.whole(opened, row.id))
    total = f"${takeoff.price.total:,.2f}"
    assert total in plain(client.get(f"/jobs/{row.id}/price"))
    assert f"over {takeoff.days.days} days, ${takeoff.price.total:,.0f}" in plain(client.get(f"/jobs/{row.id}/systems"))
    proposal = paper(client, row.id, "proposal")
    assert proposal.count(total) >= 2
    for step in (takeoff.price.deposit, takeoff.price.halfway, takeoff.price.rest):
        assert f"${step:,.2f}" in proposal
    book = openpyxl.load_workbook(io.BytesIO(client.get(f"/jobs/{row.id}/takeoff.xlsx").content), data_only=True)
    cells = {a.value: b.value for a, b in book["Price"]["A2:B21"]}
    assert Decimal(str(round(cells["The owner pays"], 2))) == takeoff.price.total


def test_the_material_order_has_every_can(client, opened, job):
    takeoff = job_takeoff(opened, job)
    # Cells of a table break their lines.
    order = " ".join(words_of(client.get(f"/jobs/{job.id}/papers/material-order.pdf").content).split())
    assert f"${takeoff.paint_price:,.2f}" in order
    assert sum(count for lot in takeoff.lots if lot.packs for _, count in lot.packs.counts) == int(re.search(r"(\d+) cans", order)[1])
    for lot in takeoff.lots:
        assert lot.product.name in order
        assert all(f"{count} × {size.name}" in order for size, count in lot.packs.counts)


def test_the_crew_sees_every_part_and_no_price(client, opened, job):
    order = words_of(client.get(f"/jobs/{job.id}/papers/work-order.pdf").content)
    assert "$" not in order
    for part in job_takeoff(opened, job).parts:
        assert part.name in order
    for said in ("Lead paint", "Not signed, not begun", "Held up: lead", "local code"):
        assert said in order


def test_the_proposal_is_honest_beforehand(client, opened, job):
    proposal = paper(client, job.id, "proposal")
    for said in (
        "Lead paint",
        "unit prices below",
        "Weather decides the day",
        "signed brush-out",
        "$285.00 each",
        "3 years",
        "Odile Tansy, date",
    ):
        assert said in proposal
    assert client.get(f"/jobs/{job.id}/papers/poem.pdf").status_code == 404
    # As agreed: there is no change order to print.
    assert client.get(f"/jobs/{job.id}/price/change-order.pdf").status_code == 404


def test_a_change_order_is_printed_with_its_lines(client, opened, job):
    send(client, f"/jobs/{job.id}/price/alternatives/one-more", {})
    page = plain(client.get(f"/jobs/{job.id}/price/changes"))
    assert "to be signed" in page
    paper = words_of(client.get(f"/jobs/{job.id}/price/change-order.pdf").content)
    assert "coats: 2 → 3" in paper
    wider = ChangedLine("w", "East wall", (), 0.0, 0.0, 0.0, (51.3, 60.0))
    assert [changed_words(wider, show, system) for system in ("us", "metric")] == ["area: 552 ft² → 646 ft²", "area: 51.3 m² → 60.0 m²"]
    assert re.search(r"\+\$[\d,]+\.\d\d", page)[0] in paper


@pytest.mark.parametrize(
    ("typed_in", "words"),
    [
        ({"money.labour_per_h": "-5"}, "above 0"), ({"money.labour_per_h": ""}, "A number"), ({"money.margin_pct": "200"}, "at most 80"),
        ({"labour.lap-rolled.first_per_h": "-10 ft2/h"}, "negative|above 0|read"), ({"labour.lap-rolled.first_per_h": "10 kg"}, "kg"),
        ({"consumables.tape.price": "-1"}, "at least 0"), ({"money.deposit_pct": "80"}, "more than the whole"), ({"money.currency": "GOLD"},
            "three letters"),
    ],
)  # fmt: skip
def test_a_bad_rate_is_refused_at_its_field_and_changes_nothing(client, opened, job, typed_in, words):
    before = opened.knowledge.money
    answer = send(client, f"/jobs/{job.id}/rates", typed_in)
    assert answer.status_code == 422
    said = errors(answer)
    assert any(re.search(words, message) for message in said.values()), said
    assert opened.knowledge.money == before


def test_rates_are_typed_in_the_units_of_the_job(client, opened, job):
    address = f"/jobs/{job.id}/rates"
    send(client, address, {"labour.lap-rolled.first_per_h": "120 ft2/h", "labour.railing.first_per_h": "12", "practice.box_l": "5 gal"})
    known = opened.knowledge
    assert known.labour["lap-rolled"].first_per_h == pytest.approx(120 * 0.09290304)
    assert known.labour["railing"].first_per_h == pytest.approx(12 * 0.3048)
    assert known.practice.box_l == pytest.approx(5 * 3.785411784)
    # A form sent as it is shown changes nothing at all.
    shown = dict(re.findall(r'name="([\w.-]+)" value="([^"]*)"', client.get(address).text))
    send(client, address, {k: html.unescape(v) for k, v in shown.items()})
    assert opened.knowledge.labour == known.labour
    assert typed(known.practice.box_l, "volume", "us") == "5"


def test_money_and_numbers_are_written_as_the_contractor_writes_them(client, opened, job):
    send(client, f"/jobs/{job.id}/rates", {"money.currency": "EUR", "money.locale": "de_AT"})
    total = job_takeoff(opened, job).price.total
    whole, cents = f"{total:,.2f}".split(".")
    # Austria groups money with a space that does not break, and writes a comma before the cents.
    written = rf"€\s{whole.replace(',', '.')},{cents}"
    text = plain(client.get(f"/jobs/{job.id}/price")).replace("\u00a0", ".").replace("€.", "€ ")
    assert re.search(written, text)
    assert re.search(r"\d,\d\d gal", plain(client.get(f"/jobs/{job.id}/takeoff")))
    assert "€" in words_of(client.get(f"/jobs/{job.id}/papers/material-order.pdf").content)


@pytest.mark.parametrize(
    ("typed_in", "field"),
    [
        ({"what": "", "hours": "2"}, "what"), ({"what": "A sill", "unit_price": "sill", "quantity": "0"}, "quantity"),
        ({"what": "A board", "unit_price": "board", "quantity": "some"}, "quantity"), ({"what": "Talk", "hours": "-2"}, "hours"),
        ({"what": "Talk"}, "hours"),
    ],
)  # fmt: skip
def test_an_extra_that_cannot_be_priced_is_refused(client, opened, job, typed_in, field):
    assert f"the-form-{field}" in errors(send(client, f"/jobs/{job.id}/price/extras", typed_in))
    assert len(extras_of(opened, job.id)) == 1


def test_signed_extras_are_paid_besides_the_price(client, opened, job):
    sill = extras_of(opened, job.id)[0]
    assert "With extras" not in plain(client.get(f"/jobs/{job.id}/price"))
    send(client, f"/jobs/{job.id}/price/extras/{sill.id}/sign", {"signed_by": "Odile Tansy"})
    # 285 and 5.5 % of tax, halves of a cent up: 300.68.
    together = f"${job_takeoff(opened, job).price.total + Decimal('300.68'):,.2f}"
    for path in ("price", "price/changes"):
        shown = plain(client.get(f"/jobs/{job.id}/{path}"))
        assert "$300.68" in shown
        assert together in shown
    assert together in words_of(client.get(f"/jobs/{job.id}/papers/proposal.pdf").content)


def test_extras_bids_and_truck_over_http(client, opened, job):
    send(client, f"/jobs/{job.id}/price/extras", {"what": "Two boards", "unit_price": "board", "quantity": "10 ft"})
    added = next(x for x in extras_of(opened, job.id) if x.unit_price == "board")
    assert (added.quantity, added.price) == (pytest.approx(3.048), pytest.approx(3.048 * 62, abs=0.005))
    send(client, f"/jobs/{job.id}/price/extras/{added.id}/sign", {"signed_by": "Odile Tansy"})
    assert "Odile Tansy" in plain(client.get(f"/jobs/{job.id}/price/changes"))
    assert "the-form-reason" in errors(send(client, f"/jobs/{job.id}/bid", {"state": "lost"}))
    send(client, f"/jobs/{job.id}/bid", {"state": "lost", "reason": "No date that suited"})
    assert "No date that suited" in plain(client.get("/bids?state=lost"))
    listed = send(client, f"/jobs/{job.id}/truck/on", {"key": "tool:pole", "work": "5", "way": "out"})
    assert 'aria-pressed="true"' in listed.text
    assert send(client, f"/jobs/{job.id}/truck/on", {"key": "tool:nothing"}).status_code == 404
