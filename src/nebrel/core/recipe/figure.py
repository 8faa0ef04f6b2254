"""A piece that begins as a figure: one picture of a subject in the round."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field, field_validator

from nebrel.core.choices import LEAST_RESOLUTION, MOST_RESOLUTION, Back, Gives, Values, Way
from nebrel.core.recipe.art import Pictured
from nebrel.core.recipe.corrections import Place, Strokes
from nebrel.core.recipe.length import Length, SideLength, between
from nebrel.core.recipe.step import Listed, NetworkFile, PictureFile, Step

MOST_PARTS, MOST_KEPT = 24, 12
_NONE = Length(mm=0.0)


class TurnAxis(Step):
    """What a subject is turned about.

    Attributes
    ----------
    at : how far right of the subject's middle it crosses half its height, as a share of its width
    tilt : degrees that its upper end leans to the right
    """

    at: float = Field(0.0, ge=-0.5, le=0.5)
    tilt: float = Field(0.0, ge=-40, le=40)


class _Region(Listed):
    """What is drawn over in the picture, and what hangs together with places clicked in it.

    Attributes
    ----------
    tolerance : by how much colours differ that still belong to a place
    """

    strokes: Strokes = []
    spots: Annotated[list[Place], Field(max_length=200)] = []
    tolerance: float = Field(0.1, ge=0.005, le=0.6)


class FigurePart(_Region):
    """What of a subject is round by itself: an arm in front, an ear behind.

    Attributes
    ----------
    joint : pixels of the picture as it was brought in, what it is turned about; left out: where it
        meets the rest
    turn : degrees counter-clockwise, as the picture shows it
    lean : degrees that its free end comes forward
    mirrored : it is there once more, on the other side of the subject's middle
    """

    kind: Literal["part"] = "part"
    ahead: Annotated[
        Length,
        between(-500, 500, "a place"),
        Field(description="of the middle; below 0 behind"),
    ] = Length(mm=4.0)
    times: float = Field(1.0, ge=0.1, le=5, description="how many times as thick")
    both: bool = Field(False, description="once more, as far behind")
    joint: Place | None = None
    turn: float = Field(0.0, ge=-180, le=180)
    lean: float = Field(0.0, ge=-60, le=60)
    right: Annotated[Length, between(-500, 500, "a place")] = _NONE
    up: Annotated[Length, between(-500, 500, "a place")] = _NONE
    mirrored: bool = False


class CalmRegion(_Region):
    """What detail from light and dark leaves alone."""

    kind: Literal["calm"] = "calm"


class OwnNetwork(Step):
    """A network of one's own, that tells how near each place of the picture is.

    Attributes
    ----------
    near : which of its depths are near
    values : that its input takes; of the usual photographs: less their mean, by their spread
    order : of the three channels of its input
    size : pixels along each side of its input, where it takes any
    """

    kind: Literal["network"] = "network"
    file: NetworkFile
    gives: Gives = "depth"
    near: Literal["large", "small"] = "large"
    values: Values = "photograph"
    order: Literal["rgb", "bgr"] = "rgb"
    size: int | None = Field(None, ge=16, le=4096)


class FigureNumbers(Step):
    """What makes of one subject another result.

    Attributes
    ----------
    thick : where it is thickest; left out: as round as it is wide
    softness : by how much its outline is smoothed
    detail : how far fine light and dark stands out, or lies deep, at most
    axis : of what is turned; left out: found by itself
    wall : of what is turned, open above; 0 for solid
    """

    way: Way = "inflate"
    thick: SideLength | None = None
    back: Back = "mirror"
    roundness: float = Field(1.0, ge=0.05, le=1)
    softness: Annotated[Length, between(0, 20, "a softness")] = _NONE
    detail: Annotated[Length, between(0, 20, "a detail")] = _NONE
    dark_stands: bool = False
    axis: TurnAxis | None = None
    half_round: bool = False
    wall: Annotated[Length, between(0, 100, "a wall")] = _NONE


class KeptFigure(FigureNumbers):
    """Numbers of a figure that are kept to be seen beside others.

    Attributes
    ----------
    id : tells equal ones apart
    """

    id: str = Field("", max_length=40)


class FigureBegin(FigureNumbers):
    """A piece that begins as one picture of a subject, in the round.

    Attributes
    ----------
    mask : light is the subject; left out: its transparency, or an even background
    base : height of the plate that it stands on; 0 for none
    feet : height of four feet under all of it; 0 for none
    depth_picture : of the picture's size, light is near
    network : tells the depth where there is no picture of it
    back_picture : the same subject from behind: its colours, its detail, and its shape where that
        is learned
    colours : no more than so many
    resolution : cells along its longer side
    kept : results to be seen side by side; they change nothing of it
    """

    kind: Literal["figure"] = "figure"
    picture: Pictured
    mask: PictureFile | None = None
    tall: SideLength = Length(mm=80.0)
    parts: Annotated[
        list[Annotated[FigurePart | CalmRegion, Field(discriminator="kind")]],
        Field(max_length=MOST_PARTS),
    ] = []
    base: Annotated[Length, between(0, 100, "a base")] = _NONE
    feet: Annotated[Length, between(0, 100, "feet")] = _NONE
    depth_picture: PictureFile | None = None
    network: OwnNetwork | None = None
    back_picture: PictureFile | None = None
    coloured: bool = True
    colours: int | None = Field(None, ge=1, le=64)
    resolution: int = Field(512, ge=LEAST_RESOLUTION, le=MOST_RESOLUTION)
    kept: Annotated[list[KeptFigure], Field(max_length=MOST_KEPT)] = []

    @field_validator("parts", mode="before")
    @classmethod
    def _named(cls, parts: Any) -> Any:
        """What does not say what it is was written when all of them were parts."""
        if not isinstance(parts, list):
            return parts
        return [{"kind": "part", **one} if isinstance(one, dict) else one for one in parts]
