"""A finished piece and the picture that it was raised from."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from nebrel.core.data import Floats, HeightField
from nebrel.core.forms.maps import FormMap
from nebrel.core.forms.places import flat_shares


@dataclass(frozen=True)
class OnPicture:
    """Where on its picture a piece lies, as long as it lies where its form laid it.

    Attributes
    ----------
    pixels : (rows, cols, 3) float32, 0 to 1 as displayed
    tone : (rows, cols) float32, the same as brightness
    form, lift_mm, field, mirrored, room_mm : as of `flat_shares`
    """

    pixels: Floats
    tone: Floats
    form: FormMap | None
    lift_mm: float
    field: HeightField
    mirrored: bool
    room_mm: tuple[float, float]

    @property
    def around(self) -> bool:
        """Whether its left and right end meet."""
        return self.form is not None and self.form.around

    def shares(self, vertices: Floats) -> Floats:
        """Shares of its width and height (V, 2) from the upper left corner of the picture."""
        placing = self.form, self.lift_mm, self.field, self.mirrored, self.room_mm
        return flat_shares(vertices, *placing)

    def tones_at(self, vertices: Floats) -> Floats:
        """The brightness (V,) of the picture at each place; beside it that of its edge."""
        import cv2

        rows, cols = self.tone.shape
        at = self.shares(vertices) * np.array([cols - 1, rows - 1], np.float32)
        across, down = (np.ascontiguousarray(at[:, k]).reshape(-1, 1) for k in (0, 1))
        found = np.empty(len(at), np.float32)
        step = 30_000  # no picture of more rows is taken
        for start in range(0, len(at), step):
            some = slice(start, start + step)
            found[some] = cv2.remap(
                self.tone, across[some], down[some], cv2.INTER_LINEAR,
                borderMode=cv2.BORDER_REPLICATE,
            )[:, 0]  # fmt: skip
        return found
