"""From heights, coverage and plateaus to the finished solid on its form."""

from __future__ import annotations

import math
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, replace

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.choices import MOST_TRIANGLES, Method
from nebrel.core.data import Floats, HeightField, Mesh
from nebrel.core.errors import NotSolid
from nebrel.core.forms.maps import FormMap
from nebrel.core.heights.relief import Relief
from nebrel.core.kernel import Solid, circle, mesh_of, solid_of
from nebrel.core.mesh.measure import MeshReport
from nebrel.core.picture.resample import resample
from nebrel.core.solid.close import close
from nebrel.core.solid.fit import FlatFit, RingFit, join_flat, join_ring
from nebrel.core.solid.triangulate import triangulate

# Of the tolerance; what is left covers rounding.
_FLAT_SHARE, _BEND_SHARE = 0.6, 0.36
_OVERLAPS_MM = (0.02, 0.05, 0.2)

_FEW_ENTRIES = 2  # that are joined sooner than they are drawn as pixels
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


def build(
    relief: Relief,
    bent: FormMap | None,
    tolerance_mm: float,
    most_triangles: int = MOST_TRIANGLES,
    settle: bool = False,
    flat: Solid | None = None,
    fits: tuple[FlatFit, ...] = (),
    rings: tuple[RingFit, ...] = (),
    method: Method = "auto",
    tell: Callable[[], None] | None = None,
    round_edge: bool = False,
) -> Built:
    """One closed solid.

    Parameters
    ----------
    bent : the map of its form; None for what is flat
    tolerance_mm : the largest distance from the heights along the normal, at any pixel
    most_triangles, settle, method, tell : as `triangulate`
    flat : what `raise_flat` made of the same relief, map and tolerance, if it is there
    fits, rings : fittings over its flat extent, bent with it; and about the axis of what stands
    round_edge : what is flat ends at the largest circle

    Raises
    ------
    InvalidValue : nothing is left, or the form cannot take these heights
    NotSolid, TooLarge : as the steps it takes
    """
    if relief.negative_mm > 0 and relief.plain and relief.cover is None and not relief.plateaus:
        relief = replace(relief, field=relief.joined()[0], negative_mm=0.0)
    if settle and many_entries(relief):
        # To be looked at while it is moved: as pixels, its edges a pixel wide.
        relief, flat, most_triangles = _as_pixels(relief), None, 2 * most_triangles
    field = relief.field
    simple = bent is None and not round_edge and not fits
    if simple and relief.cover is None and not relief.plateaus and relief.plain:
        surface = triangulate(field, tolerance_mm, most_triangles, settle, method, tell=tell)
        return Built(close(surface))
    how = tolerance_mm, most_triangles, settle, fits, rings, method, tell
    made = _Making(bent, round_edge, *how)
    if bent is None or not bent.around:
        return made.flat_or_bent(relief, flat)
    if method == "greedy" and not settle:
        # Insertion knows no second end to match: a seam to unite.
        with suppress(NotSolid):
            return made.of_halves(relief)
    found = made.welded(_matched(relief, bent.pole), flat)
    return made.of_halves(relief) if found is None else found


