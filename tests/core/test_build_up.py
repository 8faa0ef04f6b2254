"""The build-up: edges, patterns, motifs and frames by mathematics, and rays against heights."""

import math
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from nebrel.core.data import Picture
from nebrel.core.outline.outline import Outline
from nebrel.core.outline.raster import fill, inwards_px
from nebrel.core.outline.shapes import rectangle, ring, star
from nebrel.core.questions.evaluation import Evaluation
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.recipe.models import load_recipe
from nebrel.demo.pictures import smooth_noise
from tests.rays import highest_hits

_FLAT = np.zeros((81, 121), np.float32)  # a plate of 60 by 40 mm
_MOTIF = "1" * 64


def make(
    entries: list[dict[str, Any]],
    tones: Any = _FLAT,
    motif: Picture | None = None,
    **heights: Any,
) -> Evaluation:
    """Entries on a backing of 1 mm under a picture of 60 mm, nothing of which stands out."""
    picture = Picture(np.asarray(tones, np.float32))
    recipe = load_recipe(
        {
            "picture": {"sha256": "0" * 64, "side": 60},
            "heights": {
                "backing": 1, "depth": 2, "build_up": [{"kind": "picture"}, *entries], **heights,
            },
        }
    )  # fmt: skip

    def pictures(sha256: str) -> Picture:
        return motif if motif is not None and sha256 == _MOTIF else picture

    found = Evaluator(pictures).evaluate(recipe)
    assert found.report.manifold
    assert found.remarks == ()
    return found


def raised(entries: list[dict[str, Any]], **more: Any) -> float:
    """Volume above the plate, mm³."""
    return make(entries, **more).report.volume_mm3 - 60 * 40 * 1.0


def top(found: Evaluation, *places: tuple[float, float]) -> np.ndarray:
    """Height of the mesh above the backing at places from its middle."""
    x, y = np.array(places, np.float64).T
    return highest_hits(found.mesh, x + 30, y + 20) - 1


@pytest.mark.parametrize(
    ("kind", "lost"),
    [
        ("sharp", 0.0),
        ("chamfer", 1 / 2),
        ("round", 1 - math.pi / 4),
        ("cove", math.pi / 4),
    ],
)
def test_the_edge_of_a_disc_loses_what_its_profile_takes(kind: str, lost: float) -> None:
    radius, high, reach = 12.0, 3.0, 1.5
    disc = {"kind": "ellipse", "wide": 2 * radius, "tall": 2 * radius}
    profile = {"kind": kind, "reach": reach}
    volume = raised([{"kind": "shape", "shape": disc, "height": high, "profile": profile}])
    # Of a square of side `reach` by which height and depth are taken off, `lost` is gone; by
    # the theorem of Pappus that share runs around at the middle of the strip, nearly.
    middle = {"sharp": 0.0, "chamfer": 1 / 3, "round": 0.2234, "cove": 0.4244}[kind]
    gone = lost * reach * reach * 2 * math.pi * (radius - middle * reach)
    assert volume == pytest.approx(math.pi * radius**2 * high - gone, rel=1.5e-3)


@pytest.mark.parametrize("kind", ["chamfer", "round", "cove"])
def test_an_edge_lies_where_its_outline_says(kind: str) -> None:
    box = {"kind": "rectangle", "wide": 20, "tall": 12}
    profile = {"kind": kind, "reach": 2}
    found = make([{"kind": "shape", "shape": box, "height": 3, "profile": profile}])
    share = np.linspace(0.05, 0.95, 10)
    rise = {
        "chamfer": share,
        "round": np.sqrt(1 - (1 - share) ** 2),
        "cove": 1 - np.sqrt(1 - share**2),
    }[kind]
    for across in (
        [(-10 + 2 * s, 1.3) for s in share],
        [(10 - 2 * s, -0.7) for s in share],
        [(2.1, -6 + 2 * s) for s in share],
        [(-3.3, 6 - 2 * s) for s in share],
    ):
        # Within the tolerance in height, or 0.01 mm along the slope where it is steeper.
        steep = np.maximum(1, np.abs(np.gradient(rise, share)))
        assert (np.abs(top(found, *across) - (1 + 2 * rise)) < 0.012 * steep).all()


