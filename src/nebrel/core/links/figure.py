"""Links of a figure: its subject, and that in the round."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

import cv2
import numpy as np

from nebrel.core.data import Floats, Picture
from nebrel.core.errors import InvalidValue, NebrelError, NotSolid
from nebrel.core.figure.cost import check_memory, cost_of
from nebrel.core.figure.figure import Beside, Wanted, make_figure
from nebrel.core.figure.network import Network, depth_by
from nebrel.core.figure.pose import Part
from nebrel.core.figure.regions import region_at
from nebrel.core.figure.seen import front_view, plate_row
from nebrel.core.figure.stand import hidden_mm
from nebrel.core.figure.subject import Subject, find_subject, of_size, on_its_picture
from nebrel.core.kernel import solid_of
from nebrel.core.links import picture as pictures
from nebrel.core.links.correct import drawn_on
from nebrel.core.links.link import TELL, Link, at_hand, file
from nebrel.core.links.picture import Corrected, Facts
from nebrel.core.links.relief import Quality
from nebrel.core.links.runner import Progress
from nebrel.core.links.shape import FigureDone, Shape
from nebrel.core.mesh.closed import closed
from nebrel.core.mesh.colour import reduced
from nebrel.core.mesh.measure import measure
from nebrel.core.mesh.tint import finely_coloured, with_colours_of
from nebrel.core.recipe.figure import CalmRegion, FigureBegin, FigurePart
from nebrel.core.recipe.step import PictureFile
from nebrel.core.solid.build import Built

_DRAFT_CELLS = 128
# Within which a surface is the same to any printer, as that of a relief is.
_UNSEEN_MM, _OF_ITS_SIZE = 0.01, 1 / 8000
_ONE_COLOUR = 3  # steps of 255 that one colour may differ by
_SMALL_PX = 512  # along the longer side of the picture, as a draft


def subject(begins: FigureBegin, quality: Quality) -> Link[Subject]:
    """What of its picture is made into a figure."""
    longest = _SMALL_PX if quality.draft else None
    shown = pictures.corrected(begins.picture, longest)
    given = shown, pictures.facts(begins.picture), _brought(begins.mask)
    return Link(_subject, given, "finding the subject", 0.5)


def mask_of(begins: FigureBegin) -> Link[Floats] | None:
    """The mask that was brought beside its picture, as that lies now; None where there is none."""
    if begins.mask is None:
        return None
    shown = pictures.corrected(begins.picture, None)
    given = shown, pictures.facts(begins.picture), *_brought(begins.mask), "mask"
    return Link(_on, given, "reading the mask", 0.1)


def begun(begins: FigureBegin, quality: Quality) -> Link[Shape]:
    """The figure with its figures; coarser, where it is looked at while something moves."""
    longest = _SMALL_PX if quality.draft else None
    shown = pictures.corrected(begins.picture, longest)
    parts = tuple(
        one.model_copy(update={"id": "", "name": ""})
        for one in begins.parts
        if one.enabled and (one.strokes or one.spots)
    )
    given = (
        subject(begins, quality),
        shown,
        pictures.facts(begins.picture),
        _wanted(begins, quality),
        begins.resolution,
        _depth(begins, quality),
        _brought(begins.back_picture),
        parts,
        TELL,
    )
    made: Link[Shape] = Link(_figure, given, "making it round", 6)
    if not begins.coloured:
        made = Link(_plain, (made,), "measuring it", 0.1)
    elif begins.colours is not None:
        made = Link(_reduced, (made, begins.colours), "choosing its colours", 1)
    return made if quality.draft else Link(_lean, (made,), "leaving out what no line shows", 1)


def _depth(begins: FigureBegin, quality: Quality) -> tuple[Link[Any], ...]:
    """How near each place is: a picture, or what a network says."""
    if begins.way == "turn":
        return ()
    if begins.depth_picture is not None or begins.network is None:
        return _brought(begins.depth_picture)
    own = begins.network
    kept = file("network", own.file.sha256, told=True)
    described = Network(own.gives, own.near, own.values, own.order, own.size)
    # A draft has the depth that is found once: a network takes longer than all else of it.
    given = subject(begins, quality), kept, own.file.filename, described
    return (Link(_by_network, given, "asking the network", 5),)


def _by_network(
    found: Subject, kept: Path | bytes | NebrelError, called: str, network: Network
) -> Floats:
    with TemporaryDirectory() as folder:
        path = Path(folder) / (Path(called).name or "network.onnx")
        if isinstance(kept, NebrelError):
            raise kept
        if isinstance(kept, bytes):
            path.write_bytes(kept)
        else:
            path.symlink_to(kept.resolve())
        return depth_by(path, network, found.pixels, found.cover)


def _brought(one: PictureFile | None) -> tuple[Link[Any], ...]:
    return () if one is None else (file("picture", one.sha256, told=True),)


def _wanted(begins: FigureBegin, quality: Quality) -> Wanted:
    axis = None if begins.axis is None else (begins.axis.at, begins.axis.tilt)
    cells = min(begins.resolution, _DRAFT_CELLS) if quality.draft else begins.resolution
    return Wanted(
        way=begins.way,
        tall_mm=begins.tall.mm,
        thick_mm=None if begins.thick is None else begins.thick.mm,
        back=begins.back,
        roundness=begins.roundness,
        softness_mm=begins.softness.mm,
        detail_mm=begins.detail.mm,
        dark_stands=begins.dark_stands,
        axis=axis,
        half_round=begins.half_round,
        wall_mm=begins.wall.mm,
        base_mm=begins.base.mm,
        feet_mm=begins.feet.mm,
        resolution=cells,
    )


def _on(shown: Corrected, known: Facts, brought: Picture | NebrelError, what: str) -> Floats:
    """(rows, cols) tones of a picture that is as large as the one brought in, on the corrected."""
    other = of_size((known.rows, known.cols), at_hand(brought).tone, what)
    work = shown.work
    place = work.place[:2]
    if work.zoom < 0.7:  # what is made smaller is calmed first
        other = cv2.GaussianBlur(other, (0, 0), 0.35 / work.zoom)
    found: Floats = cv2.warpAffine(
        other, place, (work.cols, work.rows), borderMode=cv2.BORDER_REPLICATE
    )
    return found


def _subject(shown: Corrected, known: Facts, mask: tuple[Picture | NebrelError, ...]) -> Subject:
    work = shown.work
    cover = _on(shown, known, mask[0], "mask") if mask else None
    return find_subject(Picture(work.pixels, work.alpha), cover)


def _figure(
    found: Subject,
    shown: Corrected,
    known: Facts,
    wanted: Wanted,
    asked: int,
    depth: tuple[Picture | Floats | NebrelError, ...],
    back: tuple[Picture | NebrelError, ...],
    parts: tuple[FigurePart | CalmRegion, ...],
    tell: Progress,
) -> Shape:
    near = None
    for told in depth:
        if isinstance(told, Picture | NebrelError):
            near = _on(shown, known, told, "depth picture")
        else:
            near = on_its_picture(found, told, (shown.work.rows, shown.work.cols))
    behind = None
    if back:
        try:
            behind = find_subject(at_hand(back[0]))
        except InvalidValue as error:
            raise InvalidValue("back picture", error.why, error.remedy) from error
    cost = cost_of(found.cover, asked)
    if wanted.resolution == asked:
        check_memory(cost, asked)
    calm = [_region(shown, found, one) for one in parts if isinstance(one, CalmRegion)]
    own = tuple(_part(shown, found, one) for one in parts if isinstance(one, FigurePart))
    beside = Beside(near, behind, own, np.max(calm, axis=0) if calm else None)
    made = make_figure(found, wanted, beside, lambda done: tell(done, "making it round"))
    mesh = replace(made.mesh, name="piece")
    report = made.report
    rows, cols = found.cover.shape
    outline = None
    leant = bool(made.axis and made.axis[1]) or made.moved
    if wanted.resolution == asked and not leant:
        seen = front_view(mesh, found.cover.shape, made.mm_per_px, made.low_mm)
        hidden = hidden_mm(wanted.tall_mm, wanted.base_mm, wanted.feet_mm)
        last = plate_row(found.cover.shape[0], made.mm_per_px, made.low_mm[1], hidden)
        cover = found.cover.copy()
        cover[last:] = 0
        outline = round(seen.above(last).overlap(cover), 5)
    done = FigureDone(
        tips_deg=round(made.tips_deg, 2),
        notes=made.notes,
        thin=made.thin,
        axis=made.axis,
        subject_px=(cols - 4, rows - 4),
        seconds=round(cost.seconds, 1),
        gb=round(cost.gb, 2),
        outline=outline,
        place=None if leant else (made.mm_per_px, *made.low_mm),
        box=_box(found, shown),
    )
    return Shape(Built(mesh, report=report), report, figure=done)


def _box(found: Subject, shown: Corrected) -> tuple[float, float, float, float]:
    """Where a subject is in its picture, in shares of that."""
    rows, cols = found.cover.shape
    left, top = found.low
    across, down = max(1, shown.work.cols - 1), max(1, shown.work.rows - 1)
    # It has two pixels of room on each side.
    shares = (left + 2) / across, (top + 2) / down, (cols - 5) / across, (rows - 5) / down
    a, b, c, d = (round(share, 6) for share in shares)
    return a, b, c, d


def _region(shown: Corrected, found: Subject, one: FigurePart | CalmRegion) -> Floats:
    """(rows, cols) what strokes and clicked places are of the picture."""
    work = shown.work
    whole = drawn_on(work, list(one.strokes)) if one.strokes else None
    if one.spots:
        size = work.rows, work.cols
        cover = on_its_picture(found, found.cover, size)
        pixels = on_its_picture(found, found.pixels, size)
        places = [(float(x), float(y)) for x, y in work.spots(np.asarray(one.spots, np.float64))]
        clicked = region_at(pixels, cover, places, one.tolerance)
        whole = clicked if whole is None else np.maximum(whole, clicked)
    assert whole is not None
    return whole


def _part(shown: Corrected, found: Subject, one: FigurePart) -> Part:
    joint = None
    if one.joint is not None:
        x, y = shown.work.spots(np.asarray([one.joint], np.float64))[0]
        joint = (float(x), float(y))
    return Part(
        region=_region(shown, found, one),
        ahead_mm=one.ahead.mm,
        times=one.times,
        both=one.both,
        joint=joint,
        turn_deg=one.turn,
        lean_deg=one.lean,
        right_mm=one.right.mm,
        up_mm=one.up.mm,
        mirrored=one.mirrored,
    )


def _lean(made: Shape) -> Shape:
    """With no more triangles than show, in its shape and in its colours."""
    mesh = made.mesh
    within = min(_UNSEEN_MM, _OF_ITS_SIZE * float(np.ptp(mesh.vertices, axis=0).max()))
    try:
        lean, report = closed(solid_of(mesh).simplify(within), mesh.name, "Leave it fine", (mesh,))
    except NotSolid:
        return made
    if mesh.colours is None or np.ptp(mesh.colours, axis=0).max() <= _ONE_COLOUR:
        return made.become(with_colours_of(lean, mesh), report)
    coloured = finely_coloured(lean, mesh, len(mesh.faces))
    return (
        made if len(coloured.faces) == len(mesh.faces) else made.become(coloured, measure(coloured))
    )


def _plain(made: Shape) -> Shape:
    return made.become(replace(made.mesh, colours=None), made.report)


def _reduced(made: Shape, count: int) -> Shape:
    return made.become(reduced(made.mesh, count), made.report)
