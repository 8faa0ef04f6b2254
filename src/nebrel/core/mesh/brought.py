"""What a mesh file holds."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from nebrel.core.data import Mesh

Unit = Literal["mm", "cm", "m", "in", "ft", "um"]
MM: dict[Unit, float] = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4, "ft": 304.8, "um": 1e-3}


@dataclass(frozen=True)
class Brought:
    """The objects of a mesh file, as they lie in it.

    Attributes
    ----------
    parts : one mesh an object, in the file's unit, z up
    unit : what the file says; None where it says nothing
    notes : plain sentences about what reading had to decide or to mend
    """

    parts: tuple[Mesh, ...]
    unit: Unit | None = None
    notes: tuple[str, ...] = ()

    def joined(self, unit: Unit | None = None) -> Mesh:
        """All objects as one mesh in mm; vertices of two objects are not joined.

        Parameters
        ----------
        unit : of the file, whatever it says; mm where neither says any
        """
        mesh = join_parts(self.parts)
        times = MM[unit or self.unit or "mm"]
        if times == 1.0:
            return mesh
        scaled = (mesh.vertices.astype(np.float64) * times).astype(np.float32)
        return replace(mesh, vertices=scaled)


def join_parts(parts: tuple[Mesh, ...]) -> Mesh:
    """Several meshes as one, side by side. White is what has no colour beside what has."""
    if len(parts) == 1:
        return parts[0]
    offsets = np.cumsum([0, *(len(part.vertices) for part in parts[:-1])])
    vertices = np.concatenate([part.vertices for part in parts])
    faces = np.concatenate(
        [part.faces + np.int32(offset) for part, offset in zip(parts, offsets, strict=True)]
    )
    colours = None
    if any(part.colours is not None for part in parts):
        colours = np.concatenate(
            [
                np.full((len(part.vertices), 4), 255, np.uint8)
                if part.colours is None
                else part.colours
                for part in parts
            ]
        )
    return Mesh(vertices, faces, parts[0].name, colours)
