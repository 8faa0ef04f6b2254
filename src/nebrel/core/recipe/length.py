"""A length in a recipe: millimetres, and the words they were typed in."""

from __future__ import annotations

from typing import Annotated, Any

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, model_validator

from nebrel.core.lengths import parse_length


class Length(BaseModel):
    """A length. A bare number or a text is understood too: 12, "0.5 in", "4 lines"."""

    model_config = ConfigDict(frozen=True, allow_inf_nan=False)

    mm: float
    # A limit has it looked at: half of a letter could be kept, and never be read again.
    text: Annotated[str, Field(max_length=10_000)] | None = None

    @model_validator(mode="before")
    @classmethod
    def _from_plain(cls, value: Any) -> Any:
        if isinstance(value, int | float) and not isinstance(value, bool):
            return {"mm": value}
        if isinstance(value, str):
            return {"mm": parse_length(value), "text": value.strip()[:60]}
        return value


def between(low: float, high: float, name: str) -> AfterValidator:
    """A validator that keeps a length in a sensible range and says so in words."""

    def check(value: Length) -> Length:
        if not low <= value.mm <= high:
            nearest = low if value.mm < low else high
            raise ValueError(
                f"{name} of {value.mm:g} mm is outside {low:g} to {high:g} mm; "
                f"the nearest that works is {nearest:g} mm"
            )
        return value

    return AfterValidator(check)


SideLength = Annotated[Length, between(0.1, 5000, "a side")]
DepthLength = Annotated[Length, between(0.01, 500, "a relief depth")]
BackingLength = Annotated[Length, between(0, 500, "a backing")]
PitchLength = Annotated[Length, between(0.005, 5, "a pitch")]
ToleranceLength = Annotated[Length, between(0.001, 5, "a tolerance")]
