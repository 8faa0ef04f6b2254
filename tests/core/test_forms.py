"""Cut-through, plateaus and forms against geometry that is known."""

from typing import Any

import numpy as np
import pytest
import trimesh

from nebrel.core.data import Picture
from nebrel.core.errors import InvalidValue
from nebrel.core.heights.chart import chart_heights
from nebrel.core.outline.trace import trace
from nebrel.core.questions.evaluation import Evaluation
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.recipe.models import load_recipe
from nebrel.demo.pictures import craters
from tests.pictures import ramp


def disc(side: int, radius: float, soft: bool = True) -> np.ndarray:
    """Coverage of a disc in the middle, sampled 8 by 8 a pixel when soft."""
    y, x = np.mgrid[0:side, 0:side] - (side - 1) / 2
    if not soft:
        return (np.hypot(x, y) < radius).astype(np.float32)
    steps = (np.arange(8) - 3.5) / 8
    inside = [np.hypot(x + dx, y + dy) < radius for dx in steps for dy in steps]
    return np.mean(inside, axis=0).astype(np.float32)


def make(
    tones: np.ndarray, wide: float = 100, alpha: np.ndarray | None = None, **steps: Any
) -> Evaluation:
    picture = Picture(np.asarray(tones, np.float32), alpha)
    document = {"picture": {"sha256": "0" * 64, "side": wide}, **steps}
    return Evaluator(lambda _: picture).evaluate(load_recipe(document))


def solid(result: Evaluation) -> trimesh.Trimesh:
    mesh = trimesh.Trimesh(result.mesh.vertices, result.mesh.faces, process=False)
    assert mesh.is_watertight
    assert mesh.is_winding_consistent
    return mesh


def pinned(*pins: tuple[float, float | None], backing: float = 0) -> dict[str, Any]:
    return {
        "mapping": "plateaus",
        "pins": [{"tone": tone, "mm": mm} for tone, mm in pins],
        "backing": backing,
    }


def waves(rows: int = 120, cols: int = 241) -> np.ndarray:
    y, x = np.mgrid[0:rows, 0:cols]
    return 0.5 + 0.4 * np.sin(x / (cols - 1) * 2 * np.pi * 3) * np.cos(y / rows * 5)


@pytest.mark.parametrize(("soft", "rms", "worst"), [(True, 0.1, 0.25), (False, 0.35, 0.5)])
def test_a_disc_is_traced_below_the_pixel(soft: bool, rms: float, worst: float) -> None:
    (loop,) = trace(disc(1001, 400, soft))
    off = np.hypot(*(loop - 500).T) - 400
    assert np.sqrt((off**2).mean()) < rms
    assert np.abs(off).max() < worst
    step = np.roll(loop, -1, axis=0) - loop
    bearing = np.degrees(np.arctan2(step[:, 1], step[:, 0]))
    turn = np.abs((np.diff(bearing, append=bearing[0]) + 180) % 360 - 180)
    assert turn.max() < 12


def test_corners_of_a_hard_square_stay() -> None:
    square = np.zeros((120, 120), np.float32)
    square[30:90, 20:100] = 1
    (loop,) = trace(square)
    for corner in ((19.5, 29.5), (99.5, 29.5), (99.5, 89.5), (19.5, 89.5)):
        assert np.hypot(*(loop - corner).T).min() < 1.2
    x, y = loop.T
    area = abs(np.sum(x * np.roll(y, -1) - y * np.roll(x, -1))) / 2
    assert area == pytest.approx(4800, rel=0.01)


def test_a_full_mask_is_the_whole_rectangle() -> None:
    (loop,) = trace(np.ones((30, 50), np.float32))
    assert loop.min(axis=0) == pytest.approx([0, 0], abs=1e-3)
    assert loop.max(axis=0) == pytest.approx([49, 29], abs=1e-3)


def test_pinned_tones_stand_exactly_and_no_rim_grows() -> None:
    # Black and white with a soft border that passes through the gray that is named too.
    tones = 1 - disc(401, 150)
    tones[10:60, 10:60] = 0.5
    result = make(tones, 40, heights=pinned((0, 2), (0.5, 1), (1, None)))
    mesh = solid(result)
    assert set(np.round(mesh.vertices[:, 2], 3)) == {0, 1, 2}
    area = np.pi * 15**2
    assert mesh.volume == pytest.approx(2 * area + 25, rel=0.002)
    assert result.report.bodies == 2
    standing = make(tones, 40, heights=pinned((0, 2), (0.5, 1), (1, 0.5), backing=1.2))
    levels = np.unique(np.round(standing.mesh.vertices[:, 2], 3))
    assert levels == pytest.approx([0, 1.7, 2.2, 3.2], abs=1e-3)
    assert standing.range_mm == pytest.approx((1.7, 3.2))


