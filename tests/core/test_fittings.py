"""Eyelets, feet, tabs and sockets, and the pieces that go with a panel."""

from typing import Any

import numpy as np
import pytest

from nebrel.core.data import Picture
from nebrel.core.errors import InvalidValue
from nebrel.core.kernel import solid_of
from nebrel.core.mesh.measure import measure
from nebrel.core.products.companions import companion, company_of
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.recipe.models import Recipe, load_recipe
from nebrel.core.solid import parts
from tests.pictures import ramp

RIM = {"kind": "frame", "id": "rim", "wide": 3, "height": 2.4}


def recipe(form: dict[str, Any], fittings: list[dict[str, Any]], **more: Any) -> Recipe:
    heights = {
        "raised": "dark",
        "backing": 0.8,
        "depth": 2.4,
        "build_up": [{"kind": "picture"}, RIM],
    }
    document = {
        "picture": {"sha256": "0" * 64, "side": 90},
        "heights": heights,
        "form": form,
        "fittings": fittings,
        **more,
    }
    return load_recipe(document)


def evaluator() -> Evaluator:
    picture = Picture(ramp(61, 91))
    return Evaluator(lambda _: picture)


FORMS: list[dict[str, Any]] = [
    {"kind": "panel"},
    {"kind": "arc", "bend": 100},
    {"kind": "arc", "bend": 70, "side": "inside"},
]


@pytest.mark.parametrize("form", FORMS)
def test_every_fitting_keeps_the_piece_one_closed_solid(form: dict[str, Any]) -> None:
    every = [{"kind": "eyelet", "across": 0.3}, {"kind": "foot"}, {"kind": "tabs"}]
    plain = evaluator().evaluate(recipe(form, []))
    for fittings in ([every[0]], [every[1]], [every[2]], every):
        result = evaluator().evaluate(recipe(form, fittings))
        assert result.remarks == ()
        assert result.report.manifold
        assert result.report.bodies == 1
        assert result.report.volume_mm3 > plain.report.volume_mm3
        assert result.mesh.vertices[:, 2].min() == pytest.approx(0, abs=1e-4)


def test_an_eyelet_and_tabs_have_their_size() -> None:
    result = evaluator().evaluate(
        recipe({"kind": "panel"}, [{"kind": "eyelet", "hole": 5, "band": 3, "thick": 2}])
    )
    plain = evaluator().evaluate(recipe({"kind": "panel"}, []))
    assert result.report.size_mm[1] - plain.report.size_mm[1] == pytest.approx(5.5 * 1.6, abs=0.02)
    # A ring of its own: one hole more than before.
    assert result.report.vertices - result.report.triangles / 2 == 0
    tabs = [{"kind": "tabs", "wide": 4, "slot": 2.6, "clearance": 0.4}]
    wide = evaluator().evaluate(recipe({"kind": "panel"}, tabs))
    assert wide.report.size_mm[0] == pytest.approx(98, abs=1e-3)
    outer = wide.mesh.vertices[wide.mesh.vertices[:, 0] < -0.5]
    assert outer[:, 2].max() == pytest.approx(2.2, abs=1e-3)


def test_a_socket_closes_a_tube_around_its_lamp() -> None:
    tube = {"kind": "tube"}
    result = evaluator().evaluate(recipe(tube, [{"kind": "socket", "lamp": 14, "thick": 2}]))
    assert result.report.manifold
    assert result.report.bodies == 1
    low = result.mesh.vertices[result.mesh.vertices[:, 2] < 1e-3]
    assert np.hypot(low[:, 0], low[:, 1]).min() == pytest.approx((14 + 0.6) / 2, abs=0.01)
    globe = {"kind": "globe", "opening": 16}
    round_one = evaluator().evaluate(recipe(globe, [{"kind": "socket", "lamp": 10}]))
    assert round_one.report.manifold
    assert round_one.report.bodies == 1


@pytest.mark.parametrize(
    ("form", "fitting", "words"),
    [
        ({"kind": "tube"}, {"kind": "socket", "lamp": 40}, "larger than the tube"),
        ({"kind": "panel"}, {"kind": "socket"}, "no inside"),
        ({"kind": "tube"}, {"kind": "tabs"}, "no straight edge"),
        ({"kind": "panel"}, {"kind": "tabs", "slot": 6}, "thicker than the panel"),
        ({"kind": "panel"}, {"kind": "tabs", "slot": 0.4, "clearance": 0.3}, "leaves no tab"),
        ({"kind": "panel"}, {"kind": "eyelet", "hole": 200}, "wider than the piece"),
    ],
)
def test_what_does_not_go_together_is_refused_and_the_rest_stands(
    form: dict[str, Any], fitting: dict[str, Any], words: str
) -> None:
    result = evaluator().evaluate(recipe(form, [{**fitting, "id": "odd"}]))
    (remark,) = result.fitting_remarks
    assert remark.refused
    assert remark.entry_id == "odd"
    assert words in remark.error.why
    assert result.report.manifold
    if "inside" not in words and "edge" not in words:
        assert "The nearest" in remark.error.remedy


