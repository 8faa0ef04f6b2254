"""What the API sends. The front end's types are generated from these."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Annotated, Any, Literal, Self

from pydantic import BaseModel, Field

from nebrel.core.choices import Fault, StartName
from nebrel.core.heights.raise_tones import printed_mm
from nebrel.core.proof.light import Printed
from nebrel.core.recipe.at_hand import Material, Printer
from nebrel.core.recipe.build_up import PictureEntry
from nebrel.core.recipe.corrections import Correction, Curve
from nebrel.core.recipe.decoration import Decoration
from nebrel.core.recipe.length import BackingLength
from nebrel.core.recipe.models import Recipe
from nebrel.store.facts import MeshFacts, PictureFacts
from nebrel.store.kept_files import PictureInfo
from nebrel.store.motifs import Motif
from nebrel.store.store import Card, History, Piece
from nebrel.web.errors import ErrorDetail


class PictureOut(PictureFacts):
    """A picture that was brought in."""

    sha256: str
    filename: str
    printed_mm: float | None = Field(description="its width by its pixels per inch")

    @classmethod
    def of(cls, info: PictureInfo) -> PictureOut:
        """From the store's own."""
        printed = None if info.dpi is None else round(printed_mm(info.cols, info.dpi), 3)
        return cls(**info.model_dump(exclude={"heights"}), printed_mm=printed)


class MeshOut(MeshFacts):
    """A mesh that was brought in."""

    sha256: str
    filename: str


class PieceCard(BaseModel):
    """A piece as the shelf shows it."""

    id: str
    name: str
    changed: datetime
    revision: int
    form: str
    wide_mm: float = Field(description="0 while it is not known yet")
    tall_mm: float
    trouble: str = Field("", description="why it cannot be opened or shown, and what to do")
    pending: bool = Field(False, description="its rendered card is still being made")

    @classmethod
    def of(cls, piece: Card, pending: bool = False) -> PieceCard:
        """From the store's own."""
        facts = piece.facts
        # What corrections come to is known as soon as the card is.
        known = facts is not None and (facts.sized or not pending)
        return cls(
            id=piece.id,
            name=piece.name,
            changed=piece.changed.replace(tzinfo=UTC),
            revision=piece.revision,
            form="" if facts is None else facts.form,
            wide_mm=facts.wide_mm if facts is not None and known else 0.0,
            tall_mm=facts.tall_mm if facts is not None and known else 0.0,
            trouble=piece.trouble,
            pending=pending,
        )


class PieceOut(PieceCard):
    """A piece as the bench works on it."""

    recipe: Recipe
    state: str = Field(description="another one whenever the piece has become another")
    picture: PictureOut | None = Field(description="what it begins with, or null of a body")
    mesh: MeshOut | None = Field(description="what a body begins with, or null")
    undo: str | None = Field(description="what would be undone, or null")
    redo: str | None = Field(description="what would be redone, or null")

    @classmethod
    def made_of(cls, piece: Piece) -> PieceOut:
        """From the store's own."""
        return cls(
            **_named(piece),
            recipe=piece.recipe,
            state=piece.state,
            picture=None if piece.picture is None else PictureOut.of(piece.picture),
            mesh=None if piece.mesh is None else MeshOut(**piece.mesh.model_dump()),
            undo=piece.undo,
            redo=piece.redo,
        )


def _named(piece: Piece) -> dict[str, Any]:
    wide, tall = piece.uncorrected_mm
    return {
        "id": piece.id,
        "name": piece.name,
        "changed": piece.changed.replace(tzinfo=UTC),
        "revision": piece.revision,
        "form": piece.recipe.form_kind,
        "wide_mm": wide,
        "tall_mm": tall,
        "trouble": "",
    }


class Rename(BaseModel):
    """A new name."""

    name: str = Field(max_length=400)


class Change(BaseModel):
    """A new state of a recipe, and what it was made on."""

    recipe: Recipe
    label: str = Field("", max_length=120)
    base: int | None = Field(None, description="the revision it was made on")
    state: str | None = Field(None, description="the state it was made on")
    amend: bool = Field(False, description="the current revision becomes this one")


class StateOut(BaseModel):
    """Whether a piece has become another, in few bytes."""

    state: str
    name: str


class RevisionOut(BaseModel):
    """One state of a piece: what was done last, and when."""

    number: int
    label: str
    made: datetime


