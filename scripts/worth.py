"""What planning is worth: one house painted by three crews through seasons, simulated and measured: by a calendar, by the sky, by plan.

Prints the table of `docs/worth.md`. Run by `make worth`. All three do the same work with the same people on the same walls under the same
weather; a coat that fails is done again at the end. (a) keeps to a calendar and loses only days on which it rains at eight in the morning.
(b) works whenever it does not rain at the moment. (c) plans by the forecast, anew each morning and each noon, and looks at the wall first.
What comes of a coat is judged by what came, in the plain steps of `seasons.wetted_young`.
"""

import sys
from collections import defaultdict
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime, timedelta
from functools import cached_property, partial
from pathlib import Path

import numpy as np
import pvlib
from pvlib import iotools

from amber_gable.core.air.beyond import extended
from amber_gable.core.air.humid import dew_point_c
from amber_gable.core.air.members import members_of
from amber_gable.core.air.sun import Place
from amber_gable.core.air.weather import Weather
from amber_gable.core.coat.drying import drying_rate, progress_h, ready_index
from amber_gable.core.knowledge.shipped import shipped
from amber_gable.core.planning.crew.dispatch import dispatched
from amber_gable.core.planning.crew.values import AfterTask, CrewTask, Painter
from amber_gable.core.wall.climate import Climate, ClimateSurface, simulate
from amber_gable.core.windows import SHUT, HouseRules, SiteLimits, find_windows
from amber_gable.core.windows.run import film_risk
from amber_gable.core.windows.steps import step_windows
from amber_gable.exchange.typicalyear import HOURS as YEAR_HOURS
from amber_gable.exchange.typicalyear import TypicalYear, read_typical_year
from amber_gable.standins.climate_truth import Hour, TrueSite, weather
from amber_gable.standins.forecast import issue, issue_before
from scripts.calibrate import SEASONS, Season, _weather
from scripts.seasons import wetted_young

# Two walls on each side, a corner between them; light colours.
SIDES, AZIMUTHS, ABSORPTANCE = "NnEeSsWw", (0, 0, 90, 90, 180, 180, 270, 270), 0.45
CREW = (Painter("one"), Painter("two"))
# Painter-hours of a wall, in order; what is a coat of paint.
STEPS = (("wash", 1.5), ("prepare", 6.0), ("prime", 3.0), ("coat 1", 4.0), ("coat 2", 3.0), ("finish", 1.0))
COATS = ("prime", "coat 1", "coat 2")
# By the clock after washing; a coat waits by its label.
WASH_WAIT_H = 24.0
# The crew's hours, setting up and cleaning up taken off.
FIRST_H, LAST_H, PAID_H, WAGE, TOWER_DAY, TOWER_THERE = 7.75, 17.5, 8.0, 55.0, 48.0, 90.0
RUN_DAYS, SEEDS, STEP_H = 75, (501, 502), 0.25
# Starts within each season, as shares of it: both halves.
STARTS = (0.22, 0.6)
_HEADS = (
    "Site", "crew", "days", "days, redone coats failing as often", "paid hours", "wages and tower", "hours idle", "coats", "dewed on",
    "rained on", "out of range", "ruined",
)  # fmt: skip
# Typical years of hours that were measured, as the solar library ships them.
SHIPPED = Path(pvlib.__file__).parent / "data"
MEASURED_FILE, OLDER_FILE = "723170TYA.CSV", "12839.tm2"
MEASURED = (
    Season("36° N, measured, April to October", Place(36.1, -79.95, 273.0), datetime(2027, 4, 10, tzinfo=UTC), 190, 1),
    Season("26° N, measured, November to April", Place(25.8, -80.27, 2.0), datetime(2027, 11, 1, tzinfo=UTC), 170, 1),
)
# How much stronger gusts are than the mean wind where only that was measured (our assumption).
GUSTS = 1.5
# Within so many after a stroke, rain is what wetted a young film; later it is dew.
_YOUNG_QUARTERS = 24
# So many quarter-hours a crew waits at a wall that is not yet as the plan has it.
_PATIENCE = 8


