"""The outlook of a job: its windows by the newest forecast, computed once per set of inputs.

The cache key is made of everything the result depends on, so that a stale answer cannot be shown:
another forecast, colour, rule or measurement is another key.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from zoneinfo import ZoneInfo

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.air.sun import Place, Shade
from amber_gable.core.air.weather import Weather, with_rain
from amber_gable.core.knowledge import Knowledge, Product
from amber_gable.core.wall.climate import Surface as ClimateSurface
from amber_gable.core.wall.climate import simulate
from amber_gable.core.wall.self_shade import LitTable
from amber_gable.core.windows import HouseRules, SiteLimits, Windows, find_windows_each
from amber_gable.core.windows.run import windows_under
from amber_gable.errors import PlanError
from amber_gable.services.app.scope import Scope
from amber_gable.services.jobs.jobs import rules_of
from amber_gable.services.jobs.rules import JobRules, house_rules
from amber_gable.services.outlook import forecasts
from amber_gable.services.outlook.forecasts import ForecastStatus, NoForecastError
from amber_gable.services.outlook.sightings import stock_of, told_of
from amber_gable.services.survey.around.shade import lit_tables, shades_of
from amber_gable.services.survey.around.surroundings import property_round
from amber_gable.services.systems.coatings import coatings_of
from amber_gable.services.systems.specs import schools_of
from amber_gable.store import queries
from amber_gable.store.models import Elevation, Job, Surface
from amber_gable.store.queries import USABLE


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
    surface: Surface, elevation: Elevation, shades: tuple[Shade, ...], knowledge: Knowledge, lit: LitTable | None = None
) -> ClimateSurface:
    """Return what the weather sees of a surface."""
    cladding = knowledge.claddings[knowledge.substrates[surface.substrate].cladding]
    return ClimateSurface(
        name=surface.name,
        azimuth_deg=elevation.azimuth_deg,
        tilt_deg=elevation.tilt_deg,
        solar_absorptance=1 - surface.lrv_pct / 100,
        heat_capacity_kj_m2k=cladding.areal_heat_capacity_kj_m2k,
        water_store_mm=cladding.water_store_mm,
        shades=shades,
        lit=lit,
        slab=cladding.slab,
        stock=stock_of(surface, knowledge),
    )


def status(scope: Scope, job: Job) -> ForecastStatus:
    """Fetch what is new in the forecast and say how it stands."""
    return forecasts.refresh(scope, place_of(job))


def outlook(scope: Scope, job: Job, known: ForecastStatus) -> Outlook:
    """Return the windows of a job.

    Raises
    ------
    NoForecastError
        If there is no forecast that reaches ahead.
    PlanError
        If there is nothing to paint.
    """
    now = scope.clock.now()
    ids, surfaces = _climate_surfaces(scope, job)
    if not surfaces:
        raise PlanError("No surface of this job is marked to be painted.", "surfaces")
    _check_reaches(known, now, job)
    products = products_of(scope, job)
    # The two observed days start at the hour; within it, nothing moves by itself.
    hour = now.replace(minute=0, second=0, microsecond=0)
    seen = sightings_of(scope, job, now)
    told = told_of(scope, job, list(ids), now)
    each = rules_each(scope, job, seen)
    judged, rules = tuple(products[i] for i in ids), tuple(each[i] for i in ids)
    key = (
        place_of(job), job.time_zone, seen.rain_s, told, known.issue_id, known.observed_to, known.observed_count, hour, ids, surfaces,
        judged, rules,
    )  # fmt: skip

    def compute() -> Outlook:
        place = place_of(job)
        weather = _as_seen(forecasts.weather_of(scope, place, known), seen.rain_s)
        windows = scope.calculated(windows_under, place, weather, surfaces, told, judged, rules)
        assert known.issued_at is not None, "it was checked above"
        return Outlook(key, list(ids), windows, ZoneInfo(job.time_zone), known.issued_at, hour, place, weather, surfaces, rules)

    return scope.cached(key, compute)


def _check_reaches(known: ForecastStatus, now: datetime, job: Job) -> None:
    if known.issue_id is None:
        raise NoForecastError("There is no forecast for this place yet.", "weather")
    if known.ends_at is not None and known.ends_at < now + USABLE:
        ended = known.ends_at.astimezone(ZoneInfo(job.time_zone))
        verb = "ended" if known.ends_at <= now else "ends"
        said = f"{ended:%A} {ended.day} {ended:%B} {ended.year}, {ended:%H:%M}"
        raise NoForecastError(f"The last forecast of this place {verb} on {said}. There is no newer one.", "weather")


@dataclass(frozen=True)
class Seen:
    """What somebody on site sees coming or hears, each as seconds since 1970 from and until."""

    rain_s: tuple[tuple[float, float], ...] = ()
    thunder_s: tuple[tuple[float, float], ...] = ()


def sightings_of(scope: Scope, job: Job, now: datetime) -> Seen:
    """Return what is seen coming or heard on a job and is not over."""
    rows = scope.once(("sightings", job.id), lambda session: queries.sightings(session, job.id, now))
    spans = [(row.kind, (row.from_at.timestamp(), row.until_at.timestamp())) for row in rows if row.until_at > now]
    return Seen(tuple(s for kind, s in spans if kind == "rain"), tuple(s for kind, s in spans if kind == "thunder"))


def _as_seen(weather: Weather, rain: Sequence[tuple[float, float]]) -> Weather:
    for from_s, until_s in rain:
        weather = with_rain(weather, from_s, until_s)
    return weather


def products_of(scope: Scope, job: Job) -> dict[str, Product]:
    """Return the finish of every painted surface, by its id."""
    return {surface_id: coating.product for surface_id, coating in coatings_of(scope, job).items()}


def rules_for(scope: Scope, job: Job, seen: Seen | None = None) -> HouseRules:
    """Return the limits that a job's windows are judged by; `seen` where it is known already."""
    heard = seen or sightings_of(scope, job, scope.clock.now())
    return house_rules(rules_of(job), scope.knowledge, schools_of(scope, job), site_limits_of(scope, job, heard))


