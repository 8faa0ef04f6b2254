"""A picture of a mesh without a graphics card, for the shelf's cards."""

from __future__ import annotations

from typing import Any

import cv2
import numpy as np
from numba import njit
from numpy.typing import NDArray

from nebrel.core.data import Floats, Mesh
from nebrel.core.mesh.shade import split_creases

_GROUND = np.array([0xF0, 0xEA, 0xDF], np.float32) / 255
_STONE = np.array([0xD8, 0xCC, 0xBB], np.float32) / 255
_SUPERSAMPLE = 2


def render(
    mesh: Mesh,
    cols: int = 592,
    rows: int = 296,
    tilt_degrees: float = 34.0,
    standing: bool = False,
) -> bytes:
    """A PNG of the mesh seen from the front and above, in stone on plaster.

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
    width, height = cols * _SUPERSAMPLE, rows * _SUPERSAMPLE
    split, normals = split_creases(mesh)
    tilt, turn = np.radians(62.0 if standing else tilt_degrees), np.radians(-9)
    spin = np.array([[np.cos(turn), -np.sin(turn), 0], [np.sin(turn), np.cos(turn), 0], [0, 0, 1]])
    lean = np.array([[1, 0, 0], [0, np.cos(tilt), np.sin(tilt)], [0, -np.sin(tilt), np.cos(tilt)]])
    view = (lean @ spin).astype(np.float32)
    seen = split.vertices @ view.T
    low, high = seen.min(axis=0), seen.max(axis=0)
    scale = min(width * 0.86 / (high[0] - low[0]), height * 0.84 / (high[1] - low[1]))
    middle = (low + high) / 2
    screen = np.empty_like(seen)
    screen[:, 0] = (seen[:, 0] - middle[0]) * scale + width / 2
    screen[:, 1] = height / 2 - (seen[:, 1] - middle[1]) * scale
    screen[:, 2] = seen[:, 2]
    light = np.array([-0.7, -0.55, 0.45] if standing else [-0.62, 0.55, 0.5], np.float32)
    glow = normals @ (light / np.linalg.norm(light))
    shade = (0.36 + 0.82 * np.clip(glow, 0, 1) + 0.10 * normals[:, 2]).astype(np.float32)
    image = np.zeros((height, width), np.float32)
    depth = np.full((height, width), -np.inf, np.float32)
    draw_triangles(screen, split.faces, shade, depth, image)
    return _compose(image, np.isfinite(depth), split, view, scale, middle)


def _compose(
    image: Floats, covered: NDArray[Any], mesh: Mesh, view: Floats, scale: float, middle: Floats
) -> bytes:
    """Lay the shaded piece over its soft shadow on the ground."""
    height, width = image.shape
    floor = mesh.vertices.copy()
    floor[:, 0] += 0.9 * floor[:, 2]
    floor[:, 1] -= 0.9 * floor[:, 2]
    floor[:, 2] = 0
    cast = floor @ view.T
    points = np.zeros_like(cast)
    points[:, 0] = (cast[:, 0] - middle[0]) * scale + width / 2
    points[:, 1] = height / 2 - (cast[:, 1] - middle[1]) * scale
    # Holes let the light of the window through, so the shadow is drawn face by face.
    touched = np.full((height, width), -np.inf, np.float32)
    none = np.zeros(len(points), np.float32)
    draw_triangles(points.astype(np.float32), mesh.faces, none, touched, np.zeros_like(touched))
    shadow = np.isfinite(touched).astype(np.float32)
    shadow = cv2.GaussianBlur(shadow, (0, 0), 7)
    ground = _GROUND * (1 - 0.22 * shadow[..., None])
    stone = np.clip(image[..., None] * _STONE, 0, 1)
    rgb = np.where(covered[..., None], stone, ground)
    rgb = cv2.resize(
        rgb, (width // _SUPERSAMPLE, height // _SUPERSAMPLE), interpolation=cv2.INTER_AREA
    )
    _, encoded = cv2.imencode(".png", (rgb[..., ::-1] * 255 + 0.5).astype(np.uint8))
    return encoded.tobytes()


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
