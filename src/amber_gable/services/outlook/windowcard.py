"""One surface at one hour: when a coat may begin and must end, what becomes of it, the chance that it holds."""

from dataclasses import dataclass
from datetime import datetime, timedelta

import numpy as np

from amber_gable.core.air.site_errors import SiteErrors
from amber_gable.core.air.weather import Grid
from amber_gable.core.coat.after_coat import AfterCoat, after_coat
from amber_gable.core.planning.coats import recoat_steps
from amber_gable.core.wall.moisture import first_dry
from amber_gable.core.windows import OPEN, SHUT
from amber_gable.core.windows.chances import STEP_S, Chances, chances_under
from amber_gable.core.windows.limits import film_over
from amber_gable.core.windows.starts import permitted, spans
from amber_gable.core.windows.states import LimitReason
from amber_gable.errors import NotFoundError
from amber_gable.services.app.scope import Scope
from amber_gable.services.jobs.jobs import rules_of
from amber_gable.services.log.siteerrors import belief_of
from amber_gable.services.outlook.outlook import Outlook, day_start
from amber_gable.services.systems.coatings import coatings_of
from amber_gable.store.models import Job

# Where no hours are known: a half day's work.
_USUAL_H = 2.0
# A stretch worth setting up for.
_WORTH_QUARTERS = 4
# Chances this near to each other are one; a start is worth naming from so much better on.
_ABOUT_FRAC, _BETTER_FRAC = 0.03, 0.1


@dataclass(frozen=True)
class Stretch:
    """A stretch of permitted starts.

    Parameters
    ----------
    earliest, latest : datetime
        Of starts.
    last_stroke : datetime
        A coat begun last ends then.
    binding : LimitReason or None
        What ends it; None where the forecast does.
    next_coat_from : datetime or None
        After the earliest start, at the real weather; None beyond the forecast.
    closest : LimitReason
        The limit that the stretch comes nearest to, and by how much it is kept.
    """

    earliest: datetime
    latest: datetime
    last_stroke: datetime
    binding: LimitReason | None
    next_coat_from: datetime | None
    closest: LimitReason


@dataclass(frozen=True)
class SurfaceCard:
    """Starts, last strokes and the coat's course on one surface from an hour on.

    Parameters
    ----------
    coat_h : float
        How long this crew needs for a coat.
    stretches : tuple of Stretch
        That now, and the next.
    after : AfterCoat
        Of a coat put on at the hour.
    dry_from, sound_from : datetime or None
        When the face is dry, and when what lies under it is dry enough; None where it is now or takes up no water.
    best : BestHours or None
        Of the day that the hour lies in.
    dew : FilmMet or None
        The first dew that finds the film of a coat put on at the hour before it is rain-ready; None where it is ready by then.
    """

    coat_h: float
    stretches: tuple[Stretch, ...]
    after: AfterCoat
    dry_from: datetime | None
    sound_from: datetime | None
    dew: "FilmMet | None" = None
    best: "BestHours | None" = None


@dataclass(frozen=True)
class BestHours:
    """The longest stretch of a day in which a surface is open; where it never is, in which it is tight."""

    begins: datetime
    ends: datetime
    is_open: bool


def best_hours(ahead: Outlook, row: int, step: int) -> BestHours | None:
    """Return the best hours of the day a quarter-hour lies in; None where the surface is shut all day."""
    day = day_start(ahead, ahead.local(step))
    first, last = ahead.step_at(day), ahead.step_at(day + timedelta(days=1))
    states = ahead.windows.states[row, first:last]
    for is_open, allowed in ((True, states == OPEN), (False, states != SHUT)):
        runs = [span for span in spans(allowed) if span.last - span.first + 1 >= _WORTH_QUARTERS]
        if runs:
            run = max(runs, key=lambda span: span.last - span.first)
            return BestHours(ahead.local(first + run.first), ahead.local(first + run.last + 1), is_open)
    return None


@dataclass(frozen=True)
class FilmMet:
    """Meeting of a fresh film with the first dew: when, how far the film has come by then, and which last stroke would be safe.

    Parameters
    ----------
    at : datetime
    share : float
        Of the way to rain-ready, 0 to 1.
    is_young : bool
        Spoiled; otherwise tender, and it may dull or streak.
    safe_by : datetime or None
        The last stroke of the same day from which a film is rain-ready before this dew; None where none is.
    """

    at: datetime
    share: float
    is_young: bool
    safe_by: datetime | None


def dew_on(ahead: Outlook, row: int, step: int) -> FilmMet | None:
    """Return the dew that a coat put on at a quarter-hour meets before it is rain-ready."""
    climate = ahead.windows.climate.of_surfaces([row])
    film = film_over(climate, ahead.windows.products[row], ahead.rules[row])
    comes = np.flatnonzero(climate.wet[0, step + 1 :])
    if climate.wet[0, step] or not len(comes) or step + 1 + comes[0] >= film.ready_at[0, step]:
        return None
    dew = step + 1 + int(comes[0])
    today = ahead.step_at(day_start(ahead, ahead.local(step)))
    # Rain-ready strictly before it comes, on a dry wall.
    safe = np.flatnonzero((film.ready_at[0, today:dew] <= dew) & ~climate.wet[0, today:dew])
    share = float(film.share_at(np.full((1, climate.wet.shape[-1]), dew))[0, step])
    safe_by = ahead.local(today + int(safe[-1])) if len(safe) else None
    return FilmMet(ahead.local(dew), share, bool(dew < film.young_until[0, step]), safe_by)


