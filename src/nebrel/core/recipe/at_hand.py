"""What of the workshop a piece is made with, as its recipe keeps it."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field, model_validator

from nebrel.core.lengths import LengthUnits
from nebrel.core.recipe.step import Step

Millimetres = Annotated[float, Field(gt=0, le=5000, description="mm")]


class Printer(Step):
    """A printer that lays lines of molten material."""

    id: str = Field("fine-nozzle", max_length=40)
    name: str = Field("Fine nozzle, small bed", min_length=1, max_length=80)
    nozzle_mm: float = Field(0.4, ge=0.05, le=5)
    line_mm: float = Field(0.42, ge=0.05, le=10)
    layer_mm: float = Field(0.12, ge=0.01, le=5)
    bed_wide_mm: Millimetres = 180.0
    bed_deep_mm: Millimetres = 180.0
    bed_high_mm: Millimetres = 180.0

    @model_validator(mode="after")
    def _sound(self) -> Printer:
        if self.layer_mm > self.nozzle_mm:
            raise ValueError(
                f"a layer of {self.layer_mm:g} mm is higher than the nozzle is wide; "
                f"the nearest that works is {self.nozzle_mm:g} mm"
            )
        return self

    @property
    def bed_mm(self) -> tuple[float, float, float]:
        """What there is room for, across, deep and high."""
        return self.bed_wide_mm, self.bed_deep_mm, self.bed_high_mm

    @property
    def units(self) -> LengthUnits:
        """What a line and a layer are worth on it."""
        return LengthUnits(self.line_mm, self.layer_mm)


class Material(Step):
    """What a piece is made of."""

    id: str = Field("white-opaque", max_length=40)
    name: str = Field("White, opaque", min_length=1, max_length=80)
    colour: str = Field("#EDE8DF", pattern=r"^#[0-9A-Fa-f]{6}$")
    density_g_cm3: float = Field(1.24, gt=0.01, le=25)
    price_per_kg: float = Field(22.0, ge=0, le=100_000)
    attenuation_per_mm: float = Field(
        1.2, ge=0.01, le=50, description="Beer-Lambert coefficient of light through it"
    )
    attenuation_error: float | None = Field(
        None, ge=0, description="its standard error, when it was measured with a wedge"
    )
