"""The API of the workshop."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter

from nebrel.core.recipe.at_hand import Material, Printer
from nebrel.core.recipe.models import Recipe
from nebrel.core.recipe.respell import respell
from nebrel.web.desk import OnDesk
from nebrel.web.errors import refusals
from nebrel.web.schemas import AtHandIn, WorkshopOut

router = APIRouter(prefix="/api", responses=refusals(403, 404, 409, 413, 422, 507))


@router.get("/workshop")
def workshop(desk: OnDesk) -> WorkshopOut:
    """Everything at hand."""
    kept = desk.store.workshop
    return WorkshopOut(printers=kept.printers.all(), materials=kept.materials.all())


@router.post("/workshop/printers", status_code=201)
def add_printer(desk: OnDesk, body: Printer) -> Printer:
    """Keep a new printer."""
    return desk.store.workshop.printers.add(body)


@router.put("/workshop/printers/{printer_id}")
def change_printer(desk: OnDesk, printer_id: str, body: Printer) -> Printer:
    """Give a printer other figures."""
    return desk.store.workshop.printers.change(body.model_copy(update={"id": printer_id}))


@router.delete("/workshop/printers/{printer_id}", status_code=204)
def delete_printer(desk: OnDesk, printer_id: str) -> None:
    """Take a printer out of the workshop."""
    desk.store.workshop.printers.delete(printer_id)


@router.post("/workshop/printers/{printer_id}/restore")
def restore_printer(desk: OnDesk, printer_id: str) -> Printer:
    """Bring a deleted printer back."""
    return desk.store.workshop.printers.restore(printer_id)


@router.post("/workshop/materials", status_code=201)
def add_material(desk: OnDesk, body: Material) -> Material:
    """Keep a new material."""
    return desk.store.workshop.materials.add(body)


@router.put("/workshop/materials/{material_id}")
def change_material(desk: OnDesk, material_id: str, body: Material) -> Material:
    """Give a material other figures."""
    return desk.store.workshop.materials.change(body.model_copy(update={"id": material_id}))


@router.delete("/workshop/materials/{material_id}", status_code=204)
def delete_material(desk: OnDesk, material_id: str) -> None:
    """Take a material out of the workshop."""
    desk.store.workshop.materials.delete(material_id)


@router.post("/workshop/materials/{material_id}/restore")
def restore_material(desk: OnDesk, material_id: str) -> Material:
    """Bring a deleted material back."""
    return desk.store.workshop.materials.restore(material_id)


@router.post("/recipe/at-hand")
def make_with(body: AtHandIn) -> Recipe:
    """A recipe made with another printer or material; lengths in lines and layers follow."""
    more: dict[str, Any] = {}
    if body.printer is not None:
        more["printer"] = body.printer
    if body.material is not None:
        more["material"] = body.material
    made_with = body.recipe.made_with.model_copy(update=more)
    return respell(body.recipe.model_copy(update={"made_with": made_with}))
