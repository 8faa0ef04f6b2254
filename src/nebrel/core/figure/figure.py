"""A subject to a coloured figure: inflated, turned about an axis, or half round for a wall."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.choices import LEAST_RESOLUTION, MOST_RESOLUTION, Back, Way
from nebrel.core.data import Floats, Mesh
from nebrel.core.errors import InvalidValue, NotSolid
from nebrel.core.figure.field import Bulge, surface
from nebrel.core.figure.learned import ask, bulge_of
from nebrel.core.figure.pose import Part, is_posed, joint_of, leaning, pose
from nebrel.core.figure.shading import fine_heights
from nebrel.core.figure.stand import on_a_plate, on_feet, tipping, tips_at
from nebrel.core.figure.subject import Subject, continued, with_own_colours
from nebrel.core.figure.swell import Swollen, distances, evened, outline_of, swell
from nebrel.core.figure.turn import Axis, find_axis, radii, turned, upright
from nebrel.core.mesh.closed import closed
from nebrel.core.mesh.measure import MeshReport, measure
from nebrel.core.mesh.only import only, without_doubles
from nebrel.core.mesh.tint import with_colours_of
from nebrel.core.mesh.writable import for_a_file
from nebrel.core.picture.resample import resample

Tell = Callable[[float], None]
_SMOOTH_BACK = 0.6  # as thick as the front
_ROOM = 8  # pixels around the subject
_FINER = 2
_EVEN_PX = 1.5  # by which the heights of the balls are smoothed
_JOINT_PX = 2.5  # by which a part is smoothed where it lies on the body
_LONGEST = 2.0  # times as thick as round, that is marched through
_THINNEST_PX = 3.0  # half of its thickness, that is marched through
_CALM_PX = 0.8  # by which an outline is smoothed at least
_MOST_ROOM = 12
_SURE_PX = 2.5  # inside the outline, from where a depth picture is believed
_STEEP = 8.0  # that a slope is taken for at most
_LEAST_PX = 1.5  # that a depth picture makes it stand out anywhere
_OVERLAP, _BLEND = 0.02, 0.03  # of the longer side: parts reach into the rest, and are joined
_HIDDEN = 0.12  # of it: what is narrower than twice that goes on behind a part
_SLIVER = 0.015  # of it: what is narrower than twice that beside a part belongs to it
_THIN = 0.5  # of half its width: what is thinner of a part, where it lies on the body, is not it
_LAID = 0.15  # of a part: where as much lies on the rest, it need not reach further into that
_CRUMB = 0.01  # of the vertices: a piece apart that is smaller is left out
_LEAST_PART = 12  # pixels
_BEHIND_MM = 0.02  # of the middle: what lies there is the back


@dataclass(frozen=True)
class Wanted:
    """The numbers of a figure.

    Attributes
    ----------
    tall_mm : its height, without a plate
    thick_mm : how thick it is where it is thickest; left out: as round as it is wide
    back : as the front, flat, or rounder and shallower; half round it is flat
    roundness : 0 to 1: less makes what is wide flat, with a round edge
    softness_mm : by how much its outline is smoothed
    detail_mm : how far fine light and dark stands out, or lies deep, at most
    dark_stands : dark tones stand out instead
    axis : shares of the width right of the middle, and degrees; left out: found
    half_round : what is turned ends at its axis, with a flat back
    wall_mm : what is turned is hollow, open above; 0 for solid
    base_mm : height of the plate that it stands on; 0 for none
    feet_mm : height of four feet under all of it; 0 for none
    resolution : cells along its longer side
    """

    way: Way = "inflate"
    tall_mm: float = 80.0
    thick_mm: float | None = None
    back: Back = "mirror"
    roundness: float = 1.0
    softness_mm: float = 0.0
    detail_mm: float = 0.0
    dark_stands: bool = False
    axis: tuple[float, float] | None = None
    half_round: bool = False
    wall_mm: float = 0.0
    base_mm: float = 0.0
    feet_mm: float = 0.0
    resolution: int = 512


@dataclass(frozen=True)
class Beside:
    """What is brought beside the picture.

    Attributes
    ----------
    depth : (rows, cols) 0 to 1, light is near; of the picture's size
    back : the subject seen from behind
    parts : what is round by itself; the rest goes on behind it
    calm : (rows, cols) 0 to 1, what detail leaves alone; of the picture's size
    """

    depth: Floats | None = None
    back: Subject | None = None
    parts: tuple[Part, ...] = ()
    calm: Floats | None = None


@dataclass(frozen=True)
class Figure:
    """What a subject came to.

    Attributes
    ----------
    mesh : closed, coloured, z up, facing -y, standing on z = 0, x around 0
    report : its figures
    tips_deg : at which angle it tips over
    notes : of the subject, and of how it stands
    axis : what it was turned about, where it was: as `Wanted.axis`
    mm_per_px, low_mm : of the subject, and where its lower left corner is, x and z
    moved : parts of it are elsewhere than in its picture
    thin : which of its parts, from 0 on, were left out: too thin for its cells
    """

    mesh: Mesh
    report: MeshReport
    tips_deg: float
    notes: tuple[str, ...]
    axis: tuple[float, float] | None = None
    mm_per_px: float = 1.0
    low_mm: tuple[float, float] = (0.0, 0.0)
    moved: bool = False
    thin: tuple[int, ...] = ()


@dataclass(frozen=True)
class _Sampled:
    """A subject with as many pixels as it is to have cells."""

    cover: Floats
    pixels: Floats
    px_per_mm: float
    depth: Floats | None = None
    back: Floats | None = None
    regions: tuple[Floats, ...] = ()
    joints: tuple[tuple[float, float] | None, ...] = ()
    calm: Floats | None = None
    body: Floats | None = None


def make_figure(
    subject: Subject, wanted: Wanted, beside: Beside = Beside(), tell: Tell | None = None
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
    check_wanted(wanted)
    numbered = (replace(part, number=number) for number, part in enumerate(beside.parts))
    beside, count = replace(beside, parts=tuple(numbered)), len(beside.parts)
    moved = is_posed(beside.parts) and wanted.way != "turn"
    body, tall_px = None, float(np.ptp(np.flatnonzero((subject.cover >= 0.5).any(axis=1)))) + 1
    if moved:
        subject, beside, body = _posed(subject, beside, wanted.tall_mm / tall_px)
    given = _sampled(subject, wanted, beside, body, tall_px if moved else None)
    axis = None
    thin: tuple[int, ...] = ()
    if wanted.way == "turn":
        found, colours, axis = _turned(given, wanted)
    else:
        found, kept = _inflated(given, wanted, beside.parts, tell)
        thin = tuple(number for number in range(count) if number not in kept)
        found = _in_one(found)
        colours = coloured(found, given)
    places = found.vertices.astype(np.float64)
    low, high = places.min(axis=0), places.max(axis=0)
    # What reaches beyond it where it was moved makes the rest no smaller.
    scale = 1 / given.px_per_mm if moved else wanted.tall_mm / float(high[2] - low[2])
    shift = np.array([(low[0] + high[0]) / 2, 0.0, low[2]])
    mesh = Mesh(((places - shift) * scale).astype(np.float32), found.faces, "figure", colours)
    corner = -shift * scale
    if wanted.base_mm > 0:
        before = float(mesh.vertices[:, 2].max())
        mesh = on_a_plate(mesh, wanted.base_mm)
        x = float(mesh.vertices[:, 0].min() + mesh.vertices[:, 0].max()) / 2
        mesh = replace(mesh, vertices=mesh.vertices - np.array([x, 0, 0], np.float32))
        corner += np.array([-x, 0.0, float(mesh.vertices[:, 2].max()) - before])
    if wanted.feet_mm > 0:
        mesh = on_feet(mesh, wanted.feet_mm)
        corner += np.array([0.0, 0.0, wanted.feet_mm])
    # The outermost pixels stay where they are when there are more of them.
    times = scale * (wanted.resolution - 1) / (max(subject.cover.shape) - 1)
    edge = (_ROOM - times / scale / 2) * scale
    low_mm = float(corner[0] + edge), float(corner[2] + edge)
    mesh, report = _manifold(mesh)
    tips_deg, notes = tips_at(mesh), subject.notes
    if wanted.way != "half" and not wanted.half_round and report.manifold:
        has = "plate" if wanted.base_mm > 0 else "feet" if wanted.feet_mm > 0 else ""
        said = tipping(mesh, tips_deg, has)
        notes = notes if said is None else (*notes, said)
    return Figure(mesh, report, tips_deg, notes, axis, times, low_mm, moved, thin)


def _manifold(mesh: Mesh) -> tuple[Mesh, MeshReport]:
    """Two sides of a cell that touch are drawn apart; its figures. Raises NotSolid."""
    mesh = without_doubles(mesh)
    report = measure(mesh)
    if report.manifold and report.bodies == 1:
        return mesh, report
    found = mesh
    if not report.manifold:
        found = with_colours_of(replace(_in_one(for_a_file(mesh)[0]), name=mesh.name), mesh)
    elif report.bodies > 1:
        found = with_colours_of(replace(_in_one(mesh), name=mesh.name), mesh)
    report = measure(found)
    if not report.manifold:
        raise NotSolid("figure", "it would not be closed", "Use another resolution")
    return found, report


def check_wanted(wanted: Wanted) -> None:
    """Raise InvalidValue where a number is out of its range."""
    if not LEAST_RESOLUTION <= wanted.resolution <= MOST_RESOLUTION:
        raise InvalidValue(
            "resolution",
            f"{wanted.resolution} is outside {LEAST_RESOLUTION} to {MOST_RESOLUTION}",
            "Use 512 for most figures",
        )
    ranges: tuple[tuple[str, float | None, float, float], ...] = (
        ("tall", wanted.tall_mm, 0.1, 5000),
        ("thick", wanted.thick_mm, 0.1, 5000),
        ("detail", wanted.detail_mm, 0, 20),
        ("softness", wanted.softness_mm, 0, 20),
        ("wall", wanted.wall_mm, 0, 100),
        ("base", wanted.base_mm, 0, 100),
        ("feet", wanted.feet_mm, 0, 100),
        ("roundness", wanted.roundness, 0.05, 1),
    )
    for name, value, least, most in ranges:
        if value is not None and not least <= value <= most:
            raise InvalidValue(name, f"{value:g} is outside {least:g} to {most:g}", "Use another")


def _posed(subject: Subject, beside: Beside, mm_per_px: float) -> tuple[Subject, Beside, Floats]:
    """The same with its parts where they are wanted, and what is left without them."""
    left, top = subject.low
    rows, cols = subject.cover.shape

    def own(values: Floats) -> Floats:
        found: Floats = np.pad(values, 2)[top + 2 :, left + 2 :][:rows, :cols]
        return found

    parts = [
        replace(
            part,
            region=own(part.region) * subject.cover,
            joint=None if part.joint is None else (part.joint[0] - left, part.joint[1] - top),
        )
        for part in beside.parts
    ]
    parts = [part for part in parts if (part.region >= 0.5).sum() >= _LEAST_PART]
    if not parts:
        return subject, replace(beside, parts=()), subject.cover
    body = _behind([part.region for part in parts], subject.cover)
    found = pose(subject, parts, body, mm_per_px)
    above, before = found.room
    size = found.subject.cover.shape

    def wider(values: Floats) -> Floats:
        """In the picture that it has now."""
        below, after = size[0] - rows - above, size[1] - cols - before
        rim = (above, below), (before, after), *[(0, 0)] * (values.ndim - 2)
        return np.pad(values, rim, mode="edge")

    def again(values: Floats | None) -> Floats | None:
        return None if values is None else wider(own(values))

    behind = beside.back
    if behind is not None:
        shown = wider(_through(behind, rows, cols))[:, ::-1]
        behind = replace(behind, pixels=shown, cover=np.ones(size, np.float32))
    moved = replace(
        beside,
        parts=found.parts,
        depth=again(beside.depth),
        calm=again(beside.calm),
        back=behind,
    )
    return found.subject, moved, found.body


def _through(behind: Subject, rows: int, cols: int) -> Floats:
    """(rows, cols, 3) colours of a subject seen from behind, as they lie seen from the front."""
    own = with_own_colours(behind.pixels, behind.cover)[:, ::-1]
    return resample(np.ascontiguousarray(own), rows, cols)


def _sampled(
    subject: Subject,
    wanted: Wanted,
    beside: Beside,
    body: Floats | None = None,
    tall_px: float | None = None,
) -> _Sampled:
    rows, cols = subject.cover.shape
    times = (wanted.resolution - 1) / (max(rows, cols) - 1)
    # Room above and to the right, so that as many times as large is a whole number of pixels.
    more = _room_for(rows, times), _room_for(cols, times)
    size = tuple(
        max(2, round((side + add - 1) * times) + 1)
        for side, add in zip((rows, cols), more, strict=True)
    )

    def layer(values: Floats, mode: Literal["edge", "constant"] = "edge") -> Floats:
        beyond = ((more[0], 0), (0, more[1]), *[(0, 0)] * (values.ndim - 2))
        flat = np.clip(resample(np.pad(values, beyond, mode=mode), size[0], size[1]), 0, 1)
        wide = ((_ROOM, _ROOM), (_ROOM, _ROOM), *[(0, 0)] * (flat.ndim - 2))
        return np.pad(flat, wide, mode=mode)

    cover = layer(subject.cover, "constant")
    rows_on = np.flatnonzero((cover >= 0.5).any(axis=1))
    high = (float(np.ptp(rows_on)) + 1) if len(rows_on) else 0.0
    px_per_mm = (high if tall_px is None else tall_px * times) / wanted.tall_mm
    # A hard mask has steps; what is soft already hardly changes.
    calmed = max(_CALM_PX, wanted.softness_mm * px_per_mm)
    # Nothing is beyond the picture: not a mirror image, which would lead the figure out of it.
    cover = cv2.GaussianBlur(cover, (0, 0), calmed, borderType=cv2.BORDER_CONSTANT)
    if not (cover >= 0.5).any():
        raise InvalidValue(
            "resolution",
            "the subject is too thin for so few cells, or so much softness",
            "Use a higher resolution, or less softness",
        )
    left, top = subject.low

    def own(values: Floats) -> Floats:
        """What of something as large as the picture belongs to the subject."""
        return layer(np.pad(values, 2, mode="edge")[top + 2 :, left + 2 :][:rows, :cols])

    depth = None if beside.depth is None else own(beside.depth)
    regions = tuple(own(part.region) for part in beside.parts)
    back = None if beside.back is None else layer(_through(beside.back, rows, cols))
    joints = tuple(
        None
        if part.joint is None
        else (
            (part.joint[0] - left) * times + _ROOM,
            (part.joint[1] - top + more[0]) * times + _ROOM,
        )
        for part in beside.parts
    )
    calm = None if beside.calm is None else own(beside.calm)
    left_over = None if body is None else layer(body, "constant")
    return _Sampled(
        cover, layer(subject.pixels), px_per_mm, depth, back, regions, joints, calm, left_over
    )


def _room_for(side: int, times: float) -> int:
    """How many pixels more make it, as many times as large, nearly a whole number of them."""
    off = np.abs((side - 1 + np.arange(_MOST_ROOM)) * times % 1 - 0.5)
    return int(off.argmax())


def _inflated(
    given: _Sampled, wanted: Wanted, parts: tuple[Part, ...], tell: Tell | None
) -> tuple[Mesh, set[int]]:
    """The surface, and the numbers of the parts that are not too thin for it."""
    body, own = _apart(given, parts)
    swollen = _swollen(body, wanted.roundness)
    flat = wanted.way == "half" or wanted.back == "flat"
    back = 0.0 if flat else _SMOOTH_BACK if wanted.back == "smooth" else 1.0
    bulge = Bulge(swollen, 1.0, back)
    if given.depth is not None:
        bulge = _of_depth(given, swollen, back)
    elif wanted.way == "learned":
        behind = None if given.back is None or back == 0 else ask(given.back, body)
        bulge = bulge_of(ask(given.pixels, body), swollen, back, behind)
    front_px, longer = bulge.swollen.half_px, 1.0
    if wanted.thick_mm is not None:
        back_px = (bulge.behind or bulge.swollen).half_px * back
        times = wanted.thick_mm * given.px_per_mm / (front_px + back_px)
        # What is much thicker than it is round, or hardly thicker than a cell, is made less so and
        # drawn out, or pressed flat, afterwards.
        longer = max(min(1.0, times * front_px / _THINNEST_PX), times / _LONGEST)
        bulge = replace(bulge, front=times / longer, back=back * times / longer)
        if bulge.middle is not None:
            bulge = replace(bulge, middle=bulge.middle * times / longer)
    if wanted.detail_mm > 0:
        bulge = _with_detail(bulge, given, wanted, longer)
    bulges = [bulge]
    for part, mask, joined in own:
        alone = _swollen(joined, wanted.roundness)
        ahead = part.ahead_mm * given.px_per_mm / longer
        one = Bulge(alone, bulge.front * part.times, bulge.back * part.times, ahead)
        lean = None
        if part.lean_deg:
            joint = joint_of(replace(part, region=mask), body)
            lean = leaning(replace(part, region=mask, joint=joint))
        one = replace(one, middle=None if lean is None else lean / longer)
        bulges += [one, replace(one, ahead_px=-ahead)] if part.both else [one]
    blend = _BLEND * max(given.cover.shape) if own else 0.0
    outline = distances(given.cover) if own else None
    found = surface(bulges, blend, tell, outline)
    drawn_out = found.vertices * np.array([1, longer, 1], np.float32)
    kept = {part.number for part, _, _ in own}
    return (found if longer == 1 else replace(found, vertices=drawn_out)), kept


def _apart(
    given: _Sampled, parts: tuple[Part, ...]
) -> tuple[Floats, list[tuple[Part, Floats, Floats]]]:
    """What is left of a subject, and its parts: where they are, and as they join the rest.

    Parts that are too thin for the cells are left out.
    """
    own = [
        (replace(part, region=region, joint=joint), given.cover * region)
        for part, region, joint in zip(parts, given.regions, given.joints, strict=True)
    ]
    own = [(part, mask) for part, mask in own if (mask >= 0.5).sum() >= _LEAST_PART]
    while True:
        body = given.body
        if body is None:
            body = _behind([mask for _, mask in own], given.cover)
        joined = [(part, mask, _joining(mask, body, given.cover)) for part, mask in own]
        found = [one for one in joined if (one[2] >= 0.5).sum() >= _LEAST_PART]
        if len(found) == len(own):
            return body, found
        own = [(part, mask) for part, mask, _ in found]


def _in_one(mesh: Mesh) -> Mesh:
    """Without crumbs. Raises InvalidValue where a part touches nothing."""
    from nebrel.core.mesh.components import label_components

    ends = mesh.faces[:, :2].ravel(), mesh.faces[:, 1:].ravel()
    _, which = label_components(len(mesh.vertices), *ends)
    sizes = np.bincount(which)
    if len(sizes) == 1:
        return mesh
    if np.sort(sizes)[-2] > _CRUMB * sizes.max():
        raise InvalidValue(
            "parts",
            f"it falls into {int((sizes > _CRUMB * sizes.max()).sum())} pieces",
            "Bring the parts nearer to the middle, or draw them further into the rest",
        )
    kept = which[mesh.faces[:, 0]] == sizes.argmax()
    return only(mesh, kept)


def _behind(parts: list[Floats], cover: Floats) -> Floats:
    """What is left of a subject, its outline going on behind its parts."""
    if not parts:
        return cover
    whole = np.max(parts, axis=0)
    left = _without_slivers(np.clip(cover - whole, 0, 1), whole)
    if not (left >= 0.5).any():
        raise InvalidValue("parts", "nothing but parts is left", "Leave some of the subject out")
    # What fits a large disc that touches nothing of it is beside it; the rest is hidden.
    reach = round(_HIDDEN * max(cover.shape))
    room = np.pad((left < 0.5).astype(np.uint8), reach + 1, constant_values=1)
    away = cv2.distanceTransform(room, cv2.DIST_L2, cv2.DIST_MASK_PRECISE)
    beside = cv2.distanceTransform((away < reach).astype(np.uint8), cv2.DIST_L2, 5)
    own = beside[reach + 1 : -reach - 1, reach + 1 : -reach - 1]
    hidden = np.clip(own - reach + 0.5, 0, 1).astype(np.float32)
    return np.minimum(np.maximum(left, hidden), cover)


def _without_slivers(left: Floats, parts: Floats) -> Floats:
    """Without what is thin beside parts: between two strokes, or beside one."""
    thin = round(_SLIVER * max(left.shape))
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * thin + 1, 2 * thin + 1))
    kept = cv2.morphologyEx((left >= 0.5).astype(np.uint8), cv2.MORPH_OPEN, disc)
    near = cv2.dilate((parts >= 0.5).astype(np.uint8), disc)
    # The edge of what stays is as soft as it was.
    around = cv2.dilate(kept, np.ones((3, 3), np.uint8))
    found: Floats = np.where((near > 0) & (around == 0), 0, left).astype(np.float32)
    return found


def _joining(part: Floats, body: Floats, cover: Floats) -> Floats:
    """A part that reaches into the body a little, without what is thin of it there."""
    over = float(np.minimum(part, body).sum()) / max(1.0, float(part.sum()))
    mask = part if over > _LAID else _overlapping(part, cover)
    thick = cv2.distanceTransform((mask >= 0.5).astype(np.uint8), cv2.DIST_L2, 5).max()
    round_ = max(1, round(_THIN * float(thick)))
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * round_ + 1, 2 * round_ + 1))
    kept = cv2.morphologyEx((mask >= 0.5).astype(np.uint8), cv2.MORPH_OPEN, disc)
    inside = cv2.erode((body >= 0.5).astype(np.uint8), np.ones((3, 3), np.uint8))
    left = np.where((inside > 0) & (kept == 0), 0, mask).astype(np.float32)
    calm = cv2.GaussianBlur(left, (0, 0), _JOINT_PX)
    found: Floats = np.where(inside > 0, calm, left).astype(np.float32)
    return found


def _overlapping(mask: Floats, cover: Floats) -> Floats:
    """The same, further out by a share of the whole where the subject goes on."""
    reach = _OVERLAP * max(cover.shape)
    away = cv2.distanceTransform((mask < 0.5).astype(np.uint8), cv2.DIST_L2, 5)
    grown: Floats = np.maximum(mask, np.clip(reach + 0.5 - away, 0, 1).astype(np.float32))
    return np.minimum(grown, cover)


def _of_depth(given: _Sampled, swollen: Swollen, back: float) -> Bulge:
    """The front as a depth picture has it, as thick as it would be round; the back mirrored."""
    assert given.depth is not None
    within = distances(given.cover)
    near = given.depth.astype(np.float64)
    # Along the rim it is mixed with what is behind: what is further in goes on there.
    sure = within > min(_SURE_PX, float(within.max()) / 2)
    near = continued(near, sure)
    least, most = np.percentile(near[sure], (0.5, 99.5))
    share = np.clip((near - least) / max(1e-6, most - least), 0, 1)
    thick = max(_LEAST_PX, swollen.half_px * (2 if back == 0 else 1))
    high = _LEAST_PX + share * thick
    front = Swollen(high**2, high)
    return Bulge(front, 1.0, back, within=within)


def _with_detail(bulge: Bulge, given: _Sampled, wanted: Wanted, longer: float) -> Bulge:
    """Its front with the detail of its picture; its back too, where that has a picture."""

    def lift(power: NDArray[np.float64], times: float, seen: _Sampled) -> NDArray[np.float64]:
        high = np.sqrt(np.maximum(power, 0)) * times
        found = _detail(seen, high, wanted) * given.px_per_mm / longer
        # Nowhere deeper than half of what is there.
        return np.maximum(found, -high / 2)

    found = replace(bulge, lift=lift(bulge.swollen.power, bulge.front, given))
    if given.back is None or bulge.back == 0:
        return found
    # What is left alone was drawn in the other picture.
    seen = replace(given, pixels=given.back, calm=None)
    behind = (bulge.behind or bulge.swollen).power
    return replace(found, back_lift=lift(behind, bulge.back, seen))


def _detail(given: _Sampled, high: NDArray[np.float64], wanted: Wanted) -> NDArray[np.float64]:
    """(rows, cols) mm by which fine light and dark stands out."""
    down, right = (np.clip(slope, -_STEEP, _STEEP) for slope in np.gradient(high))
    normals = np.dstack([-right, down, np.ones_like(high)])
    normals /= np.linalg.norm(normals, axis=2, keepdims=True)
    found = fine_heights(given.pixels, given.cover, normals) * wanted.detail_mm
    if given.calm is not None:
        found = found * (1 - given.calm)
    lift: NDArray[np.float64] = -found if wanted.dark_stands else found
    return lift


def _turned(given: _Sampled, wanted: Wanted) -> tuple[Mesh, NDArray[np.uint8], tuple[float, float]]:
    from nebrel.core.mesh.combine import body_of

    cols = given.cover.shape[1]
    if wanted.axis is None:
        axis = find_axis(given.cover)
    else:
        axis = Axis((cols - 1) * (0.5 + wanted.axis[0]), wanted.axis[1])
    cover, pixels = upright(given.cover, axis), upright(given.pixels, axis)
    radius = radii(cover)
    if not radius.any():
        raise InvalidValue(
            "axis", "it lies beside the subject", "Move it, or let it be found by itself"
        )
    lift = None
    if wanted.detail_mm > 0:
        off = np.arange(cover.shape[1]) - (cover.shape[1] - 1) / 2
        high = np.sqrt(np.maximum(radius[:, None] ** 2 - off**2, 0))
        calm = None if given.calm is None else upright(given.calm, axis)
        stands = replace(given, cover=cover, pixels=pixels, calm=calm)
        lift = _detail(stands, high, wanted) * given.px_per_mm
    times = 1.0
    if wanted.thick_mm is not None:
        times = wanted.thick_mm * given.px_per_mm / (2 * float(radius.max()))
    found = turned(radius, lift, wanted.wall_mm * given.px_per_mm)
    if wanted.half_round:
        cut = body_of(found).trim_by_plane((0.0, -1.0, 0.0), 0.0)
        found, _ = closed(cut, found.name, "Leave it round", (found,))
    # Its lowest ring is at 0, and stands where its row is in the picture.
    on = np.flatnonzero(radius > 0)
    half = (cover.shape[1] - 1) / 2
    moved = found.vertices + np.array([half, 0, len(cover) - 1 - on[-1]], np.float32)
    colours = coloured(replace(found, vertices=moved), _Sampled(cover, pixels, given.px_per_mm))
    at = axis.at / (cols - 1) - 0.5
    # As the picture has it, where it is upright there.
    below = len(given.cover) - 1 - (on[-1] - (len(cover) - len(given.cover)) / 2)
    places = found.vertices * np.array([1, times, 1]) + np.array([axis.at, 0, below])
    own = replace(found, vertices=places.astype(np.float32))
    return own, colours, (round(at, 5), round(axis.tilt, 3))


def _swollen(cover: Floats, roundness: float) -> Swollen:
    """As `swell`, from balls whose middles lie on a grid that is finer by `_FINER`."""
    rows, cols = cover.shape
    size = (rows - 1) * _FINER + 1, (cols - 1) * _FINER + 1
    fine = np.clip(resample(cover, *size), 0, 1)
    away = distances(fine)
    found = evened(swell(away, roundness, outline_of(fine)), away, _EVEN_PX * _FINER)
    some = slice(None, None, _FINER)
    return Swollen(found.power[some, some] / _FINER**2, found.radius[some, some] / _FINER)


def coloured(mesh: Mesh, given: _Sampled) -> NDArray[np.uint8]:
    """(V, 4) the colours of a picture seen from the front, and through to the back.

    Parameters
    ----------
    mesh : px: x to the right, y to the back, z up from the lowest row
    """
    from scipy.ndimage import map_coordinates

    rows = len(given.cover)
    at = np.stack([rows - 1 - mesh.vertices[:, 2], mesh.vertices[:, 0]])

    def seen(pixels: Floats) -> NDArray[np.float64]:
        each = [map_coordinates(pixels[..., k], at, order=1, mode="nearest") for k in range(3)]
        return np.clip(np.stack(each, axis=1), 0, 1)

    found = np.full((len(mesh.vertices), 4), 255, np.uint8)
    front = seen(with_own_colours(given.pixels, given.cover))
    if given.back is not None:
        behind = mesh.vertices[:, 1:2] > _BEHIND_MM
        front = np.where(behind, seen(given.back), front)
    found[:, :3] = np.round(255 * front)
    return found
