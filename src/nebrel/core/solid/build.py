"""From heights, coverage and plateaus to the finished solid on its form."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from contextlib import suppress
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.choices import MOST_TRIANGLES, Method
from nebrel.core.data import Floats, HeightField, Mesh
from nebrel.core.errors import NotSolid
from nebrel.core.forms.maps import FormMap
from nebrel.core.heights.laid import Laid
from nebrel.core.heights.relief import Relief
from nebrel.core.kernel import Solid, circle, mesh_of, solid_of
from nebrel.core.mesh.measure import MeshReport
from nebrel.core.picture.resample import resample
from nebrel.core.solid.close import close
from nebrel.core.solid.fit import Fit, RingFit, join_flat, join_ring
from nebrel.core.solid.triangulate import triangulate

# Of the tolerance; what is left covers rounding.
_FLAT_SHARE, _BEND_SHARE = 0.6, 0.36
_OVERLAPS_MM = (0.02, 0.05, 0.2)

FEW_ENTRIES = 2  # that are joined sooner than they are drawn as pixels
_PIXELS = 400  # of the longer side of a build-up that is moved
_UNDER_MM = 0.02  # what is cut away still has a surface, until it is cut


@dataclass(frozen=True)
class Built:
    """A finished solid.

    Attributes
    ----------
    lift_mm : by which it was raised from where the map of its form puts it, to stand on z = 0
    report : its figures, where they were needed on the way
    tolerance_mm : within which it follows the heights
    """

    mesh: Mesh
    lift_mm: float = 0.0
    report: MeshReport | None = None
    tolerance_mm: float = 0.0


Flat = Solid | Mesh
"""Over its flat extent: of the boolean kernel, or the open surface of a picture alone."""
Tell = Callable[[], None] | None


@dataclass(frozen=True)
class How:
    """What a solid is made by.

    Attributes
    ----------
    tolerance_mm : the largest distance from the heights along the normal, at any pixel
    most, settle, method : as `triangulate`
    bent : it is bent next; `around` its ends meet, `pole` its upper edge becomes a point
    """

    tolerance_mm: float
    most: int = MOST_TRIANGLES
    settle: bool = False
    method: Method = "auto"
    bent: bool = False
    around: bool = False
    pole: bool = False

    @property
    def share_mm(self) -> float:
        """What of the tolerance is for the heights; bending takes the rest."""
        return self.tolerance_mm * (_FLAT_SHARE if self.bent else 1.0)

    @property
    def most_flat(self) -> int:
        """The most triangles before bending adds its own."""
        return self.most // 2 if self.settle and self.bent else self.most

    @property
    def last_resort(self) -> bool:
        """Whether halves are tried first: insertion knows no second end to match."""
        return self.around and self.method == "greedy" and not self.settle


def build(
    relief: Relief,
    bent: FormMap | None,
    tolerance_mm: float,
    most_triangles: int = MOST_TRIANGLES,
    settle: bool = False,
    method: Method = "auto",
    tell: Tell = None,
) -> Built:
    """One closed solid of a whole relief.

    Parameters
    ----------
    bent : the map of its form; None for what is flat
    tolerance_mm : the largest distance from the heights along the normal, at any pixel
    most_triangles, settle, method, tell : as `triangulate`

    Raises
    ------
    InvalidValue : nothing is left, or the form cannot take these heights
    NotSolid, TooLarge : as the steps it takes
    """
    around, pole = bent is not None and bent.around, bent is not None and bent.pole
    how = How(tolerance_mm, most_triangles, settle, method, bent is not None, around, pole)
    flat = None if how.last_resort else raise_flat(relief, how, tell)
    return finish_solid(flat, relief, bent, how, tell=tell)


def raise_flat(relief: Relief, how: How, tell: Tell = None) -> Flat:
    """The whole build-up over its flat extent, turned as the relief says."""
    flat = join_below(raise_picture(relief, how, tell), relief, how)
    size = relief.field.wide_mm, relief.field.tall_mm
    flat = join_entries(flat, relief.above, size, how)
    return turn_flat(flat, relief, False, relief.negative_mm, how, tell)


def raise_picture(relief: Relief, how: How, tell: Tell = None) -> Flat:
    """The picture alone, which moving an entry does not change.

    Raises
    ------
    InvalidValue, NotSolid, TooLarge : as `build`
    """
    from nebrel.core.solid.cut import cut, stack
    from nebrel.core.solid.join import join, plate

    if how.around:
        relief = _matched(relief, how.pole)
    field = relief.field
    size = field.wide_mm, field.tall_mm
    if relief.blank:
        return plate(size, relief.backing_mm)
    if relief.plateaus:
        flat = stack(relief.plateaus, field)
        return join(flat, relief.steps, size, how.share_mm, how.settle)
    surface = _surface(field, how, tell)
    return surface if relief.cover is None else cut(solid_over_flat(surface), relief.cover, field)


def _surface(field: HeightField, how: How, tell: Tell) -> Mesh:
    return triangulate(
        field, how.share_mm, how.most_flat, how.settle, how.method, how.around, tell=tell
    )


def solid_over_flat(flat: Flat) -> Solid:
    """What was raised over its flat extent, closed."""
    return solid_of(close(flat)) if isinstance(flat, Mesh) else flat


def join_below(flat: Flat, relief: Relief, how: How) -> Flat:
    """The picture joined to the entries that lie below it.

    Raises
    ------
    InvalidValue : nothing is left, or the picture cannot be added to what is there
    """
    if not relief.blank and relief.rule == "replace":
        return flat
    from nebrel.core.solid.cut import outline_section
    from nebrel.core.solid.join import add_over_flat, join, plate

    if how.around:
        relief = _matched(relief, how.pole)
    field, picture = relief.field, solid_over_flat(flat)
    size = field.wide_mm, field.tall_mm
    under = join(plate(size, relief.backing_mm), relief.below, size, how.share_mm, how.settle)
    if relief.blank:
        return under
    if relief.rule == "lowest":
        return under ^ picture
    if relief.rule == "add":
        return add_over_flat(under, picture, relief)
    cover = relief.plateaus[0].cover if relief.plateaus else relief.cover
    whole = under + picture
    if cover is None:
        return whole
    high = whole.bounding_box()[5] + 2
    return whole ^ outline_section(cover, field).extrude(high).translate((0, 0, -1))


def join_entries(
    flat: Flat, entries: Sequence[Laid], size_mm: tuple[float, float], how: How
) -> Flat:
    """What was made so far, with further entries joined to it in order.

    Raises
    ------
    InvalidValue : nothing is left after cutting
    """
    if not entries:
        return flat
    from nebrel.core.solid.join import join

    return join(solid_over_flat(flat), entries, size_mm, how.share_mm, how.settle)


def turn_flat(
    flat: Flat, relief: Relief, mirror: bool, negative_mm: float, how: How, tell: Tell = None
) -> Flat:
    """Left for right, and upside down within a block where `negative_mm` is above 0.

    Parameters
    ----------
    relief : that it was made of
    """
    from nebrel.core.solid.join import turn_over

    field = relief.field
    if negative_mm > 0:
        if not isinstance(flat, Mesh):
            flat = turn_over(flat, replace(relief, negative_mm=negative_mm))
        elif float(field.mm.min()) >= relief.backing_mm:
            flat = _flipped(flat, 2, negative_mm)
        else:  # what is lower than the backing ends at it
            turned = replace(relief, negative_mm=negative_mm).joined()[0]
            whole = _matched(Relief(turned), how.pole).field if how.around else turned
            flat = _surface(whole, how, tell)
    if mirror:
        wide = float(np.float32(field.wide_mm))
        if isinstance(flat, Mesh):
            flat = _flipped(flat, 0, wide)
        else:
            flat = flat.mirror((1, 0, 0)).translate((wide, 0, 0))
    return flat


def _flipped(surface: Mesh, axis: int, about: float) -> Mesh:
    """A surface turned about along one axis, still looking upwards."""
    vertices = surface.vertices.copy()
    vertices[:, axis] = np.float32(about) - vertices[:, axis]
    # Seen from above, triangles go round the other way only where left and right change.
    faces = surface.faces if axis == 2 else np.ascontiguousarray(surface.faces[:, ::-1])
    return Mesh(vertices, faces)


def finish_solid(
    flat: Flat | None,
    relief: Relief,
    bent: FormMap | None,
    how: How,
    fits: tuple[Fit, ...] = (),
    rings: tuple[RingFit, ...] = (),
    round_edge: bool = False,
    tell: Tell = None,
) -> Built:
    """What was raised with its fittings, on its form, standing on z = 0.

    Parameters
    ----------
    flat : what was made of the relief; None to have it made in halves first
    fits, rings : fittings over its flat extent, bent with it; and about the axis of what stands
    round_edge : what is flat ends at the largest circle

    Raises
    ------
    InvalidValue, NotSolid, TooLarge : as `build`
    """
    made = _Making(bent, round_edge, how, fits, rings, tell)
    if bent is None and isinstance(flat, Mesh) and not round_edge and not fits:
        return Built(close(flat), tolerance_mm=how.tolerance_mm)
    if bent is None or not bent.around:
        assert flat is not None
        found = made.flat_or_bent(relief, flat)
    else:
        found = made.going_around(relief, flat)
    return replace(found, tolerance_mm=how.tolerance_mm)


@dataclass(frozen=True)
class _Making:
    """How one solid comes to its form."""

    bent: FormMap | None
    round_edge: bool
    how: How
    fits: tuple[Fit, ...]
    rings: tuple[RingFit, ...]
    tell: Tell

    @property
    def most_bent(self) -> int | None:
        """The most triangles once it is bent; as many as it takes when it is not a draft."""
        return self.how.most if self.how.settle else None

    def fitted(self, flat: Flat) -> Solid | Mesh:
        """A closed flat solid with its fittings; of the boolean kernel only where it has to be."""
        if isinstance(flat, Mesh) and not self.fits:
            return close(flat)
        return join_flat(solid_over_flat(flat), self.fits)

    def flat_or_bent(self, relief: Relief, flat: Flat) -> Built:
        """A panel, a disc, or what is bent without meeting itself."""
        from nebrel.core.solid.lay import lay

        if self.bent is not None:
            whole = self.fitted(flat)
            return self.placed(lay(whole, self.bent, self.bending(relief), self.most_bent))
        solid = solid_over_flat(flat)
        if self.round_edge:
            solid = _round(solid, relief.field, self.how.tolerance_mm)
        solid = join_flat(solid, self.fits)
        # A foot reaches below the underside, which lifts all of it.
        return self.stood(solid, max(0.0, -float(solid.bounding_box()[2])))

    def going_around(self, relief: Relief, flat: Flat | None) -> Built:
        """What meets itself: in one, or in halves where its ends do not fit."""
        if flat is None:
            with suppress(NotSolid):
                return self.of_halves(relief)
            flat = raise_flat(relief, self.how, self.tell)
        found = self.welded(relief, flat)
        return self.of_halves(relief) if found is None else found

    def bending(self, relief: Relief) -> float:
        """What bending may take of the tolerance: nearly all where the heights take none."""
        tolerance = self.how.tolerance_mm
        flat = bool(relief.plateaus) or float(np.ptp(relief.field.mm)) < 0.05 * tolerance
        patches = any(entry.patch for entry in (*relief.steps, *relief.below, *relief.above))
        return tolerance * (0.95 if flat and not patches else _BEND_SHARE)

    def stood(self, whole: Solid, lift: float | None = None) -> Built:
        """A solid raised to stand on z = 0, ready for a file."""
        from nebrel.core.mesh.writable import from_manifold

        lift = -float(whole.bounding_box()[2]) if lift is None else lift
        whole = whole.translate((0, 0, lift)) if lift else whole
        # A draft is looked at, never saved: splinters that no file can hold do no harm.
        if self.how.settle:
            return Built(mesh_of(whole), lift)
        mesh, report = from_manifold(whole, self.how.tolerance_mm)
        return Built(mesh, lift, report)

    def placed(self, mesh: Mesh) -> Built:
        """A bent mesh with what is about its axis, raised to stand on z = 0."""
        from nebrel.core.mesh.writable import for_a_file

        if self.rings:
            whole = solid_of(mesh)
            for ring in self.rings:
                whole = join_ring(whole, ring)
            return self.stood(whole)
        lift = -float(mesh.vertices[:, 2].min())
        mesh = Mesh(mesh.vertices + np.array([0, 0, lift], np.float32), mesh.faces)
        if self.how.settle:
            return Built(mesh, lift)
        found, report = for_a_file(mesh)
        if report.manifold:
            return Built(found, lift, report)
        return replace(self.stood(solid_of(mesh), 0.0), lift_mm=lift)

    def welded(self, relief: Relief, flat: Flat) -> Built | None:
        """What goes around, its ends sharing their vertices; None when they do not fit."""
        from nebrel.core.solid.lay import lay_around

        assert self.bent is not None
        field = relief.field
        mesh = lay_around(
            self.fitted(flat),
            self.bent,
            (field.wide_mm, field.tall_mm),
            self.bending(_matched(relief, self.bent.pole)),
            self.bent.pole,
            self.most_bent,
        )
        if mesh is None:
            return None
        try:
            return self.placed(mesh)
        except NotSolid:
            return None

    def of_halves(self, relief: Relief) -> Built:
        """What goes around where its ends differ: two halves, united."""
        from nebrel.core.solid.lay import lay_halves

        assert self.bent is not None
        field = relief.field
        pole = None
        if self.bent.pole:
            top = np.linspace(0, field.wide_mm, 65)
            heights, _ = relief.at(top, np.full(65, field.tall_mm))
            pole = (field.tall_mm, max(0.2, float(heights.mean())))
        # Its beginning repeated, the ends are not to be matched any more.
        apart = replace(self.how, around=False)
        raised = raise_flat(_repeated(relief, self.bent.pole), apart, self.tell)
        flat = join_flat(solid_over_flat(raised), self.fits)
        # Where the halves meet, their surfaces differ by less than the tolerance, and now and
        # then leave splinters that no file can hold; another seam leaves others.
        bending = self.bending(relief)
        for overlap in _OVERLAPS_MM:
            try:
                laid = lay_halves(
                    flat, self.bent, field.wide_mm, bending, pole, overlap, self.most_bent
                )
                for ring in self.rings:
                    laid = join_ring(laid, ring)
                return self.stood(laid)
            except NotSolid as error:
                failure = error
        raise failure


def as_pixels(relief: Relief) -> Relief:
    """The whole build-up as one field of heights, its edges a pixel wide: to be moved."""
    rows, cols = relief.field.mm.shape
    times = max(1, round(_PIXELS / max(rows, cols)))
    shape = (rows - 1) * times + 1, (cols - 1) * times + 1
    finer = replace(
        relief,
        field=replace(relief.field, mm=resample(relief.field.mm, *shape)),
        cover=None if relief.cover is None else resample(relief.cover, *shape),
        plateaus=tuple(replace(p, cover=resample(p.cover, *shape)) for p in relief.plateaus),
    )
    field, there = finer.joined()
    cover = None if there is None else there.astype(np.float32)
    mm = field.mm if there is None else np.where(there, field.mm, np.float32(_UNDER_MM))
    return Relief(replace(field, mm=np.maximum(mm, np.float32(_UNDER_MM))), cover)


def _round(solid: Solid, field: HeightField, tolerance_mm: float) -> Solid:
    radius = min(field.wide_mm, field.tall_mm) / 2
    sides = max(64, math.ceil(math.pi / math.acos(max(0.0, 1 - tolerance_mm / 2 / radius))))
    disc = circle(radius, sides).translate((field.wide_mm / 2, field.tall_mm / 2))
    return solid ^ disc.extrude(float(solid.bounding_box()[5]) + 2).translate((0, 0, -1))


def _matched(relief: Relief, poles: bool) -> Relief:
    """The same relief with its two ends alike, and calm at the poles."""

    def seam(values: Floats) -> Floats:
        found = values.copy()
        found[:, 0] = found[:, -1] = (values[:, 0] + values[:, -1]) / 2
        return found

    heights = seam(_calm_poles(relief.field.mm) if poles else relief.field.mm)
    cover = None if relief.cover is None else seam(relief.cover)
    plateaus = tuple(replace(plateau, cover=seam(plateau.cover)) for plateau in relief.plateaus)
    field = replace(relief.field, mm=heights)
    return replace(relief, field=field, cover=cover, plateaus=plateaus)


def _repeated(relief: Relief, poles: bool) -> Relief:
    """The same with its beginning repeated a little at the end."""
    relief = _matched(relief, poles)
    field = relief.field
    pitch = field.pitch_mm[0]
    more = max(2, math.ceil(max(_OVERLAPS_MM) / pitch) + 1)

    def repeat(values: Floats) -> Floats:
        joined = np.concatenate([values, values[:, 1 : more + 1]], axis=1)
        return np.ascontiguousarray(joined, np.float32)

    wider = HeightField(repeat(field.mm), field.wide_mm + more * pitch, field.tall_mm)
    cover = None if relief.cover is None else repeat(relief.cover)
    plateaus = tuple(replace(plateau, cover=repeat(plateau.cover)) for plateau in relief.plateaus)
    return replace(relief, field=wider, cover=cover, plateaus=plateaus)


def _calm_poles(heights: Floats) -> Floats:
    """Rows near the upper pole smoothed along u, as there a whole row comes close together."""
    rows, cols = heights.shape
    found = heights.copy()
    for row in range(max(1, rows // 6)):
        latitude = math.pi / 2 * (1 - row / (rows / 2))
        width = min(cols, int(1 / max(math.cos(latitude), 1e-3)))
        if width > 1:
            line: NDArray[np.float32] = np.concatenate([heights[row]] * 3)[None]
            calm = cv2.blur(line, (2 * (width // 2) + 1, 1))
            found[row] = calm[0, cols : 2 * cols]
    found[0] = heights[0].mean()
    return found