@pytest.mark.parametrize("kind", ["chamfer", "round", "cove"])
def test_an_edge_added_to_a_relief_lies_where_its_outline_says(kind: str) -> None:
    disc = {"kind": "ellipse", "wide": 24, "tall": 24}
    entry = {
        "kind": "shape", "shape": disc, "rule": "add", "height": 3,
        "profile": {"kind": kind, "reach": 2},
    }  # fmt: skip
    tones = smooth_noise(81, 121, 4, 3, 5)
    under, found = make([], tones), make([entry], tones)
    rng = np.random.default_rng(3)
    turn, inwards = rng.uniform(0, 2 * math.pi, 1500), rng.uniform(0.1, 3, 1500)
    inwards = inwards[np.abs(inwards - 2) > 0.1]  # a cove ends upright there
    across = (12 - inwards) * np.cos(turn[: len(inwards)])
    up = (12 - inwards) * np.sin(turn[: len(inwards)])
    places = list(zip(across.tolist(), up.tolist(), strict=True))
    share = np.clip(inwards / 2, 0, 1)
    rise = {
        "chamfer": share,
        "round": np.sqrt(1 - (1 - share) ** 2),
        "cove": 1 - np.sqrt(1 - share**2),
    }[kind]
    added = top(found, *places) - top(under, *places)
    # Both surfaces are within the tolerance of what they show.
    assert (np.abs(added - (1 + 2 * rise)) < 0.025).all()


def test_a_pillow_without_softness_is_a_roof() -> None:
    box = {"kind": "rectangle", "wide": 20, "tall": 12}
    profile = {"kind": "pillow", "reach": 0, "softness": 0}
    volume = raised([{"kind": "shape", "shape": box, "height": 3, "profile": profile}])
    # A hipped roof over 20 by 12: a prism between two halves of a pyramid.
    assert volume == pytest.approx(3 * (12 * 8 / 2 + 12 * 12 / 3), rel=2e-3)


def test_a_dome_stands_from_nothing_to_its_height() -> None:
    disc = {"kind": "ellipse", "wide": 24, "tall": 24}
    profile = {"kind": "pillow", "reach": 0, "softness": 1}
    found = make([{"kind": "shape", "shape": disc, "height": 3, "profile": profile}])
    heights = top(found, (0, 0), (6, 0), (0, -9), (11.5, 0.1), (12.5, 0))
    assert heights[0] == pytest.approx(3, abs=0.15)
    assert (np.diff(heights) < 0).all()
    assert heights[3] < 0.9
    assert heights[4] == pytest.approx(0, abs=1e-3)


@pytest.mark.parametrize(
    ("shape", "area"),
    [
        ({"kind": "rectangle", "wide": 9, "tall": 6, "corner": 1.5}, 54 - (4 - math.pi) * 1.5**2),
        ({"kind": "ellipse", "wide": 9, "tall": 6}, math.pi * 9 * 6 / 4),
        ({"kind": "polygon", "wide": 8, "sides": 6}, 6 * 16 * math.sin(math.pi / 3) / 2),
        (
            {"kind": "star", "wide": 8, "points": 5, "inner": 0.5},
            5 * 16 * 0.5 * math.sin(math.pi / 5),
        ),
        ({"kind": "line", "wide": 9, "tall": 1.5}, 7.5 * 1.5 + math.pi * 0.75**2),
        ({"kind": "ring", "wide": 8, "band": 1}, math.pi * (16 - 9)),
    ],
    ids=lambda value: value["kind"] if isinstance(value, dict) else "",
)
def test_shapes_and_patterns_of_them_have_their_areas(shape: dict[str, Any], area: float) -> None:
    assert raised([{"kind": "shape", "shape": shape, "height": 2}]) == pytest.approx(
        2 * area, rel=2e-3
    )
    grid = {"kind": "grid", "columns": 3, "rows": 2, "across": 15, "up": 12, "staggered": True}
    rows = [{"kind": "pattern", "unit": shape, "layout": grid, "height": 2}]
    assert raised(rows) == pytest.approx(6 * 2 * area, rel=2e-3)
    around = {"kind": "ring", "count": 4, "radius": 12}
    turned = [{"kind": "pattern", "unit": shape, "layout": around, "height": 2, "turn": 20}]
    assert raised(turned) == pytest.approx(4 * 2 * area, rel=2e-3)


def test_a_line_measures_what_it_says() -> None:
    line = {"kind": "line", "wide": 40, "tall": 2}
    found = make([{"kind": "shape", "shape": line, "height": 2}])
    high = found.mesh.vertices[found.mesh.vertices[:, 2] > 2.9]
    assert np.ptp(high, axis=0)[:2] == pytest.approx([40, 2], abs=0.01)


