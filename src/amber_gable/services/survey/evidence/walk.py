"""The walk round the house, saved answer by answer."""

from collections.abc import Sequence
from dataclasses import dataclass

from amber_gable.core.survey import walk
from amber_gable.core.survey.walk import Progress, Question, Station
from amber_gable.errors import FieldErrors, NotFoundError
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import ChangeSet, changing
from amber_gable.services.changes.seen import part_key
from amber_gable.services.survey.building.openings import elevation_in
from amber_gable.store import queries
from amber_gable.store.models import Feature, Job, WalkAnswer
from amber_gable.store.types import new_id

# Walls smaller than this are looked at with the one they belong to.
_OWN_STATION_M2 = 3.0


@dataclass(frozen=True)
class WalkState:
    stations: tuple[Station, ...]
    answers: dict[tuple[str, str], str]
    progress: Progress
    missing: list[str]
    # Of it, what is not a station of the walk.
    unsaid: list[str]

    @property
    def quick(self) -> dict[str, str]:
        """Notes of the quick survey: grade, storeys, openings that found no room; empty where there was none."""
        return {question: answer for (station, question), answer in self.answers.items() if station == walk.QUICK}


def stations_of(job: Job) -> tuple[Station, ...]:
    """Return the walls worth a station, in walking order, and the whole house."""
    walls = []
    for e in job.building.elevations:
        xs, ys = [x for x, _ in e.outline], [y for _, y in e.outline]
        if e.kind in ("wall", "deck", "steps") and max(xs) * max(ys) >= _OWN_STATION_M2:
            walls.append((e.id, e.name))
    return walk.stations(walls)


def state(scope: Scope, job: Job) -> WalkState:
    with scope.reading() as session:
        answers = {(a.station, a.question): a.answer for a in queries.walk_answers(session, job.id)}
        tests, findings = queries.site_tests(session, job.id), queries.findings(session, job.id)
    where = stations_of(job)
    keys = {s.key for s in where}
    openings = [o for e in job.building.elevations for o in e.openings]
    kinds = scope.knowledge
    damage = [f for f in findings if kinds.conditions[f.kind].group == "damage" and not f.acknowledged_by]
    already = walk.Known(
        year_built=job.year_built,
        walls_without_openings=[e.name for e in job.building.elevations if e.id in keys and e.kind == "wall" and not e.openings],
        unknown_coatings=[s.name for e in job.building.elevations for s in e.surfaces if s.is_painted and s.coating == "unknown"],
        untested=not tests,
        unacknowledged_damage=len(damage),
        windows_not_tried=sum(kinds.openings[o.kind].moves and o.moves == "not-tried" for o in openings),
        is_quick=job.building.is_quick,
    )
    return WalkState(
        where, answers, walk.progress(where, set(answers)), walk.missing(where, answers, already), walk.unsaid(answers, already)
    )


def question_at(job: Job, station: str, question: str) -> tuple[Station, Question]:
    """Return a station and one of its questions.

    Raises
    ------
    NotFoundError
    """
    place = next((s for s in stations_of(job) if s.key == station), None)
    asked = next((q for q in walk.questions_at(station) if q.key == question), None)
    if place is None or asked is None:
        raise NotFoundError("This station is not on the walk (any more).")
    return place, asked


def answer(scope: Scope, job: Job, station: str, question: str, given: Sequence[str]) -> None:
    """Save an answer, and what follows from it: things noted round the house, the ground at a wall.

    Raises
    ------
    FieldErrors
        If it is none of the options.
    """
    place, asked = question_at(job, station, question)
    options = {value for value, _ in asked.options}
    chosen = [value for value in given if value]
    if any(value not in options for value in chosen) or (not chosen and not asked.is_many) or (len(chosen) > 1 and not asked.is_many):
        raise FieldErrors({"answer": "Choose one of the answers."})
    said = " ".join(sorted(chosen)) or "none"
    with changing(scope, f"{place.name}: {asked.key}", job.id) as change:
        rows = queries.walk_answers(change.session, job.id)
        row = next((r for r in rows if (r.station, r.question) == (station, question)), None)
        now = row.answer if row is not None else ""
        change.compare(part_key(job.id, "walk", f"{station} {question}"), {"answer": now}, {"answer": said})
        if row is None:
            change.add(
                WalkAnswer(id=new_id(), version=1, job_id=job.id, station=station, question=question, answer=said, answered_at=change.at)
            )
        else:
            change.follow(row, {"answer": said, "answered_at": change.at})
        if asked.notes_features:
            _note(change, scope, job, station, options, chosen)
        if question == "ground":
            whole = change.whole_job()
            change.follow(elevation_in(whole, station), {"ground": chosen[0]})


def _note(change: ChangeSet, scope: Scope, job: Job, station: str, options: set[str], chosen: Sequence[str]) -> None:
    """Note what was marked at this wall and take off what was unmarked, unless more is known of it."""
    here = [f for f in queries.features(change.session, job.id) if f.elevation_id == station and f.kind in options]
    for kind in chosen:
        if not any(f.kind == kind for f in here):
            # How near a wire comes is asked for afterwards; until then it counts as too near.
            near = 0.0 if scope.knowledge.features[kind].clearance_m else None
            change.add(
                Feature(
                    id=new_id(), version=1, job_id=job.id, elevation_id=station, kind=kind, note="", distance_m=near,
                    shade_from_deg=None, shade_to_deg=None, shade_up_to_deg=None, hex=None, is_kept_off=False,
                )
            )  # fmt: skip
    for row in here:
        if row.kind not in chosen and not (row.note or row.hex or row.is_kept_off):
            change.delete(row)
