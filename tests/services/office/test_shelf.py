"""The contractor's own shelf: out and in without loss, faults row by row, and how it reaches systems."""

import csv
import io
import json

import pytest

from amber_gable.core.knowledge.shipped import shipped
from amber_gable.errors import FieldErrors
from amber_gable.exchange.shelf import read, write_csv, write_json
from amber_gable.services.changes import changes
from amber_gable.services.jobs import jobs
from amber_gable.services.office import shelf
from amber_gable.services.systems import choices
from amber_gable.services.systems.specs import specs_of, total
from tests.support.records import last

SATIN = "rivermark-exterior-satin"


def rows_of(text: str) -> list[dict[str, str]]:
    return list(csv.DictReader(io.StringIO(text)))


def as_csv(rows, delimiter=",") -> bytes:
    out = io.StringIO()
    writer = csv.DictWriter(out, list(dict.fromkeys(name for row in rows for name in row)), delimiter=delimiter)
    writer.writeheader()
    writer.writerows(rows)
    return out.getvalue().encode()


def coatings(**changed) -> list[dict[str, str]]:
    """The shipped coatings as a spreadsheet has them, cells of the satin changed."""
    rows = rows_of(write_csv("coating", shipped().products))
    next(r for r in rows if r["key"] == SATIN).update(changed)
    return rows


@pytest.mark.parametrize("form", ["csv", "european csv", "sundries csv", "json"])
def test_a_shelf_goes_out_and_in_the_same(opened, form):
    known = shipped()
    if form == "json":
        content = write_json(known.products, known.sundries).encode()
    elif form == "sundries csv":
        content = write_csv("sundry", known.sundries).encode()
    elif form == "csv":
        content = as_csv(coatings())
    else:
        # As a spreadsheet of another country writes it: semicolons, decimal commas, a byte order mark.
        numbers = {name for name, field in type(known.products[SATIN]).model_fields.items() if field.annotation is float}
        rows = [{k: v.replace(".", ",") if k in numbers else v for k, v in row.items()} for row in coatings()]
        content = b"\xef\xbb\xbf" + as_csv(rows, ";")
    taken = shelf.take(opened, content, None, False)
    assert (taken.new, taken.changed, taken.faults, taken.is_kept) == ((), (), (), False)
    assert taken.good >= len(known.sundries)


def test_text_that_a_spreadsheet_would_run_or_split_comes_back_as_it_was(opened):
    nasty = shipped().products[SATIN].model_copy(update={"name": '=SUM(A1), "so called"', "thinning": "@home; 5 %", "min_air_temp_c": -2.5})
    text = write_csv("coating", {SATIN: nasty})
    assert not any(cell.startswith(("=", "+", "@")) for row in csv.reader(io.StringIO(text)) for cell in row)
    values = read(text.encode())[0].values
    assert (values["name"], values["thinning"], values["min_air_temp_c"]) == (nasty.name, nasty.thinning, -2.5)


FAULTS = [
    ("volume_solids_pct", "0.38", "not a fraction"),
    ("dry_film_um", "1.5", "not mils"),
    ("min_surface_temp_c", "50", "50 °F is 10"),
    ("max_air_temp_c", "85", "85 °F is 29"),
    ("recoat_h", "four", "must be a number, got “four”"),
    ("recoat_h", "", "Give recoat_h"),
    ("recoat_h", "0.5", "dry to the touch before the next"),
    ("touch_h", "nan", "touch_h must be"),
    ("family", "acrilic", "no family “acrilic”"),
    ("family", "caulk", "of coatings"),
    ("kind", "oil", "'waterborne' or 'alkyd'"),
    ("goes_on", "wood | marble", "no “marble”"),
    ("sheen", "shiny", "low-lustre"),
    ("sizes", "gallon 3.785 at 62", "must read like"),
    ("sizes", "gallon: 3.785 L at 62 | gallon: 5 L at 70", "same name"),
    ("sizes", "gallon: 0 L at 62", "sizes must be above 0"),
    ("key", "Two Words", "small letters"),
    ("name", "", "Give name"),
]