def test_the_border_runs_half_way_between_two_tones() -> None:
    tones = np.zeros((40, 101), np.float32)
    tones[:, 50] = 0.25  # a quarter of this pixel is white
    tones[:, 51:] = 1
    mesh = solid(make(tones, 100, heights=pinned((0, 2), (1, None))))
    assert mesh.extents[0] == pytest.approx(50.25 + 0.08, abs=0.12)


def test_cutting_what_the_picture_drops() -> None:
    alpha = disc(301, 120)
    heights = {"depth": 2, "backing": 1, "cut_dropped": True}
    result = make(np.full((301, 301), 0.5), 60, alpha=alpha, heights=heights)
    mesh = solid(result)
    assert mesh.volume == pytest.approx(np.pi * (120 * 0.2) ** 2 * 2, rel=0.002)
    assert np.ptp(mesh.vertices[:, 2]) == pytest.approx(2)
    kept = make(np.full((301, 301), 0.5), 60, alpha=alpha, heights=heights | {"cut_dropped": False})
    assert kept.report.size_mm[:2] == pytest.approx((60, 60))
    with pytest.raises(InvalidValue, match="nothing is left"):
        make(np.zeros((20, 20)), heights=pinned((0, None), (1, 2)))


def crossings(mesh: trimesh.Trimesh, origin: np.ndarray, way: np.ndarray) -> list[np.ndarray]:
    """Distances at which each ray crosses the mesh (Moeller and Trumbore, plain numpy)."""
    a, b, c = np.asarray(mesh.triangles, np.float64).transpose(1, 0, 2)
    found = []
    for start, along in zip(origin, way, strict=True):
        p = np.cross(along, c - a)
        scale = np.einsum("ij,ij->i", b - a, p)
        ok = np.abs(scale) > 1e-14
        inverse = np.divide(1, scale, out=np.zeros_like(scale), where=ok)
        u = np.einsum("ij,ij->i", start - a, p) * inverse
        q = np.cross(start - a, b - a)
        v = q @ along * inverse
        t = np.einsum("ij,ij->i", c - a, q) * inverse
        hit = ok & (u >= -1e-9) & (v >= -1e-9) & (u + v <= 1 + 1e-9) & (t > 0)
        reach = np.sort(t[hit])
        found.append(reach[np.diff(reach, prepend=-1) > 1e-6])
    return found


PLACES = 50
FORMS: list[dict[str, Any]] = [
    {"kind": "arc", "bend": 100},
    {"kind": "arc", "bend": 100, "side": "inside"},
    {"kind": "tube"},
    {"kind": "tube", "side": "inside"},
    {"kind": "globe", "opening": 14},
]


@pytest.mark.parametrize("form", FORMS)
def test_thickness_along_the_normal_is_the_height(form: dict[str, Any]) -> None:
    tones, wide = waves(), 150.0
    result = make(tones, wide, form=form, heights={"depth": 3, "backing": 1.5})
    mesh = solid(result)
    bend = np.radians(form.get("bend", 360))
    radius = wide / bend
    inside = form.get("side") == "inside"
    mm = result.heights.mm
    rows, cols = mm.shape
    rng = np.random.default_rng(3)
    row = rng.integers(30, rows - 12, PLACES)
    col = rng.integers(6, cols - 6, PLACES)
    angle = col / (cols - 1) * bend - bend / 2
    sign = -1.0 if inside else 1.0
    if form["kind"] == "globe":
        low, high = -np.arccos(14 / 2 / radius), np.pi / 2 - 0.4 / radius
        latitude = low + (high - low) * (1 - row / (rows - 1))
        out = np.column_stack(
            [np.sin(angle) * np.cos(latitude), -np.cos(angle) * np.cos(latitude), np.sin(latitude)]
        )
        # It stands on the rim of its opening, the lowest of the inner and the outer one.
        rim = radius + float(mm[-1].max())
        middle = np.tile([0, 0, rim * -np.sin(low)], (PLACES, 1))
    else:
        up = (1 - row / (rows - 1)) * wide / (cols - 1) * (rows - 1)
        out = np.column_stack([np.sin(angle), -sign * np.cos(angle), np.zeros(PLACES)])
        middle = np.column_stack([np.zeros(PLACES), np.zeros(PLACES), up])
    # Rays from the axis outwards meet the inner, then the outer surface.
    reach = crossings(mesh, middle, out)
    for index in range(PLACES):
        found = reach[index]
        assert len(found) >= 2
        thickness = found[1] - found[0]
        assert thickness == pytest.approx(mm[row[index], col[index]], abs=0.0101)
        bare = found[1] if inside else found[0]
        assert bare == pytest.approx(radius, abs=0.006)


