"""What a recipe came to, and its figures."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Any, Literal

from nebrel.core.data import HeightField, Mesh
from nebrel.core.errors import NebrelError, NotFound
from nebrel.core.formats.glb import encode_glb
from nebrel.core.forms.places import flat_shares, split_seam
from nebrel.core.heights.islands import Island
from nebrel.core.heights.relief import Relief
from nebrel.core.links.lay_map import lay_map
from nebrel.core.links.shape import FigureDone, Lain
from nebrel.core.mesh.measure import MeshReport
from nebrel.core.mesh.shade import split_creases
from nebrel.core.picture.working import Working
from nebrel.core.proof.bed import beyond_bed
from nebrel.core.questions.fresh_art import Suits, what_suits
from nebrel.core.recipe.models import Recipe, ReliefBegin

QualityName = Literal["draft", "screen", "full"]


@dataclass(frozen=True)
class Failure:
    """A correction that could not be applied; the others were."""

    index: int
    error: NebrelError


@dataclass(frozen=True)
class Remark:
    """What is wrong with a step; one that is refused contributes nothing."""

    entry_id: str  # empty: with the whole
    refused: bool
    error: NebrelError


@dataclass(frozen=True)
class Corrected:
    """A picture after its corrections.

    Attributes
    ----------
    key : changes with the picture, the corrections, the size and the quality
    work : the picture, with its pitch in mm
    failures : corrections that could not be applied, by their place in the list
    rows, cols : at full quality
    size_mm : width and height at full quality
    """

    key: str
    work: Working
    failures: tuple[Failure, ...]
    rows: int
    cols: int
    size_mm: tuple[float, float]
    bit_depth: int
    notes: tuple[str, ...]


@dataclass(frozen=True)
class Finished:
    """How fine a mesh is.

    Attributes
    ----------
    within_mm : the largest distance at any pixel
    wanted_mm : what the recipe asks for, which a limit may have made coarser
    pitch_mm : how far apart heights are kept, where it is made as fine as can be; else None
    """

    within_mm: float
    wanted_mm: float
    pitch_mm: float | None


@dataclass(frozen=True)
class StepDone:
    """What a finish step came to.

    Attributes
    ----------
    before, after : figures of the mesh
    low_mm : the corner of its box before
    said : what it did, in words, where it has some
    error : why it was refused; the mesh is as before then
    """

    step_id: str
    before: MeshReport
    after: MeshReport
    low_mm: tuple[float, float, float]
    said: tuple[str, ...] = ()
    error: NebrelError | None = None


@dataclass(frozen=True)
class DecorationDone:
    """What a decoration came to.

    Attributes
    ----------
    laid : how it lies
    doubt : what is said of an entry of its art, which was left out or hardly prints
    error : why it was refused; the body is as before then
    """

    decoration_id: str
    laid: Lain
    error: NebrelError | None = None
    doubt: NebrelError | None = None


@dataclass(frozen=True)
class Raised:
    """What is known of a piece that began as heights on a form.

    Attributes
    ----------
    picture : after its corrections; None where the piece was begun without one
    range_mm : lowest and highest height
    begins : what it was made from
    remarks, fitting_remarks : of the build-up and the whole; of the fittings
    """

    picture: Corrected | None
    relief: Relief
    range_mm: tuple[float, float]
    begins: ReliefBegin
    remarks: tuple[Remark, ...]
    fitting_remarks: tuple[Remark, ...]
    islands: tuple[Island, ...]
    lift_mm: float
    finish: Finished


@dataclass(frozen=True)
class Evaluation:
    """What a recipe came to.

    Attributes
    ----------
    density_g_cm3 : of the material
    bed_mm : what the printer has room for, across, deep and high
    raised : of what began as heights; None of a body
    steps : the finish steps that are switched on
    decorations : of a body, those that are switched on
    figure : of what began as one
    """

    key: str
    quality: QualityName
    density_g_cm3: float
    bed_mm: tuple[float, float, float]
    mesh: Mesh
    report: MeshReport
    raised: Raised | None
    steps: tuple[StepDone, ...] = ()
    decorations: tuple[DecorationDone, ...] = ()
    figure: FigureDone | None = None

    @property
    def _suits(self) -> Suits:
        return what_suits(self.mesh)

    @property
    def _raised(self) -> Raised:
        if self.raised is None:
            raise NotFound("heights", "the piece has none", "Take one with heights")
        return self.raised

    @property
    def picture(self) -> Corrected | None:
        """Its picture after its corrections, where it has one."""
        return None if self.raised is None else self.raised.picture

    @property
    def relief(self) -> Relief:
        """Its heights. Raises NotFound of a body; so do the next four."""
        return self._raised.relief

    @property
    def range_mm(self) -> tuple[float, float]:
        """Lowest and highest height."""
        return self._raised.range_mm

    @property
    def heights(self) -> HeightField:
        """Of the picture, as they will be made."""
        return self.relief.field

    @property
    def lift_mm(self) -> float:
        """By which it was raised to stand on the table."""
        return self._raised.lift_mm

    @property
    def finish(self) -> Finished:
        """How fine its mesh is before the finish steps."""
        return self._raised.finish

    @property
    def remarks(self) -> tuple[Remark, ...]:
        """Of the build-up and the whole."""
        return () if self.raised is None else self.raised.remarks

    @property
    def fitting_remarks(self) -> tuple[Remark, ...]:
        """Of the fittings."""
        return () if self.raised is None else self.raised.fitting_remarks

    @property
    def islands(self) -> tuple[Island, ...]:
        """Parts of the heights that are connected to nothing."""
        return () if self.raised is None else self.raised.islands

    @property
    def failures(self) -> tuple[Failure, ...]:
        """Corrections that could not be applied."""
        return () if self.picture is None else self.picture.failures

    def moved(self, recipe: Recipe) -> bool:
        """Whether a finish step moved it from where its form laid it."""
        done = {step.step_id for step in self.steps if step.error is None}
        return any(step.moves for step in recipe.finish if step.id in done)

    @property
    def _beyond_bed(self) -> list[float] | None:
        """By how much it is larger than the bed; several bodies are printed one by one."""
        over = beyond_bed(self.report.size_mm, self.bed_mm)
        return None if over is None or self.report.bodies > 1 else list(over)

    def figures(self) -> dict[str, Any]:
        """The numbers that the trail shows."""
        weight = self.report.volume_mm3 / 1000 * self.density_g_cm3
        raised = dict.fromkeys(("picture", "heights", "form", "finish"))
        return {
            "quality": self.quality,
            "key": self.key,
            **(raised if self.raised is None else _figures(self.raised)),
            "mesh": {
                **self.report.as_dict(),
                "weight_g": round(weight, 3),
                "low_mm": list(low_corner(self.mesh)),
                "coloured": self.mesh.colours is not None,
            },
            "beyond_bed_mm": self._beyond_bed,
            "suits": None if self.raised or self.figure else asdict(self._suits),
            "figure": None if self.figure is None else asdict(self.figure),
            "steps": [_step(step) for step in self.steps],
            "decorations": [
                {
                    "decoration_id": one.decoration_id,
                    "stretch": list(one.laid.stretch),
                    "round_mm": one.laid.round_mm,
                    "grips": [list(place) for place in one.laid.grips],
                    "error": None if one.error is None else one.error.as_dict(),
                    "doubt": None if one.doubt is None else one.doubt.as_dict(),
                }
                for one in self.decorations
            ],
        }


def low_corner(mesh: Mesh) -> tuple[float, float, float]:
    """The corner of a mesh's box where x, y and z are least, mm."""
    x, y, z = (round(float(side), 5) for side in mesh.vertices.min(axis=0))
    return x, y, z


