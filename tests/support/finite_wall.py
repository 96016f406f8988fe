"""A wall by finite differences, written apart from the engine: many thin cells through the whole build-up, ten-second steps.

Shares nothing with the engine but the light that falls on it. Convection, long wave, humid air and latent heat are written out again
from their sources. What lies behind a light cladding (air gap, board, wool, plaster, room) is all there; the engine has one number.
"""

from dataclasses import dataclass

import numpy as np

from amber_gable.core.air import sun
from amber_gable.core.air.weather import Weather
from tests.support.weathers import HERON_FERRY, september, steady

STEP_S = 10.0
SIGMA = 5.670374e-8
ROOM_C, ROOM_FILM = 21.0, 1 / 0.13


@dataclass(frozen=True)
class Ply:
    """A ply of a build-up: thickness [m], conductivity [W/mK], volume capacity [J/m3K]; a resistance alone [m2K/W] for a gap."""

    depth_m: float = 0.0
    conductivity: float = 0.0
    capacity: float = 0.0
    resistance: float = 0.0


# ASHRAE Handbook Fundamentals, ch. 26: sheathing, wool, plasterboard; an air gap of 20 mm.
GAP, CONTACT = Ply(resistance=0.16), Ply(resistance=0.05)
BOARD, WOOL, PLASTER = Ply(0.011, 0.105, 1.22e6), Ply(0.09, 0.04, 1.7e4), Ply(0.0125, 0.16, 8.7e5)
STUDDED = (BOARD, WOOL, PLASTER)
BUILD_UPS: dict[str, tuple[tuple[Ply, ...], float]] = {
    # From the face on, with the roughness factor of the DOE-2 model.
    "thin-metal": ((Ply(0.00107, 45.0, 3.74e6), GAP, *STUDDED), 1.0),
    "vinyl": ((Ply(0.0022, 0.17, 1.38e6), GAP, *STUDDED), 1.11),
    "wood": ((Ply(0.0164, 0.11, 7.3e5), GAP, *STUDDED), 1.13),
    "shakes": ((Ply(0.0164, 0.11, 7.3e5), GAP, *STUDDED), 1.52),
    "fibre-cement": ((Ply(0.0095, 0.25, 1.26e6), GAP, *STUDDED), 1.11),
    "stucco": ((Ply(0.0256, 0.72, 1.56e6), CONTACT, *STUDDED), 2.17),
    "render-on-masonry": ((Ply(0.01, 0.87, 1.51e6), Ply(0.2, 0.72, 1.5e6)), 2.17),
    "masonry": ((Ply(0.2, 0.72, 1.5e6),), 1.67),
}


def _cells(plies: tuple[Ply, ...]) -> tuple[np.ndarray, np.ndarray]:
    """Return capacities of cells [J/m2K] and conductances between their middles [W/m2K]; the first is a half cell at the face."""
    capacity, resistance = [], []
    lead = 0.0
    for ply in plies:
        if ply.resistance:
            lead += ply.resistance
            continue
        count = max(round(ply.depth_m / 0.004), 2)
        thick = ply.depth_m / count
        for _ in range(count):
            half = thick / ply.conductivity / 2
            resistance.append(lead + half)
            capacity.append(thick * ply.capacity)
            lead = half
    # Of the face: a film of no capacity before the first cell would be a node of its own; the first cell is thin enough.
    return np.array(capacity), 1 / np.array(resistance[1:])


def _saturation_pa(t):
    return 611.2 * np.exp(17.62 * t / (243.12 + t))


def finite_wall(weather: Weather, kind: str, azimuth_deg: float, absorptance: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Return seconds since 1970, face temperature [°C] and water on it [kg/m2] of a wall with a heated room behind, every minute."""
    plies, rough = BUILD_UPS[kind]
    capacity, conductance = _cells(plies)
    count = len(capacity)
    # Implicit in the wall: (C/dt + K) T' = C/dt T + gains. The face's exchange is taken at the step's beginning.
    k = np.zeros((count, count))
    for i, g in enumerate(conductance):
        k[i, i] += g
        k[i + 1, i + 1] += g
        k[i, i + 1] -= g
        k[i + 1, i] -= g
    last = plies[-1]
    thick = last.depth_m / max(round(last.depth_m / 0.004), 2)
    inside = 1 / (1 / ROOM_FILM + thick / last.conductivity / 2)
    k[-1, -1] += inside
    first = plies[0]
    skin = first.depth_m / max(round(first.depth_m / 0.004), 2) / first.conductivity / 2
    inverse = np.linalg.inv(np.diag(capacity / STEP_S) + k)
    start, end = weather.epoch_s[0], weather.epoch_s[-1]
    at = np.arange(start, end, STEP_S)
    air, wind, cloud = (np.interp(at, weather.epoch_s, v) for v in (weather.air_temp_c, weather.wind_m_s, weather.cloud_pct / 100))
    vapour = np.interp(at, weather.epoch_s, _saturation_pa(weather.air_temp_c) * weather.rel_humidity_pct / 100)
    log = np.log(vapour / 611.2)
    dew = 243.12 * log / (17.62 - log) / 100
    clear = 0.711 + 0.56 * dew + 0.73 * dew**2
    sky = clear + 0.8 * (1 - clear) * cloud
    every = np.arange(start, end + 300, 300.0)
    light = sun.on_planes(sun.sky(HERON_FERRY, every, np.interp(every, weather.epoch_s, weather.cloud_pct)), azimuth_deg, 90).total_w_m2[0]
    sunlight = absorptance * np.interp(at, every, light)
    black = SIGMA * (air + 273.15) ** 4
    gain = sunlight + 0.9 * black * (sky + 1) / 2
    v = 0.6 * wind
    mean_forced = (3.26 * v**0.89 + 3.55 * v**0.617) / 2
    pressure = 101325 * (1 - 2.25577e-5 * HERON_FERRY.altitude_m) ** 5.2559
    mass = 0.622 / (1006 * pressure * 0.894)
    rate, t = capacity / STEP_S, np.linspace(air[0], ROOM_C, count)
    faces, waters = np.empty(len(at)), np.empty(len(at))
    day = round(86400 / STEP_S)
    face, water = float(air[0]), 0.0
    # Three days of the first before: what lies inside has found its warmth by then.
    for n in [*range(day), *range(day), *range(day), *range(len(at))]:
        over = abs(face - air[n])
        natural = 1.31 * over ** (1 / 3)
        h = natural + rough * ((natural**2 + mean_forced[n] ** 2) ** 0.5 - natural)
        flux = max(h * mass * (vapour[n] - _saturation_pa(face)), -water / STEP_S)
        water += flux * STEP_S
        q = gain[n] - 0.9 * SIGMA * (face + 273.15) ** 4 + h * (air[n] - face) + 2.5e6 * flux
        known = rate * t
        known[0] += q
        known[-1] += inside * ROOM_C
        t = inverse @ known
        # The face itself lies half a cell before the first middle.
        face = float(t[0] + q * skin)
        faces[n], waters[n] = face, water
        if n == day - 1:
            water = 0.0
    return at, faces, waters


# Three kinds of weather, a day to settle and three to compare: clear and dewy, hot, grey and windy.
WEATHERS: dict[str, Weather] = {
    "clear": september(97, dew_c=11.0),
    "hot": september(97, mean_c=27.0, swing_c=6.0, dew_c=16.0),
    "grey": steady(97, 12.0, 82.0, 3.0, 90.0),
}
