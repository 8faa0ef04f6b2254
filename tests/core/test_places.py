"""Where the forms put things, and back; solids whose parts touch."""

from types import SimpleNamespace
from typing import Any

import numpy as np
import pytest
import trimesh
from hypothesis import given
from hypothesis import strategies as st

from nebrel.core.data import Mesh, Picture
from nebrel.core.errors import NotSolid
from nebrel.core.forms.maps import FormMap, Side, arc_map, dome_map, globe_map, tube_map
from nebrel.core.mesh.measure import measure, merge
from nebrel.core.mesh.writable import for_a_file, from_manifold
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.recipe.models import load_recipe
from nebrel.demo.pictures import smooth_noise

WIDE, TALL = 120.0, 50.0
FORMS: dict[str, Any] = {
    "arc": lambda side: arc_map(WIDE, np.radians(130), side),
    "almost closed": lambda side: arc_map(WIDE, np.radians(350), side),
    "tube": lambda side: tube_map(WIDE, side),
    "globe": lambda side: globe_map(WIDE, TALL, 9.0, side),
    "dome": lambda side: dome_map(WIDE, TALL, np.radians(150), side),
}


def form(name: str, side: Side) -> FormMap:
    return FORMS[name](side)  # type: ignore[no-any-return]


shares = st.lists(
    st.tuples(st.floats(0, 1), st.floats(0, 1), st.floats(0, 1)), min_size=1, max_size=20
)


@pytest.mark.parametrize("side", ["outside", "inside"])
@pytest.mark.parametrize("name", FORMS)
@given(places=shares)
def test_flattening_undoes_laying(name: str, side: Side, places: list[tuple[float, ...]]) -> None:
    laid = form(name, side)
    flat = np.array(places) * (WIDE, TALL, 4.0)
    back = laid.flatten(laid.place(flat))
    if laid.around:
        # Both ends of a turn are the same place.
        turn = np.round((back[:, 0] - flat[:, 0]) / WIDE)
        assert (np.abs(turn) <= 1).all()
        back[:, 0] -= turn * WIDE
    assert back == pytest.approx(flat, abs=1e-6)


@pytest.mark.parametrize("side", ["outside", "inside"])
@pytest.mark.parametrize("name", ["tube", "globe"])
def test_the_seam_is_one_line(name: str, side: Side) -> None:
    laid = form(name, side)
    v, h = np.meshgrid(np.linspace(0, TALL, 9), (0.0, 1.0, 3.0))
    ends = [np.column_stack([np.full(v.size, u), v.ravel(), h.ravel()]) for u in (0.0, WIDE)]
    assert laid.place(ends[0]) == pytest.approx(laid.place(ends[1]), abs=1e-9)
    just_before = laid.place(ends[1] - (1e-6, 0, 0))
    assert laid.flatten(just_before)[:, 0] == pytest.approx(np.full(v.size, WIDE), abs=2e-6)


@pytest.mark.parametrize("side", ["outside", "inside"])
@pytest.mark.parametrize("name", FORMS)
def test_heights_stand_along_the_normal(name: str, side: Side) -> None:
    laid = form(name, side)
    rng = np.random.default_rng(3)
    up = np.array([0, 0, 2])
    low = rng.random((50, 3)) * (WIDE * 0.9, TALL * 0.9, 0) + (WIDE * 0.05, TALL * 0.05, 0)
    up = laid.place(low + up) - laid.place(low)
    assert np.linalg.norm(up, axis=1) == pytest.approx(np.full(50, 2.0), abs=1e-9)
    for step in ((1e-4, 0, 0), (0, 1e-4, 0)):
        along = laid.place(low + step) - laid.place(low)
        assert np.abs((up * along).sum(axis=1) / np.linalg.norm(along, axis=1)).max() < 1e-3


def touching(*boxes: tuple[tuple[float, float, float], tuple[float, float, float]]) -> Any:
    from manifold3d import Manifold

    whole = Manifold()
    for size, place in boxes:
        whole += Manifold.cube(size).translate(place)
    return whole