def _step(step: StepDone) -> dict[str, Any]:
    return {
        "step_id": step.step_id,
        "before": step.before.as_dict(),
        "after": step.after.as_dict(),
        "low_mm": list(step.low_mm),
        "said": list(step.said),
        "error": None if step.error is None else step.error.as_dict(),
    }


def _figures(raised: Raised) -> dict[str, Any]:
    """Those of what began as heights."""
    picture, begins = raised.picture, raised.begins
    failures = () if picture is None else picture.failures
    form, wide_mm = begins.form, raised.relief.field.wide_mm
    radius = form.bare_radius_mm(wide_mm)
    straight = begins.art.edge.kind == "rectangle"
    across, up = raised.relief.room_mm

    def beside(box_mm: tuple[float, float, float, float]) -> tuple[float, ...]:
        """A box from the lower left corner of the picture."""
        left, low, right, high = box_mm
        return left - across, low - up, right - across, high - up

    return {
        "picture": {
            "cols": 0 if picture is None else picture.cols,
            "rows": 0 if picture is None else picture.rows,
            "bit_depth": 8 if picture is None else picture.bit_depth,
            "transparent": picture is not None and picture.work.alpha is not None,
            "notes": [] if picture is None else list(picture.notes),
            "failed": len(failures),
            "failures": [
                {"index": failure.index, "error": failure.error.as_dict()} for failure in failures
            ],
        },
        "heights": {
            "lowest_mm": round(raised.range_mm[0], 4),
            "highest_mm": round(raised.range_mm[1], 4),
            "remarks": [_plain(remark) for remark in raised.remarks],
            "islands": [
                {"area_mm2": round(island.area_mm2, 3), "box_mm": beside(island.box_mm)}
                for island in raised.islands
            ],
        },
        "form": {
            "kind": begins.form_kind,
            "standing": form.standing,
            "around": form.around,
            "round": form.around or begins.round,
            "slides": form.slides and straight,
            "flat": form.flat and straight,
            "wide_mm": wide_mm,
            "tall_mm": raised.relief.field.tall_mm,
            "bare_radius_mm": None if radius is None else round(radius, 3),
            "lift_mm": round(raised.lift_mm, 5),
            "remarks": [_plain(remark) for remark in raised.fitting_remarks],
        },
        "finish": asdict(raised.finish),
    }