def test_a_pattern_stands_where_its_layout_says() -> None:
    dot = {"kind": "ellipse", "wide": 4, "tall": 4}
    grid = {"kind": "grid", "columns": 2, "rows": 2, "across": 10, "up": 8, "staggered": True}
    found = make([{"kind": "pattern", "unit": dot, "layout": grid, "height": 1.5, "x": 2, "y": 1}])
    on = [(-3, 5), (7, 5), (2, -3), (12, -3)]
    assert top(found, *on) == pytest.approx([1.5] * 4, abs=1e-3)
    assert top(found, (2, 5), (-3, -3), (7, -3)) == pytest.approx([0] * 3, abs=1e-3)
    # Around a circle the first is on top, and each is turned with it.
    bar = {"kind": "rectangle", "wide": 1, "tall": 6}
    around = {"kind": "ring", "count": 4, "radius": 10, "turned": True}
    found = make([{"kind": "pattern", "unit": bar, "layout": around, "height": 1}])
    assert top(found, (0, 12.5), (12.5, 0), (-12.5, 0), (0, -12.5)) == pytest.approx(
        [1] * 4, abs=1e-3
    )
    assert top(found, (2, 10), (10, 2)) == pytest.approx([0, 0], abs=1e-3)


def test_a_motif_is_laid_by_its_outline_or_its_tones() -> None:
    y, x = np.mgrid[0:101, 0:101] - 50.0
    dark_disc = np.clip(np.hypot(x, y) - 40 + 0.5, 0, 1).astype(np.float32)
    unit = {"kind": "motif", "sha256": _MOTIF, "wide": 20}  # 0.2 mm a pixel: a radius of 8 mm
    by_outline = raised([{"kind": "motif", "motif": unit, "height": 2}], motif=Picture(dark_disc))
    assert by_outline == pytest.approx(2 * math.pi * 64, rel=5e-3)
    ramp = np.linspace(0, 1, 101, dtype=np.float32)[None].repeat(51, 0)
    tones = {**unit, "by": "tones", "raised": "light"}
    found = make([{"kind": "motif", "motif": tones, "height": 3}], motif=Picture(ramp))
    # A wedge of 20 by 10 mm that rises to the right.
    assert found.report.volume_mm3 - 2400 == pytest.approx(3 * 20 * 10 / 2, rel=2e-3)
    assert top(found, (-5, 2), (0, 0), (5, -3)) == pytest.approx([0.75, 1.5, 2.25], abs=0.012)
    # Turned to the left, what was on the right is on top.
    turned = make([{"kind": "motif", "motif": tones, "height": 3, "turn": 90}], motif=Picture(ramp))
    assert top(turned, (2, -5), (0, 0), (-3, 5)) == pytest.approx([0.75, 1.5, 2.25], abs=0.03)
    grid = {"kind": "grid", "columns": 2, "rows": 1, "across": 25, "up": 10}
    twice = raised(
        [{"kind": "pattern", "unit": tones, "layout": grid, "height": 3}], motif=Picture(ramp)
    )
    assert twice == pytest.approx(2 * 300, rel=3e-3)


@pytest.mark.parametrize(
    ("section", "rise"),
    [
        ("square", np.ones_like),
        ("chamfered", lambda s: np.clip(2 * s, 0, 1)),
        ("rounded", lambda s: np.sqrt(1 - (2 * s - 1) ** 2)),
        ("stepped", lambda s: np.where(s < 0.5, 0.5, 1)),
    ],
)
def test_a_frame_has_its_section(section: str, rise: Any) -> None:
    wide, high = 5.0, 3.0
    found = make([{"kind": "frame", "wide": wide, "height": high, "section": section}])
    share = np.array([0.1, 0.25, 0.4, 0.6, 0.8, 0.93])  # from the inner border outwards
    steep = np.maximum(1, 2 * high / wide * 4)
    for inner, side in ((-25, 0), (25, 0), (-15, 1), (15, 1)):
        away = inner + math.copysign(1, inner) * wide * share
        places = [(a, 1.7) if side == 0 else (2.3, a) for a in away]
        assert top(found, *places) == pytest.approx(high * rise(share), abs=0.012 * steep)
    assert top(found, (0, 0), (-24, 3)) == pytest.approx([0, 0], abs=1e-3)


@pytest.mark.parametrize("inset", [0, 3])
def test_a_square_frame_holds_its_volume(inset: float) -> None:
    volume = raised([{"kind": "frame", "wide": 4, "height": 2, "inset": inset}])
    outer = (60 - 2 * inset) * (40 - 2 * inset)
    inner = (60 - 2 * inset - 8) * (40 - 2 * inset - 8)
    assert volume == pytest.approx(2 * (outer - inner), rel=1e-4)