class HistoryOut(BaseModel):
    """The states of a piece that can be gone to, the oldest first."""

    here: int = Field(description="the number of the one it stands at")
    revisions: list[RevisionOut]

    @classmethod
    def of(cls, history: History) -> Self:
        """The same as the store keeps it."""
        made = [
            RevisionOut(number=one.number, label=one.label, made=one.made.replace(tzinfo=UTC))
            for one in history.revisions
        ]
        return cls(here=history.here, revisions=made)


class SuitedOut(BaseModel):
    """A start, and why it suits."""

    start: StartName
    why: str


class StartsOut(BaseModel):
    """What a piece may be set up for."""

    untouched: bool = Field(description="nothing of it was set up yet")
    suited: list[SuitedOut] = Field(description="what suits it, the best first; none once touched")


class LengthIn(BaseModel):
    """A length as typed, and what a line and a layer are worth."""

    text: str = Field(max_length=120)
    line_mm: float = Field(0.42, gt=0, le=100)
    layer_mm: float = Field(0.12, gt=0, le=100)


class LengthOut(BaseModel):
    """A length in millimetres, with its words."""

    mm: float
    text: str


class FailureOut(BaseModel):
    """A correction that could not be applied."""

    index: int
    error: ErrorDetail


class PictureFigures(BaseModel):
    """Figures of the Picture stop."""

    cols: int
    rows: int
    bit_depth: int
    transparent: bool
    notes: list[str]
    failed: int = Field(0, description="corrections that could not be applied")
    failures: list[FailureOut] = []


class RemarkOut(BaseModel):
    """What is wrong with an entry or a fitting; one that is refused contributes nothing."""

    entry_id: str
    refused: bool
    error: ErrorDetail
    places_mm: list[tuple[float, float]] = Field(
        [], description="where it is, from the middle of the picture, right and up"
    )


class IslandOut(BaseModel):
    """A part that is connected to nothing."""

    area_mm2: float
    box_mm: tuple[float, float, float, float] = Field(
        description="left, lower, right and upper edge, from the lower left corner"
    )


class HeightsFigures(BaseModel):
    """Figures of the Heights stop."""

    lowest_mm: float
    highest_mm: float
    remarks: list[RemarkOut] = []
    islands: list[IslandOut] = []


class FormFigures(BaseModel):
    """Figures of the Form stop."""

    kind: str
    standing: bool = Field(description="it stands upright as it is made")
    around: bool = Field(description="the width meets itself")
    round: bool = Field(description="seen from above")
    slides: bool = Field(description="it can have a holder")
    flat: bool = Field(description="it can be the side of a lantern")
    wide_mm: float
    tall_mm: float
    bare_radius_mm: float | None = Field(description="of the bare surface, where it is bent")
    lift_mm: float = Field(0, description="raised by this from where its map puts it")
    remarks: list[RemarkOut] = Field([], description="on fittings")


class MeshFigures(BaseModel):
    """Figures of a mesh."""

    triangles: int
    vertices: int
    size_mm: tuple[float, float, float]
    volume_mm3: float
    area_mm2: float
    closed: bool
    manifold: bool
    bodies: int


class FinishedFigures(MeshFigures):
    """Figures of the finished mesh."""

    weight_g: float = Field(description="solid, of the material it is made with")
    low_mm: tuple[float, float, float] = Field(description="the corner of its box")
    coloured: bool


class StepFigures(BaseModel):
    """What a finish step came to."""

    step_id: str
    before: MeshFigures
    after: MeshFigures
    low_mm: tuple[float, float, float] = Field(description="the corner of its box before")
    said: list[str] = Field(description="what it did, in words, where it has some")
    error: ErrorDetail | None = Field(description="why it was refused")


class DecorationFigures(BaseModel):
    """What a decoration came to."""

    decoration_id: str
    stretch: tuple[float, float] = Field(description="how long lines become, least and most")
    round_mm: float | None = Field(None, description="how long once around is there")
    grips: list[tuple[float, float, float]] = Field(
        [], description="its middle, and the middles of its right and of its upper side, mm"
    )
    error: ErrorDetail | None = Field(description="why it was refused")
    doubt: ErrorDetail | None = Field(None, description="what is said of an entry of its art")


class SuitsFigures(BaseModel):
    """What suits art that is about to be laid on a body."""

    wide_mm: float
    at: tuple[float, float, float]
    up: tuple[float, float, float]
    room_mm: float | None = Field(None, description="how far around that place it is flat")
    about: tuple[float, float, float] | None = Field(
        None, description="on the axis that it is turned about"
    )


