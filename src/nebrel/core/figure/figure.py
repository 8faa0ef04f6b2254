"""A subject to a coloured figure: inflated, or half round for a wall."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats, Mesh
from nebrel.core.errors import InvalidValue
from nebrel.core.figure.field import Bulge, surface
from nebrel.core.figure.stand import on_a_plate, tips_at
from nebrel.core.figure.subject import Subject
from nebrel.core.figure.swell import Swollen, distances, swell
from nebrel.core.picture.resample import resample

Back = Literal["mirror", "flat", "smooth"]
LEAST_RESOLUTION, MOST_RESOLUTION = 64, 1400
_SMOOTH_BACK = 0.6  # as thick as the front
_ROOM = 2  # pixels around the subject
_FINER = 2


@dataclass(frozen=True)
class Wanted:
    """The numbers of a figure.

    Attributes
    ----------
    tall_mm : its height, without a plate
    thick_mm : how thick it is where it is thickest; left out: as round as it is wide
    back : as the front, flat, or rounder and shallower
    roundness : 0 to 1: less makes what is wide flat, with a round edge
    softness : how far its outline is smoothed, as a share of its height
    base_mm : height of the plate that it stands on; 0 for none
    resolution : cells along its longer side
    """

    tall_mm: float = 80.0
    thick_mm: float | None = None
    back: Back = "mirror"
    roundness: float = 1.0
    softness: float = 0.0
    base_mm: float = 0.0
    resolution: int = 512


@dataclass(frozen=True)
class Figure:
    """What a subject came to.

    Attributes
    ----------
    mesh : closed, coloured, z up, facing -y, standing on z = 0, x around 0
    tips_deg : at which angle it tips over
    notes : of the subject
    """

    mesh: Mesh
    tips_deg: float
    notes: tuple[str, ...]


def inflate(
    subject: Subject, wanted: Wanted, tell: Callable[[float], None] | None = None
) -> Figure:
    """A subject in the round.

    Parameters
    ----------
    tell : told the share done; may raise to call it off

    Raises
    ------
    InvalidValue : a number is out of its range, or nothing is left
    NotSolid : it could not be joined with its plate
    """
    if not LEAST_RESOLUTION <= wanted.resolution <= MOST_RESOLUTION:
        raise InvalidValue(
            "resolution",
            f"{wanted.resolution} is outside {LEAST_RESOLUTION} to {MOST_RESOLUTION}",
            "Use 512 for most figures",
        )
    for name, value in (("tall", wanted.tall_mm), ("thick", wanted.thick_mm)):
        if value is not None and not 0.1 <= value <= 5000:
            raise InvalidValue(name, f"{value:g} mm is outside 0.1 to 5000 mm", "Use another")
    cover, pixels = _sampled(subject, wanted.resolution)
    if wanted.softness > 0:
        cover = cv2.GaussianBlur(cover, (0, 0), wanted.softness * cover.shape[0])
    swollen = _swollen(cover, wanted.roundness)
    back = {"mirror": 1.0, "flat": 0.0, "smooth": _SMOOTH_BACK}[wanted.back]
    times = 1.0
    if wanted.thick_mm is not None:
        rows = np.flatnonzero((cover >= 0.5).any(axis=1))
        px_per_mm = (float(np.ptp(rows)) + 1) / wanted.tall_mm
        times = wanted.thick_mm * px_per_mm / (swollen.half_px * (1 + back))
    found = surface([Bulge(swollen, times, back * times)], tell=tell)
    colours = coloured(found, pixels, cover)
    places = found.vertices.astype(np.float64)
    low, high = places.min(axis=0), places.max(axis=0)
    places = (places - ((low[0] + high[0]) / 2, 0.0, low[2])) * (
        wanted.tall_mm / (high[2] - low[2])
    )
    mesh = Mesh(places.astype(np.float32), found.faces, "figure", colours)
    if wanted.base_mm > 0:
        mesh = on_a_plate(mesh, wanted.base_mm)
        x = (mesh.vertices[:, 0].min() + mesh.vertices[:, 0].max()) / 2
        mesh = replace(mesh, vertices=mesh.vertices - np.array([x, 0, 0], np.float32))
    return Figure(mesh, tips_at(mesh), subject.notes)


def _sampled(subject: Subject, resolution: int) -> tuple[Floats, Floats]:
    """Mask and colours with so many pixels along the longer side."""
    rows, cols = subject.cover.shape
    times = resolution / max(rows, cols)
    size = max(8, round(rows * times)), max(8, round(cols * times))
    cover = np.clip(resample(subject.cover, *size), 0, 1)
    pixels = np.clip(resample(subject.pixels, *size), 0, 1)
    return np.pad(cover, _ROOM), np.pad(
        pixels, ((_ROOM, _ROOM), (_ROOM, _ROOM), (0, 0)), mode="edge"
    )


def _swollen(cover: Floats, roundness: float) -> Swollen:
    """As `swell`, from balls whose middles lie on a grid that is finer by `_FINER`."""
    rows, cols = cover.shape
    size = (rows - 1) * _FINER + 1, (cols - 1) * _FINER + 1
    fine = np.clip(resample(cover, *size), 0, 1)
    found = swell(distances(fine), roundness)
    some = slice(None, None, _FINER)
    return Swollen(found.power[some, some] / _FINER**2, found.radius[some, some] / _FINER)


def coloured(mesh: Mesh, pixels: Floats, cover: Floats) -> NDArray[np.uint8]:
    """(V, 4) the colours of a picture seen from the front, and through to the back.

    Parameters
    ----------
    mesh : px: x to the right, z up from the lowest row
    pixels, cover : (rows, cols, 3) and (rows, cols)
    """
    from scipy.ndimage import distance_transform_edt, map_coordinates

    # Beyond the subject its own colours go on, so that its rim is not the background's.
    inside = cover > 0.98
    rows = len(cover)
    if inside.any():
        _, (y, x) = distance_transform_edt(~inside, return_indices=True)
        pixels = pixels[y, x]
    at = np.stack([rows - 1 - mesh.vertices[:, 2], mesh.vertices[:, 0]])
    each = [map_coordinates(pixels[..., k], at, order=1, mode="nearest") for k in range(3)]
    found = np.full((len(mesh.vertices), 4), 255, np.uint8)
    found[:, :3] = np.round(255 * np.clip(np.stack(each, axis=1), 0, 1))
    return found
