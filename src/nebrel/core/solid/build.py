"""From heights, coverage and plateaus to the finished solid on its form."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Any, Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats, HeightField, Mesh
from nebrel.core.errors import InvalidValue, NotSolid
from nebrel.core.forms.maps import FormMap, Side, arc_map, dome_map, globe_map, tube_map
from nebrel.core.heights.relief import Relief
from nebrel.core.mesh.measure import MeshReport
from nebrel.core.solid.close import close
from nebrel.core.solid.fit import FlatFit, RingFit, join_flat, join_ring
from nebrel.core.solid.triangulate import MOST_TRIANGLES, triangulate

_BENT_SHARE = 0.6  # of the tolerance; bending takes the rest
_OVERLAPS_MM = (0.02, 0.05, 0.2)

FormKind = Literal["panel", "arc", "tube", "globe", "disc", "dome"]


@dataclass(frozen=True)
class FormSpec:
    """What the relief is laid on.

    Attributes
    ----------
    bend_deg : of an arc or a dome, the angle that the width spans
    opening_mm : of a globe, the diameter of the opening below
    side : which side the heights stand on
    """

    kind: FormKind = "panel"
    bend_deg: float = 90.0
    opening_mm: float = 20.0
    side: Side = "outside"


@dataclass(frozen=True)
class Built:
    """A finished solid.

    Attributes
    ----------
    lift_mm : by which it was raised from where the map of its form puts it, to stand on z = 0
    report : its figures, where they were needed on the way
    """

    mesh: Mesh
    lift_mm: float = 0.0
    report: MeshReport | None = None


def build(
    relief: Relief,
    form: FormSpec,
    tolerance_mm: float,
    most_triangles: int = MOST_TRIANGLES,
    settle: bool = False,
    picture: Any = None,
    fits: tuple[FlatFit, ...] = (),
    rings: tuple[RingFit, ...] = (),
) -> Built:
    """One closed solid.

    Parameters
    ----------
    tolerance_mm : the largest distance from the heights along the normal, at any pixel
    most_triangles, settle : as `triangulate`
    picture : what `raise_picture` made of the same relief, form and tolerance, if it is there
    fits, rings : fittings over its flat extent, bent with it; and about the axis of what stands

    Raises
    ------
    InvalidValue : nothing is left, or the form cannot take these heights
    NotSolid, TooLarge : as the steps it takes
    """
    if relief.negative_mm > 0 and relief.plain and relief.cover is None and not relief.plateaus:
        relief = replace(relief, field=relief.joined()[0], negative_mm=0.0)
    field = relief.field
    simple = form.kind == "panel" and not fits
    if simple and relief.cover is None and not relief.plateaus and relief.plain:
        return Built(close(triangulate(field, tolerance_mm, most_triangles, settle)))
    from nebrel.core.forms.lay import lay
    from nebrel.core.solid.cut import from_manifold, raw_mesh
    from nebrel.core.solid.join import join, turn_over

    if picture is None:
        picture = raise_picture(relief, form, tolerance_mm, most_triangles, settle)
    bent = form_map(form, relief)
    wider = _around(relief, form.kind == "globe") if bent is not None and bent.around else relief
    share = tolerance_mm * (1.0 if bent is None else _BENT_SHARE)
    flat = _with_below(picture, wider, share, settle)
    flat = join(flat, wider.above, wider.field, share, settle)
    if relief.negative_mm > 0:
        flat = turn_over(flat, wider)
    flat = join_flat(flat, fits)
    if bent is None:
        whole = _round(flat, field, tolerance_mm) if form.kind == "disc" else flat
        # A draft is looked at, never saved: splinters that no file can hold do no harm.
        # A foot reaches below the underside, which lifts all of it.
        lift = max(0.0, -float(whole.bounding_box()[2]))
        whole = whole.translate((0, 0, lift)) if lift else whole
        if settle:
            return Built(raw_mesh(whole), lift)
        mesh, report = from_manifold(whole, tolerance_mm)
        return Built(mesh, lift, report)
    pole = None
    if form.kind == "globe":
        top = np.linspace(0, field.wide_mm, 65)
        heights, _ = relief.at(top, np.full(65, field.tall_mm))
        pole = (field.tall_mm, max(0.2, float(heights.mean())))
    # Where the halves of a tube meet, their surfaces differ by less than the tolerance, and
    # now and then leave splinters that no file can hold; another seam leaves others.
    most = most_triangles if settle else None
    for overlap in _OVERLAPS_MM if bent.around else (0.0,):
        try:
            laid = lay(flat, bent, field.wide_mm, tolerance_mm * 0.3, pole, overlap, most)
            for ring in rings:
                laid = join_ring(laid, ring)
            lift = -float(laid.bounding_box()[2])
            laid = laid.translate((0, 0, lift))
            if settle:
                return Built(raw_mesh(laid), lift)
            mesh, report = from_manifold(laid, tolerance_mm)
            return Built(mesh, lift, report)
        except NotSolid as error:
            failure = error
    raise failure


def raise_picture(
    relief: Relief, form: FormSpec, tolerance_mm: float, most_triangles: int, settle: bool
) -> Any:
    """The flat solid of the picture alone, which moving an entry does not change.

    Raises
    ------
    InvalidValue, NotSolid, TooLarge : as `build`
    """
    from nebrel.core.solid.cut import cut, stack, to_manifold
    from nebrel.core.solid.join import join, plate

    bent = form_map(form, relief)
    tolerance = tolerance_mm * (1.0 if bent is None else _BENT_SHARE)
    if bent is not None and bent.around:
        relief = _around(relief, form.kind == "globe")
    if relief.blank:
        return plate(relief.field, relief.backing_mm)
    if relief.plateaus:
        flat = stack(relief.plateaus, relief.field)
        return join(flat, relief.steps, relief.field, tolerance, settle)
    solid = to_manifold(close(triangulate(relief.field, tolerance, most_triangles, settle)))
    return solid if relief.cover is None else cut(solid, relief.cover, relief.field)


def _with_below(picture: Any, relief: Relief, tolerance_mm: float, settle: bool) -> Any:
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


def form_map(form: FormSpec, relief: Relief) -> FormMap | None:
    """The map of a form for these heights; None for flat ones.

    Raises
    ------
    InvalidValue : the inside would fold over, or the opening is wider than the globe
    """
    wide, tall = relief.field.wide_mm, relief.field.tall_mm
    highest = relief.highest_mm
    bend = math.radians(form.bend_deg)
    if form.kind in ("panel", "disc"):
        return None
    if form.kind == "arc":
        found = arc_map(wide, bend, form.side)
    elif form.kind == "dome":
        reach = math.hypot(wide, tall) / wide * bend / 2
        if reach > math.pi * 0.98:
            most = math.degrees(math.pi * 0.98 * 2 * wide / math.hypot(wide, tall))
            raise InvalidValue(
                "form",
                f"a dome bent by {form.bend_deg:g}° would meet itself at its corners",
                f"The nearest that works is {most:.0f}°",
            )
        found = dome_map(wide, tall, bend, form.side)
    elif form.kind == "tube":
        found = tube_map(wide, form.side)
    else:
        if form.opening_mm >= wide / math.pi * 0.98:
            raise InvalidValue(
                "opening",
                f"{form.opening_mm:g} mm is wider than the globe of {wide / math.pi:.1f} mm",
                f"The nearest that works is {0.95 * wide / math.pi:.1f} mm",
            )
        found = globe_map(wide, tall, form.opening_mm, form.side)
    if form.side == "inside" and highest >= 0.95 * found.radius_mm:
        raise InvalidValue(
            "form",
            f"bent to a radius of {found.radius_mm:.2f} mm, heights of {highest:g} mm on the "
            "inside would fold over",
            f"The nearest that works is a height of {0.9 * found.radius_mm:.2f} mm, "
            "or make it wider",
        )
    return found


def _round(solid: Any, field: HeightField, tolerance_mm: float) -> Any:
    from manifold3d import CrossSection

    radius = min(field.wide_mm, field.tall_mm) / 2
    sides = max(64, math.ceil(math.pi / math.acos(max(0.0, 1 - tolerance_mm / 2 / radius))))
    disc = CrossSection.circle(radius, sides).translate((field.wide_mm / 2, field.tall_mm / 2))
    return solid ^ disc.extrude(float(solid.bounding_box()[5]) + 2).translate((0, 0, -1))


def _around(relief: Relief, poles: bool) -> Relief:
    """The same relief with its ends matched and its beginning repeated a little at the end."""
    field = relief.field
    pitch = field.pitch_mm[0]
    more = max(2, math.ceil(max(_OVERLAPS_MM) / pitch) + 1)

    def repeat(values: Floats) -> Floats:
        seam = (values[:, :1] + values[:, -1:]) / 2
        joined = np.concatenate([seam, values[:, 1:-1], seam, values[:, 1 : more + 1]], axis=1)
        return np.ascontiguousarray(joined, np.float32)

    heights = _calm_poles(field.mm) if poles else field.mm
    wider = HeightField(repeat(heights), field.wide_mm + more * pitch, field.tall_mm)
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
