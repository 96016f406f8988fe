"""Openings: adding, changing, copying along, mirroring, repeating a storey, removing."""

from collections.abc import Sequence
from dataclasses import asdict, dataclass, replace

from amber_gable.core import geometry
from amber_gable.core.geometry import Rect
from amber_gable.core.geometry.openings import along, mirrored_opening, spread, storey_up
from amber_gable.core.knowledge import Knowledge
from amber_gable.errors import FieldErrors
from amber_gable.services.app.scope import Scope
from amber_gable.services.changes.changes import ChangeSet, changing, require
from amber_gable.services.survey.building.matching import match_surfaces
from amber_gable.services.survey.building.rows import rect_of, region_of, shape_of
from amber_gable.store.models import Elevation, Item, Job, Opening
from amber_gable.store.types import new_id

MOVES = ("not-tried", "free", "painted-shut")
_SHUTTER, _TRIM = "shutter", "window-trim"


@dataclass(frozen=True)
class OpeningFacts:
    """Kind, size and place of an opening, from the left corner and the foot of its elevation."""

    kind: str
    width_m: float
    height_m: float
    left_m: float
    sill_m: float
    panes_across: int = 1
    panes_up: int = 1
    moves: str = "not-tried"

    @property
    def rect(self) -> Rect:
        return Rect(self.left_m, self.sill_m, self.width_m, self.height_m)

    def check(self, knowledge: Knowledge) -> None:
        """Refuse what is in no list.

        Raises
        ------
        FieldErrors
        """
        faults = {}
        if self.kind not in knowledge.openings:
            faults["kind"] = "Choose what it is from the list."
        for name in ("panes_across", "panes_up"):
            if not 1 <= getattr(self, name) <= 20:
                faults[name] = "Between 1 and 20 panes or panels."
        if self.moves not in MOVES:
            faults["moves"] = "Say whether it opens: free, painted shut, or not tried."
        if faults:
            raise FieldErrors(faults)


def facts_of(row: Opening) -> OpeningFacts:
    return OpeningFacts(**{name: getattr(row, name) for name in OpeningFacts.__dataclass_fields__})


def elevation_in(job: Job, elevation_id: str) -> Elevation:
    return require(next((e for e in job.building.elevations if e.id == elevation_id), None), "side of the building")


def _find(job: Job, opening_id: str) -> tuple[Elevation, Opening]:
    pairs = ((e, o) for e in job.building.elevations for o in e.openings)
    return require(next(((e, o) for e, o in pairs if o.id == opening_id), None), "opening")


def check_fits(elevation: Elevation, facts: OpeningFacts, others: Sequence[Opening], knowledge: Knowledge) -> None:
    facts.check(knowledge)
    named = [(knowledge.openings[o.kind].label.lower(), rect_of(o)) for o in others]
    try:
        geometry.check_opening(region_of(elevation), facts.rect, named)
    except FieldErrors as fault:
        raise fault.on(elevation.id) from fault


def _add_all(change: ChangeSet, job: Job, elevation: Elevation, wanted: Sequence[OpeningFacts], knowledge: Knowledge) -> list[Opening]:
    standing = list(elevation.openings)
    added = []
    for facts in wanted:
        check_fits(elevation, facts, standing, knowledge)
        row = Opening(id=new_id(), version=1, elevation_id=elevation.id, **asdict(facts))
        change.add(row)
        standing.append(row)
        added.append(row)
    _surfaces_follow(change, job, elevation, standing, knowledge)
    return added


def _surfaces_follow(change: ChangeSet, job: Job, elevation: Elevation, standing: Sequence[Opening], knowledge: Knowledge) -> None:
    """Give each door a surface of its own, and take away those whose door is gone."""
    surfaces = [s for e in job.building.elevations for s in e.surfaces]
    match_surfaces(change, elevation, shape_of(elevation), standing, elevation.surfaces, surfaces, knowledge)


def add_opening(scope: Scope, job_id: str, elevation_id: str, facts: OpeningFacts) -> str:
    """Put an opening into a wall; a door becomes a surface of its own. Return its id.

    Raises
    ------
    FieldErrors
        If it does not fit or lies over another, with the place.
    """
    facts.check(scope.knowledge)
    label = scope.knowledge.openings[facts.kind].label.lower()
    with changing(scope, f"add the {label}", job_id) as change:
        job = change.whole_job()
        return _add_all(change, job, elevation_in(job, elevation_id), [facts], scope.knowledge)[0].id


