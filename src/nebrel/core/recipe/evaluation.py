"""What a recipe came to, and its figures."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Any, Literal

from nebrel.core.data import HeightField, Mesh
from nebrel.core.errors import NebrelError
from nebrel.core.formats.glb import encode_glb
from nebrel.core.forms.places import flat_shares, split_seam
from nebrel.core.heights.islands import Island
from nebrel.core.heights.relief import Relief
from nebrel.core.mesh.measure import MeshReport
from nebrel.core.mesh.shade import split_creases
from nebrel.core.picture.working import Working
from nebrel.core.recipe.lay_map import lay_map
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
class Evaluation:
    """What a recipe came to.

    Attributes
    ----------
    picture : after its corrections; None where the piece was begun without one
    range_mm : lowest and highest height
    begins : what it was made from
    density_g_cm3 : of the material
    remarks, fitting_remarks : of the build-up and the whole; of the fittings
    """

    key: str
    quality: QualityName
    picture: Corrected | None
    relief: Relief
    range_mm: tuple[float, float]
    begins: ReliefBegin
    density_g_cm3: float
    mesh: Mesh
    report: MeshReport
    remarks: tuple[Remark, ...]
    fitting_remarks: tuple[Remark, ...]
    islands: tuple[Island, ...]
    lift_mm: float
    finish: Finished

    @property
    def heights(self) -> HeightField:
        """Of the picture, as they will be made."""
        return self.relief.field

    @property
    def failures(self) -> tuple[Failure, ...]:
        """Corrections that could not be applied."""
        return () if self.picture is None else self.picture.failures

    def _beside(self, box_mm: tuple[float, float, float, float]) -> tuple[float, ...]:
        """A box from the lower left corner of the picture."""
        across, up = self.relief.room_mm
        left, low, right, high = box_mm
        return left - across, low - up, right - across, high - up

    def figures(self) -> dict[str, Any]:
        """The numbers that the trail shows."""
        picture = self.picture
        form, wide_mm = self.begins.form, self.heights.wide_mm
        radius = form.bare_radius_mm(wide_mm)
        straight = self.begins.art.edge.kind == "rectangle"
        weight = self.report.volume_mm3 / 1000 * self.density_g_cm3
        return {
            "quality": self.quality,
            "key": self.key,
            "picture": {
                "cols": 0 if picture is None else picture.cols,
                "rows": 0 if picture is None else picture.rows,
                "bit_depth": 8 if picture is None else picture.bit_depth,
                "transparent": picture is not None and picture.work.alpha is not None,
                "notes": [] if picture is None else list(picture.notes),
                "failed": len(self.failures),
                "failures": [
                    {"index": failure.index, "error": failure.error.as_dict()}
                    for failure in self.failures
                ],
            },
            "heights": {
                "lowest_mm": round(self.range_mm[0], 4),
                "highest_mm": round(self.range_mm[1], 4),
                "remarks": [_plain(remark) for remark in self.remarks],
                "islands": [
                    {"area_mm2": round(island.area_mm2, 3), "box_mm": self._beside(island.box_mm)}
                    for island in self.islands
                ],
            },
            "form": {
                "kind": self.begins.form_kind,
                "standing": form.standing,
                "around": form.around,
                "round": form.around or self.begins.round,
                "slides": form.slides and straight,
                "flat": form.flat and straight,
                "wide_mm": wide_mm,
                "tall_mm": self.heights.tall_mm,
                "bare_radius_mm": None if radius is None else round(radius, 3),
                "lift_mm": round(self.lift_mm, 5),
                "remarks": [_plain(remark) for remark in self.fitting_remarks],
            },
            "mesh": {**self.report.as_dict(), "weight_g": round(weight, 3)},
            "finish": asdict(self.finish),
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
    return found


def shown_glb(recipe: Recipe, result: Evaluation, figures: dict[str, Any] | None = None) -> bytes:
    """The mesh as a browser shows it: normals, places on the picture, and the figures.

    Parameters
    ----------
    figures : of the finished mesh, when a lighter one is shown
    """
    shown, normals = split_creases(result.mesh)
    bent = lay_map(recipe.begins.form, result.relief)
    mirrored = recipe.begins.art.mirror
    shares = flat_shares(
        shown.vertices, bent, result.lift_mm, result.heights, mirrored, result.relief.room_mm
    )
    if bent is not None and bent.around:
        shown, normals, shares = split_seam(shown, normals, shares)
    return encode_glb(shown, normals, figures or result.figures(), shares)