def _plain(remark: Remark) -> dict[str, Any]:
    return {
        "entry_id": remark.entry_id,
        "refused": remark.refused,
        "error": remark.error.as_dict(),
        "places_mm": [tuple(round(one, 3) for one in place) for place in remark.error.places],
    }


def complaints(recipe: Recipe, result: Evaluation) -> list[str]:
    """What was not done as the recipe says, or will hardly print: a sentence each."""
    begins = recipe.begins
    if not isinstance(begins, ReliefBegin):
        return _unfinished(recipe, result)
    steps = [] if begins.art.picture is None else begins.art.picture.corrections
    found = [
        f"correction {failure.index + 1} ({steps[failure.index].kind.replace('_', ' ')}) was "
        f"not applied: {failure.error}"
        for failure in result.failures
    ]
    named: dict[str, Any] = {entry.id: entry for entry in begins.art.build_up}
    named |= {fitting.id: fitting for fitting in begins.fittings}
    for remark in (*result.remarks, *result.fitting_remarks):
        step = named.get(remark.entry_id)
        whose = "" if step is None else f"{step.name or step.kind} "
        did = "was not made: " if remark.refused else "may not print: "
        found.append(f"{whose}{did if whose else ''}{remark.error}")
    return found + _unfinished(recipe, result)


def _unfinished(recipe: Recipe, result: Evaluation) -> list[str]:
    kinds = {step.id: step.name or step.kind for step in recipe.finish}
    named = {} if recipe.body is None else {d.id: d.name or d.id for d in recipe.body.decorations}
    return [
        f"{named[one.decoration_id]} was not laid on it: {one.error}"
        for one in result.decorations
        if one.error is not None
    ] + [
        f"finish step {kinds[step.step_id]} was not done: {step.error}"
        for step in result.steps
        if step.error is not None
    ]


def shown_glb(recipe: Recipe, result: Evaluation, figures: dict[str, Any] | None = None) -> bytes:
    """The mesh as a browser shows it: normals, places on the picture, and the figures.

    Parameters
    ----------
    figures : of the finished mesh, when a lighter one is shown
    """
    shown, normals = split_creases(result.mesh)
    shares = None
    # A place on the picture is known of what lies where it was laid.
    if result.raised is not None and not result.moved(recipe):
        bent = lay_map(recipe.relief.form, result.relief)
        mirrored = recipe.relief.art.mirror
        shares = flat_shares(
            shown.vertices, bent, result.lift_mm, result.heights, mirrored, result.relief.room_mm
        )
        if bent is not None and bent.around:
            shown, normals, shares = split_seam(shown, normals, shares)
    return encode_glb(shown, normals, figures or result.figures(), shares)
