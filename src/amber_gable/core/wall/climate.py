"""Climate at the surfaces: sun, temperature, dew and wetness of each surface through the weather.

Joins the physics modules into one run over [surface, quarter-hour].
Not here: limits and states (windows); each law is in its own module.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from amber_gable.core.air import sun
from amber_gable.core.air.free_air import FreeAir, free_air
from amber_gable.core.air.humid import Array
from amber_gable.core.air.weather import QUARTER_S, Grid, Weather
from amber_gable.core.knowledge.assumptions import assumed
from amber_gable.core.knowledge.wall_rows import Cladding, Stock
from amber_gable.core.wall.convection import ROUGHNESS, Roughness
from amber_gable.core.wall.moisture import moisture_pct
from amber_gable.core.wall.self_shade import LitTable
from amber_gable.core.wall.slab import Room, Slab
from amber_gable.core.wall.surface_temperature import SHORT_STEP_S, Forcing, Skin, integrate
from amber_gable.core.wall.wetness import rain_on_surfaces_mm_h

WET_KG_M2 = assumed("felt_wet_kg_m2")
ROOM_C = assumed("room_c")
# Inner surface resistance of walls 0.13 m2K/W (ISO 6946).
ROOM_FILM_W_M2K = 1 / 0.13
_USUAL_LOSS_W_M2K = assumed("usual_loss_w_m2k")


@dataclass(frozen=True)
class ClimateSurface:
    """A surface as the weather acts on it.

    Parameters
    ----------
    name : str
    azimuth_deg, tilt_deg : float
        Where it faces, clockwise from north; 90 is a wall, 0 flat.
    solar_absorptance : float
        Share of sunlight taken up, 0 to 1.
    heat_capacity_kj_m2k : float
        Areal heat capacity of the cladding.
    water_store_mm : float
        What the face holds before water runs off; infinite for none.
    shades : tuple of sun.Shade
        What hides the sun from it: trees, neighbours, hills.
    lit : LitTable or None
        What the building's own eaves and wings leave of the sun.
    slab : Slab or None
        What conducts inward behind its face: a solid wall, or the frame of a heated house behind a light skin.
    stock : Stock or None
        How it takes up water; None for what takes up none.
    roughness : Roughness
        By which the wind holds on to it.
    error_c : float
        How far the model of it may stray for good (standard deviation); by what it is made of.
    """

    name: str
    azimuth_deg: float
    tilt_deg: float
    solar_absorptance: float
    heat_capacity_kj_m2k: float
    water_store_mm: float = float("inf")
    shades: tuple[sun.Shade, ...] = ()
    lit: LitTable | None = None
    slab: Slab | None = None
    stock: Stock | None = None
    roughness: Roughness = "medium-smooth"
    error_c: float = 0.0

    @classmethod
    def clad(
        cls, name: str, azimuth_deg: float, tilt_deg: float, solar_absorptance: float, cladding: Cladding, *, is_heated: bool = False,
        shades: tuple[sun.Shade, ...] = (), lit: LitTable | None = None, stock: Stock | None = None,
    ) -> "ClimateSurface":  # fmt: skip
        """Return a surface of a cladding, with a heated room behind it or none."""
        slab = cladding.slab
        room = Room(ROOM_C, ROOM_FILM_W_M2K)
        if slab is not None and is_heated:
            slab = replace(slab, room=room)
        elif is_heated and cladding.behind:
            held = cladding.areal_heat_capacity_kj_m2k * 1000
            slab = Slab(cladding.layers_behind, room, held, cladding.skin_m2k_w, cladding.gap_m2k_w)
        return cls(
            name, azimuth_deg, tilt_deg, solar_absorptance, cladding.areal_heat_capacity_kj_m2k, cladding.water_store_mm, shades, lit, slab,
            stock, cladding.roughness, cladding.error_c,
        )  # fmt: skip


@dataclass(frozen=True)
class Observation:
    """Observation on a surface (palm, meter, wash): it overrules the computation from its moment on.

    Parameters
    ----------
    surface : int
    at_s : float
        Seconds since 1970.
    water_kg_m2, moisture_pct : float or None
        By palm, 0 for dry, which says of what lies under it that it is dry enough; by meter, or what a wash left.
    """

    surface: int
    at_s: float
    water_kg_m2: float | None = None
    moisture_pct: float | None = None


@dataclass(frozen=True)
class Climate:
    """Everything the limits ask about, at Q instants for S surfaces.

    Parameters
    ----------
    grid : Grid
    sky : sun.Sky
    air_temp_c, rel_humidity_pct, vapour_pa, dew_point_c, wind_m_s, gust_m_s : ndarray, shape (Q,)
        Free air; `gust_m_s` is the wind where no gust is given.
    rain_mm_h, rain_probability_pct : ndarray, shape (Q,)
        Of the hour an instant lies in.
    surface_temp_c, dew_margin_c, water_kg_m2 : ndarray, shape (S, Q)
    direct_sun, wet : ndarray of bool, shape (S, Q)
    wind_from_deg, thunder_probability_pct : ndarray, shape (Q,), or None
        Where it is known; where thunder is forecast.
    moisture_pct : ndarray, shape (S, Q), or None
        NaN for surfaces that take up no water; None where there is no other.
    moisture_max_pct, lrv_pct : ndarray, shape (S,), optional
        What each surface's meter may show at most; how light its new colour is.
    seen_frac : ndarray, shape (S, Q), or None
        The share of each surface that the sun reaches past what stands in its way; None where nothing does.
    """

    grid: Grid
    sky: sun.Sky
    air_temp_c: Array
    rel_humidity_pct: Array
    vapour_pa: Array
    dew_point_c: Array
    wind_m_s: Array
    gust_m_s: Array
    rain_mm_h: Array
    rain_probability_pct: Array
    surface_temp_c: Array
    dew_margin_c: Array
    water_kg_m2: Array
    direct_sun: NDArray[np.bool_]
    wet: NDArray[np.bool_]
    wind_from_deg: Array | None = None
    moisture_pct: Array | None = None
    moisture_max_pct: Array | None = None
    lrv_pct: Array | None = None
    seen_frac: Array | None = None
    thunder_probability_pct: Array | None = None

    def of_surfaces(self, rows: Sequence[int]) -> "Climate":
        """Return the climate of some of the surfaces."""
        through_time = ("surface_temp_c", "dew_margin_c", "water_kg_m2", "direct_sun", "wet", "moisture_pct", "seen_frac")
        some = {n: v[..., list(rows), :] for n in through_time if (v := getattr(self, n)) is not None}
        return replace(self, **some, **{n: v[list(rows)] for n in ("moisture_max_pct", "lrv_pct") if (v := getattr(self, n)) is not None})


def simulate(
    place: sun.Place,
    weather: Weather,
    surfaces: Sequence[ClimateSurface],
    *,
    step_s: float = QUARTER_S,
    surface_bias_c: Array | None = None,
    observations: Sequence[Observation] = (),
) -> Climate:
    """Run the physics for surfaces through weather.

    Parameters
    ----------
    place : sun.Place
    weather : Weather
        N hours; a day or more before the hours asked about lets dew and warmth build up.
    surfaces : sequence of ClimateSurface, length S
    step_s : float
        Integration step; quarter-hours are fine enough (tests halve it).
    surface_bias_c : ndarray, shape (S,), optional
        What site readings found the surfaces to be warmer than computed; added to temperatures.
    observations : sequence of Observation
        What palms and meters found; what lies before the weather begins is left out.

    Returns
    -------
    Climate
        Arrays over [surface, instant], instants `step_s` apart.
    """
    grid = Grid.over(weather, step_s)
    return climate_of(place, grid, free_air(weather, grid), surfaces, surface_bias_c=surface_bias_c, observations=observations)


def climate_of(
    place: sun.Place, grid: Grid, air: FreeAir, surfaces: Sequence[ClimateSurface], *, surface_bias_c: Array | None = None,
    observations: Sequence[Observation] = (), moisture: Array | None = None, short_step_s: float = SHORT_STEP_S,
    own_error_c: Array | None = None,
) -> Climate:  # fmt: skip
    """Run the physics for surfaces through air on a grid, of one course or of members.

    Parameters
    ----------
    place, grid, air, surfaces
    surface_bias_c, observations
        As for `simulate`.
    moisture : ndarray, shape (S, Q), optional
        Of what is painted, where it is known already.
    short_step_s : float
        In which the balance goes: members of an ensemble bear longer ones.
    own_error_c : ndarray, shape (..., S), optional
        By how much each surface is warmer than its model for good, in usual wind [K]; a gain that the balance does not know.

    Returns
    -------
    Climate
        Arrays over [surface, instant], or [member, surface, instant].
    """
    azimuth = np.array([s.azimuth_deg for s in surfaces])
    tilt = np.array([s.tilt_deg for s in surfaces])
    the_sky = sun.sky(place, grid.epoch_s, air.cloud_pct)
    seen = sun.unhidden(the_sky, [s.shades for s in surfaces], [s.lit for s in surfaces])
    light = sun.on_planes(the_sky, azimuth, tilt, seen=seen)
    falling = None
    if air.rain_mm_h.any():
        # Of the step that begins at an instant: the hour's rain in the wind of its middle.
        middle = air.wind_m_s.copy()
        middle[..., :-1] += np.diff(air.wind_m_s, axis=-1) / 2
        falling = rain_on_surfaces_mm_h(air.rain_mm_h, middle, air.wind_from_deg, azimuth, tilt) / 3600
    forcing = Forcing(
        step_s=grid.step_s, air_temp_c=air.air_temp_c, vapour_pa=air.vapour_pa, dew_point_c=air.dew_point_c, wind_m_s=air.wind_m_s,
        cloud_frac=air.cloud_pct / 100, irradiance_w_m2=light.total_w_m2, altitude_m=place.altitude_m, rain_kg_m2_s=falling,
        wind_from_deg=air.wind_from_deg, unknown_w_m2=None if own_error_c is None else _USUAL_LOSS_W_M2K * own_error_c,
    )  # fmt: skip
    # At once, and for the quarter-hour in which a wall is felt: its beginning and its end are as the palm says.
    places = [(t, (t.at_s - grid.epoch_s[0]) / grid.step_s) for t in observations]
    ends = [(t, q) for t, at in places for q in dict.fromkeys((int(np.floor(at + 1e-9)), int(np.ceil(at - 1e-9))))]
    placed = [(t, q) for t, q in ends if 0 <= q < len(grid.epoch_s)]
    state = integrate(
        forcing, _skin(surfaces), short_step_s=short_step_s,
        observations=[(t.surface, q, t.water_kg_m2) for t, q in placed if t.water_kg_m2 is not None],
    )  # fmt: skip
    temp = state.temp_c if surface_bias_c is None else state.temp_c + surface_bias_c[:, None]
    if moisture is None:
        # By what was computed: one reading of today says nothing of the days that a board remembers.
        moisture = _moisture(surfaces, state.temp_c, forcing, state.water_kg_m2, placed)
    return Climate(
        grid=grid, sky=the_sky, air_temp_c=air.air_temp_c, rel_humidity_pct=air.rel_humidity_pct, vapour_pa=air.vapour_pa,
        dew_point_c=air.dew_point_c, wind_m_s=air.wind_m_s, gust_m_s=air.gust_m_s, rain_mm_h=air.rain_mm_h,
        rain_probability_pct=air.rain_probability_pct, surface_temp_c=temp, dew_margin_c=temp - air.dew_point_c[..., None, :],
        water_kg_m2=state.water_kg_m2, direct_sun=light.direct_sun, wet=state.water_kg_m2 > WET_KG_M2, wind_from_deg=air.wind_from_deg,
        moisture_pct=moisture, moisture_max_pct=np.array([s.stock.max_pct if s.stock else np.inf for s in surfaces]),
        lrv_pct=100 * (1 - np.array([s.solar_absorptance for s in surfaces])), seen_frac=seen,
        thunder_probability_pct=air.thunder_probability_pct,
    )  # fmt: skip


def _skin(surfaces: Sequence[ClimateSurface]) -> Skin:
    return Skin(
        azimuth_deg=np.array([s.azimuth_deg for s in surfaces]),
        tilt_deg=np.array([s.tilt_deg for s in surfaces]),
        roughness=np.array([ROUGHNESS[s.roughness] for s in surfaces]),
        solar_absorptance=np.array([s.solar_absorptance for s in surfaces]),
        heat_capacity_j_m2k=np.array([s.heat_capacity_kj_m2k * 1000 for s in surfaces]),
        water_capacity_kg_m2=np.array([s.water_store_mm for s in surfaces]),
        slabs=tuple(s.slab for s in surfaces),
    )


def _moisture(
    surfaces: Sequence[ClimateSurface], temp_c: Array, forcing: Forcing, water: Array, placed: Sequence[tuple[Observation, int]],
) -> Array | None:  # fmt: skip
    """Return the moisture of every surface that takes up water, shape (..., S, Q)."""
    if all(s.stock is None for s in surfaces):
        return None
    out = np.full(temp_c.shape, np.nan)
    for row, surface in enumerate(surfaces):
        if surface.stock is None:
            continue
        face = temp_c[..., row, :]
        observations = [(q, t.moisture_pct) for t, q in placed if t.surface == row and t.moisture_pct is not None]
        # A palm that finds a face dry confirms what lies under it, until it rains again.
        dry = [q for t, q in placed if t.surface == row and t.water_kg_m2 == 0 and t.moisture_pct is None]
        falls = None if forcing.rain_kg_m2_s is None else forcing.rain_kg_m2_s[..., row, :]
        out[..., row, :] = moisture_pct(
            surface.stock,
            face,
            forcing.vapour_pa,
            forcing.wind_m_s,
            water[..., row, :],
            falls,
            forcing.step_s,
            observations,
            dry,
        )
    return out
