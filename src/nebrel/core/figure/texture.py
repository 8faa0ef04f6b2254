"""The colours of a figure as one picture with a map, finer than its vertices."""

from __future__ import annotations

from dataclasses import dataclass, replace
from io import BytesIO

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats, Mesh
from nebrel.core.figure.subject import Subject, with_own_colours
from nebrel.core.picture.resample import resample

MOST_PX = 4096  # along each side of the picture


@dataclass(frozen=True)
class Textured:
    """A mesh with a picture laid over it.

    Attributes
    ----------
    mesh : where front and back have pictures of their own, its vertices between them are twice
    shares : (V, 2) float32, places of the vertices in the picture from its upper left corner
    picture : PNG
    """

    mesh: Mesh
    shares: Floats
    picture: bytes


def textured(
    mesh: Mesh, subject: Subject, place: tuple[float, float, float], back: Subject | None = None
) -> Textured:
    """The picture itself over the figure, seen through to the back; or with that of its back.

    Parameters
    ----------
    place : mm for each pixel of the subject, and where its lower left corner is, x and z, mm
    back : the same subject from behind, mirrored where it is laid on
    """
    rows, cols = subject.cover.shape
    shown = with_own_colours(subject.pixels, subject.cover)
    mm_per_px, left, low = place
    across = (mesh.vertices[:, 0] - left) / mm_per_px / cols
    down = 1 - (mesh.vertices[:, 2] - low) / mm_per_px / rows
    shares = np.clip(np.column_stack([across, down]), 0, 1).astype(np.float32)
    plain = replace(mesh, colours=None)
    if back is None:
        return Textured(plain, shares, _png(shown))
    behind = resample(with_own_colours(back.pixels, back.cover)[:, ::-1], rows, cols)
    middle = mesh.vertices[mesh.faces][:, :, 1].mean(axis=1) > 0
    corner = mesh.faces + np.int64(len(mesh.vertices)) * middle[:, None]
    used, faces = np.unique(corner, return_inverse=True)
    of, after = used % len(mesh.vertices), used >= len(mesh.vertices)
    both = shares[of] * np.array([0.5, 1], np.float32)
    both[:, 0] += 0.5 * after
    split = Mesh(mesh.vertices[of], faces.reshape(-1, 3).astype(np.int32), mesh.name)
    whole = np.concatenate([shown, np.clip(behind, 0, 1)], axis=1)
    return Textured(split, both.astype(np.float32), _png(whole))


def _png(pixels: Floats) -> bytes:
    from PIL import Image

    shown: NDArray[np.uint8] = np.round(255 * np.clip(pixels, 0, 1)).astype(np.uint8)
    less = max(shown.shape[:2]) / MOST_PX
    if less > 1:
        size = round(shown.shape[1] / less), round(shown.shape[0] / less)
        shown = np.asarray(cv2.resize(shown, size, interpolation=cv2.INTER_AREA), np.uint8)
    out = BytesIO()
    Image.fromarray(shown, "RGB").save(out, "PNG")
    return out.getvalue()