class FigureFigures(BaseModel):
    """What a picture in the round came to."""

    tips_deg: float = Field(description="at which angle it tips over")
    notes: list[str]
    axis: tuple[float, float] | None = Field(description="of what was turned: share, degrees")
    subject_px: tuple[int, int]
    seconds: float = Field(description="that it takes about, at full quality")
    gb: float
    outline: float | None = Field(description="of both silhouettes from the front, what is shared")
    thin: list[int] = Field(
        [], description="parts, drawn and switched on, from 0 on, that are too thin for its cells"
    )
    box: tuple[float, float, float, float] = Field(
        description="of the subject in its picture: left, top, width, height, in shares of it"
    )


class FinishFigures(BaseModel):
    """How fine a mesh is, mm."""

    within_mm: float = Field(description="the largest distance at any pixel")
    wanted_mm: float = Field(description="what the recipe asks for; a limit may cost more")
    pitch_mm: float | None = Field(description="of what is made as fine as can be")


class ViewFigures(BaseModel):
    """A lighter mesh that is drawn instead."""

    triangles: int
    finish: FinishFigures | None


class Figures(BaseModel):
    """What an evaluation came to; also sent in every GLB under `asset.extras`."""

    quality: Literal["draft", "full"]
    key: str
    picture: PictureFigures | None = Field(description="null of a body; so are the next two")
    heights: HeightsFigures | None
    form: FormFigures | None
    mesh: FinishedFigures
    finish: FinishFigures | None = Field(description="of heights, before the finish steps")
    beyond_bed_mm: tuple[float, float, float] | None = Field(
        None, description="by how much it is larger than the bed; null where it fits"
    )
    suits: SuitsFigures | None = Field(None, description="of a body")
    figure: FigureFigures | None = Field(None, description="of what began as one")
    steps: list[StepFigures]
    decorations: list[DecorationFigures]
    view: ViewFigures | None = Field(None, description="when the browser could not draw them all")


class MeshFindingOut(BaseModel):
    """One thing worth knowing about a mesh that was brought."""

    kind: str
    severity: Literal["note", "caution", "wrong"]
    count: int
    text: str
    remedy: Literal["repair", "simplify", "even"] | None = Field(
        description="the finish step that mends it"
    )
    fault: Fault | None = Field(description="what of several it mends, where it is one")
    spots_mm: list[tuple[float, float, float]] = Field(description="some of the places")


class FaultsOut(BaseModel):
    """The report of a mesh that was brought."""

    report: list[MeshFindingOut]
    mesh: MeshFigures


class OneWayOut(BaseModel):
    """How far one mesh is from another, mm."""

    max_mm: float
    rms_mm: float


class DeviationOut(OneWayOut):
    """By how much a finish step changed the mesh, both ways."""

    step_id: str
    a_to_b: OneWayOut
    b_to_a: OneWayOut


class WallsOut(BaseModel):
    """How thick the walls are."""

    thinnest_mm: float | None = Field(description="null where nothing is opposite")
    most_mm: float = Field(description="what is as thick, or thicker, has no tint")


class ProofOut(BaseModel):
    """How a piece comes off the bed."""

    closed: bool
    bodies: int
    thinnest_mm: float | None = Field(description="wall; null where nothing is opposite")
    line_mm: float = Field(description="of the nozzle")
    tips_deg: float = Field(description="at which it tips over as it is; 0: it does not stand")
    touching_mm2: float = Field(description="how much of it lies on the bed")


class StretchOut(BaseModel):
    """How decorations are stretched."""

    most: float = Field(description="by how much a line becomes longer or shorter, a share")


class JobOut(BaseModel):
    """Long work and how it stands."""

    id: str
    state: Literal["waiting", "working", "done", "failed", "cancelled"]
    done: float = Field(description="share done, 0 to 1")
    step: str
    result: str | None = Field(None, description="its file below /api/results, once it is done")
    figures: Figures | None = Field(None, description="of a mesh to be shown")
    faults: FaultsOut | None = Field(None, description="of a mesh report")
    deviation: DeviationOut | None = None
    walls: WallsOut | None = None
    stretch: StretchOut | None = None
    proof: ProofOut | None = None
    error: ErrorDetail | None = None


