"""Every page and every form that edits, found by walking: pages are read strictly; a form that is sent back untouched changes no column
of any row, with one field changed only that, and what somebody else changed meanwhile is never written over."""

import random
import re
import sqlite3
from collections.abc import Callable
from contextlib import closing
from dataclasses import dataclass

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import text

from amber_gable.services.changes.changes import ChangeSet
from amber_gable.services.jobs import jobs
from amber_gable.store.engine import file_of
from amber_gable.store.models import Base, Change
from amber_gable.units import both
from tests.support.crawl import Form, Walk
from tests.support.pace import is_long
from tests.support.pages import HTMX, stages
from tests.support.seeded import made_once, own_copy
from tests.support.serving import DEMO_NOW

# What is written down of the sending itself.
BESIDE = {"changes", "sent_forms", "app_state", "alembic_version"}
WORDS = "Crack 3 mm (1/8 in) wide, 2 m (6 ft) long"
# As a tape in metres, a bundle, a file would have left it: no value is a round one of feet and inches.
ODD = (
    "UPDATE openings SET width_m = width_m + 0.00123456, sill_m = sill_m + 0.0001234567",
    "UPDATE blocks SET eaves_height_m = eaves_height_m + 0.0011111111",
    "UPDATE items SET girth_m = 0.19999",
    f"UPDATE findings SET note = '{WORDS}', depth_mm = 3.3000001, x_m = x_m + 0.00001",
    "UPDATE jobs SET altitude_m = 205.123456789, latitude_deg = 43.80012345, longitude_deg = -91.25054321",
    "UPDATE surfaces SET lrv_pct = 43.123456789, old_lrv_pct = 61.23456789, hex = NULL, old_hex = NULL",
    "UPDATE elevations SET ground_slope_pct = 3.1234567",
)

# One dimension under two names: a wing is as deep as it stands out, a chimney stands back behind the wall.
ONE = {"setback_m": ("projects_m",), "projects_m": ("deep_m",), "deep_m": ("projects_m",)}


def make_odd(opened) -> None:
    """Make values odd; of the four houses one is at work, so that a page is not waited for four times."""
    at_work = jobs.list_jobs(opened)[0].id
    with opened.app.engine.begin() as connection:
        for sentence in (*ODD, "UPDATE jobs SET revision = revision + 1000, house_revision = house_revision + 1000"):
            connection.execute(text(sentence))
        connection.execute(text("UPDATE jobs SET state = 'resting' WHERE id != :at_work"), {"at_work": at_work})


@dataclass
class Walked:
    """Pages by their addresses, what is wrong with each, and the forms on them."""

    pages: dict[str, str]
    faults: dict[str, list[str]]
    forms: list[Form]


@pytest.fixture(scope="module")
def walked(application, seeded_folder, pool, portal, tmp_path_factory, root) -> Walked:
    """All pages, those that links lead to and the parts that scripts ask for, and the forms on them: one process walks for all."""

    def walk() -> Walked:
        return walk_all(application, seeded_folder, pool, portal, tmp_path_factory)

    return made_once(root / "walked", walk)


def walk_all(application, seeded_folder, pool, portal, tmp_path_factory) -> Walked:
    with own_copy(seeded_folder, pool, tmp_path_factory.mktemp("walked") / "data") as opened:
        make_odd(opened)
        application.state.running = opened.app
        client = TestClient(application, raise_server_exceptions=False)
        client.portal = portal
        job = jobs.whole(opened, jobs.list_jobs(opened)[0].id)
        wall = next(s.id for e in job.building.elevations for s in e.surfaces if s.is_painted)
        at = int(DEMO_NOW.timestamp()) + 4 * 3600
        parts = (f"windows/{wall}?at={at}", f"stop/{wall}", "morning-card", "bid-price", "log/chance")
        parts = [f"/jobs/{job.id}/{part}" for part in parts]
        parts += [f"/jobs/{job.id}/survey?at={row.id}" for e in job.building.elevations for row in (e, *e.openings[:1], *e.surfaces[:1])]
        heads = ("/", "/jobs", "/bids", "/crew", "/crew/kit", "/settings", "/reckoner", "/phone", "/alarms", "/today")
        starts = (*heads, *stages(job), *parts)
        walk = Walk(client, most=12 if is_long() else 2).from_(*starts)
        client.cookies.set("who", "Tobias")
        held = Walk(client).from_("/today")
        held_pages, held_faults = ({f"{at} held": found for at, found in of.items()} for of in (held.pages, held.faults))
        return Walked(walk.pages | held_pages, walk.faults | held_faults, walk.forms + held.forms)


