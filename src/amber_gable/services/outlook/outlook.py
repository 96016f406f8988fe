"""The outlook of a job: its windows by the newest forecast, computed once per set of inputs.

The cache key is made of everything the result depends on, so that a stale answer cannot be shown:
another forecast, colour, rule or measurement is another key.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np

from amber_gable.core.air.sun import Place, Shade
from amber_gable.core.air.weather import Weather
from amber_gable.core.knowledge import Knowledge, Product
from amber_gable.core.survey.gates import GATES
from amber_gable.core.wall.climate import ClimateSurface, Observation, simulate
from amber_gable.core.wall.self_shade import LitTable
from amber_gable.core.windows import HouseRules, SiteLimits, Windows, find_windows_each
from amber_gable.core.windows.run import FILM_RISK, foreseen_under, windows_under
from amber_gable.errors import NotFoundError, PlanError
from amber_gable.services.app.scope import Scope
from amber_gable.services.jobs.jobs import rules_of
from amber_gable.services.jobs.rules import house_rules
from amber_gable.services.log.record import done_steps
from amber_gable.services.outlook.sightings import observations_of, stock_of
from amber_gable.services.outlook.skywatch import Seen, as_seen, seen_on
from amber_gable.services.outlook.weather import forecasts
from amber_gable.services.outlook.weather.forecasts import ForecastStatus, NoForecastError
from amber_gable.services.survey.around.shade import lit_tables, shades_of
from amber_gable.services.survey.around.surroundings import property_round
from amber_gable.services.systems.coatings import TURNS, SurfaceCoating, Turn, coatings_of
from amber_gable.services.systems.specs import house_of, schools_of
from amber_gable.store.models import Elevation, Job, Surface
from amber_gable.store.queries import USABLE

_BY_HAND = "brush"


@dataclass(frozen=True)
class Outlook:
    """Windows of a job's painted surfaces.

    Parameters
    ----------
    key : tuple
        Everything it was computed from; for caches further up.
    surface_ids : list of str, length S
        In walking order, as the rows of `windows`.
    windows : Windows
    zone : ZoneInfo
    issued_at, hour : datetime
        Of the forecast; and the full hour for which it was computed.
    place, weather, surfaces, rules
        What it was computed from: one `ClimateSurface` and one `HouseRules` a row.
    observations : tuple of Observation
        What was found on the surfaces, by row.
    turn : Turn
        Which coat of each surface is judged.
    near : Outlook or None
        The same within its forecast, of one that goes on beyond it.
    """

    key: tuple[object, ...]
    surface_ids: list[str]
    windows: Windows
    zone: ZoneInfo
    issued_at: datetime
    hour: datetime
    place: Place
    weather: Weather
    surfaces: tuple[ClimateSurface, ...]
    rules: tuple[HouseRules, ...]
    observations: tuple[Observation, ...] = ()
    turn: Turn = "coats"
    near: "Outlook | None" = None

    @property
    def since_s(self) -> float:
        """From when on the forecast errs; what was observed before is certain [s since 1970]."""
        return max(self.issued_at, self.hour).timestamp()

    def step_at(self, moment: datetime) -> int:
        """Return the quarter-hour a moment lies in, within the data."""
        grid = self.windows.climate.grid
        step = int(np.floor((moment.timestamp() - grid.epoch_s[0]) / grid.step_s + 1e-9))
        return min(max(step, 0), len(grid.epoch_s) - 1)

    def local(self, step: int) -> datetime:
        grid = self.windows.climate.grid
        return datetime.fromtimestamp(float(grid.epoch_s[0] + step * grid.step_s), UTC).astimezone(self.zone)

    def row(self, surface_id: str) -> int | None:
        return self.surface_ids.index(surface_id) if surface_id in self.surface_ids else None


def place_of(job: Job) -> Place:
    return Place(job.latitude_deg, job.longitude_deg, job.altitude_m)


def painted_surfaces(job: Job) -> list[Surface]:
    """Return the surfaces that are painted, in walking order."""
    return [s for elevation in job.building.elevations for s in elevation.surfaces if s.is_painted]


def climate_surface(
    surface: Surface, elevation: Elevation, shades: tuple[Shade, ...], knowledge: Knowledge, lit: LitTable | None = None, *,
    is_heated: bool = False,
) -> ClimateSurface:  # fmt: skip
    """Return what the weather sees of a surface of a heated building, or of one that is not."""
    return ClimateSurface.clad(
        surface.name, elevation.azimuth_deg, elevation.tilt_deg, 1 - surface.lrv_pct / 100,
        knowledge.cladding_of(surface.substrate, surface.lies_on), is_heated=is_heated and has_room_behind(surface, elevation),
        shades=shades, lit=lit, stock=stock_of(surface, knowledge),
    )  # fmt: skip


def has_room_behind(surface: Surface, elevation: Elevation) -> bool:
    """Return whether rooms lie behind a surface of a heated building: behind its walls and doors, and not under roofs or floors."""
    return surface.kind in ("wall", "door") and elevation.kind == "wall"


def status(scope: Scope, job: Job) -> ForecastStatus:
    """Fetch what is new in the forecast and say how it stands."""
    return forecasts.refresh(scope, place_of(job))


@dataclass(frozen=True)
class JudgedRow:
    """One painted surface as the engine judges it: what the weather sees of it, its paint, its limits."""

    surface_id: str
    surface: ClimateSurface
    product: Product
    rules: HouseRules


def judged_rows(scope: Scope, job: Job) -> list[JudgedRow]:
    """Return the painted surfaces that nothing holds up, in walking order."""
    coatings = coatings_of(scope, job)
    ids, surfaces = _climate_surfaces(scope, job, coatings)
    rules = rules_each(scope, job)
    rows = [JudgedRow(i, surface, coatings[i].product, rules[i]) for i, surface in zip(ids, surfaces, strict=True)]
    return [row for row in rows if not (row.rules.site and row.rules.site.held_by)]


def outlook(scope: Scope, job: Job, status: ForecastStatus) -> Outlook:
    """Return the windows of a job.

    Raises
    ------
    NoForecastError
        If there is no forecast that reaches ahead.
    PlanError
        If there is nothing to paint.
    """
    key, compute = _asked(scope, job, status)
    return scope.cached(key, compute)


def is_known(scope: Scope, job: Job, status: ForecastStatus) -> bool:
    """Return whether the windows of a job can be told at once: they are computed, or there is a reason why there are none."""
    try:
        key, _ = _asked(scope, job, status)
    except PlanError:
        return True
    return scope.kept(key) is not None


def _asked(scope: Scope, job: Job, status: ForecastStatus) -> tuple[tuple[object, ...], Callable[[], Outlook]]:
    """Return all that the windows of a job depend on, and how they are computed; raises as `outlook` does."""
    now = scope.clock.now()
    coatings = coatings_of(scope, job)
    ids, surfaces = _climate_surfaces(scope, job, coatings)
    if not surfaces:
        raise PlanError("No surface of this job is marked to be painted.", "surfaces")
    _check_reaches(scope, status, now, job)
    # The two observed days start at the hour; within it, nothing moves by itself.
    hour = now.replace(minute=0, second=0, microsecond=0)
    seen = seen_on(scope, job, now)
    observations = observations_of(scope, job, list(ids), now)
    each = rules_each(scope, job, seen)
    judged, rules = tuple(coatings[i].product for i in ids), tuple(each[i] for i in ids)
    model, count = scope.knowledge.forecast_errors, scope.settings.forecast_members
    key = (
        place_of(job), job.time_zone, model, count, seen.rain, observations, hour, ids, surfaces, judged, rules,
        status.issue_id, status.observed_to, status.observed_count,
    )  # fmt: skip

    def compute() -> Outlook:
        place = place_of(job)
        weather = as_seen(forecasts.weather_of(scope, place, status), seen.rain)
        assert status.issued_at is not None, "it was checked above"
        since_s = max(status.issued_at, hour).timestamp()
        windows = scope.calculated(foreseen_under, place, weather, surfaces, observations, judged, rules, since_s, model, count)
        return Outlook(
            key, list(ids), windows, ZoneInfo(job.time_zone), status.issued_at, hour, place, weather, surfaces, rules, observations
        )

    return key, compute


def of_turn(scope: Scope, job: Job, ahead: Outlook, turn: Turn) -> Outlook:
    """Return the outlook judged for another coat than the first: by its own label, under the colour that is on the surface then.

    Surfaces that have no such coat are not in it; but each has later coats, if only the same again.

    Raises
    ------
    NotFoundError
        If no surface has such a coat.
    """
    coatings = coatings_of(scope, job)
    coats = [(row, coatings[i].of(turn)) for row, i in enumerate(ahead.surface_ids)]
    if turn == "later":
        coats = [(row, coat or coatings[ahead.surface_ids[row]].of("coats")) for row, coat in coats]
    rows = [row for row, coat in coats if coat is not None or turn == "later"]
    if not rows:
        raise NotFoundError(f"No surface of this job has a coat of this kind: {TURNS[turn].lower()}.")
    by_row = dict(coats)
    worn = {row: None if coat is None else coat.worn_lrv_pct for row, coat in coats}
    surfaces = tuple(wearing(ahead.surfaces[row], worn[row]) for row in rows)
    products = tuple(coat.product if (coat := by_row[row]) is not None else ahead.windows.products[row] for row in rows)
    rules = tuple(ahead.rules[row] for row in rows)
    observations = tuple(replace(one, surface=rows.index(one.surface)) for one in ahead.observations if one.surface in rows)
    ids = [ahead.surface_ids[row] for row in rows]
    if turn == ahead.turn or (surfaces, products) == (ahead.surfaces, ahead.windows.products):
        return replace(ahead, turn=turn)
    key = (*ahead.key, turn, tuple(ids), surfaces, products)

    def compute() -> Outlook:
        near = None if ahead.near is None else of_turn(scope, job, ahead.near, turn)
        windows = windows_of(scope, ahead, near, surfaces, observations, products, rules)
        same = replace(ahead, key=key, turn=turn, near=near, surface_ids=ids, windows=windows)
        return replace(same, surfaces=surfaces, rules=rules, observations=observations)

    return scope.cached(key, compute)


def windows_of(
    scope: Scope, ahead: Outlook, near: Outlook | None, surfaces: Sequence[ClimateSurface], observations: Sequence[Observation],
    products: Sequence[Product], rules: Sequence[HouseRules],
) -> Windows:  # fmt: skip
    """Return the windows of other surfaces or coats under an outlook's weather.

    Parameters
    ----------
    near : Outlook or None
        The same rows within the forecast, where the outlook goes on beyond it: what is risked is known only of a forecast.
    """
    given = (ahead.place, ahead.weather, surfaces, observations, products, rules)
    if near is None:
        return scope.calculated(foreseen_under, *given, ahead.since_s, scope.knowledge.forecast_errors, scope.settings.forecast_members)
    windows = scope.calculated(windows_under, *given)
    return windows.also(near.windows.check(FILM_RISK).over(windows.states.shape[1]))


def reaching_back(scope: Scope, job: Job, ahead: Outlook, surface_id: str, moment: datetime) -> Outlook:
    """Return the outlook of one surface from before a moment that may lie before the observed days: older hours are kept.

    What was risked is not in it. Where nothing so old was observed, it begins with what there is.
    """
    row = ahead.row(surface_id)
    if row is None or moment.timestamp() >= float(ahead.windows.climate.grid.epoch_s[0]):
        return ahead
    # A wall that was dry or wet before is so by the weather of the half day before.
    since = moment.replace(minute=0, second=0, microsecond=0) - timedelta(hours=12)
    surfaces, products, rules = (ahead.surfaces[row],), (ahead.windows.products[row],), (ahead.rules[row],)
    observations = tuple(replace(one, surface=0) for one in ahead.observations if one.surface == row)
    key = (*ahead.key, ahead.turn, "back", surface_id, since)

    def compute() -> Outlook:
        weather = forecasts.weather_of(scope, ahead.place, status(scope, job), since)
        weather = as_seen(weather, seen_on(scope, job, scope.clock.now()).rain)
        windows = scope.calculated(windows_under, ahead.place, weather, surfaces, observations, products, rules)
        old = replace(ahead, key=key, surface_ids=[surface_id], windows=windows, weather=weather, near=None)
        return replace(old, surfaces=surfaces, rules=rules, observations=observations)

    return scope.cached(key, compute)


def wearing(surface: ClimateSurface, lrv_pct: float | None) -> ClimateSurface:
    """Return a surface in the colour that it wears; as it is where that is not known."""
    return surface if lrv_pct is None else replace(surface, solar_absorptance=1 - lrv_pct / 100)


def _check_reaches(scope: Scope, status: ForecastStatus, now: datetime, job: Job) -> None:
    if status.issue_id is None:
        raise forecasts.none_yet(scope)
    if status.ends_at is not None and status.ends_at < now + USABLE:
        ended = status.ends_at.astimezone(ZoneInfo(job.time_zone))
        verb = "ended" if status.ends_at <= now else "ends"
        said = f"{ended:%A} {ended.day} {ended:%B} {ended.year}, {ended:%H:%M}"
        raise NoForecastError(f"The last forecast of this place {verb} on {said}. There is no newer one.", "weather")


def rules_for(scope: Scope, job: Job, seen: Seen | None = None, *, by_hand: bool = False) -> HouseRules:
    """Return the limits that a job's windows are judged by.

    Parameters
    ----------
    seen : Seen, optional
        Where it is known already.
    by_hand : bool
        For work without a sprayer on a job that is sprayed: washing, caulking, trim. No wind limit of a gun, nothing downwind of it.
    """
    heard = seen or seen_on(scope, job, scope.clock.now())
    own = rules_of(job).model_copy(update={"method": _BY_HAND}) if by_hand else rules_of(job)
    return house_rules(own, scope.knowledge, schools_of(scope, job), site_limits_of(scope, job, heard, own.method))


def site_limits_of(scope: Scope, job: Job, seen: Seen, method: str) -> SiteLimits:
    """Return what a job's site asks beyond the common limits: moisture, deep tints, thunder, and what lies downwind of a sprayer."""
    if method != "sprayer":
        return SiteLimits(thunder_s=seen.thunder_s)
    bearings, all_round = property_round(job)
    return SiteLimits(scope.knowledge.spray, bearings, all_round, seen.thunder_s)


