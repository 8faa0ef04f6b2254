"""What entries of a build-up that have a place and a height have in common."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from nebrel.core.choices import Corners, ProfileKind
from nebrel.core.recipe.length import Length, between
from nebrel.core.recipe.step import Listed, Step

Rule = Literal["replace", "add", "highest", "lowest", "cut"]

Size = Annotated[Length, between(0.05, 5000, "a size")]
Offset = Annotated[Length, between(-5000, 5000, "a place")]
Rise = Annotated[Length, between(-500, 500, "a height")]
Reach = Annotated[Length, between(0, 500, "a reach")]
NONE = Length(mm=0.0)


class Profile(Step):
    """How an entry ends at its outline."""

    kind: ProfileKind = "sharp"
    reach: Annotated[
        Reach, Field(description="how far in from the edge; 0 for a pillow: to the middle")
    ] = Length(mm=1.0)
    softness: float = Field(0.5, ge=0, le=1, description="of a pillow: a roof, or a dome")


class Raised(Listed):
    """What has a height, a rule for joining what lies below, and an edge."""

    rule: Rule = "replace"
    height: Rise = Length(mm=2.0)
    profile: Profile = Profile()


class Placed(Raised):
    """The same with a place: mm from the middle of the piece."""

    x: Offset = NONE
    y: Offset = NONE
    turn: float = Field(0.0, ge=-360, le=360, description="degrees to the left")


class Below(Step):
    """How something ends below, where no backing lies under it."""

    kind: Literal["sharp", "chamfer", "round"] = "sharp"
    reach: Annotated[Reach, Field(description="how far in from the edge")] = Length(mm=0.5)


class Wall(Step):
    """A wall along the outside of an outline, ending in a blade: a cutter for dough or clay.

    Its height is the entry's; what it cuts has the size of the outline.
    """

    thick: Size = Length(mm=0.84)
    blade: Annotated[Size, Field(description="how thick it ends")] = Length(mm=0.42)
    blade_high: Annotated[Size, Field(description="over which height it thins")] = Length(mm=3.0)
    rim: Annotated[Size, Field(description="how far its rim reaches outside the outline")] = Length(
        mm=4.0
    )
    rim_thick: Size = Length(mm=2.4)
    details: Annotated[
        Reach | None,
        Field(description="ridges along the holes, ending so far below the blade; none: none"),
    ] = None
    gap: Annotated[Reach, Field(description="walls keep this between them; less is filled")] = (
        Length(mm=0.6)
    )
    clearance: Annotated[
        Length, between(0.02, 20, "a clearance"), Field(description="of a stamp that slides in it")
    ] = Length(mm=0.4)


class Bridges(Step):
    """What holds that which would fall out of an opening."""

    count: int = Field(2, ge=1, le=12, description="to each part")
    wide: Size = Length(mm=2.0)


class Outlined(Placed):
    """What has an outline that may be moved outwards, bridged, or become a wall."""

    grow: Annotated[
        Offset, Field(description="how far the outline is moved outwards, or inwards below 0")
    ] = NONE
    corners: Corners = "round"
    band: Annotated[
        bool, Field(description="moved both ways, so that the line itself becomes a band")
    ] = False
    least: Annotated[
        Reach, Field(description="nothing of it is thinner than this; 0 leaves it as it is")
    ] = NONE
    bridges: Annotated[
        Bridges | None, Field(description="of what cuts through, so that nothing falls out")
    ] = None
    below: Annotated[Below, Field(description="its edge below, where it stands on its own")] = (
        Below()
    )
    wall: Annotated[Wall | None, Field(description="along the outline, not within it")] = None
