"""The tables of the knowledge: every row points to rows that are there, and a bad one is named by file, row and column."""

import pickle
import re
from functools import cache

import pytest

from amber_gable.core.geometry.profiles import SHAPES, factor_of
from amber_gable.core.knowledge import KnowledgeError
from amber_gable.core.knowledge.shipped import build, read_tables, shipped
from amber_gable.core.systems.check import references, rows_of

# Checked otherwise: by the shapes there are, and by the type of the column.
NOT_NAMES = {("profiles", "shape"), ("systems.tools", "coats_by")}


@cache
def _read_once() -> bytes:
    return pickle.dumps(read_tables())


def own_tables():
    """The shipped tables as plain data, to be spoilt."""
    return pickle.loads(_read_once())


@pytest.mark.parametrize(
    ("table", "row", "change", "words"),
    [
        ("substrates", "brick", {"family": "cheese"}, r"substrates\.brick\.family"),
        ("substrates", "brick", {"profile": "wavy"}, r"substrates\.brick\.profile: no “wavy”"),
        ("substrates", "brick", {"texture": "furry"}, r"substrates\.brick\.texture: no “furry”"),
        ("profiles", "lap", {"shape": "spiral"}, r"profiles\.lap\.shape: no shape “spiral”"),
        ("profiles", "lap", {"mm": {"exposure_mm": 100.0}}, r"profiles\.lap\.butt_mm: Give the butt"),
        ("profiles", "lap", {"mm": {"exposure_mm": -1.0, "butt_mm": 12.0}}, r"profiles\.lap\.exposure_mm: The exposure must be above 0"),
        ("profiles", "louvre", {"factor": 0.5}, r"profiles\.louvre\.factor"),
        ("openings", "entry-door", {"substrate": "marzipan"}, r"openings\.entry-door\.substrate: no “marzipan”"),
        ("openings", "vent", {"faces": 3}, r"openings\.vent\.faces"),
        ("openings", "vent", {"width_m": 0.0}, r"openings\.vent\.width_m"),
        ("items", "post", {"measure": "weight"}, r"items\.post\.measure"),
        ("conditions", "rot", {"group": "smell"}, r"conditions\.rot\.group"),
        ("extents", "more", {"share": 7.0}, r"extents\.more\.share"),
        ("features", "car", {"group": "noise"}, r"features\.car\.group"),
        ("features", "car", {"clearance_m": -1.0}, r"features\.car\.clearance_m"),
        ("coatings", "acrylic", {"film": "butter"}, r"coatings\.acrylic\.film"),
        ("access", "tower", {"reach_m": 0.0}, r"access\.tower\.reach_m"),
        ("grounds", "firm", {"bounce": 3}, r"grounds\.firm\.bounce"),
        ("stocks", "brick", {"dries_h": 0.0}, r"stocks\.brick\.dries_h"),
        ("stocks", "render", {"family": "paper"}, r"stocks\.render\.family"),
        ("substrates", "brick", {"stock": "sponge"}, r"substrates\.brick\.stock: no “sponge”"),
        ("step_weather", "wash", {"wait": {"law": "magic"}}, r"step_weather\.wash\.wait\.law"),
        ("step_weather", "putty", {"wait": {"hours": -1.0}}, r"step_weather\.putty\.wait\.hours"),
        ("countries", "us", {"lead_before_year": "1978ish"}, r"countries\.us\.lead_before_year"),
    ],
)
def test_a_bad_row_is_named(table, row, change, words):
    tables = own_tables()
    tables[table][row] |= change
    with pytest.raises(KnowledgeError, match=words):
        build(tables)


@pytest.mark.parametrize(
    ("table", "row", "change", "words"),
    [
        ("rules", "nails", {"when": ["familly:wood"]}, r"systems\.rules\.nails\.when: no “familly:wood”"),
        ("rules", "nails", {"when": ["kind:wall|tent"]}, r"systems\.rules\.nails\.when: no “kind:tent”"),
        ("rules", "nails", {"unless": ["school:washing:never"]}, r"systems\.rules\.nails\.unless: no “school:washing:never”"),
        ("rules", "nails", {"add": ["hammer"]}, r"systems\.rules\.nails\.add: no “hammer”"),
        ("rules", "nails", {"primer": "acrylic"}, r"systems\.rules\.nails\.primer: no “acrylic”"),
        ("rules", "nails", {"cautions": ["bees"]}, r"systems\.rules\.nails\.cautions: no “bees”"),
        ("rules", "nails", {"school": "oxford"}, r"systems\.rules\.nails\.school: no “oxford”"),
        ("rules", "nails", {"technique": "dance"}, r"systems\.rules\.nails\.technique: no “dance”"),
        ("rules", "nails", {"colour": "red"}, r"systems\.rules\.nails\.colour"),
        ("steps", "scrape", {"hazards": ["bees"]}, r"systems\.steps\.scrape\.hazards: no “bees”"),
        ("steps", "strip", {"chemicals": ["tea"]}, r"systems\.steps\.strip\.chemicals: no “tea”"),
        ("steps", "sand", {"tools": ["spoon"]}, r"systems\.steps\.sand\.tools: no “spoon”"),
        ("steps", "sand", {"ppe": ["cape"]}, r"systems\.steps\.sand\.ppe: no “cape”"),
        ("tools", "sander", {"group": "toy"}, r"systems\.tools\.sander\.group"),
        ("steps", "sand", {"uses": ["glitter"]}, r"systems\.steps\.sand\.uses: no “glitter”"),
        ("steps", "sand", {"uses": ["caulk"]}, r"systems\.steps\.sand\.uses: no “caulk by the m2 found”"),
        ("consumables", "caulk", {"covers": {"kg": 3}}, r"systems\.consumables\.caulk\.covers"),
        ("steps", "scrape", {"of": "mood"}, r"systems\.steps\.scrape\.of"),
        ("cautions", "lead", {"when": ["lead:maybe"]}, r"systems\.cautions\.lead\.when: no “lead:maybe”"),
        ("schools", "sun", {"default": "moon"}, r"systems\.schools\.sun\.default: no “moon”"),
    ],
)
def test_a_bad_row_of_systems_is_named(table, row, change, words):
    tables = own_tables()
    tables["systems"][table][row] |= change
    with pytest.raises(KnowledgeError, match=words):
        build(tables)