@pytest.fixture(scope="module")
def forms(walked) -> list[Form]:
    """The forms of all pages; the rows have the same ids and versions in every copy of the seeded data."""
    return list({(form.action, form.id): form for form in walked.forms if not form.action.startswith("/reckoner")}.values())


@pytest.fixture(autouse=True)
def odd(opened) -> None:
    make_odd(opened)


def shown(text: str) -> str:
    """Return the words of a page, and of the labels of its drawings."""
    return re.sub(r"<(script|style)\b.*?</\1>|<[^>]+>", " ", text, flags=re.S)


@pytest.mark.takes(13)
def test_every_page_is_well_formed(walked):
    """Read strictly, as a browser forgives it."""
    assert len(walked.pages) > 100
    assert {address: found for address, found in walked.faults.items() if found} == {}
    # Words of ours that give a quantity in both systems are marked where they are ours (units.both): none is left over.
    left = {
        address: re.findall(r".{30}\([^()]*\)", words)[:2]
        for address, text in walked.pages.items()
        if both(words := shown(text).replace(WORDS, "")) != words
    }
    assert left == {}


TABLES = {t.name: (tuple(c.name for c in t.primary_key), tuple(c.name for c in t.columns)) for t in Base.metadata.sorted_tables}


def everything(opened) -> dict[str, set[tuple]]:
    """Return all rows by their tables, as the file has them."""
    with closing(sqlite3.connect(file_of(opened.settings.resolved_database_url))) as base:
        return {
            name: set(base.execute("SELECT " + ", ".join(f'"{c}"' for c in columns) + f" FROM {name}"))
            for name, (_, columns) in TABLES.items()
            if name not in BESIDE
        }


def changed(before: dict, after: dict) -> dict:
    """Return what differs, row by row: columns, "added" or "removed"."""
    out = {}
    for table, (key_columns, columns) in TABLES.items():
        if before.get(table) == after.get(table):
            continue
        ways = [{tuple(row[columns.index(c)] for c in key_columns): row for row in of[table]} for of in (before, after)]
        for key in ways[0].keys() | ways[1].keys():
            one, other = (way.get(key) for way in ways)
            if one is None or other is None:
                out[table, *key] = "added" if one is None else "removed"
            elif one != other:
                out[table, *key] = {c: (a, b) for c, a, b in zip(columns, one, other, strict=True) if a != b}
    return out


def edits(form: Form) -> bool:
    """Return whether a form is filled in from rows that are there."""
    # An answer that is given first is an act; so is a name that is signed.
    is_act = dict(form.fields).get("version") == "" or (form.id == "question" and "answer" not in form.names) or form.id.startswith("sign-")
    return bool(form.typed) and bool(form.names & {"version", "seen"}) and not is_act


def post(client, form: Form, **fields: str):
    return client.post(form.action, data=form.data(**fields), headers=HTMX | {"hx-trigger": form.id})


def shapes(forms: list[Form], are_meant: Callable[[Form], bool] = edits) -> list[Form]:
    """Return one form of each shape: those of all walls ask the same fields."""
    out: dict[tuple, Form] = {}
    for form in filter(are_meant, forms):
        out.setdefault((re.sub(r"[0-9a-f-]{36}", "-", form.action), tuple(sorted(form.names)), form.typed), form)
    return list(out.values())


