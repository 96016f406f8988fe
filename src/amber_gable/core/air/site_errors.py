"""Errors that stay at a site: how much colder, damper or calmer it is than what is told of it, and how far the model of its walls strays.

Before anything was measured there they are as far spread as the table says; readings narrow and shift what is believed. A reading
that fits no other is taken for a slip of the pen: it moves little.
Not here: errors that grow with lead (members), what a reading allows at its moment (windows.readings).
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from amber_gable.core.air.humid import Array
from amber_gable.core.knowledge import ErrorModel

# Beliefs are reckoned on so many values, out to so many spreads.
_VALUES, _OUT = 241, 4.0
# A slip may lie anywhere within so many spreads of a reading.
_SLIP_SPREADS = 20.0


@dataclass(frozen=True)
class Belief:
    """A normal spread of what an error may be: its mean and its standard deviation, in the error's own unit."""

    mean: float
    spread: float

    def after(self, residuals: Sequence[float], noise: float, slips_frac: float) -> "Belief":
        """Return what is believed once readings showed residuals.

        Parameters
        ----------
        residuals : sequence of float
            What was measured less what was told, one each.
        noise : float
            By how much a single one strays by itself (standard deviation).
        slips_frac : float
            How many of them are slips and say nothing, 0 to 1.

        References
        ----------
        Bayes on a grid of values; a reading is normal about the error, or with a small chance uniform (Box and Tiao 1968).
        """
        if not len(residuals) or not self.spread:
            return self
        values = self.mean + self.spread * np.linspace(-_OUT, _OUT, _VALUES)
        weight = -0.5 * ((values - self.mean) / self.spread) ** 2
        for residual in residuals:
            fits = np.exp(-0.5 * ((residual - values) / noise) ** 2) / (noise * np.sqrt(2 * np.pi))
            weight = weight + np.log((1 - slips_frac) * fits + slips_frac / (_SLIP_SPREADS * noise))
        share = np.exp(weight - weight.max())
        share /= share.sum()
        mean = float(share @ values)
        return Belief(mean, float(np.sqrt(share @ (values - mean) ** 2)))


@dataclass(frozen=True)
class Shown:
    """What readings at a site showed, each list measured less told.

    Parameters
    ----------
    air_k : tuple of float
        Temperature of the air [K].
    vapour_frac : tuple of float
        Logarithm of the ratio of vapour pressures.
    surfaces_k : tuple of tuple of float, length S
        Of each surface, how much farther from its air it was than computed [K].
    """

    air_k: tuple[float, ...] = ()
    vapour_frac: tuple[float, ...] = ()
    surfaces_k: tuple[tuple[float, ...], ...] = ()


@dataclass(frozen=True)
class SiteErrors:
    """What is believed of a site.

    Parameters
    ----------
    air_k, vapour_frac, wind_frac : Belief
        Of its air less that which is told [K]; of the logarithms of vapour pressure and wind over those told.
    surfaces_k : tuple of Belief, length S
        Of each surface's temperature less the model's, in usual wind [K].
    """

    air_k: Belief
    vapour_frac: Belief
    wind_frac: Belief
    surfaces_k: tuple[Belief, ...]

    @classmethod
    def before_readings(cls, model: ErrorModel, surface_errors_c: Sequence[float]) -> "SiteErrors":
        """Return what is believed of a site where nothing was measured.

        Parameters
        ----------
        model : ErrorModel
        surface_errors_c : sequence of float, length S
            By what each surface is made of [K].
        """
        return cls(
            Belief(0.0, model.site_air_c), Belief(0.0, model.site_vapour_frac), Belief(0.0, model.site_wind_frac),
            tuple(Belief(0.0, spread) for spread in surface_errors_c),
        )  # fmt: skip

    def after(self, shown: Shown, model: ErrorModel) -> "SiteErrors":
        """Return what is believed once readings were taken.

        Parameters
        ----------
        shown : Shown
            `surfaces_k` by the rows of this one.
        model : ErrorModel
            How far readings stray by themselves, and how many are slips.
        """
        slips = model.slips_frac
        walls = shown.surfaces_k or ((),) * len(self.surfaces_k)
        return replace(
            self, air_k=self.air_k.after(shown.air_k, model.reading_air_c, slips),
            vapour_frac=self.vapour_frac.after(shown.vapour_frac, model.reading_vapour_frac, slips),
            surfaces_k=tuple(b.after(r, model.reading_surface_c, slips) for b, r in zip(self.surfaces_k, walls, strict=True)),
        )  # fmt: skip

    def drawn(self, members: int, seed: int) -> tuple[Array, Array, Array]:
        """Return constant errors of members: air [K], and the logarithms of vapour and wind; each shape (members,).

        Parameters
        ----------
        members, seed : int
        """
        air, vapour, wind = np.random.default_rng((seed, 1)).standard_normal((3, members))
        return (
            self.air_k.mean + self.air_k.spread * air, self.vapour_frac.mean + self.vapour_frac.spread * vapour,
            self.wind_frac.mean + self.wind_frac.spread * wind,
        )  # fmt: skip

    def drawn_of_surfaces(self, members: int, seed: int) -> Array:
        """Return constant errors of the model of each surface, shape (members, S) [K]; the same way for all, each by its own spread.

        Parameters
        ----------
        members, seed : int
        """
        noise = np.random.default_rng((seed, 2)).standard_normal(members)
        mean, spread = np.array([b.mean for b in self.surfaces_k]), np.array([b.spread for b in self.surfaces_k])
        result: Array = mean + spread * noise[:, None]
        return result
