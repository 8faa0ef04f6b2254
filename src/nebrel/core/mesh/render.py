"""A picture of a mesh without a graphics card, for the shelf's cards."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace

import cv2
import numpy as np
from numba import njit
from numpy.typing import NDArray

from nebrel.core.data import Floats, Mesh, box_of
from nebrel.core.mesh.shade import split_creases

_GROUND = np.array([0xF0, 0xEA, 0xDF], np.float32) / 255
_STONE = np.array([0xD8, 0xCC, 0xBB], np.float32) / 255
_SUPERSAMPLE = 2
_SOFT_PX = 3.5  # of a shadow's edge
_STANDING, _TURN = 62.0, -9.0  # degrees
_HIGH = 0.7  # of its width


def seen_from_the_front(mesh: Mesh) -> bool:
    """Whether a mesh is so high that it is not seen from above."""
    low, high = box_of(mesh.vertices)
    wide, deep, tall = high - low
    return bool(tall > _HIGH * max(wide, deep))


def render(
    mesh: Mesh,
    cols: int = 592,
    rows: int = 296,
    tilt_degrees: float = 34.0,
    standing: bool = False,
) -> bytes:
    """A PNG of the mesh seen from the front and above, in stone or its colours, on plaster.

    Parameters
    ----------
    mesh : z up
    cols, rows : size of the picture, px
    tilt_degrees : how far the view leans from straight above towards the front
    standing : seen and lit from the front instead, for what stands upright

    Returns
    -------
    bytes of an 8-bit RGB PNG
    """
    split, normals = split_creases(mesh)
    tilt = _STANDING if standing else tilt_degrees
    rgb = _drawn(split, normals, _view(tilt, _TURN), (cols, rows), standing)
    _, encoded = cv2.imencode(".png", rgb[..., ::-1])
    return encoded.tobytes()


def turned_around(
    mesh: Mesh, count: int, size: int, standing: bool, tell: Callable[[float], None]
) -> Iterator[NDArray[np.uint8]]:
    """Pictures (size, size, 3) of a mesh as it is turned once around, all to one scale.

    Parameters
    ----------
    tell : told the share done; may raise to call it off
    """
    split, normals = split_creases(mesh)
    low, high = box_of(split.vertices)
    centred = split.vertices - (low + high) / np.float32(2)
    across = float(np.linalg.norm(centred[:, :2], axis=1).max()) * 2
    tall = float(high[2] - low[2])
    view = _view(_STANDING if standing else 48.0, _TURN)
    for n in range(count):
        tell(n / count)
        angle = np.radians(360 * n / count)
        cos, sin = np.cos(angle), np.sin(angle)
        spin = np.array([[cos, -sin, 0], [sin, cos, 0], [0, 0, 1]], np.float32)
        turned = replace(split, vertices=centred @ spin.T)
        yield _drawn(turned, normals @ spin.T, view, (size, size), standing, (across, across, tall))


def _view(tilt_degrees: float, turn_degrees: float) -> Floats:
    tilt, turn = np.radians(tilt_degrees), np.radians(turn_degrees)
    spin = np.array([[np.cos(turn), -np.sin(turn), 0], [np.sin(turn), np.cos(turn), 0], [0, 0, 1]])
    lean = np.array([[1, 0, 0], [0, np.cos(tilt), np.sin(tilt)], [0, -np.sin(tilt), np.cos(tilt)]])
    return (lean @ spin).astype(np.float32)


def _drawn(
    mesh: Mesh,
    normals: Floats,
    view: Floats,
    size: tuple[int, int],
    standing: bool,
    room: tuple[float, float, float] | None = None,
) -> NDArray[np.uint8]:
    """RGB of a mesh with its creases split.

    Parameters
    ----------
    room : width, depth and height of what is to fit, about the origin; left out: the mesh itself
    """
    width, height = (side * _SUPERSAMPLE for side in size)
    seen = mesh.vertices @ view.T
    if room is None:
        low, high = seen.min(axis=0), seen.max(axis=0)
    else:
        wide, deep, tall = room
        flat = float(np.hypot(view[1, 0], view[1, 1]))
        half = np.array([wide, flat * deep + abs(view[1, 2]) * tall, 0], np.float32) / 2
        low, high = -half, half
    scale = min(width * 0.86 / (high[0] - low[0]), height * 0.84 / (high[1] - low[1]))
    middle = (low + high) / 2
    screen = np.empty_like(seen)
    screen[:, 0] = (seen[:, 0] - middle[0]) * scale + width / 2
    screen[:, 1] = height / 2 - (seen[:, 1] - middle[1]) * scale
    screen[:, 2] = seen[:, 2]
    light = np.array([-0.7, -0.55, 0.45] if standing else [-0.62, 0.55, 0.5], np.float32)
    glow = normals @ (light / np.linalg.norm(light))
    shade = (0.36 + 0.82 * np.clip(glow, 0, 1) + 0.10 * normals[:, 2]).astype(np.float32)
    depth = np.full((height, width), -np.inf, np.float32)

    def seen_by(lit: Floats) -> Floats:
        """What is lit, 0 to 1, on black, as small as the picture."""
        image = np.zeros((height, width), np.float32)
        depth[:] = -np.inf
        draw_triangles(screen, mesh.faces, lit, depth, image)
        return _small(np.minimum(np.maximum(image, 0, out=image), 1, out=image))

    if mesh.colours is None:
        # Stone is lit alike in every colour, and nowhere more than by its own.
        lit = seen_by(np.minimum(shade, 1 / _STONE.max()) * _STONE.max())
        stone = lit[..., None] * (_STONE / _STONE.max())
    else:
        own = [(mesh.colours[:, k] / 255 * shade).astype(np.float32) for k in range(3)]
        stone = np.stack([seen_by(one) for one in own], axis=-1)
    covered = _small(np.isfinite(depth).astype(np.float32))
    return _compose(stone, covered, mesh, view, scale / _SUPERSAMPLE, middle)


def _small(large: Floats) -> Floats:
    height, width = large.shape
    small = width // _SUPERSAMPLE, height // _SUPERSAMPLE
    found: Floats = cv2.resize(large, small, interpolation=cv2.INTER_AREA)
    return found


def _compose(
    stone: Floats, covered: Floats, mesh: Mesh, view: Floats, scale: float, middle: Floats
) -> NDArray[np.uint8]:
    """Lay the shaded piece over its soft shadow on the ground.

    Parameters
    ----------
    stone : (rows, cols, 3) of the piece, black where it is not
    covered : (rows, cols) how much of each pixel it covers
    scale : px a mm
    """
    height, width = covered.shape
    floor = mesh.vertices.copy()
    under = float(floor[:, 2].min())
    floor[:, 0] += 0.9 * (floor[:, 2] - under)
    floor[:, 1] -= 0.9 * (floor[:, 2] - under)
    floor[:, 2] = under
    cast = floor @ view.T
    points = np.zeros_like(cast)
    points[:, 0] = (cast[:, 0] - middle[0]) * scale + width / 2
    points[:, 1] = height / 2 - (cast[:, 1] - middle[1]) * scale
    # Holes let the light of the window through, so the shadow is drawn face by face.
    touched = np.full((height, width), -np.inf, np.float32)
    none = np.zeros(len(points), np.float32)
    draw_triangles(points.astype(np.float32), mesh.faces, none, touched, np.zeros_like(touched))
    shadow = cv2.GaussianBlur(np.isfinite(touched).astype(np.float32), (0, 0), _SOFT_PX)
    free = (1 - covered) * (1 - 0.22 * shadow)
    rgb = stone + free[..., None] * _GROUND
    return (rgb * 255 + 0.5).astype(np.uint8)


@njit(cache=True)  # type: ignore[untyped-decorator,unused-ignore]
def draw_triangles(
    screen: Floats, faces: NDArray[np.int32], shade: Floats, depth: Floats, image: Floats
) -> None:
    """Z-buffered triangles with interpolated shade, written into `depth` and `image`.

    Parameters
    ----------
    screen : (V, 3) float32, x and y in px with y downwards, z larger towards the eye
    faces : (F, 3) int32
    shade : (V,) float32
    depth, image : (rows, cols) float32, changed in place; a pixel counts at its centre
    """
    rows, cols = depth.shape
    for f in range(faces.shape[0]):
        a, b, c = faces[f, 0], faces[f, 1], faces[f, 2]
        ax, ay = screen[a, 0], screen[a, 1]
        bx, by = screen[b, 0], screen[b, 1]
        cx, cy = screen[c, 0], screen[c, 1]
        area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
        if area >= 0:  # seen from behind, y pointing down
            continue
        left = max(0, int(np.floor(min(ax, bx, cx))))
        right = min(cols - 1, int(np.ceil(max(ax, bx, cx))))
        top = max(0, int(np.floor(min(ay, by, cy))))
        bottom = min(rows - 1, int(np.ceil(max(ay, by, cy))))
        for y in range(top, bottom + 1):
            for x in range(left, right + 1):
                px, py = x + 0.5, y + 0.5
                u = ((bx - px) * (cy - py) - (by - py) * (cx - px)) / area
                v = ((cx - px) * (ay - py) - (cy - py) * (ax - px)) / area
                w = 1.0 - u - v
                if u < 0 or v < 0 or w < 0:
                    continue
                z = u * screen[a, 2] + v * screen[b, 2] + w * screen[c, 2]
                if z > depth[y, x]:
                    depth[y, x] = z
                    image[y, x] = u * shade[a] + v * shade[b] + w * shade[c]
