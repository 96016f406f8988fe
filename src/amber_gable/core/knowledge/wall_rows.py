"""Rows of what walls are made of: claddings and what stands behind them, how materials take up water.

Not here: what they do in the weather (wall).
"""

from typing import Literal, Self

from pydantic import Field, model_validator

from amber_gable.core.knowledge.rows import TableRow
from amber_gable.core.wall.convection import Roughness
from amber_gable.core.wall.slab import Layer, Slab


class LayerRow(TableRow):
    """One layer of what conducts inward."""

    depth_m: float = Field(gt=0)
    conductivity_w_mk: float = Field(gt=0)
    volume_capacity_kj_m3k: float = Field(gt=0)


class Cladding(TableRow):
    label: str
    # Of a skin; that of a slab follows from its layers.
    areal_heat_capacity_kj_m2k: float = Field(default=0.0, ge=0)
    roughness: Roughness
    water_store_mm: float = Field(ge=0)
    # Of what conducts inward, from the face on; none for a skin.
    layers: tuple[LayerRow, ...] = ()
    # What stands behind a skin on a heated house: its own resistance, a gap, then layers from there on.
    skin_m2k_w: float = Field(default=0.0, ge=0)
    gap_m2k_w: float = Field(default=0.0, ge=0)
    behind: tuple[LayerRow, ...] = ()
    # How far the model of it may stray for good (standard deviation).
    error_c: float = Field(ge=0)
    source: str

    @model_validator(mode="after")
    def _is_skin_or_slab(self) -> Self:
        if bool(self.layers) == bool(self.areal_heat_capacity_kj_m2k):
            raise ValueError("a cladding has a heat capacity, or layers that conduct inward")
        return self

    @property
    def slab(self) -> Slab | None:
        return Slab(_layers(self.layers)) if self.layers else None

    @property
    def layers_behind(self) -> tuple[Layer, ...]:
        return _layers(self.behind)


def _layers(rows: tuple[LayerRow, ...]) -> tuple[Layer, ...]:
    return tuple(Layer(row.depth_m, row.conductivity_w_mk, row.volume_capacity_kj_m3k * 1000) for row in rows)


class Stock(TableRow):
    """Water uptake and drying of a material."""

    label: str
    family: Literal["wood", "masonry"]
    saturated_pct: float = Field(gt=0, le=100)
    washed_pct: float = Field(gt=0, le=100)
    # What it comes to when left alone; of wood it follows from the climate.
    equilibrium_pct: float | None = Field(default=None, ge=0, le=100)
    dries_h: float = Field(gt=0)
    wets_h: float = Field(gt=0)
    # By the meter for it; a label that asks for less wins.
    max_pct: float = Field(gt=0, le=100)
    source: str