class CorrectedIn(BaseModel):
    """Which state of a picture is wanted."""

    recipe: Recipe
    upto: int | None = Field(None, ge=0, description="only the first corrections of the list")
    quality: Literal["screen", "full"] = "screen"


class ViewIn(CorrectedIn):
    """The same, to be seen."""

    part: Literal["pixels", "dropped", "before"] = Field(
        "pixels",
        description="the picture without its transparency; what is dropped of it, as the alpha of "
        "a white picture; or the picture as it was brought in, in the frame of the result",
    )
    longest: int = Field(1400, ge=64, le=4096)


class CorrectedOut(BaseModel):
    """A picture after its corrections."""

    key: str
    cols: int
    rows: int
    wide_mm: float
    tall_mm: float
    place: list[float] = Field(
        description="3 × 3 by rows: a pixel of the picture brought in to a share of this picture"
    )
    transparent: bool
    kept: float = Field(description="share of the area that is not transparent")
    failures: list[FailureOut]
    histogram: list[float] = Field(description="share of the pixels in 128 equal steps of tone")
    levels: tuple[float, float] = Field(description="black and white point as found")


class CurveIn(BaseModel):
    """A curve to be drawn."""

    curve: Curve


Share = Annotated[
    float, Field(ge=-2, le=3, allow_inf_nan=False, description="of a side; 0 to 1 is the piece")
]


class SectionIn(BaseModel):
    """A line over a piece, as shares of its width and height from the upper left corner."""

    recipe: Recipe
    start: tuple[Share, Share]
    end: tuple[Share, Share]
    parts: int = Field(800, ge=16, le=4000)


class SectionOut(BaseModel):
    """Heights along the line, mm."""

    length_mm: float
    low_mm: list[float]
    high_mm: list[float]
    slope_deg: list[float]
    path_mm: list[tuple[float, float, float]] = Field(
        description="its upper line in space, to be raised by the lift of the form's figures"
    )
    light: list[float] = Field(description="through the thickest of each part, 1 is white")
    highest_mm: float = Field(description="of the whole piece")
    line_mm: float = Field(description="a nozzle line, for the comb")
    layer_mm: float = Field(description="a print layer, for the comb")


class CutIn(BaseModel):
    """An upright plane through a piece."""

    recipe: Recipe
    across: Literal["x", "y"] = Field(description="the axis that it stands square to")
    at_mm: float = Field(ge=-1e6, le=1e6)
    before: str | None = Field(None, max_length=40, description="a finish step to be seen undone")


Line = list[tuple[float, float]]


class CutOut(BaseModel):
    """Where it cuts the mesh, mm along the other axis and up."""

    lines: list[Line]
    before: list[Line] = Field(description="the same before the finish step asked for")
    low_mm: tuple[float, float, float] = Field(description="the box of all that is drawn")
    high_mm: tuple[float, float, float]
    line_mm: float
    layer_mm: float
    quality: Literal["draft", "full"]


class BendIn(BaseModel):
    """A width that is to be bent to a radius."""

    wide_mm: float = Field(gt=0, le=100_000)
    radius_mm: float = Field(gt=0, le=100_000)


class ChartIn(BaseModel):
    """A tone chart to be drawn, and the material it is for."""

    entry: PictureEntry
    backing: BackingLength
    attenuation_per_mm: float = Field(1.2, gt=0, le=50)


class SpotIn(BaseModel):
    """A spot of a piece, shares from the upper left corner of its picture."""

    recipe: Recipe
    at: tuple[Share, Share]


class SpotOut(BaseModel):
    """What is there."""

    height_mm: float
    there: bool


class OutlinesIn(BaseModel):
    """A recipe whose build-up is to be drawn."""

    recipe: Recipe


class OutlineOut(BaseModel):
    """An entry of the build-up as it lies."""

    entry_id: str
    loops: list[list[tuple[float, float]]] = Field(
        description="closed loops, shares of width and height from the upper left corner"
    )


class PartsIn(BaseModel):
    """A recipe, and an entry of it that is traced in its corrected picture."""

    recipe: Recipe
    entry_id: str


class TracedPart(BaseModel):
    """What hangs together in a traced shape."""

    place: tuple[float, float] = Field(description="inside it, shares from the upper left corner")
    area_mm2: float
    left_out: Literal["", "small", "border", "dropped", "not alone"]
    loops: list[list[tuple[float, float]]] = Field(
        description="the line around it and its holes, shares from the upper left corner"
    )


