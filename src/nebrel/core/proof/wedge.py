"""A step wedge to print, and the photograph of it that a lamp and a camera would make."""

from __future__ import annotations

import math
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats, HeightField, Mesh
from nebrel.core.errors import InvalidValue
from nebrel.core.heights.laid import Laid
from nebrel.core.heights.relief import Relief
from nebrel.core.outline.lettering import letter
from nebrel.core.outline.regions import united
from nebrel.core.outline.shapes import rectangle
from nebrel.core.proof.light import to_tone
from nebrel.core.solid.build import build

STEP_WIDE_MM = 14.0
STEP_TALL_MM = 26.0
_ENGRAVED_MM = 0.3
_CAPITAL_MM = 3.2

Corners = NDArray[np.float64]


@dataclass(frozen=True)
class Wedge:
    """Steps side by side, the thinnest on the left, each as much thicker as the first is thick.

    Attributes
    ----------
    steps : 3 to 40
    thickest_mm : of the last step
    material : a name to engrave on the last steps, or nothing
    """

    steps: int = 10
    thickest_mm: float = 4.0
    material: str = ""

    def __post_init__(self) -> None:
        if not 3 <= self.steps <= 40:
            nearest = 3 if self.steps < 3 else 40
            raise InvalidValue(
                "steps",
                f"{self.steps} steps cannot be fitted",
                f"The nearest that works is {nearest}",
            )
        least = 0.1 * self.steps
        if not least <= self.thickest_mm <= 50:
            nearest_mm = least if self.thickest_mm < least else 50.0
            raise InvalidValue(
                "thickest",
                f"{self.thickest_mm:g} mm in {self.steps} steps cannot be printed",
                f"The nearest that works is {nearest_mm:g} mm",
            )

    @property
    def thickness_mm(self) -> NDArray[np.float64]:
        """(steps,) of each step."""
        return self.thickest_mm * np.arange(1, self.steps + 1) / self.steps

    @property
    def size_mm(self) -> tuple[float, float]:
        """Width and height of the whole."""
        return self.steps * STEP_WIDE_MM, STEP_TALL_MM


def make_wedge(wedge: Wedge, tolerance_mm: float = 0.01) -> Mesh:
    """The wedge as a closed solid; each step has its thickness engraved along its lower edge."""
    wide, tall = wedge.size_mm
    thick = wedge.thickness_mm
    steps = []
    for number, mm in enumerate(thick[1:], 1):
        across = wide - number * STEP_WIDE_MM
        outline = rectangle(across, tall).moved(number * STEP_WIDE_MM + across / 2, tall / 2)
        steps.append(Laid("highest", outline, float(mm)))
    for number, mm in enumerate(thick):
        # Numbers stay shallow, so that even the thinnest step keeps a floor under them.
        deep = min(_ENGRAVED_MM, 0.4 * float(mm))
        middle = (number + 0.5) * STEP_WIDE_MM
        text = letter(f"{mm:.2f}".rstrip("0").rstrip("."), "plain", _CAPITAL_MM)
        steps.append(Laid("add", united(text).moved(middle, 3.2), -deep))
    if wedge.material.strip():
        name = letter(wedge.material.strip()[:40], "plain", _CAPITAL_MM)
        width = float(np.ptp(np.concatenate(name)[:, 0]))
        most = wide - 2
        if width > most:
            name = [loop * (most / width) for loop in name]
            width = most
        deep = min(_ENGRAVED_MM, 0.4 * float(thick[0]))
        steps.append(Laid("add", united(name).moved(wide - width / 2 - 1, tall - 3.2), -deep))
    flat = HeightField(np.full((2, 2), thick[0], np.float32), wide, tall)
    relief = Relief(flat, backing_mm=float(thick[0]), above=tuple(steps), blank=True)
    return build(relief, None, tolerance_mm).mesh