@pytest.mark.parametrize(
    "boxes",
    [
        (((4, 4, 2), (0, 0, 0)), ((4, 4, 2), (4, 4, 0))),  # along an upright edge
        (((4, 4, 2), (0, 0, 0)), ((4, 4, 2), (4, 4, 2))),  # at a corner
        (((4, 4, 2), (0, 0, 0)), ((4, 4, 2), (0, 4, 2))),  # along a level edge
    ],
)
def test_parts_that_touch_stay_closed_in_a_file(boxes: Any) -> None:
    mesh, report = from_manifold(touching(*boxes), 0.01)
    # A reader of a file joins what lies at one place.
    again = measure(merge(mesh))
    assert report.manifold and again.manifold
    assert again.bodies == 2
    assert again.volume_mm3 == pytest.approx(64, rel=1e-3)
    assert np.abs(mesh.vertices - np.round(mesh.vertices)).max() < 1e-3


def test_slivers_are_taken_out_of_a_file() -> None:
    from manifold3d import Manifold

    # Two blades that meet in a thin wedge: edges of a ten-thousandth of a millimetre.
    block = Manifold.cube((20, 20, 5))
    for shift in (0.0, 5e-5, 1e-4):
        block += Manifold.cube((20, 20, 5)).rotate((0, 0, 1e-4)).translate((shift, shift, 5))
    mesh, report = from_manifold(block, 0.01)
    assert measure(merge(mesh)).manifold
    assert report.volume_mm3 == pytest.approx(4000, rel=1e-4)


class Stubborn:
    """Stands for a solid that comes out whole only once edges of some length are taken out."""

    def __init__(self, needed_mm: float) -> None:
        self.needed_mm = needed_mm
        self.whole = touching(((4, 4, 2), (0, 0, 0)))
        self.moved_mm = 0.0

    def simplify(self, moved_mm: float) -> "Stubborn":
        self.moved_mm = moved_mm
        return self

    def to_mesh(self) -> Any:
        mesh = self.whole.to_mesh()
        if self.moved_mm < self.needed_mm:
            return SimpleNamespace(
                vert_properties=mesh.vert_properties, tri_verts=mesh.tri_verts[1:]
            )
        return mesh


def test_the_remedy_for_short_edges_is_one_that_was_tried() -> None:
    assert from_manifold(Stubborn(0.002), 0.01)[1].manifold
    with pytest.raises(NotSolid, match=r"A tolerance of 0.025 mm works"):
        from_manifold(Stubborn(0.0045), 0.01)
    with pytest.raises(NotSolid, match=r"A tolerance of 0.05 mm works"):
        from_manifold(Stubborn(0.009), 0.01)
    with pytest.raises(NotSolid, match="smooth the heights"):
        from_manifold(Stubborn(1), 0.01)
    assert from_manifold(Stubborn(0.0045), 0.025)[1].manifold


@pytest.mark.parametrize("soft", [False, True])
def test_a_speckled_picture_cut_through_closes_on_a_tube(soft: bool) -> None:
    tones = smooth_noise(120, 160, 40, 3, 11)
    noisy = np.clip(tones + np.random.default_rng(2).normal(0, 0.08, tones.shape), 0, 1)
    noisy = noisy.astype(np.float32) if soft else np.round(noisy * 5).astype(np.float32) / 5
    document = {
        "picture": {"sha256": "0" * 64, "side": 150},
        "form": {"kind": "tube"},
        "heights": {
            "mapping": "plateaus",
            "pins": [{"tone": 0, "mm": None}, {"tone": 0.5, "mm": 1}, {"tone": 1, "mm": 2}],
        },
    }
    found = Evaluator(lambda _: Picture(noisy)).evaluate(load_recipe(document))
    assert found.report.manifold
    assert measure(merge(Mesh(found.mesh.vertices, found.mesh.faces))).manifold


def test_what_was_an_end_of_films_alone_is_left_out() -> None:
    corners = np.array([[0, 0, 0], [5, 0, 0], [0, 5, 0], [0, 0, 5], [9, 9, 9]], np.float32)
    sides = [[0, 2, 1], [0, 1, 3], [1, 2, 3], [2, 0, 3]]
    film = [[0, 1, 4], [1, 0, 4]]
    found, report = for_a_file(Mesh(corners, np.array(sides + film, np.int32)))
    assert report.closed and report.manifold
    assert len(found.faces) == 4 and len(found.vertices) == 4
    assert trimesh.Trimesh(found.vertices, found.faces, process=False).body_count == 1
