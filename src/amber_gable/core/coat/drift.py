"""Drift: how long a droplet of overspray is in the air, how far the wind takes it, and whether it lands wet.

Pure functions of one droplet.
Not here: what stands downwind (survey), or in which wind a sprayer is shut (windows).
"""

from dataclasses import dataclass
from typing import Literal

Kind = Literal["waterborne", "oil"]

GRAVITY_M_S2 = 9.80665
WATER_KG_M3 = 998.0
# A droplet of d µm lives d² / (80 x wet-bulb depression) seconds (handbook 4).
LIFE_FACTOR = 80.0
_GAS_J_KGK = 287.055
_PRESSURE_PA = 101_325.0
# Sutherland's law for air: reference viscosity [Pa s] and temperature [K], and its constant [K].
_MU, _T0, _S = 1.716e-5, 273.15, 110.4
_ROUNDS = 200


def air_viscosity_pa_s(air_temp_c: float) -> float:
    """Return the dynamic viscosity of air.

    References
    ----------
    Sutherland (1893), constants as in the U.S. Standard Atmosphere.
    """
    t = air_temp_c + 273.15
    return float(_MU * (t / _T0) ** 1.5 * (_T0 + _S) / (t + _S))


def air_density_kg_m3(air_temp_c: float) -> float:
    """Return the density of dry air at sea level."""
    return _PRESSURE_PA / (_GAS_J_KGK * (air_temp_c + 273.15))


def terminal_velocity_m_s(droplet_um: float, air_temp_c: float) -> float:
    """Return the velocity at which a water droplet falls once drag carries its weight.

    Parameters
    ----------
    droplet_um : float
        Diameter [µm], above 0. The drag law holds to a Reynolds number of about 1000 (some 3 mm).
    air_temp_c : float

    References
    ----------
    Drag of a sphere: 24/Re (1 + 0.15 Re^0.687), Schiller and Naumann (1933).
    """
    d, mu, rho = droplet_um * 1e-6, air_viscosity_pa_s(air_temp_c), air_density_kg_m3(air_temp_c)
    stokes = (WATER_KG_M3 - rho) * GRAVITY_M_S2 * d**2 / (18 * mu)

    def surplus(v: float) -> float:
        return v * (1 + 0.15 * float((rho * v * d / mu) ** 0.687)) - stokes

    # Drag only ever slows it below Stokes: halve between rest and that.
    low, high = 0.0, stokes
    for _ in range(_ROUNDS):
        middle = (low + high) / 2
        if surplus(middle) > 0:
            high = middle
        else:
            low = middle
    return (low + high) / 2


@dataclass(frozen=True)
class Flight:
    """Flight of one droplet.

    Parameters
    ----------
    fall_s, distance_m : float
    dry_s : float or None
        Until its water is gone; None where it never is: saturated air, or oil.
    lands : {"dry", "wet"}
        Dry overspray still bonds to warm car paint: it lowers the risk and never clears it.
    """

    fall_s: float
    dry_s: float | None
    distance_m: float
    lands: Literal["dry", "wet"]


def life_s(droplet_um: float, wet_bulb_depression_c: float) -> float | None:
    """Return how long the water of a droplet lasts; None where it does not evaporate (handbook 4).

    Parameters
    ----------
    droplet_um : float
        Diameter [µm].
    wet_bulb_depression_c : float
        How far the wet bulb lies below the air [K].
    """
    if wet_bulb_depression_c <= 0:
        return None
    return droplet_um**2 / (LIFE_FACTOR * wet_bulb_depression_c)


def flight(kind: Kind, droplet_um: float, height_m: float, wind_m_s: float, air_temp_c: float, wet_bulb_c: float) -> Flight:
    """Return how far a droplet drifts and how it lands.

    Parameters
    ----------
    kind : {"waterborne", "oil"}
        Oil does not dry on the way: it lands wet and far.
    droplet_um, height_m, wind_m_s, air_temp_c, wet_bulb_c : float

    Notes
    -----
    It falls at its full size all the way; as it shrinks it falls slower and goes farther, so what dries in the air is
    carried farther than this says.
    """
    fall = height_m / terminal_velocity_m_s(droplet_um, air_temp_c)
    dry = life_s(droplet_um, air_temp_c - wet_bulb_c) if kind == "waterborne" else None
    return Flight(fall, dry, wind_m_s * fall, "dry" if dry is not None and dry < fall else "wet")
