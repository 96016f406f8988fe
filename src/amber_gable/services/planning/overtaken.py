"""What has overtaken a plan since it was made: weather, people, machines, gates, colours. In words.

Not here: what a new planning moves for it (making.moves), work of which nobody has said whether it was done (worknow).
"""

from collections import Counter
from collections.abc import Iterator, Mapping

from amber_gable.core.planning.crew.machines import Machine
from amber_gable.services.app.scope import Scope
from amber_gable.services.office.fleet import fleet_of
from amber_gable.services.planning.kept import SavedStint
from amber_gable.services.planning.making.keeping import colours_of
from amber_gable.services.planning.making.moves import who_is_away
from amber_gable.services.planning.morning import JobMorning


def overtaken(scope: Scope, today: JobMorning) -> list[str]:
    """Return why a job's plan should be mended, what touches most of it first; empty where it still holds."""
    if today.schedule is None or today.ahead is None or today.standing is None:
        return []
    found = Counter[str]()
    for why, count in _by_weather(today):
        found[why] += count
    now = scope.clock.now()
    ahead, fleet = [one for one in today.work if one.stint.starts_at > now and one.left], fleet_of(scope)
    for one in ahead:
        for why in _by_crew(scope, today, one.stint, fleet):
            found[f"{why}: {{n}} of work"] += 1
        if one.state == "held":
            found[f"{one.why}: {{n}} of planned work held up"] += 1
    early = sum(one.state == "done" and one.stint.starts_at > now for one in today.work)
    if early:
        found["{n} of planned work: done already, the hours are free"] = early
    said = [why.replace("{n}", f"{count} piece{'s' if count != 1 else ''}") for why, count in found.most_common()]
    return [f"{why[:1].upper()}{why[1:]}" for why in (*said, *_opened(today), *_recoloured(today))]


def _by_weather(today: JobMorning) -> Iterator[tuple[str, int]]:
    assert today.schedule is not None
    by_why = Counter(visit.broken_by for visit in today.schedule.visits if visit.broken_by)
    for why, count in by_why.items():
        yield f"{count} coat{'s' if count != 1 else ''} no longer hold{'' if count != 1 else 's'} by the newest forecast ({why})", count


def _by_crew(scope: Scope, today: JobMorning, stint: SavedStint, fleet: Mapping[str, Machine]) -> Iterator[str]:
    assert today.ahead is not None
    local = stint.starts_at.astimezone(today.ahead.zone)
    if off := who_is_away(scope, stint.painters, local.date()):
        yield f"{off} {'are' if ' and ' in off else 'is'} off on {local:%A} {local.day} {local:%B}"
    now = scope.clock.now().astimezone(today.ahead.zone).date()
    for key in dict.fromkeys((*stint.equipment, *stint.ways_up)):
        if key in fleet and not fleet[key].units_on(local.date(), now, today.job.id):
            yield f"no {fleet[key].label.lower()} is to be had on {local:%A} {local.day} {local:%B}"


def _opened(today: JobMorning) -> list[str]:
    assert today.schedule is not None
    assert today.standing is not None
    holds = {why for task in today.standing.tasks for why in task.held_by}
    hours: dict[str, float] = {}
    for row in today.schedule.unplaced:
        for why in row.get("held_by", ()):
            if why not in holds:
                hours[why] = hours.get(why, 0.0) + float(row.get("hours") or 0.0)
    return [f"{why} no longer holds work up: {count:.1f} h may be planned" for why, count in hours.items()]


def _recoloured(today: JobMorning) -> list[str]:
    assert today.schedule is not None
    before, now = today.schedule.colours, colours_of(today.job)
    other = [i for i, mark in now.items() if before.get(i, mark) != mark]
    return [f"{len(other)} surface{'s have' if len(other) != 1 else ' has'} another colour than the plan was made for"] if other else []