def rules_by_side(scope: Scope, job: Job, seen: Seen | None = None, *, by_hand: bool = False) -> dict[str, HouseRules]:
    """Return the limits of every elevation by its id: each side by the way it is reached (handbook 3)."""
    knowledge, own = scope.knowledge, rules_of(job)
    own = own.model_copy(update={"method": _BY_HAND}) if by_hand else own
    base = rules_for(scope, job, seen, by_hand=by_hand)

    def reached_by(elevation: Elevation) -> HouseRules:
        if elevation.access not in knowledge.access:
            return base
        return house_rules(own.model_copy(update={"access": elevation.access}), knowledge, schools_of(scope, job), base.site)

    return {elevation.id: reached_by(elevation) for elevation in job.building.elevations}


def rules_each(scope: Scope, job: Job, seen: Seen | None = None) -> dict[str, HouseRules]:
    """Return the limits of every painted surface by its id: no coat where a gate or a patch holds its part up."""
    coatings = coatings_of(scope, job)
    return {
        s.id: held_up(by_side[e.id], coatings[s.id].held_by)
        for by_hand, by_side in ((hand, rules_by_side(scope, job, seen, by_hand=hand)) for hand in (False, True))
        for e in job.building.elevations
        for s in e.surfaces
        if s.is_painted and coatings[s.id].is_sprayed != by_hand
    }