@dataclass(frozen=True)
class _Making:
    """What one solid is made by."""

    bent: FormMap | None
    round_edge: bool
    tolerance_mm: float
    most: int
    settle: bool
    fits: tuple[FlatFit, ...]
    rings: tuple[RingFit, ...]
    method: Method
    tell: Callable[[], None] | None

    @property
    def most_flat(self) -> int:
        """The most triangles before bending adds its own."""
        return _before_bending(self.most, self.settle and self.bent is not None)

    def unbent(self, relief: Relief, around: bool, known: Solid | None) -> Solid | Mesh:
        """The same to be bent next: the picture alone needs no boolean kernel."""
        alone = relief.plain and relief.cover is None and not relief.plateaus
        if not alone or relief.negative_mm > 0 or self.fits or known is not None:
            return self.flat(relief, known, around)
        how = self.most_flat, self.settle, self.method, around, self.tell
        return close(triangulate(relief.field, self.tolerance_mm * _FLAT_SHARE, *how))

    def flat(self, relief: Relief, known: Solid | None, around: bool = False) -> Solid:
        """The whole build-up over its flat extent, with its fittings."""
        flat = self.joined(relief, None, around) if known is None else known
        return join_flat(flat, self.fits)

    def joined(self, relief: Relief, picture: Solid | None, around: bool = False) -> Solid:
        """The same without its fittings; `around` as `triangulate`."""
        from nebrel.core.solid.join import join, turn_over

        share = self.tolerance_mm * (1.0 if self.bent is None else _FLAT_SHARE)
        if picture is None:
            how = self.most_flat, self.settle, self.method, self.tell, around
            picture = _raise(relief, share, *how)
        flat = _with_below(picture, relief, share, self.settle)
        flat = join(flat, relief.above, relief.field, share, self.settle)
        return turn_over(flat, relief) if relief.negative_mm > 0 else flat

    def flat_or_bent(self, relief: Relief, known: Solid | None) -> Built:
        """A panel, a disc, or what is bent without meeting itself."""
        from nebrel.core.solid.lay import lay

        if self.bent is not None:
            most = self.most if self.settle else None
            flat = self.unbent(relief, False, known)
            return self.placed(lay(flat, self.bent, self.bending(relief), most))
        flat, field = self.flat(relief, known), relief.field
        whole = _round(flat, field, self.tolerance_mm) if self.round_edge else flat
        # A foot reaches below the underside, which lifts all of it.
        return self.stood(whole, max(0.0, -float(whole.bounding_box()[2])))

    def bending(self, relief: Relief) -> float:
        """What bending may take of the tolerance: nearly all where the heights take none."""
        flat = bool(relief.plateaus) or float(np.ptp(relief.field.mm)) < 0.05 * self.tolerance_mm
        patches = any(entry.patch for entry in (*relief.steps, *relief.below, *relief.above))
        return self.tolerance_mm * (0.95 if flat and not patches else _BEND_SHARE)

    def stood(self, whole: Solid, lift: float | None = None) -> Built:
        """A solid raised to stand on z = 0, ready for a file."""
        from nebrel.core.solid.cut import from_manifold

        lift = -float(whole.bounding_box()[2]) if lift is None else lift
        whole = whole.translate((0, 0, lift)) if lift else whole
        # A draft is looked at, never saved: splinters that no file can hold do no harm.
        if self.settle:
            return Built(mesh_of(whole), lift)
        mesh, report = from_manifold(whole, self.tolerance_mm)
        return Built(mesh, lift, report)

    def placed(self, mesh: Mesh) -> Built:
        """A bent mesh with what is about its axis, raised to stand on z = 0."""
        from nebrel.core.solid.cut import for_a_file

        if self.rings:
            whole = solid_of(mesh)
            for ring in self.rings:
                whole = join_ring(whole, ring)
            return self.stood(whole)
        lift = -float(mesh.vertices[:, 2].min())
        mesh = Mesh(mesh.vertices + np.array([0, 0, lift], np.float32), mesh.faces)
        if self.settle:
            return Built(mesh, lift)
        found, report = for_a_file(mesh)
        if report.manifold:
            return Built(found, lift, report)
        return replace(self.stood(solid_of(mesh), 0.0), lift_mm=lift)

    def welded(self, relief: Relief, known: Solid | None) -> Built | None:
        """What goes around, its ends sharing their vertices; None when they do not fit."""
        from nebrel.core.solid.lay import lay_around

        assert self.bent is not None
        field = relief.field
        mesh = lay_around(
            self.unbent(relief, True, known),
            self.bent,
            (field.wide_mm, field.tall_mm),
            self.bending(relief),
            self.bent.pole,
            self.most if self.settle else None,
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
        flat = self.flat(_repeated(relief, self.bent.pole), None)
        # Where the halves meet, their surfaces differ by less than the tolerance, and now and
        # then leave splinters that no file can hold; another seam leaves others.
        most = self.most if self.settle else None
        for overlap in _OVERLAPS_MM:
            try:
                bending = self.bending(relief)
                laid = lay_halves(flat, self.bent, field.wide_mm, bending, pole, overlap, most)
                for ring in self.rings:
                    laid = join_ring(laid, ring)
                return self.stood(laid)
            except NotSolid as error:
                failure = error
        raise failure


def many_entries(relief: Relief) -> bool:
    """Whether joining the entries takes so long that a draft is made of pixels instead."""
    return len((*relief.below, *relief.above, *relief.steps)) > _FEW_ENTRIES


def raise_picture(
    relief: Relief,
    bent: FormMap | None,
    tolerance_mm: float,
    most_triangles: int,
    settle: bool,
    method: Method = "auto",
    tell: Callable[[], None] | None = None,
) -> Solid:
    """The flat solid of the picture alone, which moving an entry does not change.

    Raises
    ------
    InvalidValue, NotSolid, TooLarge : as `build`
    """
    tolerance = tolerance_mm * (1.0 if bent is None else _FLAT_SHARE)
    if bent is not None and bent.around:
        relief = _matched(relief, bent.pole)
        most = _before_bending(most_triangles, settle)
        return _raise(relief, tolerance, most, settle, method, tell, around=True)
    most = _before_bending(most_triangles, settle and bent is not None)
    return _raise(relief, tolerance, most, settle, method, tell)


def raise_flat(
    relief: Relief,
    bent: FormMap | None,
    tolerance_mm: float,
    most_triangles: int,
    settle: bool,
    picture: Solid | None = None,
    method: Method = "auto",
    tell: Callable[[], None] | None = None,
) -> Solid:
    """The whole build-up over its flat extent, which fittings do not change.

    Parameters
    ----------
    picture : what `raise_picture` made of the same, if it is there

    Raises
    ------
    InvalidValue, NotSolid, TooLarge : as `build`
    """
    how = tolerance_mm, most_triangles, settle, (), (), method, tell
    made = _Making(bent, False, *how)
    around = bent is not None and bent.around
    if bent is not None and around:
        relief = _matched(relief, bent.pole)
    return made.joined(relief, picture, around)


def _before_bending(most: int, counted: bool) -> int:
    return most // 2 if counted else most


def _raise(
    relief: Relief,
    tolerance_mm: float,
    most: int,
    settle: bool,
    method: Method,
    tell: Callable[[], None] | None,
    around: bool = False,
) -> Solid:
    from nebrel.core.solid.cut import cut, stack
    from nebrel.core.solid.join import join, plate

    if relief.blank:
        return plate(relief.field, relief.backing_mm)
    if relief.plateaus:
        flat = stack(relief.plateaus, relief.field)
        return join(flat, relief.steps, relief.field, tolerance_mm, settle)
    surface = triangulate(relief.field, tolerance_mm, most, settle, method, around, tell)
    solid = solid_of(close(surface))
    return solid if relief.cover is None else cut(solid, relief.cover, relief.field)


def _with_below(picture: Solid, relief: Relief, tolerance_mm: float, settle: bool) -> Solid:
    """The picture joined to the entries that lie below it."""
    if not relief.blank and relief.rule == "replace":
        return picture
    from nebrel.core.solid.cut import outline_section
    from nebrel.core.solid.join import add_over_flat, join, plate

    field = relief.field
    under = join(plate(field, relief.backing_mm), relief.below, field, tolerance_mm, settle)
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


def _round(solid: Solid, field: HeightField, tolerance_mm: float) -> Solid:
    radius = min(field.wide_mm, field.tall_mm) / 2
    sides = max(64, math.ceil(math.pi / math.acos(max(0.0, 1 - tolerance_mm / 2 / radius))))
    disc = circle(radius, sides).translate((field.wide_mm / 2, field.tall_mm / 2))
    return solid ^ disc.extrude(float(solid.bounding_box()[5]) + 2).translate((0, 0, -1))


def _as_pixels(relief: Relief) -> Relief:
    """The whole build-up as one field of heights."""
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