def test_a_product_of_no_family_or_for_no_material_is_named():
    bad = (({"family": "jam"}, "family: no “jam”"), ({"goes_on": ["jam"]}, "goes_on: no “jam”"), ({"over": ["jam"]}, "over"))
    for change, words in bad:
        tables = own_tables()
        tables["products"]["rivermark-roof"] |= change
        with pytest.raises(KnowledgeError, match=rf"products\.rivermark-roof\.{words}"):
            build(tables)


def test_thresholds_of_tests_are_all_there():
    tables = own_tables()
    del tables["site_tests"]["crack_open_mm"]
    with pytest.raises(KnowledgeError, match=r"site_tests\.crack_open_mm"):
        build(tables)


def test_handbook_numbers_stand_in_the_tables(knowledge):
    # Handbook 3, 5, 7, 12.
    assert knowledge.site_tests.crack_open_mm == 1.5
    assert knowledge.site_tests.wood_siding_moisture_pct == 15.0
    assert 12 <= knowledge.site_tests.wood_deck_moisture_pct <= 17
    assert knowledge.countries["us"].lead_before_year == 1978
    assert knowledge.features["power-line"].clearance_m == 3.0
    assert [knowledge.access[k].max_wind_m_s for k in ("ground", "ladder", "tower")] == [11.0, 9.0, 7.6]
    assert 1.25 <= knowledge.profiles["shake"].factor <= 1.35
    assert 1.1 <= knowledge.profiles["panel-door"].factor <= 1.2
    assert 1.15 <= knowledge.textures["brick"].factor <= 1.25
    assert 1.5 <= knowledge.textures["split-block"].factor <= 2


def test_every_condition_of_the_handbook_can_be_pinned(knowledge):
    labels = " ".join(row.label.lower() for row in knowledge.conditions.values())
    for word in (
        "sound",
        "faded",
        "chalking",
        "peeling",
        "blistering",
        "mildew",
        "bare",
        "cracked",
        "crumbling",
        "rot",
        "rust",
        "nail heads",
        "caulk",
        "putty",
        "iron",
        "soot, pollen",
        "glossy",
        "grey weathered",
        "mill glaze",
        "efflorescence",
        "old sealant",
    ):
        assert word in labels, word
    families = {s.family for s in knowledge.substrates.values()}
    assert all(set(c.families) <= families for c in knowledge.conditions.values())


def test_measured_dimensions_win_over_the_table(knowledge):
    for name, row in knowledge.profiles.items():
        dimensions = dict.fromkeys(SHAPES[row.shape].dimensions, 50.0)
        if "board_mm" in dimensions:
            dimensions["board_mm"] = 300.0
        if dimensions:
            assert factor_of(row, dimensions).how != factor_of(row).how, name


def walked_references():
    known = shipped()
    return sorted((table, column) for table, column, _ in references(known))


@pytest.mark.parametrize(("table", "column"), walked_references())
def test_every_column_that_names_a_row_refuses_an_unknown_word(table, column):
    tables = own_tables()
    rows = tables["systems"][table.removeprefix("systems.")] if table.startswith("systems.") else tables[table]
    name = next(iter(rows))
    is_list = not isinstance(getattr(rows_of(shipped(), table)[name], column), str | None)
    changed = {**rows, name: rows[name] | {column: ["telepathy"] if is_list else "telepathy"}}
    if table.startswith("systems."):
        tables["systems"] = tables["systems"] | {table.removeprefix("systems."): changed}
    else:
        tables[table] = changed
    with pytest.raises(KnowledgeError, match=rf"{re.escape(table)}\.{re.escape(name)}\.{column}: no “telepathy”"):
        build(tables)


def test_columns_that_hold_words_of_other_tables_are_all_walked():
    """A column whose every word is a row of some table is a reference, and must be among those that are checked."""
    known = shipped()
    walked = {(table, column) for table, column, _ in references(known)}
    names = {t: set(getattr(known, t)) for t in type(known).model_fields if isinstance(getattr(known, t), dict)}
    names |= {f"systems.{t}": set(getattr(known.systems, t)) for t in type(known.systems).model_fields}
    missed = set()
    for table in names:
        for column in type(next(iter(rows_of(known, table).values()))).model_fields:
            values = [getattr(row, column) for row in rows_of(known, table).values()]
            words = {
                w for v in values for w in ((v,) if isinstance(v, str) else v if isinstance(v, tuple) else ()) if isinstance(w, str) and w
            }
            if len(words) > 2 and any(words <= rows for rows in names.values()) and (table, column) not in walked:
                missed.add((table, column))
    assert missed <= NOT_NAMES, "a column that names rows is not checked"
