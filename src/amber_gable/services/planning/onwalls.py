"""Coats that are on the walls: by the record with their real hours; by the plan those whose time has come and of which nobody spoke."""

from datetime import UTC, datetime, timedelta

from amber_gable.core.planning.state import OnRecord
from amber_gable.services.app.scope import Scope
from amber_gable.services.log.coats.running import put_on_until
from amber_gable.services.log.record import recorded
from amber_gable.services.outlook.outlook import painted_surfaces
from amber_gable.services.planning import schedules
from amber_gable.services.planning.kept import Visit
from amber_gable.services.systems.coatings import Coat, SurfaceCoating, coatings_of
from amber_gable.store.models import Job, Surface

# Longer ago no film is young any more.
_YOUNG = timedelta(days=5)
# Work of which nobody spoke is taken to be on for so long, where rain might find it.
_UNSAID = timedelta(hours=24)
_FINISH = ("coats", "later")


def coats_on(scope: Scope, job: Job) -> tuple[Visit, ...]:
    """Return the coats that are on or under way, the oldest first.

    Notes
    -----
    A coat of which the record says nothing counts while its hours are not a day past: what might be on must not be rained on.
    """
    now, record = scope.clock.now(), recorded(scope, job)
    coatings = coatings_of(scope, job)
    on = [v for s in painted_surfaces(job) for v in _on_record(scope, job, s, coatings[s.id], record, now)]
    said = {(v.surface_id, v.coat) for v in on}
    kept = schedules.saved(scope, job)
    for visit in kept.visits if kept else ():
        is_spoken_of = any(task in record for task in visit.tasks)
        if visit.starts_at <= now < visit.ends_at + _UNSAID and not is_spoken_of and (visit.surface_id, visit.coat) not in said:
            on.append(visit)
    return tuple(sorted(on, key=lambda v: (v.starts_at, v.surface_name)))


def _finish_coats(coating: SurfaceCoating) -> list[Coat]:
    return [coat for coat in coating.each if coat.turn in _FINISH]


def _on_record(
    scope: Scope, job: Job, surface: Surface, coating: SurfaceCoating, record: dict[str, OnRecord], now: datetime
) -> list[Visit]:  # fmt: skip
    """Return the finish coats of a surface that the record has, as visits with their real hours."""
    out = []
    for number, coat in enumerate(_finish_coats(coating), 1):
        told = record.get(f"{surface.id}:{coat.step}")
        if told is None or told.began_s is None or told.is_again:
            continue
        began = datetime.fromtimestamp(told.began_s, UTC)
        task = f"{surface.id}:{coat.step}"
        _, ended = put_on_until(scope, job, task, told, now)
        if ended >= now - _YOUNG:
            out.append(Visit(surface.id, surface.name, surface.elevation_id, number, began, ended, ended, None, "on record", (task,)))
    return out


def coat_due(scope: Scope, job: Job, surface_id: str) -> int:
    """Return which finish coat of a surface is under way or comes next, by the record; the last where all are on."""
    coating, record = coatings_of(scope, job).get(surface_id), recorded(scope, job)
    coats = _finish_coats(coating) if coating else []
    told = [record.get(f"{surface_id}:{coat.step}", OnRecord()) for coat in coats]
    return next((n for n, one in enumerate(told, 1) if not one.is_done), len(coats) or 1)


def coat_before(scope: Scope, job: Job, surface_id: str, coat: int) -> Visit | None:
    """Return the coat that lies under another one, where it is young enough to matter."""
    return next((v for v in coats_on(scope, job) if v.surface_id == surface_id and v.coat == coat - 1), None) if coat > 1 else None
