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
from amber_gable.core.knowledge.shipped import shipped
from amber_gable.core.wall.climate import Climate, ClimateSurface, simulate
from amber_gable.core.windows import SHUT, HouseRules, SiteLimits, find_windows
from amber_gable.core.windows.run import film_risk
from amber_gable.core.windows.starts import permitted
from scripts.calibrate import SEASONS, Season, pairs

SEEDS = (401, 402)
# Home, 60° N, 38° S: each its own painting season.
SITES = tuple(replace(SEASONS[i], every=3) for i in (0, 1, 4))
COAT_QUARTERS = 8
PLANNED = "half-way, as permitted ahead"
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


def main() -> int:
    known = shipped()
    product, wood = known.products["rivermark-exterior-satin"], known.claddings["wood"]
    walls = [ClimateSurface.clad(n, a, 90, 0.6, wood) for n, a in zip("NESW", (0, 90, 180, 270), strict=True)]
    plain = HouseRules(9.0, 30.0, "surface-cap", known.limits, known.tight, SiteLimits())
    rules = {law: replace(plain, young_share=share) for law, share in LAWS.items()}
    hours: dict[tuple[str, int], dict[str, float]] = defaultdict(lambda: defaultdict(float))
    print("| Site | law | starts on observed weather | wetted young | starts a day ahead | wetted young |\n|---|---|---|---|---|---|")
    permitted_ahead = np.zeros(2)
    for season in SITES:
        tally: dict[str, np.ndarray] = {law: np.zeros(4) for law in (*LAWS, PLANNED)}
        for pair in issues(season):
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
                    risk = film_risk(
                        foreseen, season.place, pair.forecast, walls, [rule] * len(walls), pair.issued_s, known.forecast_errors
                    )
                    taken = permitted(foreseen.also(risk).states, COAT_QUARTERS) & ahead
                    tally[PLANNED][2:] += taken.sum(), (taken & wetted).sum()
                hours[season.name, month][law] += float((seen.states[:, own] != SHUT).sum()) * QUARTER_H / len(walls)
        for law, (seen_n, seen_wet, told_n, told_wet) in tally.items():
            seen_words = f"{seen_n:,.0f} | {100 * seen_wet / seen_n:.1f} %" if seen_n else "- | -"
            print(f"| {season.name} | {law} | {seen_words} | {told_n:,.0f} | {100 * told_wet / max(told_n, 1):.1f} % |")
            sys.stdout.flush()
        permitted_ahead += tally[PLANNED][2:]
    print(f"| all three | {PLANNED} | - | - | {permitted_ahead[0]:,.0f} | {100 * permitted_ahead[1] / permitted_ahead[0]:.1f} % |")
    print("\n| Site | month | hours a wall, the label's clock | half-way | lost | strict | lost |\n|---|---|---|---|---|---|---|")
    for (name, month), of in sorted(hours.items()):
        lost = {law: of["clock"] - of[law] for law in ("half-way", "strict")}
        said = (of["clock"], of["half-way"], lost["half-way"], of["strict"], lost["strict"])
        print(" | ".join([f"| {name} | {month}", *(f"{v:.0f}" for v in said)]) + " |")
    return 0


if __name__ == "__main__":
    sys.exit(main())
