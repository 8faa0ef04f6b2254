"""What heights are laid on, as a recipe keeps it."""

from __future__ import annotations

import math
from typing import Annotated, ClassVar, Literal

from pydantic import Field

from nebrel.core.choices import FormKind
from nebrel.core.recipe.length import Length, between
from nebrel.core.recipe.step import Step


class _Form(Step):
    """A form and its traits, which the rest of the job asks for instead of its name.

    Attributes
    ----------
    around : the width goes once around and meets itself
    standing : it stands upright as it is made, its rows layers of the print
    straight : it has straight edges, that fittings are held by
    slides : and they slide into a holder
    flat : nothing is bent
    pole : its upper edge becomes a point
    """

    around: ClassVar[bool] = False
    standing: ClassVar[bool] = False
    straight: ClassVar[bool] = False
    slides: ClassVar[bool] = False
    flat: ClassVar[bool] = False
    pole: ClassVar[bool] = False

    def bare_radius_mm(self, wide_mm: float) -> float | None:
        """Of the bare surface, as the width of the heights bends it; None where it is not round."""
        return wide_mm / (2 * math.pi) if self.around else None

    def room_mm(self, wide_mm: float) -> float:
        """How wide it is open inside, where it goes around and is so wide; else 0."""
        return wide_mm / math.pi if self.around else 0.0


class PanelForm(_Form):
    """Flat, in the XY plane."""

    straight, slides, flat = True, True, True

    kind: Literal["panel"] = "panel"


class ArcForm(_Form):
    """Bent about an upright axis; the width spans the angle."""

    standing, straight, slides = True, True, True

    kind: Literal["arc"] = "arc"
    bend: float = Field(90.0, ge=1, le=350, description="degrees")
    side: Literal["outside", "inside"] = "outside"

    def bare_radius_mm(self, wide_mm: float) -> float:
        """As the width spans the angle."""
        return wide_mm / math.radians(self.bend)

    @staticmethod
    def bend_of(wide_mm: float, radius_mm: float) -> float:
        """The nearest angle, degrees, at which the bare surface has a radius."""
        return min(350.0, max(1.0, math.degrees(wide_mm / radius_mm)))


class TubeForm(_Form):
    """Once around an upright axis; the inner surface measures the width."""

    around, standing = True, True

    kind: Literal["tube"] = "tube"
    side: Literal["outside", "inside"] = "outside"


class GlobeForm(_Form):
    """Once around a sphere, with an opening below."""

    around, standing, pole = True, True, True

    kind: Literal["globe"] = "globe"
    opening: Annotated[Length, between(1, 2000, "an opening")] = Length(mm=20.0)
    side: Literal["outside", "inside"] = "outside"

    def room_mm(self, wide_mm: float) -> float:
        """Its opening, where that is narrower than itself."""
        return min(super().room_mm(wide_mm), self.opening.mm)


class DomeForm(_Form):
    """A cap of a sphere."""

    straight = True

    kind: Literal["dome"] = "dome"
    bend: float = Field(60.0, ge=1, le=340, description="degrees that the width spans")
    side: Literal["outside", "inside"] = "outside"


Form = Annotated[
    PanelForm | ArcForm | TubeForm | GlobeForm | DomeForm,
    Field(discriminator="kind", description="what the heights are laid on"),
]

FORM: dict[FormKind, type[_Form]] = {
    "panel": PanelForm,
    "arc": ArcForm,
    "tube": TubeForm,
    "globe": GlobeForm,
    "dome": DomeForm,
}


def called_so(form: Form, round_edge: bool) -> FormKind:
    """What a form is called: a panel with a round edge is a disc."""
    return "disc" if round_edge else form.kind