@dataclass(frozen=True)
class OpeningSet:
    """Equal openings entered at once, with what belongs to them.

    Parameters
    ----------
    facts : OpeningFacts
        Of each; its own `left_m` does not count.
    count : int
    lefts_m : tuple of float
        As `geometry.openings.spread` reads them.
    has_shutters : bool
        A shutter on either side of each, as high as it is.
    has_trim : bool
        Trim round each, as one run among the trim.
    rise_m : float
        The same again so much higher; 0 for none.
    is_opposite : bool
        The same again on the opposite side of the block, mirrored.
    """

    facts: OpeningFacts
    count: int = 1
    lefts_m: tuple[float, ...] = ()
    has_shutters: bool = False
    has_trim: bool = False
    rise_m: float = 0.0
    is_opposite: bool = False


def add_set(scope: Scope, job_id: str, elevation_id: str, wanted: OpeningSet) -> None:
    """Put equal openings into a wall, with their shutters and trim, a storey up and on the opposite side; all of them or none.

    Raises
    ------
    FieldErrors
        If one does not fit or lies over another, with the place.
    """
    knowledge = scope.knowledge
    wanted.facts.check(knowledge)
    label = knowledge.openings[wanted.facts.kind].label.lower()
    with changing(scope, f"add {wanted.count} {label}s" if wanted.count > 1 else f"add the {label}", job_id) as change:
        job = change.whole_job()
        elevation = elevation_in(job, elevation_id)
        width = region_of(elevation).bounds[2]
        lefts = spread(width, wanted.facts.width_m, wanted.count, wanted.lefts_m)
        row = [replace(wanted.facts, left_m=round(left, 6)) for left in lefts]
        rows = [*row, *(replace(facts, sill_m=facts.sill_m + wanted.rise_m) for facts in row if wanted.rise_m)]
        _add_all(change, job, elevation, _with_shutters(rows, wanted, knowledge), knowledge)
        sides = 1
        if wanted.is_opposite:
            sides, opposite = 2, _opposite(job, elevation)
            there = region_of(opposite).bounds[2]
            mirrored = [replace(f, left_m=round(mirrored_opening(f.rect, there).left, 6)) for f in rows]
            _add_all(change, job, opposite, _with_shutters(mirrored, wanted, knowledge), knowledge)
        if wanted.has_trim:
            _trim(change, job, wanted.facts, len(rows) * sides, knowledge)


def _with_shutters(rows: Sequence[OpeningFacts], wanted: OpeningSet, knowledge: Knowledge) -> list[OpeningFacts]:
    """Return openings, each with a shutter on either side where they are wanted."""
    if not wanted.has_shutters:
        return list(rows)
    shutter = knowledge.openings[_SHUTTER]
    pairs = []
    for facts in rows:
        hung = replace(facts, kind=_SHUTTER, width_m=shutter.width_m, panes_across=1, panes_up=1, moves="not-tried")
        pairs += [replace(hung, left_m=facts.left_m - shutter.width_m), replace(hung, left_m=facts.left_m + facts.width_m)]
    return [*rows, *pairs]


def _opposite(job: Job, elevation: Elevation) -> Elevation:
    """Return the wall of the same block on its other side.

    Raises
    ------
    FieldErrors
    """
    block, _, side = elevation.key.rpartition("/")
    other = {"front": "back", "back": "front", "left": "right", "right": "left"}.get(side, "")
    found = next((e for e in job.building.elevations if e.block_id == elevation.block_id and e.key == f"{block}/{other}"), None)
    if found is None:
        raise FieldErrors({"is_opposite": "This wall has no opposite one that stands free."})
    return found


def _trim(change: ChangeSet, job: Job, facts: OpeningFacts, count: int, knowledge: Knowledge) -> None:
    """Add the trim round openings: all sides of a window, three of a door; to the run that is there, if one was entered."""
    is_door = knowledge.openings[facts.kind].substrate is not None
    length = count * (2 * facts.height_m + (1 if is_door else 2) * facts.width_m)
    kind = knowledge.items[_TRIM]
    there = next((i for i in job.building.items if i.kind == _TRIM and not i.is_derived), None)
    if there is not None:
        change.follow(there, {"length_m": there.length_m + length})
        return
    change.add(
        Item(
            id=new_id(), version=1, building_id=job.building.id, elevation_id=None, key="", substrate=kind.substrate, is_derived=False,
            kind=_TRIM, length_m=length, girth_m=kind.girth_m, count=1, name=kind.label, is_painted=True,
        )
    )  # fmt: skip


