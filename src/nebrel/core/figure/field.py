"""Bodies in the round over silhouettes, joined smoothly, as a closed mesh."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np
from numba import njit, prange
from numpy.typing import NDArray

from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue
from nebrel.core.figure.swell import Swollen
from nebrel.core.mesh.faults import same_corner
from nebrel.core.mesh.measure import merge

_BLOCK = 64  # cells along each side of what is looked at in one go
_LOOK = 8  # cells from one that is looked at first to the next
_ROOM = 3  # cells around all of it
_BEYOND_PX = 0.5  # of an outline: what fills a corner between two may go
_FILLED = 0.25  # of what corners are joined within: how far that goes beyond both, at most
_NONE = -1e6
MOST_CELLS = 1_600_000_000


@dataclass(frozen=True)
class Bulge:
    """A silhouette in the round.

    Attributes
    ----------
    swollen : as from `swell`
    front, back : how many times as thick to the front and to the back as the balls are; a back
        of 0 is flat
    ahead_px : by how much its middle lies before that of the figure
    behind : its back, where that is another
    lift, back_lift : (rows, cols) px, by how much its front and its back stand further out;
        nothing along the rim
    within : (rows, cols) px, how far inside the outline that it is cut along
    middle : (rows, cols) px, by how much its middle lies further ahead there
    """

    swollen: Swollen
    front: float = 1.0
    back: float = 1.0
    ahead_px: float = 0.0
    behind: Swollen | None = None
    lift: NDArray[np.float64] | None = None
    back_lift: NDArray[np.float64] | None = None
    within: NDArray[np.float64] | None = None
    middle: NDArray[np.float64] | None = None

    @property
    def reach_px(self) -> tuple[float, float]:
        """How far it goes to the back (below 0) and to the front."""
        lift, low = (
            0.0 if one is None else max(0.0, float(one.max()))
            for one in (self.lift, self.back_lift)
        )
        behind = (self.behind or self.swollen).half_px
        front = self.swollen.half_px * self.front + lift
        ahead, after = self.ahead_px, self.ahead_px
        if self.middle is not None:
            ahead, after = ahead + float(self.middle.max()), after + float(self.middle.min())
        least = 0.0 if self.back == 0 else after - behind * self.back - low
        return least, ahead + front

    @property
    def layers(self) -> NDArray[np.float32]:
        """(8, rows, cols) all that is known of each pixel of it."""
        behind = self.behind or self.swollen
        shape = self.swollen.power.shape
        flat = np.zeros(shape)
        lift = flat if self.lift is None else self.lift
        back_lift = flat if self.back_lift is None else self.back_lift
        within = np.full(shape, np.inf) if self.within is None else self.within
        middle = flat if self.middle is None else self.middle
        front = self.swollen
        own = front.power, front.radius, behind.power, behind.radius, lift, within, middle
        return np.stack([layer.astype(np.float32) for layer in (*own, back_lift)])


def surface(
    bulges: Sequence[Bulge],
    blend_px: float = 0.0,
    tell: Callable[[float], None] | None = None,
    outline: NDArray[np.float64] | None = None,
) -> Mesh:
    """The surface of bulges, joined smoothly: x to the right, y to the back, z up, px.

    Parameters
    ----------
    bulges : all of one size; the lowest row is at z = 0
    blend_px : how far from where two meet their corner is filled
    tell : told the share done; may raise to call it off
    outline : (rows, cols) px, how far inside of what the joined corners do not go beyond

    Raises
    ------
    InvalidValue : there would be too many cells

    Source: Lewiner et al., Efficient Implementation of Marching Cubes' Cases with Topological
    Guarantees (2003); the round between two as the smooth minimum of Quilez (2013).
    """
    from skimage.measure import marching_cubes

    low = min(bulge.reach_px[0] for bulge in bulges)
    high = max(bulge.reach_px[1] for bulge in bulges)
    # What fills the corners between bulges reaches beyond each of them.
    thick = max(1.0, *(side for b in bulges for side in (b.front, b.back)))
    filled = int(np.ceil(_FILLED * blend_px * thick * (len(bulges) - 1)))
    first = int(np.floor(low)) - _ROOM - filled
    depth = int(np.ceil(high)) + _ROOM + 1 + filled - first
    rows, cols = bulges[0].swollen.power.shape
    if rows * cols * depth > MOST_CELLS:
        raise InvalidValue(
            "resolution",
            f"it makes {rows * cols * depth:.2g} cells",
            "Use a lower resolution, or make it thinner",
        )
    layers = np.stack([bulge.layers for bulge in bulges])
    beyond = np.full((rows, cols), np.inf) if outline is None else outline + _BEYOND_PX
    cut = beyond.astype(np.float32)
    flat = all(bulge.back == 0 for bulge in bulges)
    scales = np.array([(b.front, b.back, b.ahead_px) for b in bulges], np.float32)
    # How quickly the field changes at most, so that a look at some cells tells of those between.
    steep = max(1.0, *(1 / max(side, 0.02) for b in bulges for side in (b.front, b.back) if side))
    parts, total = [], 0
    for start in range(0, rows - 1, _BLOCK):
        for left in range(0, cols - 1, _BLOCK):
            own = np.ascontiguousarray(
                layers[:, :, start : start + _BLOCK + 1, left : left + _BLOCK + 1]
            )
            for near in range(0, depth - 1, _BLOCK):
                deep = min(_BLOCK + 1, depth - near)
                edge = np.ascontiguousarray(
                    cut[start : start + _BLOCK + 1, left : left + _BLOCK + 1]
                )
                block = _block(own, edge, scales, blend_px, first + near, deep, steep, flat)
                if block is None:
                    continue
                places, faces, _, _ = marching_cubes(block, 0.0, gradient_direction="ascent")
                places = places.astype(np.float64) + np.array([start, left, first + near])
                parts.append((places, faces + total))
                total += len(places)
        if tell is not None:
            tell(min(rows, start + _BLOCK) / rows)
    if not parts:
        raise InvalidValue("figure", "nothing is left of it", "Make it thicker")
    at = np.concatenate([places for places, _ in parts])
    faces = np.concatenate([faces for _, faces in parts])
    vertices = np.column_stack([at[:, 1], -at[:, 2], rows - 1 - at[:, 0]])
    found = merge(Mesh(vertices.astype(np.float32), faces.astype(np.int32), "figure"))
    # What is smaller than the numbers can tell is a triangle no more.
    return replace(found, faces=found.faces[~same_corner(found.faces.astype(np.int64))])


def _block(
    layers: NDArray[np.float32],
    cut: NDArray[np.float32],
    scales: NDArray[np.float32],
    blend_px: float,
    first: int,
    depth: int,
    steep: float,
    flat: bool,
) -> NDArray[np.float32] | None:
    """The field in a block of cells (rows, cols, depth); None where no surface goes through it."""
    blend = np.float32(blend_px)
    some = np.ascontiguousarray(layers[:, :, ::_LOOK, ::_LOOK])
    looked = np.empty((*some.shape[2:], (depth - 1) // _LOOK + 1), np.float32)
    few = np.ascontiguousarray(cut[::_LOOK, ::_LOOK])
    _fill(some, few, scales, blend, np.float32(first), np.float32(_LOOK), flat, looked)
    if np.abs(looked).min() > 4 * _LOOK * steep and (looked.max() < 0 or looked.min() > 0):
        return None
    values = np.empty((*layers.shape[2:], depth), np.float32)
    _fill(layers, cut, scales, blend, np.float32(first), np.float32(1), flat, values)
    return None if values.max() <= 0 or values.min() >= 0 else values


@njit(cache=True, nogil=True, parallel=True)
def _fill(layers, cut, scales, blend, first, step, whole_flat, values):  # type: ignore[no-untyped-def]
    """How far inside each cell is, about, px: below 0 outside; nowhere exactly 0."""
    rows, cols, depth = values.shape
    for i in prange(rows):
        for j in range(cols):
            for k in range(depth):
                z = first + k * step
                found = np.float32(_NONE)
                for b in range(len(layers)):
                    own_z = z - scales[b, 2] - layers[b, 6, i, j]
                    side = 0 if own_z >= 0 else 2
                    u, radius = layers[b, side, i, j], layers[b, side + 1, i, j]
                    if own_z > 0:
                        own_z = max(own_z - layers[b, 4, i, j], np.float32(0.0))
                    elif own_z < 0:
                        own_z = min(own_z + layers[b, 7, i, j], np.float32(0.0))
                    scale = scales[b, 0] if side == 0 else scales[b, 1]
                    thick = max(scale, np.float32(1e-3))
                    away = abs(own_z) / thick
                    # What is flat behind goes back to one plane, wherever its middle lies.
                    flat = scales[b, 1] == 0 and own_z < 0
                    if flat:
                        away = np.float32(0.0)
                    # From the surface of the ball that is nearest there.
                    value = radius - np.sqrt(max(radius * radius - u + away * away, np.float32(0)))
                    if scales[b, 1] == 0:
                        value = min(value, z + np.float32(0.5))
                    value = min(value, layers[b, 5, i, j])
                    if blend > 0 and found > np.float32(_NONE):
                        both = max(blend - abs(value - found), np.float32(0.0)) / blend
                        found = max(value, found) + both * both * blend * np.float32(_FILLED)
                    else:
                        found = max(value, found)
                found = min(found, cut[i, j])
                if whole_flat:
                    found = min(found, z + np.float32(0.5))
                if found == 0:
                    found = np.float32(-1e-6)
                values[i, j, k] = found
