"""Links of the finish steps: each makes another mesh of the one before it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue, NotSolid
from nebrel.core.formats.fewer_bytes import to_bytes
from nebrel.core.forms.on_picture import OnPicture
from nebrel.core.links.link import RUN, TELL, Link, later
from nebrel.core.links.pictured import moved
from nebrel.core.links.shape import Shape
from nebrel.core.mesh.bodies import in_a_row
from nebrel.core.mesh.brought import join_parts
from nebrel.core.mesh.colour import (
    by_height,
    by_part,
    by_picture,
    in_one,
    matched,
    merged,
    reduced,
    rgba,
)
from nebrel.core.mesh.combine import join, trim
from nebrel.core.mesh.even import even
from nebrel.core.mesh.measure import MeshReport, measure
from nebrel.core.mesh.place import (
    laid_on,
    middle_below,
    middle_of,
    placed,
    scaled,
    set_down,
    turned,
)
from nebrel.core.mesh.push import pushed
from nebrel.core.mesh.repair import mend, repair
from nebrel.core.mesh.simplify import simplify, within
from nebrel.core.mesh.smooth import Stroke, smooth, smooth_under
from nebrel.core.mesh.split import Pins, split
from nebrel.core.mesh.thicken import thicken
from nebrel.core.mesh.uncapped import cut_open
from nebrel.core.mesh.voxels import hollow, rebuild, soften
from nebrel.core.recipe.body import LinkedPiece
from nebrel.core.recipe.finish import (
    ColourStep,
    EvenStep,
    FinishStep,
    HollowStep,
    JoinStep,
    LayStep,
    PushStep,
    RebuildStep,
    RepairStep,
    ScaleStep,
    SimplifyStep,
    SmoothStep,
    SoftenStep,
    SplitStep,
    ThickenStep,
    TrimStep,
    TurnStep,
)

Still = Callable[[], None]
Done = tuple[Mesh, MeshReport | None, tuple[str, ...]]
_NOBODY = LinkedPiece(piece_id="")
_FINEST = 80  # parts of its size that a draft is made of
MOST_COLOURED = 2_000_000  # triangles that the colours of a picture may need
_DRAWN_COLOURED = 30_000  # triangles of a draft in the colours of its picture


def finished(
    begun: Link[Shape],
    steps: Sequence[FinishStep],
    draft: bool,
    other: Callable[[JoinStep], Link[Shape]],
    picture: Callable[[], Link[OnPicture]],
) -> list[Link[Shape]]:
    """The shape after each step that is switched on; one that is refused leaves what was before.

    Parameters
    ----------
    draft : coarser where that is quicker, and open where it cannot be closed
    other : what a step joins with
    picture : where the mesh lies on its picture
    """
    found: list[Link[Shape]] = []
    elsewhere = False
    for step in steps:
        if not step.enabled:
            continue
        before = found[-1] if found else begun
        given: tuple[Any, ...] = before, step, draft, TELL
        make: Callable[..., Shape] = _done
        if isinstance(step, JoinStep):
            # Of the step itself only how they are joined counts; what with is the link's.
            placing = step.model_copy(update={"other": _NOBODY})
            given, make = (before, placing, draft, later(other(step)), RUN), _joined
        elif _needs_picture(step):
            own = moved() if elsewhere else picture()
            given, make = (before, step, draft, later(own), RUN), _pictured
        elsewhere = elsewhere or step.moves
        found.append(Link(make, given, WORDS[type(step)], 3, refused="as before"))
    return found


def _needs_picture(step: FinishStep) -> bool:
    if isinstance(step, ColourStep):
        return step.by == "picture"
    return isinstance(step, SmoothStep) and step.where == "mask"


def _pictured(
    before: Shape,
    step: ColourStep | SmoothStep,
    draft: bool,
    of: Callable[[float], Link[OnPicture]],
    run: Callable[[Link[OnPicture]], OnPicture],
) -> Shape:
    on = run(of(0.0))
    mesh = before.mesh
    if isinstance(step, SmoothStep):
        weight = on.tones_at(mesh.vertices).astype(np.float64)
        return before.become(smooth(mesh, step.rounds, 1 - weight if step.inverted else weight))
    most = max(_DRAWN_COLOURED, len(mesh.faces)) if draft else MOST_COLOURED
    fine = _coarse(mesh, step.fine.mm, draft)
    found, done = by_picture(mesh, on.pixels, on.shares, on.around, fine, most)
    said = () if done or draft else (f"as fine as {MOST_COLOURED:,} triangles allow",)
    return before.become(found, None, said)


def _joined(
    before: Shape,
    step: JoinStep,
    draft: bool,
    of: Callable[[float], Link[Shape]],
    run: Callable[[Link[Shape]], Shape],
) -> Shape:
    other = run(of(0.0)).mesh
    pivot = {"origin": (0.0, 0.0, 0.0), "middle": middle_of(other), "below": middle_below(other)}
    at = step.x.mm, step.y.mm, step.z.mm
    degrees = step.turn_x, step.turn_y, step.turn_z
    mate = placed(other, pivot[step.pivot], at, degrees, step.times)
    if step.by == "beside":
        return before.become(join_parts((before.mesh, mate)))
    try:
        mesh, report = join(before.mesh, mate, step.by)
    except NotSolid:
        if draft and step.by == "add":  # made lighter it may have come open
            return before.become(join_parts((before.mesh, mate)))
        if draft:
            return before
        raise
    return before.become(mesh, report)


def _done(before: Shape, step: FinishStep, draft: bool, still: Still) -> Shape:
    mesh, report, said = DO[type(step)](before.mesh, step, draft, still)
    if mesh is before.mesh and not said:
        return Shape(before.built, before.report)
    return before.become(mesh, report, said)


def _repair(mesh: Mesh, step: RepairStep, draft: bool, _: Still) -> Done:
    try:
        found = mend(mesh, step.only) if step.only else repair(mesh)
    except NotSolid:
        if draft:  # made lighter it may have become what cannot be mended
            return mesh, None, ()
        raise
    nothing = "nothing of that was found" if step.only else "nothing was broken"
    return found.mesh, found.report, found.done or (nothing,)


def _simplify(mesh: Mesh, step: SimplifyStep, draft: bool, still: Still) -> Done:
    if draft:
        return mesh, None, ()
    if step.to == "triangles":
        found = simplify(mesh, step.triangles)
    elif step.to == "share":
        found = simplify(mesh, max(4, int(len(mesh.faces) * step.share)))
    elif step.to == "deviation":
        found, _ = within(mesh, step.deviation.mm, lambda _: still())
    else:
        found = to_bytes(mesh, int(step.mb * 1e6), f".{step.format}")
    return found, None, ()


def _even(mesh: Mesh, step: EvenStep, draft: bool, _: Still) -> Done:
    return even(mesh, _coarse(mesh, step.edge.mm, draft)), None, ()


def _rebuild(mesh: Mesh, step: RebuildStep, draft: bool, _: Still) -> Done:
    return *rebuild(mesh, _coarse(mesh, step.voxel.mm, draft), step.offset.mm), ()


def _smooth(mesh: Mesh, step: SmoothStep, _: bool, __: Still) -> Done:
    if step.where == "everywhere":
        return smooth(mesh, step.rounds), None, ()
    return smooth_under(mesh, step.rounds, _strokes(step)), None, ()


def _push(mesh: Mesh, step: PushStep, _: bool, __: Still) -> Done:
    return pushed(mesh, _strokes(step), step.way == "out"), None, ()


def _strokes(step: SmoothStep | PushStep) -> list[Stroke]:
    return [Stroke(np.array(one.places), one.size.mm, one.strength.mm) for one in step.strokes]


def _trim(mesh: Mesh, step: TrimStep, draft: bool, _: Still) -> Done:
    try:
        return *trim(mesh, step.axis, step.at.mm, step.keep), ()
    except NotSolid:
        if draft:
            return cut_open(mesh, step.axis, step.at.mm, step.keep), None, ()
        raise


def _scale(mesh: Mesh, step: ScaleStep, _: bool, __: Still) -> Done:
    times = step.x, step.y, step.z
    if step.by == "size":
        long = float(np.ptp(mesh.vertices[:, "xyz".index(step.axis)]))
        if not long > 0:
            raise InvalidValue("size", f"it has none along {step.axis}", "Choose another axis")
        times = (step.size.mm / long,) * 3
    elif step.by == "volume":
        now = measure(mesh).volume_mm3
        if not now > 0:
            raise InvalidValue("volume", "it encloses nothing", "Repair it first")
        times = ((step.volume_cm3 * 1000 / now) ** (1 / 3),) * 3
    return scaled(mesh, times, middle_below(mesh)), None, ()


def _turn(mesh: Mesh, step: TurnStep, _: bool, __: Still) -> Done:
    found = mesh
    if step.mirror != "none" or (step.x, step.y, step.z) != (0, 0, 0):
        found = turned(mesh, (step.x, step.y, step.z), step.mirror)
    return set_down(found, step.centre, step.drop), None, ()


def _lay(mesh: Mesh, step: LayStep, _: bool, __: Still) -> Done:
    return set_down(laid_on(mesh, step.towards), centre=False, drop=True), None, ()


def _hollow(mesh: Mesh, step: HollowStep, draft: bool, _: Still) -> Done:
    try:
        return *hollow(mesh, step.wall.mm, step.drains, step.drain.mm), ()
    except NotSolid:
        if draft:
            return mesh, None, ()
        raise


def _soften(mesh: Mesh, step: SoftenStep, draft: bool, _: Still) -> Done:
    if draft:
        return *soften(mesh, _coarse(mesh, step.radius.mm, True), cells=2), ()
    return *soften(mesh, step.radius.mm), ()


def _thicken(mesh: Mesh, step: ThickenStep, draft: bool, _: Still) -> Done:
    try:
        return *thicken(mesh, step.thick.mm), ()
    except NotSolid:
        if draft:
            return mesh, None, ()
        raise


def _split(mesh: Mesh, step: SplitStep, draft: bool, _: Still) -> Done:
    if step.into == "bodies":
        return in_a_row(mesh, step.gap.mm), None, ()
    pins = Pins(step.pins, step.wide.mm, step.long.mm, step.clearance.mm)
    try:
        return *split(mesh, step.axis, step.at.mm, pins, step.gap.mm), ()
    except NotSolid:
        if draft:
            return mesh, None, ()
        raise


def _colour(mesh: Mesh, step: ColourStep, _: bool, __: Still) -> Done:
    colours = [rgba(colour) for colour in step.colours]
    if step.by == "none":
        return replace(mesh, colours=None), None, ()
    if step.by == "one":
        return in_one(mesh, colours[0]), None, ()
    if step.by == "part":
        return by_part(mesh, colours), None, ()
    if step.by == "height":
        return by_height(mesh, [change.mm for change in step.changes], colours), None, ()
    if step.by == "merge":
        pairs = [
            (rgba(one.colour), None if one.into is None else rgba(one.into)) for one in step.merges
        ]
        found, hit = merged(mesh, pairs, step.like)
        missed = len(pairs) - hit
        said = (f"{missed} of {len(pairs)} found nothing of their colour",) if missed else ()
        return found, None, said
    found = reduced(mesh, step.count) if step.by == "fewer" else matched(mesh, colours)
    assert found.colours is not None
    left = len(np.unique(found.colours, axis=0))
    return found, None, (f"{left} colour{'' if left == 1 else 's'} left",)


def _coarse(mesh: Mesh, mm: float, draft: bool) -> float:
    extent = float(np.ptp(mesh.vertices, axis=0).max())
    return max(mm, extent / _FINEST) if draft else mm


# A new kind of finish step is a model, a function and a line here.
DO: dict[type, Callable[[Mesh, Any, bool, Still], Done]] = {
    RepairStep: _repair,
    SimplifyStep: _simplify,
    EvenStep: _even,
    RebuildStep: _rebuild,
    SmoothStep: _smooth,
    PushStep: _push,
    TrimStep: _trim,
    ScaleStep: _scale,
    TurnStep: _turn,
    LayStep: _lay,
    HollowStep: _hollow,
    SoftenStep: _soften,
    ThickenStep: _thicken,
    SplitStep: _split,
    ColourStep: _colour,
}
WORDS: dict[type, str] = {
    RepairStep: "repairing it",
    SimplifyStep: "simplifying it",
    EvenStep: "evening its triangles",
    RebuildStep: "rebuilding it",
    SmoothStep: "smoothing it",
    PushStep: "moving its surface",
    TrimStep: "trimming it",
    ScaleStep: "scaling it",
    TurnStep: "turning it",
    LayStep: "laying it down",
    HollowStep: "hollowing it",
    SoftenStep: "softening its edges",
    ThickenStep: "thickening it",
    SplitStep: "splitting it",
    ColourStep: "colouring it",
    JoinStep: "joining it",
}