@dataclass
class Outcome:
    """What came of one house: when it was done, paid hours, hours without work, coats and what spoilt them."""

    ends_h: float = 0.0
    paid_h: float = 0.0
    idle_h: float = 0.0
    coats: int = 0
    dewed: int = 0
    rained: int = 0
    out_of_range: int = 0
    redo_h: float = 0.0
    spans: list[tuple[str, str, int, int]] = field(default_factory=list)

    @property
    def ruined(self) -> int:
        return self.dewed + self.rained + self.out_of_range

    @property
    def days(self) -> float:
        """Calendar days until it is done, what failed done again and holding: two painters, eight hours a day, six days a week."""
        return self.ends_h / 24 + self.redo_h / (len(CREW) * PAID_H) * 7 / 6

    @property
    def days_by_habit(self) -> float:
        """Calendar days until it is done where what is done again fails as often as it did at first; never where all does."""
        fails = self.ruined / self.coats
        if fails == 1:
            return float("inf")
        return self.ends_h / 24 + self.redo_h / (1 - fails) / (len(CREW) * PAID_H) * 7 / 6


class World:
    """The weather that comes at a site over some weeks, and what it does to the walls."""

    def __init__(self, season: Season, seed: int, start: datetime) -> None:
        self.season, self.seed, self.known = season, seed, shipped()
        self.product = self.known.products["rivermark-exterior-satin"]
        wood = self.known.claddings["wood"]
        self.walls = [ClimateSurface.clad(n, a, 90, ABSORPTANCE, wood) for n, a in zip(SIDES, AZIMUTHS, strict=True)]
        self.rules = HouseRules(9.0, 30.0, "surface-cap", self.known.limits, self.known.tight, SiteLimits())
        place = season.place
        # Solar time is near enough to the clock of the crew.
        self.offset_h = round(place.longitude_deg / 15)
        midnight = start.replace(hour=0) - timedelta(hours=self.offset_h)
        self.start_s = midnight.timestamp()
        times = [self.start_s + 3600.0 * h for h in range(-48, 24 * RUN_DAYS)]
        hours = [self.came(t) for t in times]
        came = _weather(times, hours, [100.0 * (h.rain_mm > 0) for h in hours])
        self.climate: Climate = simulate(place, came, self.walls)
        self.first = round((self.start_s - self.climate.grid.epoch_s[0]) / 900)
        self.wetted = wetted_young(self.climate, 0.5, self.product.rain_free_h)
        self.rains = self.climate.rain_mm_h > 0.1
        self.progress = progress_of(self.climate)

    def hour_of_day(self, step: int) -> float:
        return (step * STEP_H) % 24

    def works(self, step: int) -> bool:
        """Return whether it is a crew's hour: no Sundays."""
        day = datetime.fromtimestamp(self.start_s + step * 900, UTC) + timedelta(hours=self.offset_h)
        return FIRST_H <= self.hour_of_day(step) < LAST_H and day.weekday() != 6

    @cached_property
    def site(self) -> TrueSite:
        place = self.season.place
        return TrueSite(self.seed, place.latitude_deg, place.longitude_deg, place.altitude_m)

    def came(self, at_s: float) -> Hour:
        """Return the weather that came at a moment."""
        return weather(self.site, at_s)

    def told(self, issued: float) -> tuple[list[float], list[Hour], list[float]]:
        """Return the times, hours and chances of rain [%] of the forecast of an issue."""
        found = list(issue(self.site, issued))
        return [t for t, _ in found], [f.hour for _, f in found], [f.rain_probability_pct for _, f in found]

    def forecast(self, step: int) -> tuple[Weather, float]:
        """Return the newest forecast at a step, two observed days before it, and from when on it errs [s since 1970]."""
        now = self.start_s + step * 900
        issued = issue_before(now)
        hour = now // 3600 * 3600
        seen = [hour - 3600.0 * h for h in range(48, 0, -1)]
        ahead = [one for one in zip(*self.told(issued), strict=True) if one[0] >= hour]
        before = [self.came(t) for t in seen]
        chance = [*(100.0 * (h.rain_mm > 0) for h in before), *(p for _, _, p in ahead)]
        return _weather([*seen, *(t for t, _, _ in ahead)], [*before, *(h for _, h, _ in ahead)], chance), max(issued, hour)