@pytest.mark.parametrize(("column", "cell", "said"), FAULTS)
def test_a_bad_cell_is_named_with_its_row_and_nothing_is_taken(opened, column, cell, said):
    rows = coatings(**{column: cell})
    rows[3]["voc_g_l"] = "20"
    taken = shelf.take(opened, as_csv(rows), None, False)
    # The head is row 1, so the satin, first on the shelf, is row 2.
    assert {f.number for f in taken.faults} == {2}
    assert any(said in f.message for f in taken.faults), [f.message for f in taken.faults]
    assert not taken.is_kept
    assert opened.knowledge == shipped()
    with_rest = shelf.take(opened, as_csv(rows), None, True)
    assert with_rest.is_kept
    assert with_rest.changed == (rows[3]["key"],)
    assert opened.knowledge.products[SATIN] == shipped().products[SATIN]


@pytest.mark.parametrize(
    ("content", "said"),
    [
        (b"", "first row must name the columns"),
        (b"key,name,volume_solids_pct\n", "no row"),
        (b"a,b\n1,2\n", "first row must name the columns"),
        (b"name,name,volume_solids_pct\nx,y,z\n", "there twice"),
        (b"\xff\xfe\x00", "UTF-8"),
        (b"{", "not JSON"),
        (b'{"coatings": []}', "shelf_version"),
        (b'{"shelf_version": 1, "coatings": [1]}', "list of objects"),
        (b"x" * (shelf.MOST_BYTES + 1), "2 MB"),
        (b"key,name,volume_solids_pct\n" + b"k,n,40\n" * 2001, "at most 2000 rows"),
    ],
)
def test_a_file_that_is_no_shelf_is_refused_as_a_whole(opened, content, said):
    with pytest.raises(FieldErrors, match=said) as refused:
        shelf.take(opened, content, None, True)
    assert list(refused.value.errors) == ["file"]


def test_rows_and_columns_too_many_are_named(opened):
    rows = coatings()
    rows[0]["colour_card"] = "12"
    rows.append(dict(rows[1]))
    taken = shelf.take(opened, as_csv(rows), None, False)
    said = {(f.number, f.column) for f in taken.faults}
    assert (2, "colour_card") in said
    assert (len(rows) + 1, "key") in said


def test_a_price_of_our_own_reaches_the_estimate_and_is_undone(opened, job):
    before = total(specs_of(opened, job)).money
    satin = rows_of(write_csv("coating", shipped().products))
    for row in satin:
        row["sizes"] = "gallon: 3.785 L at 124.00"
    taken = shelf.take(opened, as_csv(satin), job.id, False)
    assert taken.is_kept
    assert total(specs_of(opened, job)).money > before
    changes.undo(opened, last(opened, job.id)[0])
    assert opened.knowledge == shipped()
    assert total(specs_of(opened, job)).money == pytest.approx(before)


def test_a_product_of_our_own_is_chosen_preferred_and_can_leave(opened, job):
    own = {
        **shipped().products["rivermark-exterior-low-lustre"].model_dump(mode="json"),
        "key": "mill-house-lustre",
        "name": "Mill House Lustre",
    }
    content = json.dumps({"shelf_version": 1, "coatings": [own]}).encode()
    assert shelf.take(opened, content, job.id, False).new == ("mill-house-lustre",)
    rules = jobs.rules_of(jobs.whole(opened, job.id)).model_copy(update={"product": "mill-house-lustre"})
    jobs.update_rules(opened, job.id, rules.model_dump(), None)
    wall = next(s for s in specs_of(opened, jobs.whole(opened, job.id)) if s.part.name == "West wall")
    assert wall.products["coat 1"] == "mill-house-lustre"
    row = shelf.own_keys(opened)[("coating", "mill-house-lustre")]
    shelf.forget(opened, row, job.id)
    wall = next(s for s in specs_of(opened, jobs.whole(opened, job.id)) if s.part.name == "West wall")
    assert wall.products["coat 1"] in shipped().products
    choices.set_school(opened, job.id, "sun", "shade")


def test_a_sheet_that_no_longer_reads_does_not_take_the_shelf_down(opened, job):
    shelf.take(opened, as_csv(coatings(voc_g_l="11")), job.id, False)
    assert opened.knowledge.products[SATIN].voc_g_l == 11
    with opened.writing() as session:
        row = shelf.queries.shelf_rows(session, opened.contractor_id)[0]
        row.sheet = {**row.sheet, "family": "a family of before"}
        shelf.queries.raise_revisions(session, set(), opened.contractor_id, of_house=True)
    opened.renew()
    assert opened.knowledge.products[SATIN] == shipped().products[SATIN]