def site_limits_of(scope: Scope, job: Job, seen: Seen) -> SiteLimits:
    """Return what a job's site asks beyond the common limits: moisture, deep tints, thunder, and what lies downwind of a sprayer."""
    if rules_of(job).method != "sprayer":
        return SiteLimits(thunder_s=seen.thunder_s)
    bearings, all_round = property_round(job)
    return SiteLimits(scope.knowledge.spray, bearings, all_round, seen.thunder_s)


def rules_each(scope: Scope, job: Job, seen: Seen | None = None) -> dict[str, HouseRules]:
    """Return the limits of every painted surface by its id: each side by the way it is reached (handbook 3)."""
    known, own = scope.knowledge, rules_of(job)
    base = rules_for(scope, job, seen)
    found = {}
    for elevation in job.building.elevations:
        way = known.access.get(elevation.access or "")
        rules = (
            base
            if way is None
            else house_rules(own.model_copy(update={"access": elevation.access}), known, schools_of(scope, job), base.site)
        )
        found.update({s.id: rules for s in elevation.surfaces if s.is_painted})
    return found


def _climate_surfaces(scope: Scope, job: Job) -> tuple[tuple[str, ...], tuple[ClimateSurface, ...]]:
    """Return the ids of the painted surfaces, and what the weather sees of each."""
    lit = lit_tables(scope, job)
    pairs = [
        (s.id, climate_surface(s, elevation, shades_of(job, elevation), scope.knowledge, lit.get(s.id)))
        for elevation in job.building.elevations
        for s in elevation.surfaces
        if s.is_painted
    ]
    return tuple(i for i, _ in pairs), tuple(surface for _, surface in pairs)


def shifted(scope: Scope, job: Job, ahead: Outlook, row: int, by_c: float) -> Windows:
    """Return the windows of one surface, its temperature shifted by what a reading found."""
    told = told_of(scope, job, [ahead.surface_ids[row]], scope.clock.now())
    climate = simulate(ahead.place, ahead.weather, [ahead.surfaces[row]], surface_bias_c=np.array([by_c]), told=told)
    return find_windows_each(climate, [ahead.windows.products[row]], [ahead.rules[row]])


def working_hours(outlook: Outlook, rules: JobRules) -> NDArray[np.bool_]:
    """Return the quarter-hours in which the crew works, shape (Q,)."""
    epoch = outlook.windows.climate.grid.epoch_s
    out = np.zeros(len(epoch), dtype=bool)
    for q, second in enumerate(epoch):
        local = datetime.fromtimestamp(float(second), UTC).astimezone(outlook.zone)
        hour = local.hour + local.minute / 60
        out[q] = rules.day_starts_h <= hour < rules.day_ends_h and (rules.works_sundays or local.weekday() != 6)
    return out


def day_start(outlook: Outlook, now: datetime) -> datetime:
    """Return the local midnight before `now`."""
    return now.astimezone(outlook.zone).replace(hour=0, minute=0, second=0, microsecond=0)


def horizon_end(start: datetime, days: int) -> datetime:
    return start + timedelta(days=days)