@pytest.mark.parametrize(
    "outline", [star(300, 5, 0.4), rectangle(240.3, 120.7, 20), ring(333, 40), rectangle(200, 100)]
)
def test_distances_to_an_outline_are_exact(outline: Outline) -> None:
    moved = outline.moved(200.37, 201.1)
    placed = list(moved.loops)
    found = inwards_px(placed, 400, 401)
    rng = np.random.default_rng(5)
    rows, cols = rng.integers(0, 400, 500), rng.integers(0, 401, 500)
    start = np.concatenate(placed)
    run = np.concatenate([np.roll(loop, -1, axis=0) for loop in placed]) - start
    off = np.column_stack([cols, rows])[:, None].astype(float) - start
    share = np.clip((off * run).sum(axis=2) / (run * run).sum(axis=1), 0, 1)
    away = np.linalg.norm(off - share[..., None] * run, axis=2).min(axis=1)
    assert np.abs(found[rows, cols]) == pytest.approx(away, abs=1e-4)
    within = moved.inside(cols.astype(float), rows.astype(float))
    assert (fill(placed, 400, 401)[rows, cols] == within).all()
    assert ((found > 0)[rows, cols] == within).all()


_shapes = st.one_of(
    st.fixed_dictionaries(
        {"kind": st.just("rectangle"), "wide": st.floats(2, 30), "tall": st.floats(2, 20)}
    ),
    st.fixed_dictionaries(
        {"kind": st.just("ellipse"), "wide": st.floats(2, 30), "tall": st.floats(2, 20)}
    ),
    st.fixed_dictionaries({"kind": st.just("star"), "wide": st.floats(4, 30)}),
    st.fixed_dictionaries({"kind": st.just("ring"), "wide": st.floats(8, 30)}),
)
_entries = st.lists(
    st.fixed_dictionaries(
        {
            "kind": st.just("shape"),
            "shape": _shapes,
            "rule": st.sampled_from(["replace", "add", "highest", "lowest", "cut"]),
            "height": st.floats(0.3, 3),
            "x": st.floats(-25, 25),
            "y": st.floats(-15, 15),
            "turn": st.floats(-180, 180),
            "profile": st.fixed_dictionaries(
                {
                    "kind": st.sampled_from(["sharp", "chamfer", "round"]),
                    "reach": st.floats(0.5, 2),
                }
            ),
        }
    ),
    min_size=1,
    max_size=4,
)


@settings(max_examples=15, deadline=None)
@given(
    entries=_entries,
    under=st.integers(0, 3),
    rule=st.sampled_from(["replace", "add", "highest", "lowest"]),
    seed=st.integers(0, 99),
)
def test_rays_into_any_build_up_meet_its_heights(
    entries: list[dict[str, Any]], under: int, rule: str, seed: int
) -> None:
    tones = smooth_noise(41, 61, 4, 3, seed)
    if rule == "add":  # a picture is added to nothing but flat entries
        flat = [{**entry, "profile": {"kind": "sharp"}} for entry in entries[:under]]
        entries = [*flat, *entries[under:]]
    build_up = [*entries[:under], {"kind": "picture", "rule": rule}, *entries[under:]]
    recipe = load_recipe(
        {
            "picture": {"sha256": "0" * 64, "side": 60},
            "heights": {"backing": 1, "depth": 2, "build_up": build_up},
        }
    )
    found = Evaluator(lambda _: Picture(tones)).evaluate(recipe)
    assert found.report.manifold
    assert found.relief is not None
    # At pixels: there the promise holds. Right beside a wall a ray may miss it by a hair.
    rng = np.random.default_rng(seed)
    x, y = rng.integers(1, 60, 150) * 1.0, rng.integers(1, 40, 150) * 1.0
    around = [found.relief.at(x + dx, y + dy) for dx in (-0.03, 0.03) for dy in (-0.03, 0.03)]
    heights, there = found.relief.at(x, y)
    calm = np.ones(len(x), bool)
    for other, other_there in around:
        calm &= (np.abs(other - heights) < 0.2) & (other_there == there)
    hits = highest_hits(found.mesh, x, y)
    assert calm.sum() > 40
    assert (np.isnan(hits) == ~there)[calm].all()
    kept = calm & there
    # On a low wall any height between those beside it is one of its own.
    beside = [other for other, _ in around]
    low, high = np.minimum.reduce([heights, *beside]), np.maximum.reduce([heights, *beside])
    # Within the tolerance in height, or 5 micrometres sideways where it is steep.
    give = 0.0101 + 0.005 * (high - low) / 0.06
    assert (hits >= low - give)[kept].all()
    assert (hits <= high + give)[kept].all()