@pytest.mark.parametrize("form", FORMS)
def test_the_holder_keeps_its_clearance(form: dict[str, Any]) -> None:
    made = recipe(form, [{"kind": "tabs", "clearance": 0.4}], holder={"lettering": "Corvane"})
    kept = evaluator()
    relief = kept.relief(made)
    piece = kept.evaluate(made)
    for part in ("holder", "cap"):
        mesh = companion(company_of(made), relief, part)  # type: ignore[arg-type]
        assert measure(mesh).manifold
        assert measure(mesh).bodies == 1
    # Put together in the frame that both are made in, nothing touches and nothing rattles.
    holder = solid_of(companion(company_of(made), relief, "holder"))
    panel = solid_of(piece.mesh)
    drop = made.relief.holder.base.mm + 0.2
    if form["kind"] == "panel":
        panel = panel.rotate((90, 0, 0))
    lifted = panel.translate((0, 0, drop))
    assert (lifted ^ holder).volume() == pytest.approx(0, abs=1e-3)
    assert lifted.min_gap(holder, 2.0) == pytest.approx(0.2, abs=0.02)


def test_a_lantern_closes() -> None:
    made = recipe({"kind": "panel"}, [], lantern={"sides": 5, "clearance": 0.3, "vent": 20})
    relief = evaluator().relief(made)
    side = companion(company_of(made), relief, "side")
    assert measure(side).manifold
    assert measure(side).size_mm[0] == pytest.approx(90, abs=1e-3)
    solid = solid_of(side)
    ring = parts.lantern_ring(solid, 90, relief.top_mm, 5)
    # The mitred edges meet: five times one side, with no gap and no overlap between two.
    assert ring.volume() == pytest.approx(5 * solid.volume(), rel=1e-4)
    reach = 90 / 2 / np.tan(np.pi / 5) - relief.top_mm
    standing = solid.translate((-45, 0, 0)).rotate((90, 0, 0)).translate((0, -reach, 0))
    neighbour = standing.rotate((0, 0, 72))
    assert standing.min_gap(neighbour, 1.0) < 1e-3
    assert (standing ^ neighbour).volume() == pytest.approx(0, abs=1e-2)
    for part in ("base", "lid"):
        mesh = companion(company_of(made), relief, part)  # type: ignore[arg-type]
        assert measure(mesh).manifold
        end = solid_of(mesh)
        plate = made.relief.lantern.thick.mm
        lip = end.trim_by_plane((0, 0, 1), plate + 0.02)
        assert ring.translate((0, 0, plate)).min_gap(lip, 3.0) == pytest.approx(0.3, abs=0.02)
    with pytest.raises(InvalidValue, match="too narrow"):
        parts.lantern_side(solid, 4.0, 3.2, 3)


def test_a_holder_needs_tabs_and_a_lantern_a_panel() -> None:
    plain = recipe({"kind": "panel"}, [])
    relief = evaluator().relief(plain)
    with pytest.raises(InvalidValue, match="no tabs"):
        companion(company_of(plain), relief, "holder")
    bent = recipe({"kind": "arc", "bend": 60}, [])
    with pytest.raises(InvalidValue, match="no side"):
        companion(company_of(bent), evaluator().relief(bent), "side")


@pytest.mark.parametrize("form", FORMS)
def test_moving_a_fitting_makes_nothing_anew_but_itself(form: dict[str, Any]) -> None:
    made = evaluator()
    first = made.evaluate(recipe(form, [{"kind": "eyelet", "across": 0.3}]))
    before = dict(made.computed)
    second = made.evaluate(recipe(form, [{"kind": "eyelet", "across": 0.6}]))
    again = {name for name, times in made.computed.items() if times > before.get(name, 0)}
    assert again == {"fitting it out", "laying it on its form", "measuring it"}
    assert second.report.volume_mm3 == pytest.approx(first.report.volume_mm3, rel=1e-3)
    # What was kept is what would be made.
    for fittings in ([], [{"kind": "eyelet", "across": 0.6}]):
        kept = made.evaluate(recipe(form, fittings))
        fresh = evaluator().evaluate(recipe(form, fittings))
        assert kept.report == fresh.report
        assert np.array_equal(kept.mesh.vertices, fresh.mesh.vertices)
