"""What makes a piece usable, as a recipe keeps it: what it hangs, stands and is held by."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from nebrel.core.choices import SheetWay
from nebrel.core.recipe.length import Length, between
from nebrel.core.recipe.step import Listed, Step

MOST_FITTINGS = 20
Size = Annotated[Length, between(0.2, 1000, "a size")]
Gap = Annotated[Length, between(0, 5, "a clearance")]


class Eyelet(Listed):
    """A lug with a hole above the upper edge, to hang it by; beside what is no rectangle, too."""

    kind: Literal["eyelet"] = "eyelet"
    hole: Size = Length(mm=4.0)
    band: Annotated[Size, Field(description="of material around the hole")] = Length(mm=2.5)
    thick: Size = Length(mm=2.4)
    across: float = Field(0.5, ge=0, le=1, description="where along the upper edge")


class Foot(Listed):
    """A plate along the lower edge that makes it stand."""

    kind: Literal["foot"] = "foot"
    wide: Annotated[float, Field(ge=0.1, le=1, description="share of the width")] = 0.7
    front: Size = Length(mm=14.0)
    back: Size = Length(mm=14.0)
    thick: Size = Length(mm=2.4)


class Tabs(Listed):
    """Strips along both sides that slide into the slots of a holder."""

    kind: Literal["tabs"] = "tabs"
    wide: Annotated[Size, Field(description="how far they stand out")] = Length(mm=3.0)
    slot: Annotated[Size, Field(description="of the holder, how wide")] = Length(mm=2.4)
    clearance: Annotated[Gap, Field(description="between tab and slot, in all")] = Length(mm=0.3)


class SocketRing(Listed):
    """A floor with a round hole that a lamp's socket goes through, in a tube or globe."""

    kind: Literal["socket"] = "socket"
    lamp: Annotated[Size, Field(description="diameter of the socket")] = Length(mm=28.0)
    clearance: Annotated[Gap, Field(description="on the diameter")] = Length(mm=0.6)
    thick: Size = Length(mm=2.4)


class MagnetPocket(Listed):
    """Round pockets in the underside for magnets, where there is room for them."""

    kind: Literal["magnet"] = "magnet"
    wide: Annotated[Size, Field(description="diameter of a magnet")] = Length(mm=8.0)
    deep: Annotated[Size, Field(description="of a pocket")] = Length(mm=2.2)
    clearance: Annotated[Gap, Field(description="on the diameter")] = Length(mm=0.2)
    over: Annotated[Size, Field(description="at least so much stays over it")] = Length(mm=0.6)
    count: int = Field(1, ge=1, le=12)


class Keyhole(Listed):
    """A slot in the underside that hangs on the head of a screw, above the middle of its weight."""

    kind: Literal["keyhole"] = "keyhole"
    head: Annotated[Size, Field(description="diameter of the screw's head")] = Length(mm=7.0)
    neck: Annotated[Size, Field(description="diameter of its neck")] = Length(mm=3.5)
    lip: Annotated[Size, Field(description="of material that the head hangs behind")] = Length(
        mm=1.2
    )
    deep: Annotated[Size, Field(description="of room for the head behind the lip")] = Length(mm=2.6)
    slot: Annotated[Size, Field(description="how far it slides")] = Length(mm=8.0)
    over: Annotated[Size, Field(description="at least so much stays over it")] = Length(mm=0.6)
    clearance: Annotated[Gap, Field(description="on both diameters")] = Length(mm=0.4)


class Handle(Listed):
    """A bar or a knob under the piece, to press or to hold it by."""

    kind: Literal["handle"] = "handle"
    shape: Literal["bar", "knob"] = "bar"
    wide: Annotated[Size, Field(description="length of a bar, diameter of a knob")] = Length(
        mm=30.0
    )
    thick: Annotated[Size, Field(description="of a bar")] = Length(mm=8.0)
    high: Size = Length(mm=20.0)


Fitting = Annotated[
    Eyelet | Foot | Tabs | MagnetPocket | Keyhole | Handle | SocketRing,
    Field(discriminator="kind"),
]


class Holder(Step):
    """A stand whose two posts take the tabs, and a cap over them: pieces of their own."""

    wall: Size = Length(mm=2.0)
    base: Annotated[Size, Field(description="how thick the plate below is")] = Length(mm=3.0)
    deep: Annotated[Size, Field(description="how far the plate reaches to front and back")] = (
        Length(mm=16.0)
    )
    cap: Annotated[Size, Field(description="how tall the cap is")] = Length(mm=14.0)
    lettering: str = Field("", max_length=80, description="raised on the front of the cap")


class Lantern(Step):
    """The panel as one side of several, with mitred edges, a base and a lid."""

    sides: int = Field(4, ge=3, le=12)
    clearance: Annotated[Gap, Field(description="of base and lid inside the sides")] = Length(
        mm=0.3
    )
    thick: Annotated[Size, Field(description="of base and lid")] = Length(mm=2.4)
    lip: Annotated[Size, Field(description="how far they reach into the lantern")] = Length(mm=4.0)
    vent: Annotated[Length, between(0, 500, "a vent"), Field(description="hole in the lid")] = (
        Length(mm=12.0)
    )


class Sheets(Step):
    """The build-up as flat sheets, for a laser, an inlay, or several materials."""

    way: Annotated[
        SheetWay, Field(description="each let into those below it, or lying on them")
    ] = "inlaid"
    thick: Size = Length(mm=3.0)
    clearance: Annotated[Gap, Field(description="between a sheet and what it is let into")] = (
        Length(mm=0.1)
    )
