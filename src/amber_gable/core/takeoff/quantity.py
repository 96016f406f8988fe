"""Quantity: litres of a paint for an area, by the film it must leave and by the label's own range.

Pure functions; a quantity keeps every number it came from.
Not here: areas (measure), containers (packs), which paint (systems).
"""

from dataclasses import dataclass

from amber_gable.core.knowledge import Product

UM_PER_M2_PER_L = 1000.0


@dataclass(frozen=True)
class Coverage:
    """Spreading of a paint: in theory, in practice, and the wet film that gives the dry one."""

    theoretical_m2_per_l: float
    practical_m2_per_l: float
    wet_film_um: float


def coverage(
    volume_solids_pct: float,
    dry_film_um: float,
    loss_pct: float = 0.0,
    profile_factor: float = 1.0,
    texture_factor: float = 1.0,
) -> Coverage:
    """Return the spreading rate of a paint from its solids and film.

    Parameters
    ----------
    volume_solids_pct : float
        Volume solids [%], above 0 to 100.
    dry_film_um : float
        Wanted dry film [µm], above 0.
    loss_pct : float
        Share of the paint that does not end in the film [%], 0 to 95.
    profile_factor, texture_factor : float
        Face per outline area and uptake of the texture, at least 1.

    References
    ----------
    Handbook 7: m2/L = 10 x solids % / dry film µm; wet film = dry film / solids fraction.
    """
    theoretical = 10 * volume_solids_pct / dry_film_um
    practical = theoretical * (1 - loss_pct / 100) / profile_factor / texture_factor
    return Coverage(theoretical, practical, dry_film_um * 100 / volume_solids_pct)


@dataclass(frozen=True)
class Spread:
    """Spreading rate on a smooth, sound ground without loss, by one of two routes.

    Parameters
    ----------
    m2_per_l : float
        What is reckoned with.
    film_m2_per_l : float
        From solids and dry film.
    low_m2_per_l, high_m2_per_l : float
        The label's own range; 0 where it gives none.
    why : str
        How the two routes stand to each other.
    """

    m2_per_l: float
    film_m2_per_l: float
    low_m2_per_l: float
    high_m2_per_l: float
    agrees: bool
    why: str

    @property
    def wet_film_um(self) -> float:
        """Return what the comb must show while the coat is wet [µm]."""
        return UM_PER_M2_PER_L / self.m2_per_l


def spread_of(product: Product) -> Spread:
    """Return how far a product goes, by film and by label; where they differ the label wins, and why is said.

    References
    ----------
    Handbook: a label always wins over a default. Section 7 for the film route.
    """
    film = coverage(product.volume_solids_pct, product.dry_film_um).theoretical_m2_per_l
    low, high = product.spread_low_m2_per_l, product.spread_high_m2_per_l
    if not high:
        return Spread(film, film, 0.0, 0.0, True, "the label gives no range: from solids and dry film")
    if low <= film <= high:
        return Spread(film, film, low, high, True, "the film lies within the label's range")
    bound, end = (low, "less") if film < low else (high, "more")
    why = f"solids and dry film give {film:.2f} m²/L, {end} than the label's {low:g} to {high:g}: the label wins. " + (
        "At that spread the film is thinner than its own sheet asks." if film < low else "The label counts what sinks in besides the film."
    )
    return Spread(bound, film, low, high, False, why)


@dataclass(frozen=True)
class Quantity:
    """One coat of a paint on an area.

    Parameters
    ----------
    area_m2 : float
        Net, as the eye sees it.
    profile, texture, suction : float
        Face per outline, uptake of the texture, and of a bare or chalky ground on the first coat; at least 1.
    spread_m2_per_l : float
        On what is smooth and sound, without loss.
    loss_pct, wind_pct, wear_pct : float
        Share lost by the method; share the wind takes besides; how much more a worn tip lets out.
    """

    area_m2: float
    spread_m2_per_l: float
    profile: float = 1.0
    texture: float = 1.0
    suction: float = 1.0
    loss_pct: float = 0.0
    wind_pct: float = 0.0
    wear_pct: float = 0.0

    @property
    def film_litres(self) -> float:
        """Return what ends in the film."""
        return self.area_m2 * self.profile * self.texture * self.suction / self.spread_m2_per_l

    @property
    def litres(self) -> float:
        return self.film_litres / (1 - self.loss_pct / 100) / (1 - self.wind_pct / 100) * (1 + self.wear_pct / 100)

    @property
    def m2_per_l(self) -> float:
        """Return the area a litre covers here, all told."""
        return self.area_m2 / self.litres if self.litres else self.spread_m2_per_l


def with_reserve(litres: float, reserve_pct: float, least_l: float = 0.0) -> float:
    """Return litres with the touch-up reserve of a colour: a share of it, at least a litre or a quart (handbook 7).

    Parameters
    ----------
    litres : float
        Needed [L].
    reserve_pct : float
        Of the litres [%].
    least_l : float
        Reserve at least [L].
    """
    return litres + max(litres * reserve_pct / 100, least_l) if litres else 0.0


def caulk_m(bead_mm: float, cartridge_ml: float) -> float:
    """Return the metres of a full round bead from a cartridge.

    Parameters
    ----------
    bead_mm : float
        Diameter of the bead [mm].
    cartridge_ml : float

    Notes
    -----
    A cylinder of the bead's diameter: 300 ml at 6 mm make 10.6 m (handbook 7: about 10).
    """
    return cartridge_ml * 1000 / (3.141592653589793 * (bead_mm / 2) ** 2) / 1000


def caulk_cartridges(joint_m: float, bead_mm: float, cartridge_ml: float = 300.0, waste_pct: float = 10.0) -> int:
    """Return whole cartridges for a length of joint.

    Parameters
    ----------
    joint_m : float
        Length of joint [m].
    bead_mm : float
        Diameter of the bead [mm].
    cartridge_ml : float
    waste_pct : float
        Lost in nozzle and tooling [%].
    """
    return whole(joint_m * (1 + waste_pct / 100) / caulk_m(bead_mm, cartridge_ml))


def whole(count: float) -> int:
    """Return the next whole number; what differs from one by rounding alone counts as that one."""
    nearest = round(count)
    if abs(count - nearest) <= 1e-9 * max(1.0, abs(count)):
        return nearest
    return int(-(-count // 1))
