"""What a fresh step of every kind says: the defaults of the models, each written once."""

from __future__ import annotations

from typing import Annotated, Any, get_args, get_origin

from pydantic import TypeAdapter
from pydantic.fields import FieldInfo

from nebrel.core.recipe.art import Art, Edge, Pictured
from nebrel.core.recipe.at_hand import Material, Printer
from nebrel.core.recipe.body import BodyBegin
from nebrel.core.recipe.build_up import Entry, GridLayout, Outline, RingLayout, Unit
from nebrel.core.recipe.corrections import Correction
from nebrel.core.recipe.decoration import Decoration, TextureDecoration
from nebrel.core.recipe.figure import (
    CalmRegion,
    FigureBegin,
    FigurePart,
    KeptFigure,
    OwnNetwork,
    TurnAxis,
)
from nebrel.core.recipe.finish import FinishStep
from nebrel.core.recipe.fittings import Fitting
from nebrel.core.recipe.forms import Form
from nebrel.core.recipe.models import ReliefBegin
from nebrel.core.recipe.placed import Bridges, Profile, Wall
from nebrel.core.recipe.ready import ReadyBody

_UNIONS: dict[str, Any] = {
    "corrections": Correction,
    "entries": Entry,
    "fittings": Fitting,
    "forms": Form,
    "finish": FinishStep,
    "outlines": Outline,
    "units": Unit,
    "layouts": GridLayout | RingLayout,
    "bodies": ReadyBody,
}
_MODELS: dict[str, Any] = {
    "profile": Profile,
    "wall": Wall,
    "bridges": Bridges,
    "edge": Edge,
    "art": Art,
    "pictured": Pictured,
    "decoration": Decoration,
    "texture": TextureDecoration,
    "relief": ReliefBegin,
    "body": BodyBegin,
    "figure": FigureBegin,
    "axis": TurnAxis,
    "part": FigurePart,
    "calm": CalmRegion,
    "kept_figure": KeptFigure,
    "network": OwnNetwork,
    "printer": Printer,
    "material": Material,
}
_PLAIN: TypeAdapter[Any] = TypeAdapter(Any)


def fresh_steps() -> dict[str, dict[str, Any]]:
    """By list and kind, every field that has a default, as plain values; no ids."""
    steps = {
        name: {_kind(model): _fresh(model) for model in _models(union)}
        for name, union in _UNIONS.items()
    }
    return steps | {name: _fresh(model) for name, model in _MODELS.items()}


def _models(union: Any) -> tuple[Any, ...]:
    if get_origin(union) is Annotated:
        union = get_args(union)[0]
    return get_args(union)


def _kind(model: Any) -> str:
    return str(model.model_fields["kind"].default)


def _fresh(model: Any) -> dict[str, Any]:
    fields: dict[str, FieldInfo] = model.model_fields
    return {
        name: _PLAIN.dump_python(field.get_default(call_default_factory=True), mode="json")
        for name, field in fields.items()
        if not field.is_required() and name != "id"
    }