def coat_hours(scope: Scope, job: Job, ahead: Outlook, surface_id: str) -> float:
    """Return how long this job's crew needs for the coat of a surface that an outlook judges [h]."""
    coating = coatings_of(scope, job)[surface_id]
    coat = coating.of(ahead.turn) or coating.of("coats")
    return coat.hours / rules_of(job).painters if coat is not None and coat.hours > 0 else _USUAL_H


def _row(ahead: Outlook, surface_id: str) -> int:
    row = ahead.row(surface_id)
    if row is None:
        raise NotFoundError("This surface is not painted (any more).")
    return row


def _stretches(ahead: Outlook, row: int, step: int, coat_h: float, most: int) -> tuple[Stretch, ...]:
    windows, grid = ahead.windows, ahead.windows.climate.grid
    steps = max(int(np.ceil(coat_h * 3600 / grid.step_s - 1e-9)), 1)
    allowed = permitted(windows.states[row][None, :], steps)[0]
    allowed[:step] = False
    recoat = recoat_steps(windows)[row]
    stretches = []
    for span in spans(allowed)[:most]:
        end = span.last + steps
        shut = end < len(allowed) and windows.states[row, end] == SHUT
        ready = recoat[min(span.first + steps, len(recoat) - 1)]
        reasons = windows.reasons(row, end) if shut else []
        stretches.append(
            Stretch(
                ahead.local(span.first), ahead.local(span.last), ahead.local(end), reasons[0] if reasons else None,
                None if np.isinf(ready) else ahead.local(int(np.ceil(ready))), windows.closest(row, span.first, end),
            )
        )  # fmt: skip
    return tuple(stretches)


def card(scope: Scope, job: Job, ahead: Outlook, surface_id: str, step: int) -> SurfaceCard:
    """Return what the windows of a surface come to from an hour on."""
    row = _row(ahead, surface_id)
    climate = ahead.windows.climate
    product = ahead.windows.products[row]
    dry = np.flatnonzero(~climate.wet[row, step:])
    dry_from = ahead.local(step + int(dry[0])) if climate.wet[row, step] and len(dry) else None
    sound_from = None
    if climate.moisture_pct is not None and climate.moisture_max_pct is not None and not np.isnan(climate.moisture_pct[row, step]):
        most = min(float(climate.moisture_max_pct[row]), product.max_moisture_pct)
        sound = first_dry(climate.moisture_pct[row], most, step)
        sound_from = ahead.local(sound) if sound is not None and sound > step else None
    hours = coat_hours(scope, job, ahead, surface_id)
    after = after_coat(climate, row, product, step, ahead.rules[row].young_share)
    dew, best = dew_on(ahead, row, step), best_hours(ahead, row, step)
    return SurfaceCard(hours, _stretches(ahead, row, step, hours, 2), after, dry_from, sound_from, dew, best)


def chances_of(scope: Scope, job: Job, ahead: Outlook, surface_id: str) -> Chances:
    """Return the chance that each start on a surface holds; reckoned once per outlook."""
    row = _row(ahead, surface_id)
    hours, model = coat_hours(scope, job, ahead, surface_id), scope.knowledge.forecast_errors
    site = belief_of(scope, job, ahead, row).errors
    key = ("chances", ahead.key, surface_id, hours, model, site)
    return scope.cached(key, lambda: _reckoned(scope, ahead, row, hours, site))


def _reckoned(scope: Scope, ahead: Outlook, row: int, coat_h: float, site: SiteErrors) -> Chances:
    weather, climate = ahead.weather, ahead.windows.climate
    moisture = None
    if climate.moisture_pct is not None:
        hours = np.arange(len(Grid.over(weather, STEP_S).epoch_s)) * round(STEP_S / climate.grid.step_s)
        moisture = climate.moisture_pct[[row]][:, np.minimum(hours, climate.moisture_pct.shape[1] - 1)]
    return scope.calculated(
        chances_under, ahead.place, weather, ahead.since_s, [ahead.surfaces[row]], [ahead.windows.products[row]], [ahead.rules[row]],
        [coat_h], scope.knowledge.forecast_errors, moisture, site, scope.settings.forecast_members,
    )  # fmt: skip


def chance_at(chances_of_start: Chances, moment: datetime) -> float | None:
    """Return the chance of a start at a moment, straight between the hours; None beyond the forecast."""
    place = (moment.timestamp() - chances_of_start.grid.epoch_s[0]) / chances_of_start.grid.step_s
    chances = chances_of_start.chance_frac[0]
    if not 0 <= place <= len(chances) - 1:
        return None
    value = float(np.interp(place, np.arange(len(chances)), chances))
    return None if np.isnan(value) else value


def best_start(chances: Chances, ahead: Outlook, moment: datetime) -> tuple[float, datetime] | None:
    """Return the chance and hour of the first of the best starts of the day a moment lies in; None where that is hardly better.

    Chances within a few hundredths of the best are one: the earliest of them is named.
    """
    day = day_start(ahead, moment)
    hours = [day + timedelta(hours=h) for h in range(24)]
    dated = [(c, h) for h in hours if (c := chance_at(chances, h)) is not None]
    most = max((c for c, _ in dated), default=0.0)
    best = next(((c, h) for c, h in dated if c >= most - _ABOUT_FRAC), (0.0, moment))
    return best if best[0] > (chance_at(chances, moment) or 0.0) + _BETTER_FRAC else None