class NodeOut(BaseModel):
    """Where two curves of an outline meet."""

    place: tuple[float, float] = Field(description="shares from the upper left corner")
    smooth: bool


class PartsOut(BaseModel):
    """What a trace finds, and figures of the outline around what is kept."""

    parts: list[TracedPart] = Field(description="the largest first; of very many, those")
    found: int
    kept: int
    curves: int
    off_mm: float = Field(description="largest distance of the curves from the picture's line")
    size_mm: tuple[float, float]
    picture_mm: tuple[float, float] = Field(description="of the corrected picture")
    level: float = Field(description="the tone that was traced")
    nodes: list[NodeOut] = Field(description="none where there are very many")
    notes: list[str]


class TonesOut(BaseModel):
    """The flat tones that a picture consists of."""

    tones: list[float]
    heights_mm: list[float] = Field(description="of each above the backing, by the tone chart")
    flat: bool = Field(description="whether they were recognised, not only chosen")


class LightViewIn(BaseModel):
    """A recipe to be seen before its lamp."""

    recipe: Recipe
    part: Literal["lit", "difference"] = "lit"
    longest: int = Field(1400, ge=64, le=4096)


class LightOut(BaseModel):
    """How well the light comes through."""

    darkest_tone: float = Field(description="the darkest that can be shown beside white")
    exact_tone: float = Field(description="down to which light is exact; darker rolls off")
    carried: float = Field(description="share of the picture's pixels whose light is exact")
    error: dict[Printed, float] = Field(
        description="RMS of linear light against the picture, share of full scale"
    )
    steps: dict[Printed, int] = Field(description="different thicknesses between the bounds")
    advice: list[str]


class CalibrationOut(BaseModel):
    """What a wedge says of its material."""

    attenuation_per_mm: float
    error: float
    r2: float
    lamp: float
    thickness_mm: list[float]
    light: list[float]
    fitted: list[float]
    left_out: int


class WorkshopOut(BaseModel):
    """What is at hand to make pieces with."""

    printers: list[Printer]
    materials: list[Material]


class AtHandIn(BaseModel):
    """A recipe, and what of the workshop it is to be made with from now on."""

    recipe: Recipe
    printer: Printer | None = None
    material: Material | None = None


class ReportIn(BaseModel):
    """A recipe whose picture is to be judged."""

    recipe: Recipe


class FindingOut(BaseModel):
    """One thing worth knowing about a picture."""

    key: str = Field(description="tells the findings of one report apart")
    kind: str
    severity: Literal["note", "caution", "wrong"]
    share: float
    text: str
    remedy: Correction | None
    numbers: dict[str, float]
    marked: bool = Field(description="whether its place can be shown")


class ReportLine(BaseModel):
    """A line of the report as it is read: a finding, its end, or why it ended early."""

    finding: FindingOut | None = None
    early: bool = Field(
        False, description="seen at a glance; it stands until the end, or the same is found again"
    )
    done: bool = False
    error: ErrorDetail | None = None


class MarkIn(ReportIn):
    """Which finding's place is wanted."""

    key: str = Field(max_length=60)


class MotifIn(BaseModel):
    """A motif to be kept from a piece's corrected picture."""

    piece_id: str
    name: str = Field(max_length=400)
    tags: list[str] = Field([], max_length=40)


class LaidMotifIn(BaseModel):
    """A motif to be kept from a decoration of a body."""

    recipe: Recipe
    decoration_id: str
    name: str = Field(max_length=400)
    tags: list[str] = Field([], max_length=40)


class MotifChange(BaseModel):
    """Another name and other tags."""

    name: str = Field(max_length=400)
    tags: list[str] = Field([], max_length=40)


class MotifOut(BaseModel):
    """A cleaned picture kept for reuse."""

    id: str
    name: str
    tags: list[str]
    wide_mm: float
    created: datetime
    picture: PictureOut
    decoration: Decoration | None = Field(None, description="what it is on a body")

    @classmethod
    def of(cls, motif: Motif, picture: PictureInfo) -> MotifOut:
        """From the store's own."""
        return cls(
            id=motif.id,
            name=motif.name,
            tags=list(motif.tags),
            wide_mm=motif.wide_mm,
            created=motif.created.replace(tzinfo=UTC),
            picture=PictureOut.of(picture),
            decoration=motif.decoration,
        )
