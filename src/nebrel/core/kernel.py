"""The boolean kernel: what is used of it, and the only place that makes its solids and regions."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import Any, Protocol, Self

import numpy as np
from numpy.typing import NDArray

from nebrel.core.choices import Corners
from nebrel.core.data import Floats, Loop, Mesh
from nebrel.core.errors import NotSolid

Triple = tuple[float, float, float]
Points = NDArray[np.float64]
Warp = Callable[[Points], Points]


class Solid(Protocol):
    """A closed body in mm."""

    def __add__(self, other: Self) -> Self: ...
    def __sub__(self, other: Self) -> Self: ...
    def __xor__(self, other: Self) -> Self: ...
    def translate(self, by: Triple) -> Self: ...
    def rotate(self, degrees: Triple) -> Self: ...
    def mirror(self, normal: Triple) -> Self: ...
    def scale(self, by: Triple) -> Self: ...
    def trim_by_plane(self, normal: Triple, origin_offset: float) -> Self: ...
    def split(self, cutter: Self) -> tuple[Self, Self]: ...
    def decompose(self) -> Sequence[Self]: ...
    def simplify(self, tolerance_mm: float) -> Self: ...
    def refine_to_length(self, length_mm: float) -> Self: ...
    def warp_batch(self, warp: Warp) -> Self: ...
    def slice(self, z_mm: float) -> Region: ...
    def project(self) -> Region: ...
    def bounding_box(self) -> tuple[float, float, float, float, float, float]: ...
    def is_empty(self) -> bool: ...
    def num_tri(self) -> int: ...
    def volume(self) -> float: ...
    def to_mesh(self) -> Any: ...


class Region(Protocol):
    """A flat region in mm."""

    def __add__(self, other: Self) -> Self: ...
    def __sub__(self, other: Self) -> Self: ...
    def __xor__(self, other: Self) -> Self: ...
    def translate(self, by: tuple[float, float]) -> Self: ...
    def rotate(self, degrees: float) -> Self: ...
    def scale(self, by: tuple[float, float]) -> Self: ...
    def offset(
        self,
        delta: float,
        join_type: Any = ...,
        miter_limit: float = ...,
        circular_segments: int = ...,
    ) -> Self: ...
    def decompose(self) -> Sequence[Self]: ...
    def hull(self) -> Self: ...
    def extrude(self, height: float) -> Solid: ...
    def area(self) -> float: ...
    def bounds(self) -> tuple[float, float, float, float]: ...
    def is_empty(self) -> bool: ...
    def to_polygons(self) -> Sequence[NDArray[np.float64]]: ...


def solid_of(mesh: Mesh) -> Solid:
    """A closed mesh as a solid. Raises NotSolid."""
    from manifold3d import Error, Manifold
    from manifold3d import Mesh as KernelMesh

    solid = Manifold(
        KernelMesh(
            np.ascontiguousarray(mesh.vertices, np.float32),
            np.ascontiguousarray(mesh.faces, np.uint32),
        )
    )
    if solid.status() != Error.NoError:
        raise NotSolid("piece", "its surface is not closed", "Change the size or depth a little")
    return solid


def mesh_of(solid: Solid) -> Mesh:
    """A solid as a mesh, splinters and all."""
    mesh = solid.to_mesh()
    # Its own arrays: those of the kernel cannot be given back to it.
    vertices: Floats = np.array(np.asarray(mesh.vert_properties)[:, :3], np.float32, order="C")
    return Mesh(vertices, np.asarray(mesh.tri_verts, np.int32))


def block(size: Triple) -> Solid:
    """A block with a corner at the origin."""
    from manifold3d import Manifold

    return Manifold.cube(size)


def cylinder(high_mm: float, radius_mm: float, sides: int) -> Solid:
    """A round column upwards from the origin."""
    from manifold3d import Manifold

    return Manifold.cylinder(high_mm, radius_mm, radius_mm, sides)


def hull_of(points: Points) -> Solid:
    """The least convex solid around points (n, 3), mm."""
    from manifold3d import Manifold

    return Manifold.hull_points(np.asarray(points, np.float64))


def nothing() -> Solid:
    """No solid, to begin with."""
    from manifold3d import Manifold

    return Manifold()


def even_odd(loops: Sequence[Loop]) -> Region:
    """What an odd number of loops go around."""
    from manifold3d import CrossSection, FillRule

    return CrossSection(list(loops), FillRule.EvenOdd) if len(loops) else CrossSection()


def non_zero(loops: Sequence[Loop]) -> Region:
    """What loops go around, however they overlap."""
    from manifold3d import CrossSection, FillRule

    return CrossSection(list(loops), FillRule.NonZero) if len(loops) else CrossSection()


def all_of(regions: Sequence[Region]) -> Region:
    """What regions cover together, put together at once."""
    from manifold3d import CrossSection, OpType

    if len(regions) < 2:
        return regions[0] if regions else CrossSection()
    return CrossSection.batch_boolean(list(regions), OpType.Add)


def circle(radius_mm: float, sides: int) -> Region:
    """A round about the origin."""
    from manifold3d import CrossSection

    return CrossSection.circle(radius_mm, sides)


def square(size: tuple[float, float]) -> Region:
    """A rectangle with a corner at the origin."""
    from manifold3d import CrossSection

    return CrossSection.square(size)


def grown(region: Region, by_mm: float, corners: Corners = "round") -> Region:
    """A region made wider by a distance, or narrower.

    Parameters
    ----------
    corners : mitred ones are cut off where they would reach further than twice the distance
    """
    from manifold3d import JoinType

    joins = {"round": JoinType.Round, "mitred": JoinType.Miter, "square": JoinType.Square}
    # As many sides as keep a round within a few micrometres of itself.
    return region.offset(by_mm, joins[corners], 2.0, round_sides(abs(by_mm)))


_FLAT_MM = 0.004  # how far a chord may be from its circle


def round_sides(radius_mm: float) -> int:
    """Corners of a polygon that stays within 4 µm of its circle, a multiple of four."""
    if radius_mm <= _FLAT_MM:
        return 8
    return max(16, 4 * math.ceil(math.pi / math.acos(1 - _FLAT_MM / radius_mm) / 4))
