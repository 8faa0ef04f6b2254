"""What all steps of a recipe have in common."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict


class Step(BaseModel):
    """Common ground of all steps: unknown fields are refused, nothing changes in place."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)
