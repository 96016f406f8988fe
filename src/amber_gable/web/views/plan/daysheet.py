"""A day for the crew to take along, as text or on paper: who goes where and when, the weather, what else there is, gates, cautions."""

from datetime import date, datetime
from typing import Any

from amber_gable.services.app.scope import Scope
from amber_gable.services.planning import morning
from amber_gable.units import both
from amber_gable.web.sentences import Sentence, next_step, stint_line
from amber_gable.web.views.plan.board import sides_in
from amber_gable.web.views.plan.tomorrow import Site, tomorrow_of

CAUTION = both(
    "Nobody goes up in thunder, gusts or on wet rungs; wires 3 m (10 ft) away. Paint shot under the skin: a surgeon at once, however small "
    "the hole. Rags with oil lie flat or under water. The label and the safety sheet win."
)


def day_values(scope: Scope, now: datetime, day: date) -> dict[str, Any]:
    """Return what the sheet of a day shows."""
    turns, sites = tomorrow_of(scope, now, day)
    rows = [{"site": site, "gates": _gates(scope, site), "answer": _answer(scope, site, now, day)} for site in sites]
    return {"turns": turns, "rows": rows, "day": day, "stint_line": stint_line, "sides_in": sides_in, "caution": CAUTION}


def _gates(scope: Scope, site: Site) -> list[str]:
    found = morning.job_morning(scope, site.job).gates
    return [f"{gate.hazard.capitalize()}: {len(gate.open_components)} parts not cleared; no preparation on them" for gate in found]


def _answer(scope: Scope, site: Site, now: datetime, day: date) -> Sentence | None:
    """Return the sentence of the start page, where the sheet is that of today."""
    return next_step(morning.job_morning(scope, site.job), now) if day == now.date() else None


def day_text(values: dict[str, Any]) -> str:
    """Return the sheet as plain text, for a message."""
    day: date = values["day"]
    lines = [f"{day:%A} {day.day} {day:%B}", ""]
    for row in values["rows"]:
        site: Site = row["site"]
        rain = "no forecast reaches there" if site.rain_pct is None else f"chance of rain {site.rain_pct:.0f} %"
        lines.append(f"{site.job.name} ({rain})")
        if row["answer"] is not None:
            lines.append(f"  {row['answer'].lead} {row['answer'].rest}".rstrip())
        lines += [f"  ! {gate}." for gate in row["gates"]]
        if site.instead:
            lines.append(f"  If it rains or stays wet: {'; '.join(site.instead)}.")
        lines.append("")
    lines += [f"{turn.message}\n" for turn in values["turns"]]
    return "\n".join([*lines, CAUTION, ""])
