"""Rates as a whole: three made-up firms paint five kinds of house in three states; hours and money by the square metre of wall.

Prints the table of docs/rates.md. Run by `make firms`.
"""

import tempfile
from collections.abc import Iterator
from dataclasses import dataclass, replace
from pathlib import Path

from tests.support.seeded import own_copy, seeded

from amber_gable.core.survey.quick import QuickFacts
from amber_gable.demo import tollkeepers
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes import changes
from amber_gable.services.jobs import jobs
from amber_gable.services.survey import quick
from amber_gable.services.takeoff.job import job_takeoff


@dataclass(frozen=True)
class Firm:
    """A made-up firm: how many painters, where, in which units."""

    name: str
    painters: int
    country: str
    units: str


@dataclass(frozen=True)
class House:
    """What a firm needs for a house, by the square metre of its walls: painter-hours, days, money."""

    firm: str
    substrate: str
    storeys: int
    grade: str
    hours_m2: float
    days: int
    price_m2: float


FIRMS = (Firm("solo", 1, "us", "us"), Firm("crew of three", 3, "us", "us"), Firm("European", 3, "eu", "metric"))
SUBSTRATES = ("wood-siding", "fibre-cement", "vinyl", "stucco", "brick")
GRADES = ("good", "fair", "poor")
# 40 m round it, twelve windows and two doors, two gables; built 1985.
PERIMETER_M, EAVES_M = 40.0, {1: 2.7, 2: 5.4}


def house_of(scope: Scope, firm: Firm, substrate: str, grade: str, storeys: int) -> House:
    """Return what a firm needs for a house of a kind."""
    paced = QuickFacts(PERIMETER_M, EAVES_M[storeys], storeys, 2, substrate, grade, {"windows": 12, "doors": 2})
    name = f"{firm.name} {substrate} {grade} {storeys}"
    facts = replace(tollkeepers.JOB.facts, name=name, country=firm.country, units=firm.units, year_built=1985, lead_before_year=1978)
    job_id = quick.create(scope, facts, paced)
    with changes.changing(scope, "crew", job_id) as change:
        row = change.whole_job()
        change.update(row, {"rules": {**row.rules, "painters": firm.painters}})
    takeoff = job_takeoff(scope, jobs.whole(scope, job_id))
    walls = sum(p.net_area_m2 for p in takeoff.parts if p.spec.part.facts.kind in ("wall", "gable"))
    return House(firm.name, substrate, storeys, grade, takeoff.days.hours / walls, takeoff.days.days, float(takeoff.price.total) / walls)


def houses(scope: Scope) -> Iterator[House]:
    """Yield every firm's houses."""
    for firm in FIRMS:
        for substrate in SUBSTRATES:
            for storeys in EAVES_M:
                for grade in GRADES:
                    yield house_of(scope, firm, substrate, grade, storeys)


def main() -> None:
    """Print the table."""
    base = Path(tempfile.mkdtemp())
    folder, pool = seeded(base)
    print("| Firm | Walls | Storeys | good h/m2 | fair | poor | days | money/m2 good | fair | poor |")
    print("|---|---|---|---|---|---|---|---|---|---|")
    with own_copy(folder, pool, base / "own") as scope:
        row: list[House] = []
        for house in houses(scope):
            row.append(house)
            if len(row) == len(GRADES):
                hours = " | ".join(f"{h.hours_m2:.2f}" for h in row)
                days = " ".join(str(h.days) for h in row)
                money = " | ".join(f"{h.price_m2:.0f}" for h in row)
                print(f"| {house.firm} | {house.substrate.replace('-', ' ')} | {house.storeys} | {hours} | {days} | {money} |")
                row = []


if __name__ == "__main__":
    main()
