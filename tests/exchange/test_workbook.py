"""The workbook: it opens, its formulas come to what the screen says, and they are alive."""

import io
import re
import warnings

import openpyxl
import pytest

from amber_gable.exchange.takeoff_csv import HEAD, takeoff_csv
from amber_gable.exchange.workbook import workbook
from amber_gable.services.jobs import jobs
from amber_gable.services.takeoff.job import job_takeoff
from amber_gable.web.views.office.papers import bill_of


def reckoned(content: bytes, tmp_path) -> dict[str, float]:
    """Return the Price sheet as another program reckons it from the formulas alone."""
    with warnings.catch_warnings():
        warnings.simplefilter("ignore")
        import formulas

        path = tmp_path / "book.xlsx"
        path.write_bytes(content)
        book = formulas.ExcelModel().loads(str(path)).finish()
        found = book.calculate()
    cells = {match[1]: v for k, v in found.items() if (match := re.search(r"PRICE'!(B\d+)$", str(k)))}
    return {cell: float(v.value[0, 0]) for cell, v in cells.items() if cell != "B1"}


def price_rows(content: bytes, cached: bool) -> dict[str, tuple[str, object]]:
    sheet = openpyxl.load_workbook(io.BytesIO(content), data_only=cached)["Price"]
    return {str(a.value): (b.coordinate, b.value) for a, b in sheet["A2:B21"]}


@pytest.mark.parametrize("number", range(4))
def test_it_opens_with_the_totals_of_the_screen(opened, number):
    job = jobs.whole(opened, jobs.list_jobs(opened)[number].id)
    takeoff = job_takeoff(opened, job)
    content = workbook(bill_of(opened, job))
    rows = price_rows(content, cached=True)
    assert rows["The owner pays"][1] == pytest.approx(float(takeoff.price.total))
    assert rows["Hours"][1] == pytest.approx(takeoff.days.hours, abs=0.005)
    book = openpyxl.load_workbook(io.BytesIO(content), data_only=True)
    assert sum(r[13].value for r in book["Paint"].iter_rows(min_row=2)) == pytest.approx(takeoff.litres_total)
    assert sum(r[10].value for r in book["Lots"].iter_rows(min_row=2)) == pytest.approx(takeoff.paint_price)
    assert all(str(v).startswith("=") for _, v in price_rows(content, cached=False).values())


@pytest.mark.slow
def test_another_program_reckons_the_same_and_follows_a_new_rate(opened, job, tmp_path):
    bill = bill_of(opened, job)
    content = workbook(bill)
    cached = dict(price_rows(content, cached=True).values())
    assert reckoned(content, tmp_path) == pytest.approx(cached, abs=0.005)
    dearer = openpyxl.load_workbook(io.BytesIO(content))
    rate = next(row for row in dearer["Rates"].iter_rows(min_row=2) if row[0].value == "labour_per_h")
    rate[1].value = 60
    out = io.BytesIO()
    dearer.save(out)
    found = reckoned(out.getvalue(), tmp_path)
    # Five more an hour on everything that is laid on it.
    more = round(bill.days.hours, 2) * 5 * 1.10 / 0.88 * 1.055
    (total, was) = price_rows(content, cached=True)["The owner pays"]
    assert found[total] - was == pytest.approx(more, abs=1.1)


def test_the_csv_has_a_row_for_each_coat(opened, job):
    lots = job_takeoff(opened, job).lots
    head, *rows = takeoff_csv(lots).splitlines()
    assert head.split(",") == list(HEAD)
    assert len(rows) == sum(len(lot.lines) for lot in lots)
    assert sum(float(row.rsplit(",", 1)[1]) for row in rows) == pytest.approx(sum(lot.litres for lot in lots), abs=0.01)
