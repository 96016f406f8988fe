"""Two simulated seasons at three sites: how many starts that were permitted had their young film wetted, and what the film law costs.

Prints the tables of `docs/calibration.md`. Run by `make seasons`. Starts on observed weather are judged by what was observed, those of
forecasts a day ahead by what came; what wets a film is reckoned here in plain steps, apart from the engine's rules.
"""

import sys
from collections import defaultdict
from collections.abc import Iterator
from dataclasses import replace
from datetime import UTC, datetime

import numpy as np

from amber_gable.core.air.forecast_errors import Held
from amber_gable.core.coat.drying import drying_rate
from amber_gable.core.knowledge.assumptions import assumed
from amber_gable.core.knowledge.shipped import shipped
from amber_gable.core.wall.climate import Climate, ClimateSurface, simulate
from amber_gable.core.windows import SHUT, HouseRules, SiteLimits, find_windows
from amber_gable.core.windows.chances import FILM_RULES, chances
from amber_gable.core.windows.starts import permitted
from scripts.calibrate import SEASONS, Season, pairs

SEEDS = (401, 402)
# Home, 60° N, 38° S: each its own painting season.
SITES = tuple(replace(SEASONS[i], every=3) for i in (0, 1, 4))
COAT_QUARTERS = 8
PLANNED = "half-way, as planned"
LEAD_H = (18.0, 30.0)
# The label's clock alone, as it was before; half-way, the default; strict.
LAWS = {"clock": 0.0, "half-way": 0.5, "strict": 1.0}
QUARTER_H = 0.25


def wetted_young(climate: Climate, share: float, label_h: float) -> np.ndarray:
    """Return where a film put on in a quarter-hour is wetted while young, shape (S, Q): step by step, until it bears it."""
    rate = drying_rate("waterborne", climate.surface_temp_c, climate.vapour_pa[None, :], climate.wind_m_s[None, :])
    wet = climate.wet | (climate.rain_mm_h[None, :] > 0.1)
    surfaces, count = climate.surface_temp_c.shape
    out = np.zeros((surfaces, count), dtype=bool)
    for s in range(surfaces):
        for q in range(count):
            done = 0.0
            for later in range(q + 1, count):
                done += (rate[s, later - 1] + rate[s, later]) / 2 * QUARTER_H
                # At the instant at which it is past the young time it bears what comes.
                if done >= share * label_h - 1e-9 and (later - q) * QUARTER_H >= label_h - 1e-9:
                    break
                if wet[s, later]:
                    out[s, q] = True
                    break
    return out


def through_coat(flags: np.ndarray) -> np.ndarray:
    """Return where any quarter-hour of a coat begun at an instant is flagged."""
    out = flags.copy()
    for step in range(1, COAT_QUARTERS):
        out[:, :-step] |= flags[:, step:]
    return out


def issues(season: Season) -> Iterator[Held]:
    for seed in SEEDS:
        yield from pairs(season, seed, 48)


def safe(season: Season, pair: Held, walls: list[ClimateSurface], rule: HouseRules, told: Climate, number: int) -> np.ndarray:
    """Return the starts whose film a plan may take as safe (services.planning.far), shape (S, Q)."""
    known = shipped()
    product, count = known.products["rivermark-exterior-satin"], len(walls)
    found = chances(
        season.place, pair.forecast, pair.issued_s, walls, [product] * count, [rule] * count, [COAT_QUARTERS * QUARTER_H] * count,
        known.forecast_errors, seed=number, only=FILM_RULES,
    )  # fmt: skip
    later = np.concatenate([found.chance_frac[:, 1:], found.chance_frac[:, -1:]], axis=1)
    least = np.fmin(found.chance_frac, later)
    place = np.minimum(((told.grid.epoch_s - found.grid.epoch_s[0]) // 3600).astype(int), least.shape[1] - 1)
    result: np.ndarray = np.nan_to_num(least[:, place], nan=1.0) >= assumed("safe_film_share")
    return result


def main() -> int:
    known = shipped()
    product, wood = known.products["rivermark-exterior-satin"], known.claddings["wood"]
    walls = [ClimateSurface.clad(n, a, 90, 0.6, wood) for n, a in zip("NESW", (0, 90, 180, 270), strict=True)]
    plain = HouseRules(9.0, 30.0, "surface-cap", known.limits, known.tight, SiteLimits())
    rules = {law: replace(plain, young_share=share) for law, share in LAWS.items()}
    hours: dict[tuple[str, int], dict[str, float]] = defaultdict(lambda: defaultdict(float))
    print("| Site | law | starts on observed weather | wetted young | starts a day ahead | wetted young |\n|---|---|---|---|---|---|")
    for season in SITES:
        tally: dict[str, np.ndarray] = {law: np.zeros(4) for law in (*LAWS, PLANNED)}
        for number, pair in enumerate(issues(season)):
            came, told = (simulate(season.place, w, walls) for w in (pair.came, pair.forecast))
            lead_h = (came.grid.epoch_s - pair.issued_s) / 3600
            wetted = through_coat(wetted_young(came, LAWS["half-way"], product.rain_free_h))
            # Three days from each issue on, so that the issues' own days follow one another.
            own, ahead = (lead_h > 0) & (lead_h <= 24 * season.every), (lead_h >= LEAD_H[0]) & (lead_h <= LEAD_H[1])
            month = datetime.fromtimestamp(pair.issued_s, UTC).month
            for law, rule in rules.items():
                seen, foreseen = (find_windows(c, product, rule) for c in (came, told))
                for at, (windows, span) in enumerate(((seen, own), (foreseen, ahead))):
                    starts = permitted(windows.states, COAT_QUARTERS) & span
                    tally[law][2 * at] += starts.sum()
                    tally[law][2 * at + 1] += (starts & wetted).sum()
                if law == "half-way":
                    taken = permitted(foreseen.states, COAT_QUARTERS) & ahead & safe(season, pair, walls, rule, told, number)
                    tally[PLANNED][2:] += taken.sum(), (taken & wetted).sum()
                hours[season.name, month][law] += float((seen.states[:, own] != SHUT).sum()) * QUARTER_H / len(walls)
        for law, (seen_n, seen_wet, told_n, told_wet) in tally.items():
            seen_words = f"{seen_n:,.0f} | {100 * seen_wet / seen_n:.1f} %" if seen_n else "- | -"
            print(f"| {season.name} | {law} | {seen_words} | {told_n:,.0f} | {100 * told_wet / max(told_n, 1):.1f} % |")
            sys.stdout.flush()
    print("\n| Site | month | hours a wall, the label's clock | half-way | lost | strict | lost |\n|---|---|---|---|---|---|---|")
    for (name, month), of in sorted(hours.items()):
        lost = {law: of["clock"] - of[law] for law in ("half-way", "strict")}
        said = (of["clock"], of["half-way"], lost["half-way"], of["strict"], lost["strict"])
        print(" | ".join([f"| {name} | {month}", *(f"{v:.0f}" for v in said)]) + " |")
    return 0


if __name__ == "__main__":
    sys.exit(main())