def otherwise(form: Form, name: str) -> str | None:
    """Return what else somebody could type into a field; None for a list to choose from."""
    value = dict(form.fields).get(name, "")
    exact = dict(form.fields).get(f"{name}.was", "").partition(" ")[0]
    unit = {"_m": " m", "mm": " mm"}.get(name[-2:], "")
    if exact:
        return f"{float(exact) * 1.001 + 0.01:.4f}{unit}"
    is_words = name in ("note", "name", "surface_name", "item_name", "address", "phone", "mail", "owner_name", "remark")
    return f"{value} and more" if is_words else None


@pytest.mark.takes(9)
def test_a_form_sent_back_untouched_changes_nothing(client, opened, forms):
    assert len(list(filter(edits, forms))) > 40
    before = everything(opened)
    faults = {}
    for form in filter(edits, forms):
        answer = post(client, form)
        after = everything(opened)
        if answer.status_code != 200 or changed(before, after):
            faults[form.action, form.id] = (answer.status_code, changed(before, after))
        before = after
    assert faults == {}


@pytest.mark.takes(12)
def test_one_field_changed_changes_that_alone(client, opened, forms):
    tried, faults, chance = 0, {}, random.Random(12)
    for form in shapes(forms):
        names = [name for name in form.typed if otherwise(form, name) is not None]
        for name in names if is_long() else chance.sample(names, min(len(names), 2)):
            typed = otherwise(form, name)
            before = everything(opened)
            answer = post(client, form, **{name: typed})
            diff = changed(before, everything(opened))
            own = next(
                (columns for (_, *key), columns in diff.items() if str(key[0]) in form.action and key[0] != form.action.split("/")[2]), {}
            )
            same = (name, name.removeprefix("surface_"), *ONE.get(name, ()), "version", "revision", "is_named")
            others = {column for column in own if column not in same}
            if answer.status_code == 200:
                tried += 1
            if others:
                faults[form.action, name] = own
            if answer.status_code == 200:
                take_back(client, opened)
    assert faults == {}
    assert tried > 12


def take_back(client, opened) -> None:
    """Undo what was done last, if it can be."""
    with opened.reading() as session:
        last = session.query(Change.set_id).order_by(Change.number.desc()).first()
    client.post(f"/undo/{last[0]}", headers=HTMX)


@pytest.fixture
def unversioned(monkeypatch) -> list[str]:
    """Names of rows that were written over although nobody said what was seen of them."""
    found: list[str] = []
    update = ChangeSet.update

    def watched(self, row, values, expected_version=None):
        if expected_version is None and row.id not in self.seen:
            found.append(f"{row.__tablename__}: {', '.join(values)}")
        return update(self, row, values, expected_version)

    monkeypatch.setattr(ChangeSet, "update", watched)
    return found


@pytest.mark.takes(7)
def test_every_form_that_edits_says_what_it_saw(client, forms, unversioned):
    """Each form of each page is sent; whatever it writes over it names with its version."""
    faults = {}
    for form in forms if is_long() else shapes(forms, lambda form: True):
        if re.search(r"/(remove|crew/search|schedule|backup|import|begin|undo)", form.action):
            continue
        before = len(unversioned)
        post(client, form)
        if len(unversioned) > before:
            faults[re.sub(r"[0-9a-f-]{36}", "-", form.action), form.id[:20]] = set(unversioned[before:])
    assert faults == {}


@pytest.mark.takes(5)
def test_an_old_form_writes_over_nothing(client, opened, forms):
    """Two people have the same form open; the second hears of the first and loses nothing that was typed."""
    tried = 0
    for form in shapes(forms):
        name = next((n for n in form.typed if otherwise(form, n) is not None), None)
        if name is None:
            continue
        first = post(client, form, **{name: otherwise(form, name)})
        before = everything(opened)
        second = post(client, form, **{name: otherwise(form, name)[::1].replace("and more", "and other").replace(".", ".1", 1)})
        if first.status_code == 200:
            tried += 1
            assert second.status_code == 422, form.action
            assert "while you were typing" in second.text, form.action
            assert changed(before, everything(opened)) == {}
    assert tried > 8