def update_opening(scope: Scope, job_id: str, opening_id: str, facts: OpeningFacts, version: int | None = None) -> str:
    """Change an opening; return the id of its elevation.

    Raises
    ------
    FieldErrors, ConflictError
    """
    facts.check(scope.knowledge)
    with changing(scope, "change the opening", job_id) as change:
        job = change.whole_job()
        elevation, row = _find(job, opening_id)
        change.label = f"change the {scope.knowledge.openings[facts.kind].label.lower()}"
        check_fits(elevation, facts, [o for o in elevation.openings if o.id != opening_id], scope.knowledge)
        if change.update(row, asdict(facts), version):
            _surfaces_follow(change, job, elevation, elevation.openings, scope.knowledge)
        return elevation.id


def copy_along(scope: Scope, job_id: str, opening_id: str, count: int, apart_m: float) -> str:
    """Copy an opening along its elevation; return the id of the elevation.

    Raises
    ------
    FieldErrors
        If a copy does not fit or lies over another; then none is made.
    """
    with changing(scope, "copy the opening", job_id) as change:
        job = change.whole_job()
        elevation, row = _find(job, opening_id)
        change.label = f"copy the {scope.knowledge.openings[row.kind].label.lower()} {count} times"
        facts = asdict(facts_of(row))
        wanted = [OpeningFacts(**facts | {"left_m": r.left}) for r in along(rect_of(row), count, apart_m)]
        _add_all(change, job, elevation, wanted, scope.knowledge)
        return elevation.id


def repeat_storey(scope: Scope, job_id: str, elevation_id: str, sill_from_m: float, sill_to_m: float, rise_m: float) -> None:
    """Repeat the openings whose sills lie between two heights, a storey higher (or lower).

    Raises
    ------
    FieldErrors
        If there are none, or one does not fit; then none is made.
    """
    with changing(scope, "repeat the storey", job_id) as change:
        job = change.whole_job()
        elevation = elevation_in(job, elevation_id)
        chosen = [o for o in elevation.openings if sill_from_m - 1e-6 <= o.sill_m <= sill_to_m + 1e-6 and not _is_door(o, scope.knowledge)]
        if not chosen:
            raise FieldErrors({"sill_from_m": "No window has its sill between these heights. Doors are not repeated."})
        raised = storey_up([rect_of(o) for o in chosen], rise_m)
        wanted = [OpeningFacts(**asdict(facts_of(o)) | {"sill_m": r.bottom}) for o, r in zip(chosen, raised, strict=True)]
        _add_all(change, job, elevation, wanted, scope.knowledge)


def _is_door(opening: Opening, knowledge: Knowledge) -> bool:
    return knowledge.openings[opening.kind].substrate is not None


def mirror(scope: Scope, job_id: str, elevation_id: str, from_elevation_id: str) -> None:
    """Give an elevation the openings of another, mirrored left to right.

    Raises
    ------
    FieldErrors
        If one does not fit or lies over one that is there; then none is made.
    """
    with changing(scope, "mirror the openings", job_id) as change:
        job = change.whole_job()
        target, source = elevation_in(job, elevation_id), elevation_in(job, from_elevation_id)
        change.label = f"mirror {source.name} onto {target.name}"
        if not source.openings:
            raise FieldErrors({"from_elevation_id": f"{source.name} has no openings to mirror."})
        width = region_of(target).bounds[2]
        wanted = [
            OpeningFacts(**asdict(facts_of(o)) | {"left_m": round(mirrored_opening(rect_of(o), width).left, 6)}) for o in source.openings
        ]
        _add_all(change, job, target, wanted, scope.knowledge)


def remove_opening(scope: Scope, job_id: str, opening_id: str) -> str:
    """Take an opening out of its wall; return the id of its elevation."""
    with changing(scope, "remove the opening", job_id) as change:
        job = change.whole_job()
        elevation, row = _find(job, opening_id)
        change.label = f"remove the {scope.knowledge.openings[row.kind].label.lower()}"
        # First its surface, if it has one: undo brings rows back in the opposite order.
        _surfaces_follow(change, job, elevation, [o for o in elevation.openings if o.id != opening_id], scope.knowledge)
        change.delete(row)
        return elevation.id
