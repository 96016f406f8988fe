"""The application against docs/worked-examples.md: paper worked without it, every line evaluated again here."""

import math
import re
from pathlib import Path

import pytest

from amber_gable.services.jobs import jobs
from amber_gable.services.takeoff.job import job_takeoff

PAPER = Path(__file__).parents[3] / "docs" / "worked-examples.md"
# Names and plain arithmetic: nothing that could ask the application.
ALLOWED = {"round": round, "ceil": math.ceil, "floor": math.floor}
LINE = re.compile(r"(?P<name>\w+) = (?P<sum>[\w\s.+\-*/(),]+?) -> (?P<result>-?[\d.]+)")
BOUGHT = re.compile(r"(?P<product>[\w-]+) (?P<colour>\S+): (?P<need>\w+) = (?P<litres>[\d.]+) L -> (?P<cans>.+) = (?P<price>[\d.]+)")


def blocks(kind: str) -> list[tuple[str, list[str]]]:
    found = re.findall(rf"^```{kind}([^\n]*)\n(.*?)^```", PAPER.read_text(encoding="utf-8"), re.M | re.S)
    return [(title.strip(), body.strip().splitlines()) for title, body in found]


@pytest.fixture(scope="module")
def paper() -> dict[str, float]:
    """Every name on the paper with its value, each line having been checked against the result written beside it."""
    values: dict[str, float] = {}
    for _, lines in blocks("calc"):
        for line in lines:
            found = LINE.fullmatch(line)
            assert found, f"cannot be read: {line}"
            value = eval(found["sum"], {"__builtins__": {}}, ALLOWED | values)
            assert value == pytest.approx(float(found["result"]), abs=6e-5), line
            values[found["name"]] = value
    return values


def job_called(opened, name):
    return jobs.whole(opened, next(j.id for j in jobs.list_jobs(opened) if j.name == name))


@pytest.mark.parametrize("name", ["Tollkeeper's House", "Slipway Boathouse", "Quarry Lane 9", "Orchard Deck"])
def test_a_job_agrees_with_the_paper_to_the_last_can(opened, paper, name):
    (bought,) = [lines for title, lines in blocks("buy") if title == name]
    lots = {(lot.product_key, lot.colour or "plain"): lot for lot in job_takeoff(opened, job_called(opened, name)).lots}
    on_paper = [BOUGHT.fullmatch(line) for line in bought]
    assert {(b["product"], b["colour"]) for b in on_paper} == set(lots)
    for b in on_paper:
        lot = lots[b["product"], b["colour"]]
        # The need on paper is rounded up to the millilitre; a verge ends 2 cm before a wall in the survey, not on paper.
        assert paper[b["need"]] == pytest.approx(float(b["litres"]), abs=1e-3 + 1e-9)
        assert lot.need_l == pytest.approx(paper[b["need"]], rel=2e-4, abs=1.1e-3)
        cans = {m[1]: int(m[0]) for m in re.findall(r"(\d+) x ([\w ]+?)(?= \+|$)", b["cans"])}
        assert {size.name: count for size, count in lot.packs.counts} == cans
        assert lot.price == float(b["price"])


def test_the_price_of_one_job_from_its_hours(opened, paper):
    price = job_takeoff(opened, job_called(opened, "Orchard Deck")).price
    assert (float(price.amount("paint")), float(price.amount("sundries"))) == (paper["paint"], paper["sundries"])
    assert float(price.amount("labour")) == pytest.approx(paper["labour"])
    assert (float(price.net), float(price.total)) == (paper["net"], paper["total"])