@dataclass(frozen=True)
class Camera:
    """How a photograph of a wedge against a lamp is taken.

    Attributes
    ----------
    cols, rows : of the picture
    tilt_deg : of the wedge about an upright and a level axis
    vignetting : how much of the light the corners lose, 0 to 1
    noise : standard deviation of a pixel, share of full scale
    exposure : light of the bare lamp, share of full scale; above 1 the thin steps clip
    """

    cols: int = 1600
    rows: int = 700
    tilt_deg: tuple[float, float] = (0.0, 0.0)
    vignetting: float = 0.0
    noise: float = 0.0
    exposure: float = 1.0
    seed: int = 1


def photograph(
    wedge: Wedge, attenuation_per_mm: float, camera: Camera
) -> tuple[NDArray[np.uint8], Corners]:
    """The photograph that stands in for a lamp and a camera.

    Returns
    -------
    (rows, cols) uint8 sRGB, and the (4, 2) pixel corners of the wedge: upper left, upper right,
    lower right, lower left
    """
    wide, tall = wedge.size_mm
    corners = _project(wide, tall, camera)
    fine = 4
    columns = np.exp(-attenuation_per_mm * wedge.thickness_mm) * camera.exposure
    flat = np.repeat(columns, 64)[None].repeat(64, axis=0).astype(np.float32)
    source = np.array([[0, 0], [flat.shape[1], 0], [flat.shape[1], 64], [0, 64]], np.float32)
    target = ((corners + 0.5) * fine).astype(np.float32)
    matrix = cv2.getPerspectiveTransform(source - 0.5, target - 0.5)
    size = (camera.cols * fine, camera.rows * fine)
    # Around the wedge a dark mask, as a sensible photographer would use.
    drawn = cv2.warpPerspective(flat, matrix, size, flags=cv2.INTER_NEAREST, borderValue=0.004)
    light: Floats = cv2.resize(drawn, (camera.cols, camera.rows), interpolation=cv2.INTER_AREA)
    y, x = np.mgrid[0 : camera.rows, 0 : camera.cols]
    away = np.hypot(x - (camera.cols - 1) / 2, y - (camera.rows - 1) / 2)
    away = away / math.hypot(camera.cols / 2, camera.rows / 2)
    shaded = light * (1 - camera.vignetting * away**2)
    rng = np.random.default_rng(camera.seed)
    noisy = shaded + rng.normal(0, camera.noise, shaded.shape) * np.sqrt(np.maximum(shaded, 0.02))
    tones = to_tone(np.clip(noisy, 0, 1).astype(np.float32))
    return np.rint(tones * 255).astype(np.uint8), corners


def _project(wide: float, tall: float, camera: Camera) -> Corners:
    """Corners of the tilted wedge as a pinhole camera sees them, filling most of the picture."""
    about_y, about_x = (math.radians(angle) for angle in camera.tilt_deg)
    turn_y = np.array(
        [
            [math.cos(about_y), 0, math.sin(about_y)],
            [0, 1, 0],
            [-math.sin(about_y), 0, math.cos(about_y)],
        ]
    )
    turn_x = np.array(
        [
            [1, 0, 0],
            [0, math.cos(about_x), -math.sin(about_x)],
            [0, math.sin(about_x), math.cos(about_x)],
        ]
    )
    flat = np.array([[-1, -1, 0], [1, -1, 0], [1, 1, 0], [-1, 1, 0]]) * (wide / 2, tall / 2, 1)
    points = flat @ (turn_x @ turn_y).T
    distance = 2.2 * max(wide, tall)
    seen = points[:, :2] * distance / (distance + points[:, 2:])
    span = np.ptp(seen, axis=0)
    scale = 0.82 * min(camera.cols / span[0], camera.rows / span[1])
    middle = (seen.min(axis=0) + seen.max(axis=0)) / 2
    found: Corners = (seen - middle) * scale + ((camera.cols - 1) / 2, (camera.rows - 1) / 2)
    return found