class MeasuredWorld(World):
    """Hours that were measured somewhere, a typical year of them; forecasts err about them as those of the service do."""

    def __init__(self, season: Season, seed: int, start: datetime, year: TypicalYear) -> None:
        self.year = year
        self._first_s = datetime(start.year, 1, 1, tzinfo=UTC).timestamp() - year.utc_offset_h * 3600
        super().__init__(season, seed, start)

    def came(self, at_s: float) -> Hour:
        at = int((at_s - self._first_s) // 3600) % YEAR_HOURS
        c = {name: float(values[at]) for name, values in self.year.columns.items()}
        dew = float(dew_point_c(c["air_temp_c"], max(c["rel_humidity_pct"], 1.0)))
        wind_from = 0.0 if np.isnan(c["wind_from_deg"]) else c["wind_from_deg"]
        return Hour(c["air_temp_c"], dew, c["wind_m_s"], GUSTS * c["wind_m_s"], wind_from, c["cloud_pct"], c["rain_mm"])

    def told(self, issued: float) -> tuple[list[float], list[Hour], list[float]]:
        times = [issued + 3600.0 * h for h in range(240)]
        true = [self.came(t) for t in times]
        rained = np.array([h.rain_mm > 0 for h in true], dtype=float)
        chance = 100 * _smeared(rained, usual=float(np.mean(self.year.columns["rain_mm"] > 0)))
        drawn = members_of(_weather(times, true, list(chance)), issued, self.known.forecast_errors, 1, seed=self.seed + int(issued // 3600))
        dew = dew_point_c(drawn.air_temp_c[0], drawn.rel_humidity_pct[0])
        hours = [
            Hour(
                float(drawn.air_temp_c[0, h]), float(dew[h]), float(drawn.wind_m_s[0, h]), float(drawn.wind_gust_m_s[0, h]),
                true[h].wind_from_deg, float(drawn.cloud_pct[0, h]), float(drawn.rain_mm[0, h]),
            )
            for h in range(240)
        ]  # fmt: skip
        return times, hours, list(chance)


def _smeared(rained: np.ndarray, usual: float) -> np.ndarray:
    """Return the chance of rain that a forecast gives, 0 to 1, shape (N,): less and less sure of the hour, at last only how often it rains.

    A front is known to an hour or so on the first day and to half a day on the tenth; what is left of its being known at all after a
    week is a third (our assumptions, near to what the service does).
    """
    out, at = np.empty(len(rained)), np.arange(len(rained))
    for h in range(len(rained)):
        weights = np.exp(-0.5 * ((at - h) / (1 + h / 20)) ** 2)
        known = np.exp(-h / 150)
        out[h] = known * (weights @ rained) / weights.sum() + (1 - known) * usual
    return np.where(out < 0.01, 0.0, np.minimum(out, 0.98))


def progress_of(climate: Climate) -> np.ndarray:
    rate = drying_rate("waterborne", climate.surface_temp_c, climate.vapour_pa[None, :], climate.wind_m_s[None, :])
    return progress_h(rate, 900.0)


def judged(world: World, out: Outcome) -> Outcome:
    """Count what became of the coats, by what came: each is spoilt by one thing, the first that finds it."""
    spans: dict[tuple[str, str], list[slice]] = defaultdict(list)
    for side, step, first, last in out.spans:
        if step in COATS:
            spans[side, step].append(slice(world.first + first, world.first + last))
    for (side, step), parts in spans.items():
        out.coats += 1
        why = next((found for part in parts if (found := _spoilt(world, SIDES.index(side), part))), "")
        if why:
            setattr(out, why, getattr(out, why) + 1)
            # Sanded or washed off, and put on again.
            out.redo_h += 2 * dict(STEPS)[step]
    out.paid_h += out.redo_h
    out.ends_h = max(last for *_, last in out.spans) * STEP_H
    return out


def _spoilt(world: World, row: int, span: slice) -> str:
    """Return what spoils the film that goes on in a stretch: the field of `Outcome` that counts it, empty where nothing does."""
    climate, product = world.climate, world.product
    if world.wetted[row, span].any() or climate.wet[row, span].any():
        return "rained" if world.rains[span.start : span.stop + _YOUNG_QUARTERS].any() else "dewed"
    surface, air = climate.surface_temp_c[row, span], climate.air_temp_c[span]
    is_cold = (surface < product.min_surface_temp_c).any() or (air < product.min_air_temp_c).any()
    is_hot = (surface > product.max_surface_temp_c).any() or (air > product.max_air_temp_c).any()
    return "out_of_range" if is_cold or is_hot else ""


def in_turn() -> Iterator[tuple[str, str, float]]:
    """Yield the work in the order in which a crew without a plan does it: washed all round, then side by side, coats round the house."""
    hours = dict(STEPS)
    for side in SIDES:
        yield side, "wash", hours["wash"]
    for side in SIDES:
        yield side, "prepare", hours["prepare"]
    for step in (*COATS, "finish"):
        for side in SIDES:
            yield side, step, hours[step]


def without_plan(world: World, *, by_calendar: bool) -> Outcome:
    """Return what comes of a crew that looks at the calendar, or at the sky."""
    out, at, ready = Outcome(), 0, defaultdict[str, float](float)
    lost_day = -1
    for side, step, hours in in_turn():
        length, begun = round(hours / len(CREW) / STEP_H), None
        while begun is None or at < begun + length:
            day = at // 96
            if not world.works(at) or day == lost_day or at < ready[side]:
                if begun is not None and not world.works(at):
                    # What is begun goes on the next day: another span of the same coat.
                    out.spans.append((side, step, begun, at))
                    length, begun = length - (at - begun), None
                at += 1
                continue
            rains = bool(world.rains[world.first + at])
            if by_calendar and world.hour_of_day(at) == FIRST_H and rains:
                lost_day = day
                continue
            if rains and begun is None:
                at, out.idle_h = at + 1, out.idle_h + len(CREW) * STEP_H
                continue
            if rains and not by_calendar and begun is not None and at > begun:
                out.spans.append((side, step, begun, at))
                length, begun = length - (at - begun), None
                continue
            begun, at = at if begun is None else begun, at + 1
        out.spans.append((side, step, begun, at))
        wait_h = WASH_WAIT_H if step == "wash" else world.product.recoat_h if step in COATS else 0.0
        ready[side] = at + wait_h / STEP_H
    out.paid_h = sum((last - first) * STEP_H * len(CREW) for *_, first, last in out.spans) + out.idle_h
    return judged(world, out)


def tasks_left(world: World, now: int, done: dict[tuple[str, str], int]) -> tuple[list[CrewTask], int]:
    """Return what is left to do as a plan takes it, by the newest forecast, and how many steps it has."""
    told, since = world.forecast(now)
    longer = extended(told, world.start_s + now * 900 + 30 * 86_400, since)
    climate = simulate(world.season.place, longer, world.walls)
    coats = find_windows(climate, world.product, world.rules)
    near = find_windows(simulate(world.season.place, told, world.walls), world.product, world.rules)
    risk = film_risk(near, world.season.place, told, world.walls, [world.rules] * len(SIDES), since, world.known.forecast_errors)
    coats = coats.also(risk.over(coats.states.shape[1]))
    weather_of = {"wash": "wash", "prepare": "sand", "finish": "mask"}
    shift, count = round((world.start_s + now * 900 - climate.grid.epoch_s[0]) / 900), 96 * 28
    works = np.array([world.works(now + n) for n in range(count)])
    progress = progress_of(climate)
    tasks: list[CrewTask] = []
    for row, side in enumerate(SIDES):
        before = None
        for step, hours in STEPS:
            if (side, step) in done:
                before = step
                continue
            states = coats.states[row]
            if step not in COATS:
                states = step_windows(climate.of_surfaces([row]), world.known.step_weather[weather_of[step]], world.rules).states[0]
            may = works & (states[shift : shift + count] != SHUT)
            after, release = (), 0
            if before is not None:
                ready = _ready(progress[row], shift, count, before, world.product.recoat_h)
                if (side, before) in done:
                    end = done[side, before] - now
                    release = max(0, int(_ready_after(world, row, before, done[side, before]) - now)) if end <= 0 else int(ready[end])
                else:
                    after = (AfterTask(f"{side} {before}", ready, "in order"),)
            tail = sum(h for s, h in STEPS[[s for s, _ in STEPS].index(step) :])
            tasks.append(CrewTask(f"{side} {step}", "house", side, hours, (1, 2), (), may, after, release, step in COATS, tail))
            before = step
    return tasks, count


def _ready(progress: np.ndarray, shift: int, count: int, before: str, recoat_h: float) -> np.ndarray:
    ends = np.arange(count + 1)
    if before == "wash":
        return ends + round(WASH_WAIT_H / STEP_H)
    if before not in COATS:
        return ends
    by_end = ready_index(progress[None, :], recoat_h)[0]
    ready = by_end[np.minimum(ends + shift, len(by_end) - 1)] - shift
    return np.where(np.isinf(ready), count + 1, np.ceil(np.where(np.isinf(ready), 0, ready))).astype(np.int64)


def _ready_after(world: World, row: int, before: str, end: int) -> float:
    """Return when a wait is over that began in the past, by the weather that came."""
    if before == "wash":
        return end + WASH_WAIT_H / STEP_H
    if before not in COATS:
        return end
    ready = ready_index(world.progress[row : row + 1], world.product.recoat_h)[0][world.first + end]
    return float(np.ceil(ready)) - world.first if np.isfinite(ready) else 1e9


def by_plan(world: World) -> Outcome:
    """Return what comes of a crew that follows the plan, made anew each morning and each noon; it looks at the wall before it begins."""
    out, done = Outcome(), dict[tuple[str, str], int]()
    free = dict.fromkeys((one.name for one in CREW), 0)
    order = [step for step, _ in STEPS]
    for half in range(2 * RUN_DAYS):
        now, until = 96 * (half // 2) + (24, 48)[half % 2], 96 * (half // 2) + (48, 96)[half % 2]
        if len(done) == len(SIDES) * len(STEPS):
            break
        if not any(world.works(n) for n in range(now, until)):
            continue
        tasks, count = tasks_left(world, now, done)
        by_id = {task.id: task for task in tasks}
        works = np.array([world.works(now + n) for n in range(count)])
        crew = [Painter(one.name, works & (np.arange(count) >= free[one.name] - now)) for one in CREW]
        plan = dispatched(tasks, crew, ["house"], count, works)
        for at in sorted(plan.values(), key=lambda s: (s.start, s.task)):
            side, step = at.task.split(" ", 1)
            first = max(now + at.start, *(free[name] for name in at.painters))
            if now + at.start >= until or any((side, s) not in done for s in order[: order.index(step)]):
                continue
            first, waited = _looked(world, by_id[at.task].may, now, first, at.end - at.start, SIDES.index(side), step)
            out.idle_h += len(at.painters) * waited * STEP_H
            if first is None:
                continue
            last = first + at.end - at.start
            out.spans.append((side, step, first, last))
            done[side, step] = last
            for name in at.painters:
                free[name] = last
    hours = dict(STEPS)
    out.paid_h = sum(hours[step] for _, step in done) + out.idle_h
    assert len(done) == len(SIDES) * len(STEPS), "the run is too short"
    return judged(world, out)


def _looked(world: World, may: np.ndarray, now: int, first: int, length: int, row: int, step: str) -> tuple[int | None, int]:
    """Return when a crew begins that looks at the wall first, and for how long it waits: it gives it two hours to dry."""
    for waited in range(_PATIENCE):
        at = first + waited
        is_fit = not world.rains[world.first + at] and (step == "wash" or not world.climate.wet[row, world.first + at])
        if is_fit and may[at - now : at - now + length].all():
            return at, waited
    return None, _PATIENCE


def main(sites: Sequence[Season] = (SEASONS[0], SEASONS[1], SEASONS[4])) -> int:
    print(f"| {' | '.join(_HEADS)} |")
    print("|" + "---|" * len(_HEADS))
    _table([(season, World, SEEDS) for season in sites], "all three")
    years = {MEASURED[0]: read_typical_year((SHIPPED / MEASURED_FILE).read_bytes()), MEASURED[1]: read_tmy2(SHIPPED / OLDER_FILE)}
    _table([(season, partial(MeasuredWorld, year=year), SEEDS) for season, year in years.items()], "both that were measured")
    return 0


def _table(sites: Sequence[tuple[Season, Callable[..., World], Sequence[int]]], together: str) -> None:
    whole: dict[str, list[Outcome]] = defaultdict(list)
    for season, world_of, seeds in sites:
        by_way: dict[str, list[Outcome]] = defaultdict(list)
        for seed in seeds:
            for share in STARTS:
                start = season.first + timedelta(days=round(share * season.days))
                world = world_of(season, seed, start.replace(tzinfo=UTC))
                by_way["calendar"].append(without_plan(world, by_calendar=True))
                by_way["when it is dry now"].append(without_plan(world, by_calendar=False))
                by_way["plan"].append(by_plan(world))
        for way, outcomes in by_way.items():
            print(_row(season.name, way, outcomes))
            sys.stdout.flush()
            whole[way] += outcomes
    for way, outcomes in whole.items():
        print(_row(together, way, outcomes))


def read_tmy2(file: Path) -> TypicalYear:
    """Return a year in the older form: rain by what the observer saw, light 1, moderate 4, heavy 10 mm an hour (our assumption)."""
    frame, meta = iotools.read_tmy2(file)
    # Ten digits of the weather that was seen, leading zeros lost: the third is rain, the sixth of its kinds showers; 9 none.
    seen = frame["PresentWeather"].astype("int64").astype(str).str.zfill(10).str[2].astype(int).to_numpy()
    rain = np.select([seen == 9, seen % 3 == 0, seen % 3 == 1], [0.0, 1.0, 4.0], 10.0)
    columns = {
        "air_temp_c": frame["DryBulb"].to_numpy(dtype=float) / 10, "rel_humidity_pct": frame["RHum"].to_numpy(dtype=float),
        "wind_m_s": frame["Wspd"].to_numpy(dtype=float) / 10, "wind_from_deg": frame["Wdir"].to_numpy(dtype=float),
        "cloud_pct": 10 * frame["TotCld"].to_numpy(dtype=float), "rain_mm": rain,
    }  # fmt: skip
    return TypicalYear(meta["latitude"], meta["longitude"], meta["altitude"], meta["TZ"], columns, 0)


def _row(name: str, way: str, outcomes: Sequence[Outcome]) -> str:
    n = len(outcomes)
    total = replace(outcomes[0], spans=[])
    for one in outcomes[1:]:
        for key in ("paid_h", "idle_h", "coats", "dewed", "rained", "out_of_range", "redo_h"):
            setattr(total, key, getattr(total, key) + getattr(one, key))
    days, by_habit = (sum(getattr(one, key) for one in outcomes) / n for key in ("days", "days_by_habit"))
    money = total.paid_h / n * WAGE + days * TOWER_DAY + TOWER_THERE
    figures = (
        f"{days:.1f}",
        f"{by_habit:.1f}" if np.isfinite(by_habit) else "never",
        f"{total.paid_h / n:.0f}",
        f"{money:,.0f}",
        f"{total.idle_h / n:.0f}",
        str(total.coats),
    )
    spoilt = (str(total.dewed), str(total.rained), str(total.out_of_range), f"{100 * total.ruined / max(total.coats, 1):.0f} %")
    return f"| {' | '.join((name, way, *figures, *spoilt))} |"


if __name__ == "__main__":
    sys.exit(main())