def held_up(rules: HouseRules, held_by: Sequence[str]) -> HouseRules:
    """Return the limits of a part that something holds up, whatever the weather."""
    if not held_by:
        return rules
    names = tuple(why if why in GATES else "patch" for why in held_by)
    return replace(rules, site=replace(rules.site or SiteLimits(), held_by=names))


def _climate_surfaces(scope: Scope, job: Job, coatings: Mapping[str, SurfaceCoating]) -> tuple[tuple[str, ...], tuple[ClimateSurface, ...]]:
    """Return the ids of the painted surfaces, and what the weather sees of each: in its present colour until a coat is on record."""

    def stand() -> list[tuple[str, ClimateSurface]]:
        lit = lit_tables(scope, job)
        return [
            (s.id, climate_surface(s, elevation, shades_of(job, elevation), scope.knowledge, lit.get(s.id), is_heated=job.is_heated))
            for elevation in job.building.elevations
            for s in elevation.surfaces
            if s.is_painted
        ]

    pairs = scope.cached(("surfaces in the weather", *house_of(scope, job)), stand)
    done = done_steps(scope, job)
    return tuple(i for i, _ in pairs), tuple(wearing(surface, coatings[i].worn_lrv_pct(done.get(i, ()))) for i, surface in pairs)


def shifted(scope: Scope, job: Job, ahead: Outlook, row: int, by_c: float) -> Windows:
    """Return the windows of one surface, its temperature shifted by what a reading found."""
    observations = observations_of(scope, job, [ahead.surface_ids[row]], scope.clock.now())
    climate = simulate(ahead.place, ahead.weather, [ahead.surfaces[row]], surface_bias_c=np.array([by_c]), observations=observations)
    windows = find_windows_each(climate, [ahead.windows.products[row]], [ahead.rules[row]])
    return windows.also(ahead.windows.check(FILM_RISK).of_rows([row]))


def day_start(outlook: Outlook, now: datetime) -> datetime:
    """Return the local midnight before `now`."""
    return now.astimezone(outlook.zone).replace(hour=0, minute=0, second=0, microsecond=0)