def test_sizes_of_bent_pieces() -> None:
    heights = {"depth": 2, "backing": 1}
    flat = np.ones((61, 121), np.float32)
    tube = make(flat, np.pi * 50, form={"kind": "tube"}, heights=heights)
    assert tube.report.size_mm[:2] == pytest.approx((56, 56), abs=0.02)
    assert tube.report.size_mm[2] == pytest.approx(np.pi * 50 / 2)
    assert solid(tube).volume == pytest.approx(np.pi * (28**2 - 25**2) * np.pi * 25, rel=0.001)
    assert solid(tube).euler_number == 0
    half = make(flat, np.pi * 40, form={"kind": "arc", "bend": 180}, heights=heights)
    assert half.report.size_mm[:2] == pytest.approx((86, 43), abs=0.02)
    assert half.mesh.vertices[:, 2].min() == pytest.approx(0, abs=1e-5)
    disc_ = make(np.ones((101, 101)), 50, form={"kind": "disc"}, heights=heights)
    assert solid(disc_).volume == pytest.approx(np.pi * 25**2 * 3, rel=0.001)
    globe = make(flat, np.pi * 60, form={"kind": "globe", "opening": 20}, heights=heights)
    assert solid(globe).euler_number == 2
    assert globe.report.size_mm[0] == pytest.approx(66, abs=0.05)
    assert globe.report.bodies == 1


def test_a_tube_is_cut_through_and_closed_at_the_seam() -> None:
    y, x = np.mgrid[0:101, 0:241]
    tones = np.clip(np.hypot((x % 60) - 30, y - 50) - 15.5, 0, 1)
    holes = make(tones, 120, form={"kind": "tube"}, heights=pinned((1, 2), (0, None)))
    assert solid(holes).euler_number == -8  # a torus with four holes through its wall
    # The same with a hole right on the seam.
    seam = make(np.roll(tones[:, :-1], 30, axis=1)[:, [*range(240), 0]], 120,
                form={"kind": "tube"}, heights=pinned((1, 2), (0, None)))  # fmt: skip
    assert solid(seam).euler_number == -8
    assert seam.report.volume_mm3 == pytest.approx(holes.report.volume_mm3, rel=0.002)


def test_forms_that_cannot_be_made_are_named_with_what_works() -> None:
    high = {"depth": 30, "backing": 2}
    with pytest.raises(InvalidValue, match=r"fold over.*nearest that works"):
        make(ramp(), 100, form={"kind": "tube", "side": "inside"}, heights=high)
    with pytest.raises(InvalidValue, match="opening"):
        make(ramp(), 60, form={"kind": "globe", "opening": 40})
    with pytest.raises(InvalidValue, match="meet itself"):
        make(np.ones((40, 40)), 60, form={"kind": "dome", "bend": 300})


def test_a_chart_meets_its_pins_and_stays_between_them() -> None:
    pins = [(0.1, 0.5), (0.5, 3.0), (0.6, 3.0), (0.95, 1.25)]
    tones = np.array([[tone for tone, _ in pins]], np.float32)
    assert chart_heights(tones, pins)[0] == pytest.approx([mm for _, mm in pins], abs=1e-3)
    line = chart_heights(ramp(2, 2000), pins)[0]
    assert (line.min(), line.max()) == (0.5, 3.0)
    result = make(ramp(40, 60), heights={"mapping": "chart", "backing": 1,
                  "pins": [{"tone": t, "mm": mm} for t, mm in pins]})  # fmt: skip
    assert result.range_mm == pytest.approx((1.5, 4.0), abs=1e-3)


@pytest.mark.parametrize(
    ("heights", "words"),
    [
        (pinned((0.5, 1), (0.5, 2)), "pinned to two heights"),
        (pinned((0, None)), "no tone has a height"),
        ({"mapping": "chart", "pins": [{"tone": 0.1, "mm": 1}]}, "two pins"),
    ],
)
def test_pins_in_contradiction_are_refused(heights: dict[str, Any], words: str) -> None:
    with pytest.raises(InvalidValue, match=words):
        make(ramp(), heights=heights)


@pytest.mark.parametrize("wide", [100, 300])
@pytest.mark.parametrize("kind", ["panel", "arc", "tube", "globe", "disc", "dome"])
def test_a_draft_stays_light_on_every_form(kind: str, wide: float) -> None:
    tones = Picture(craters(300, 450).astype(np.float32))
    recipe = load_recipe({"picture": {"sha256": "0" * 64, "side": wide}, "form": {"kind": kind}})
    draft = Evaluator(lambda _: tones).evaluate(recipe, "draft")
    assert len(draft.mesh.faces) < 17_500
    # Light, and still the piece.
    size = draft.report.size_mm
    if kind == "panel":
        assert size[:2] == pytest.approx((wide, wide * 299 / 449), rel=1e-3)
    if kind in ("tube", "globe"):
        inner, outer = (wide / np.pi + 2 * mm for mm in (0, draft.range_mm[1]))
        assert inner < size[0] <= outer * 1.001
