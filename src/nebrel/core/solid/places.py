"""Where on a piece there is room for a fitting."""

from __future__ import annotations

from functools import cached_property

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats, Mask
from nebrel.core.errors import InvalidValue
from nebrel.core.heights.relief import Relief
from nebrel.core.kernel import grown
from nebrel.core.outline.outline import Outline
from nebrel.core.outline.regions import outline_of, region_of
from nebrel.core.outline.trace import trace_mm

Place = tuple[float, float]
_FINEST_MM = 0.1  # no finer than that places are looked for
_MOST_PX = 1200


class Ground:
    """What a piece stands on: where it is, and how thick.

    Parameters
    ----------
    round_edge : only the largest circle of it is kept
    """

    def __init__(self, relief: Relief, round_edge: bool = False) -> None:
        field, there = relief.joined()
        rows, cols = field.mm.shape
        kept = np.ones((rows, cols), bool) if there is None else there
        if round_edge:
            pitch_x, pitch_y = field.pitch_mm
            y, x = np.mgrid[0:rows, 0:cols]
            away = np.hypot(x * pitch_x - field.wide_mm / 2, y * pitch_y - field.tall_mm / 2)
            kept = kept & (away <= min(field.wide_mm, field.tall_mm) / 2)
        if not kept.any():
            raise InvalidValue("fitting", "nothing is there to hold it", "Cut less")
        pitch = max(_FINEST_MM, max(field.wide_mm, field.tall_mm) / _MOST_PX)
        size = (max(2, round(field.wide_mm / pitch) + 1), max(2, round(field.tall_mm / pitch) + 1))
        # The thinnest of what a pixel takes in, so that nothing breaks through.
        mm = np.where(kept, field.mm, 0).astype(np.float32)
        step = max(1, int(np.ceil(cols / size[0])))
        mm = cv2.erode(mm, np.ones((step, step), np.uint8)) if step > 1 else mm
        self._mm: Floats = cv2.resize(mm, size, interpolation=cv2.INTER_NEAREST)
        self._tall_mm = field.tall_mm
        self._pitch = field.wide_mm / (size[0] - 1), field.tall_mm / (size[1] - 1)

    @cached_property
    def outline(self) -> Outline:
        """Where anything is."""
        return trace_mm((self._mm > 0).astype(np.float32), *self._pitch)

    @cached_property
    def middle(self) -> Place:
        """The middle of its weight."""
        rows, cols = np.indices(self._mm.shape)
        weight = self._mm.astype(np.float64)
        whole = weight.sum()
        return self._mm_at((weight * cols).sum() / whole, (weight * rows).sum() / whole)

    def above(self, x_mm: float, away_mm: float) -> float:
        """How high a place is that is just so far from all of the piece, over its upper edge."""
        around = outline_of(grown(region_of(self.outline), away_mm))
        low, high = self.outline.bounds
        return _crossings(around, min(max(x_mm, float(low[0])), float(high[0])))[-1]

    def lower_edge(self, first_mm: float, last_mm: float) -> tuple[float, float]:
        """The highest place of the lower edge between two places, and the least thickness there."""
        cols = np.arange(self._mm.shape[1]) * self._pitch[0]
        near = self._mm[:, (cols >= first_mm) & (cols <= last_mm)]
        there = near > 0
        near, there = near[:, there.any(axis=0)], there[:, there.any(axis=0)]
        if not near.size:
            raise InvalidValue("foot", "nothing is there to hold it", "Make it wider")
        lowest = near.shape[0] - 1 - np.argmax(there[::-1], axis=0)
        thin = float(near[lowest, np.arange(near.shape[1])].min())
        return self._mm_at(0, float(lowest.min()))[1], thin

    def rooms(self, radius_mm: float, thick_mm: float, count: int) -> list[Place]:
        """Places for rounds, as far apart as can be; a single one is near the middle of weight.

        Raises
        ------
        InvalidValue : there is no room for that many, or it is nowhere as thick
        """
        away = self._away(self._thick(thick_mm))
        fits = np.argwhere(away >= radius_mm)
        if not len(fits):
            most = max(0.0, float(away.max()) - radius_mm) + float(away.max())
            raise InvalidValue(
                "room",
                f"nothing of the piece is {2 * radius_mm:.1f} mm wide where it is "
                f"{thick_mm:.2g} mm thick",
                f"The largest round there is {most:.1f} mm across"
                if away.max() > 0
                else "Make it thicker",
            )
        places = self._places(fits)
        if count == 1:
            near = np.hypot(*(places - self.middle).T).argmin()
            return [tuple(places[near].tolist())]
        return self._apart(places, radius_mm, count)

    def _apart(self, places: NDArray[np.float64], radius_mm: float, count: int) -> list[Place]:
        """So many of the places, each the furthest from those before it."""
        first = np.hypot(*(places - self.middle).T).argmax()
        chosen = [places[first]]
        gap = np.hypot(*(places - chosen[0]).T)
        while len(chosen) < count:
            following = int(gap.argmax())
            if gap[following] < 2 * radius_mm:
                raise InvalidValue(
                    "room",
                    f"there is room for {len(chosen)} of them, not for {count}",
                    f"The nearest that works is {len(chosen)}",
                )
            chosen.append(places[following])
            gap = np.minimum(gap, np.hypot(*(places - chosen[-1]).T))
        return [(float(x), float(y)) for x, y in chosen]

    def highest_room(self, wide_mm: float, tall_mm: float, thick_mm: float) -> Place:
        """The middle of a box that lies on the piece, over the middle of weight, as high as can be.

        Raises
        ------
        InvalidValue : there is no room for it, or it is nowhere as thick
        """
        across, up = self._pitch
        box = np.ones(
            (int(np.ceil(tall_mm / up)) | 1, int(np.ceil(wide_mm / across)) | 1), np.uint8
        )
        border = cv2.BORDER_CONSTANT
        thick = self._thick(thick_mm).astype(np.uint8)
        fits = np.argwhere(cv2.erode(thick, box, borderType=border, borderValue=0))
        if not len(fits):
            raise InvalidValue(
                "room",
                f"no {wide_mm:.1f} × {tall_mm:.1f} mm of the piece are {thick_mm:.2g} mm thick",
                "Make the backing thicker, or the fitting smaller",
            )
        places = self._places(fits)
        aside = np.abs(places[:, 0] - self.middle[0])
        straight = places[aside <= aside.min() + across]
        x, y = straight[straight[:, 1].argmax()]
        return float(x), float(y)

    def under(self, radius_mm: float) -> Place:
        """The place nearest to the middle of weight that is so far inside; the deepest there is."""
        away = self._away(self._mm > 0)
        fits = np.argwhere(away >= min(radius_mm, float(away.max())))
        places = self._places(fits)
        x, y = places[np.hypot(*(places - self.middle).T).argmin()]
        return float(x), float(y)

    def _places(self, pixels: NDArray[np.int64]) -> NDArray[np.float64]:
        """Places (n, 2) in mm of pixels (n, 2) by row and col."""
        across, up = self._pitch
        return np.column_stack([pixels[:, 1] * across, self._tall_mm - pixels[:, 0] * up])

    def _thick(self, mm: float) -> Mask:
        found: Mask = self._mm >= mm - 1e-4
        return found

    def _away(self, where: Mask) -> Floats:
        """How far every pixel is from where it is not, mm."""
        padded = np.pad(where.astype(np.uint8), 1)
        found = cv2.distanceTransform(padded, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)[1:-1, 1:-1]
        return np.asarray(found * min(self._pitch), np.float32)

    def _mm_at(self, col: float, row: float) -> Place:
        return float(col) * self._pitch[0], self._tall_mm - float(row) * self._pitch[1]


def _crossings(outline: Outline, x_mm: float) -> list[float]:
    """Heights at which an outline crosses an upright line, rising; as near as it comes to it."""
    found: list[float] = []
    for loop in outline.loops:
        after = np.roll(loop, -1, axis=0)
        over = (loop[:, 0] > x_mm) != (after[:, 0] > x_mm)
        start, end = loop[over], after[over]
        share = (x_mm - start[:, 0]) / (end[:, 0] - start[:, 0])
        found += (start[:, 1] + share * (end[:, 1] - start[:, 1])).tolist()
    if not found:
        points = np.concatenate(outline.loops)
        found = [float(points[np.abs(points[:, 0] - x_mm).argmin(), 1])]
    return sorted(found)
