"""What art may do on a body, and where it lies again: by the whole recipe."""

from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest
import trimesh

from nebrel.core.data import Picture
from nebrel.core.errors import NebrelError
from nebrel.core.formats.meshes import write_mesh
from nebrel.core.mesh.closed import passes_through_itself
from nebrel.core.questions.evaluation import Evaluation
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.questions.fresh_art import of_picture, on_its_ground, what_suits
from nebrel.core.questions.suits import look_at
from nebrel.core.questions.trial import trial_recipe
from nebrel.core.recipe.decoration import Decoration, TextureDecoration
from nebrel.core.recipe.models import load_recipe
from nebrel.core.recipe.step import PictureFile
from nebrel.core.solid.ready import ready_mesh

RED, WAVES = "a" * 64, "b" * 64
PI = np.pi


def picture(sha256: str) -> Picture:
    if sha256 == WAVES:
        share = np.arange(48) / 48
        tones = np.tile(0.5 + 0.5 * np.sin(4 * PI * share), (48, 1)).astype(np.float32)
        return Picture(tones)
    pixels = np.zeros((40, 40, 3), np.float32)
    pixels[:, :20] = 1, 0, 0
    alpha = np.ones((40, 40), np.float32)
    alpha[:20] = 0
    return Picture(pixels, alpha)


def disc(wide: float = 10, height: float = 1.0, x: float = 0.0) -> dict[str, Any]:
    outline = {"kind": "ellipse", "wide": wide, "tall": wide}
    return {"kind": "outline", "outline": outline, "x": x, "height": height, "rule": "add"}


def art(*entries: dict[str, Any], backing: float = 0.5, **said: Any) -> dict[str, Any]:
    made = {"extent": {"wide": 20, "tall": 12}, "backing": backing, "build_up": list(entries)}
    return {**made, "edge": {"kind": "along", "margin": 0}, **said}


BLOCK = {"kind": "plate", "wide": 80, "deep": 60, "tall": 10, "corner": 0}
ABOVE = {"at": (0, 0, 10), "up": (0, 1, 0)}


def evaluated(body: dict[str, Any], *decorations: dict[str, Any]) -> Evaluation:
    begins = {"kind": "body", "body": body, "decorations": list(decorations)}
    found = Evaluator(picture).evaluate(load_recipe({"begins": begins}))
    for done in found.decorations:
        if done.error is not None:
            raise done.error
    return found


def made(body: dict[str, Any], *decorations: dict[str, Any]) -> trimesh.Trimesh:
    mesh = evaluated(body, *decorations).mesh
    found = trimesh.Trimesh(mesh.vertices, mesh.faces, process=False)
    assert found.is_volume
    assert not passes_through_itself(mesh)
    assert all(abs(part.volume) > 1e-3 for part in found.split(only_watertight=False))
    return found


def change(*decorations: dict[str, Any]) -> float:
    return float(made(BLOCK, *decorations).volume) - 48_000


ROUND = PI * 25


@pytest.mark.parametrize("lie", ["surface", "straight"])
def test_raised_sunk_and_on_a_plate(lie: str) -> None:
    one = {"art": art(disc()), "lie": lie, **ABOVE}
    assert change(one) == pytest.approx(ROUND, rel=0.01)
    assert change({**one, "does": "sink"}) == pytest.approx(-ROUND, rel=0.01)
    assert change({**one, "lift": 0.5}) == pytest.approx(1.5 * ROUND, rel=0.01)
    assert change({**one, "times": 2, "deep_times": 0.5}) == pytest.approx(2 * ROUND, rel=0.02)


def test_a_part_raised_and_the_next_one_sunk() -> None:
    ground = {"edge": {}, "backing": 1.2}
    both = {"art": art(disc(8, 1, -5), disc(8, -0.7, 5), **ground), "does": "both", **ABOVE}
    assert change(both) == pytest.approx(PI * 16 * (1 - 0.7), abs=0.6)
    found = made(BLOCK, both)
    assert found.bounds[1][2] == pytest.approx(11, abs=0.02)
    sunk = found.vertices[(found.vertices[:, 2] > 1) & (found.vertices[:, 2] < 9.9)]
    assert sunk[:, 0].min() > 0.9 and sunk[:, 2].min() == pytest.approx(9.3, abs=0.02)


def test_a_part_of_its_own_lies_in_a_pocket_with_its_clearance() -> None:
    inlay = {"art": art(disc(), backing=2), "does": "inlay", "clearance": 0.2, **ABOVE}
    found = made(BLOCK, inlay)
    body, part = sorted(found.split(), key=lambda one: -one.volume)
    assert part.volume == pytest.approx(ROUND * 3, rel=0.01)
    assert body.volume == pytest.approx(48_000 - PI * 5.2**2 * 2.2, rel=1e-3)
    assert part.bounds[0][2] - (10 - 2.2) == pytest.approx(0.2, abs=0.02)


def test_a_fillet_is_round_where_it_meets_the_body() -> None:
    sharp = {"art": art(disc(10, 2)), **ABOVE}
    corner = (1 - PI / 4) * 0.8**2 * 2 * PI * 5.2
    assert change({**sharp, "fillet": 0.8}) - change(sharp) == pytest.approx(corner, rel=0.08)


def test_it_fades_to_nothing_towards_a_side() -> None:
    flat = {
        "art": art({**disc(), "outline": {"kind": "rectangle", "wide": 12, "tall": 8}}),
        **ABOVE,
    }
    fading = {**flat, "fade_to": "left", "fade": 12}
    found = made(BLOCK, fading)
    high = found.vertices[found.vertices[:, 2] > 10.02]
    left, right = high[high[:, 0] < -4], high[high[:, 0] > 4.5]
    assert left[:, 2].max() < 10.4
    assert right[:, 2].max() == pytest.approx(11, abs=0.06)
    assert change(fading) == pytest.approx(12 * 8 / 2, rel=0.06)


def test_towards_its_rim_it_fades_along_its_outline() -> None:
    whole = {"art": art(disc()), **ABOVE}
    rim = {**whole, "fade_to": "rim", "fade": 3}
    away = (np.arange(5000) + 0.5) / 1000
    share = np.clip((5 - away) / 3, 0, 1)
    high = share * share * (3 - 2 * share)
    assert change(rim) == pytest.approx(float((high * 2 * PI * away).sum() / 1000), rel=0.02)
    # A ring has two; a box is told by its sides.
    hole = {**disc(4, 1), "rule": "cut"}
    ringed = {**rim, "art": art(disc(), hole), "fade": 1}
    top = made(BLOCK, ringed).vertices
    high_at = np.hypot(top[:, 0], top[:, 1])[top[:, 2] > 10.95]
    assert high_at.min() == pytest.approx(3, abs=0.25) and high_at.max() == pytest.approx(
        4, abs=0.25
    )


def test_what_is_mended_before_art_is_laid_on_it_is_said(tmp_path: Path) -> None:
    plate = ready_mesh("plate", wide=40, deep=30, tall=6, corner=0)
    path = tmp_path / "open.stl"
    write_mesh(replace(plate, faces=plate.faces[1:]), path)
    begins = {
        "kind": "body",
        "body": {"kind": "mesh", "file": {"sha256": RED, "filename": "open.stl"}},
        "decorations": [{"art": art(disc()), "at": (0, 0, 6), "up": (0, 1, 0)}] * 2,
    }
    recipe = load_recipe({"begins": begins})
    found = Evaluator(picture, meshes=lambda _: path).evaluate(recipe)
    first, second = (done.doubt for done in found.decorations)
    assert found.report.manifold and second is None and first is not None
    assert "is mended before anything is laid on it: 1 hole" in first.why


@pytest.mark.parametrize(
    ("body", "place", "bent"),
    [
        (BLOCK, ABOVE, False),
        (BLOCK, {"at": (40, 0, 8), "up": (0, 1, 0)}, True),
        ({"kind": "cylinder", "diameter": 14, "tall": 30}, {"at": (0, -7, 15)}, False),
        ({"kind": "sphere", "diameter": 30}, {"at": (0, -15, 15), "does": "sink"}, False),
        # Beside the edge, with empty corners over it.
        (BLOCK, {"at": (34.2, 24.2, 10), "up": (0, 1, 0)}, False),
    ],
)
def test_art_that_is_bent_around_an_edge_is_said_to(
    body: dict[str, Any], place: dict[str, Any], bent: bool
) -> None:
    (done,) = evaluated(body, {"art": art(disc()), "up": (0, 0, 1), **place}).decorations
    said = "" if done.doubt is None else str(done.doubt)
    assert ("bent around an edge of" in said) == bent


def test_colour_alone_leaves_the_shape_and_what_is_transparent() -> None:
    shown = {"picture": {"file": {"sha256": RED}, "side": 20}}
    found = evaluated(BLOCK, {"art": shown, "does": "colour", **ABOVE}).mesh
    assert found.colours is not None
    solid = trimesh.Trimesh(found.vertices, found.faces, process=False)
    assert solid.is_volume and solid.volume == pytest.approx(48_000, rel=1e-6)
    x, y, z = found.vertices.T
    on = (z > 9.99) & (np.abs(x) < 9) & (np.abs(y) < 9)
    red = (found.colours[:, 0] > 200) & (found.colours[:, 1] < 60)
    assert red[on & (x < -0.5) & (y < -0.5)].all()
    assert not red[on & (x > 0.5)].any() and not red[on & (y > 0.7)].any()
    assert not red[z < 9].any()


def test_rows_a_mirror_and_around() -> None:
    one = {"art": art(disc(6)), **ABOVE}
    small = PI * 9
    rows = {**one, "layout": "rows", "repeat": 3, "rows": 2, "gap": 9, "row_gap": 12}
    assert change(rows) == pytest.approx(6 * small, rel=0.01)
    mirrored = {**one, "at": (-15, 5, 10), "layout": "mirror", "axis": "x"}
    assert change(mirrored) == pytest.approx(2 * small, rel=0.01)
    found = made(BLOCK, mirrored)
    high = found.vertices[found.vertices[:, 2] > 10.5]
    assert high[:, 0].min() == pytest.approx(-high[:, 0].max(), abs=0.05)
    column = {"kind": "cylinder", "diameter": 40, "tall": 40}
    around = {"art": art(disc(6)), "at": (20, 0, 20), "lie": "axis", "repeat": 6}
    before = PI * 400 * 40
    assert made(column, around).volume - before == pytest.approx(6 * small * 1.02, rel=0.06)


def test_once_all_around_is_one_closed_band() -> None:
    column = {"kind": "cylinder", "diameter": 40, "tall": 40}
    band = {"kind": "outline", "outline": {"kind": "rectangle", "wide": 200, "tall": 6}}
    strip = {
        "extent": {"wide": 125.6, "tall": 6},
        "backing": 0.4,
        "build_up": [{**band, "height": 1}],
    }
    found = made(column, {"art": strip, "at": (20, 0, 20), "lie": "axis"})
    assert found.body_count == 1 and found.euler_number == 2
    assert found.volume - PI * 400 * 40 == pytest.approx(PI * (441 - 400) * 6, rel=0.02)


@pytest.mark.parametrize(
    ("more", "words"),
    [
        ({"layout": "rows", "repeat": 3, "gap": 4}, "reaches into the next"),
        ({"does": "sink", "art": art(disc(10, 12))}, "thick there"),
        ({"at": (38, 28, 10), "art": art(disc(20, 1))}, "no larger than|Choose another place"),
    ],
)
def test_what_overlaps_or_does_not_fit_is_refused(more: dict[str, Any], words: str) -> None:
    with pytest.raises(NebrelError, match=words):
        made(BLOCK, {"art": art(disc()), "lie": "straight", **ABOVE, **more})


def test_too_many_are_refused_and_old_ones_are_read() -> None:
    with pytest.raises(NebrelError, match="would be laid"):
        evaluated(BLOCK, {"art": art(disc()), "layout": "rows", "repeat": 100, "rows": 40})
    begins = {"body": {"file": {"sha256": RED}}, "decorations": [{"art": art(disc())}]}
    body = load_recipe({"begins": begins}).body
    assert body is not None and body.imported is not None
    assert isinstance(body.decorations[0], Decoration)


def test_a_texture_is_a_decoration_among_others() -> None:
    texture = {
        "kind": "texture", "file": {"sha256": WAVES}, "tile": 12, "where": "facing", "fade": 0.5,
    }  # fmt: skip
    found = made(BLOCK, texture, {"art": art(disc(10, 2)), **ABOVE})
    assert found.bounds[1][2] == pytest.approx(12, abs=0.05)
    rest = found.vertices[np.hypot(*found.vertices[:, :2].T) > 8]
    assert 10.3 < rest[:, 2].max() <= 10.61
    assert isinstance(TextureDecoration(file={"sha256": WAVES}), TextureDecoration)  # type: ignore[arg-type]


def test_a_trial_has_each_depth_side_by_side() -> None:
    one = Decoration.model_validate({"id": "x", "art": art(disc()), **ABOVE})
    recipe = trial_recipe(
        one,
        "depth",
        [0.5, 1, 2],
        (20, 12),
        load_recipe({"begins": {"kind": "body", "body": BLOCK}}).made_with,
    )
    found = Evaluator(picture).evaluate(recipe)
    assert [done.error for done in found.decorations] == [None] * 6
    mesh = found.mesh
    assert recipe.body is not None
    plate = recipe.body.body.tall.mm  # type: ignore[union-attr]
    for x, depth in ((-24, 0.5), (0, 1), (24, 2)):
        own = mesh.vertices[np.abs(mesh.vertices[:, 0] - x) < 10]
        assert own[:, 2].max() - plate == pytest.approx(depth, abs=0.02)


def test_the_stretch_is_told_where_it_is() -> None:
    ball = {"kind": "sphere", "diameter": 40}
    begins = {
        "kind": "body",
        "body": ball,
        "decorations": [{"art": art(disc(14)), "at": (0, -20, 20)}],
    }
    mesh, stretch = Evaluator(picture).stretch(load_recipe({"begins": begins}))
    assert stretch.share.shape == (len(mesh.vertices),)
    assert 0.005 < stretch.most < 0.2
    # On the art alone: where a ray from the middle leaves the ball, and on its walls.
    off = np.linalg.norm(mesh.vertices - (0, 0, 20), axis=1) - 20
    assert stretch.share[off > 0.02].min() > 0
    at_rest = np.linalg.norm(mesh.vertices - (0, -20, 20), axis=1) > 7.5
    assert stretch.share[at_rest].max() == 0


def test_what_is_said_of_an_entry_of_the_art_is_told() -> None:
    words = {"kind": "text", "id": "t", "text": "fine", "capital": 0.8, "height": 1}
    begins = {"kind": "body", "body": BLOCK, "decorations": [{"art": art(disc(), words), **ABOVE}]}
    (done,) = Evaluator(picture).evaluate(load_recipe({"begins": begins})).decorations
    assert done.error is None and done.doubt is not None


def test_parts_have_a_sign_and_a_depth_of_their_own() -> None:
    three = disc(4, 1, -6), disc(4, 1, 0), disc(4, 1, 6)
    whole = {"art": art(*three), **ABOVE}
    own = PI * 4
    assert change(whole) == pytest.approx(3 * own, rel=0.02)
    parts = [{"spot": (0.3, 0), "depth": -0.6}, {"spot": (0, 0.05), "depth": 2.0}]
    assert change({**whole, "parts": parts}) == pytest.approx(own * (1 + 2 - 0.6), rel=0.02)
    sunk = {**whole, "does": "sink", "parts": [{"spot": (0, 0), "depth": 0.5}]}
    assert change(sunk) == pytest.approx(own * (-2 + 0.5), rel=0.02)
    assert change({**whole, "times": 2, "parts": parts}) == pytest.approx(4 * own * 2.4, rel=0.02)
    # One that is all of it, and on what is round.
    alone = {"art": art(disc(4)), "parts": [{"spot": (0, 0), "depth": -0.6}]}
    assert change({**alone, **ABOVE}) == pytest.approx(-0.6 * own, rel=0.02)
    ball = made({"kind": "sphere", "diameter": 40}, {**alone, "at": (0, 0, 40)})
    assert len(ball.split()) == 1
    with pytest.raises(NebrelError, match="nothing stands alone there"):
        change({**whole, "parts": [{"spot": (-0.15, 0.45)}]})


def test_what_a_brush_went_over_goes_down_to_nothing() -> None:
    bar = {"kind": "outline", "outline": {"kind": "rectangle", "wide": 16, "tall": 4}, "height": 1}
    whole = {"art": art({**bar, "rule": "add"}), **ABOVE}
    assert change(whole) == pytest.approx(64, rel=0.01)
    stroke = {"spots": [(0.4, -0.5), (0.4, 0.5)], "wide": 0.4}  # 8 mm wide, at 8 mm to the right
    faded = {**whole, "fade_to": "brush", "fade": 4, "fade_strokes": [stroke]}
    # Under it nothing of 4 mm; then half of what 4 mm would be.
    assert change(faded) == pytest.approx(64 - 16 - 8, rel=0.02)
    assert change({**faded, "fade_strokes": []}) == pytest.approx(64, rel=0.01)


SMALL = {"kind": "outline", "outline": {"kind": "ellipse", "wide": 3, "tall": 3}, "height": 1}
TIGHT = {"extent": {"wide": 4, "tall": 4}, "edge": {"kind": "along", "margin": 0}}
ALONG = {"art": art({**SMALL, "rule": "add"}, **TIGHT), "layout": "along"}
LOW_BLOCK = {**BLOCK, "wide": 40, "deep": 30}


def test_along_an_edge_all_stand_equally_far_from_it() -> None:
    along = {**ALONG, "at": (0, -10, 10), "up": (0, 1, 0), "line": "edge"}
    body = made(LOW_BLOCK, {**along, "repeat": 4})
    assert body.volume - 12_000 == pytest.approx(4 * PI * 2.25, rel=0.02)
    top = body.vertices[body.vertices[:, 2] > 10.9]
    inset = np.minimum(20 - np.abs(top[:, 0]), 15 - np.abs(top[:, 1]))
    assert inset.min() == pytest.approx(3.5, abs=0.05) and inset.max() < 6.6


def test_along_a_level_they_go_around() -> None:
    around = {**ALONG, "at": (0, -15, 5), "up": (0, 0, 1), "line": "level", "repeat": 4}
    level = made(LOW_BLOCK, around).volume - 12_000
    assert level == pytest.approx(4 * PI * 2.25, rel=0.02)


def test_spots_are_found_again_from_where_they_lie() -> None:
    from nebrel.core.forms.unrolled import unroll

    ball = ready_mesh("sphere", diameter=60)
    lying = unroll(ball, (0, -30, 30), (0, 0, 1), 20, 12)
    spots = np.array([[0, 0], [5, -3], [-7.5, 4], [2, 6.5]])
    places = lying.place(np.column_stack([spots, np.full(4, 0.8)]))
    found, away = lying.spots_of(places, (16, 16))
    assert found == pytest.approx(spots, abs=0.02)
    assert away == pytest.approx(0.8, abs=0.02)
    assert lying.spots_of(np.array([[0.0, 30.0, 30.0]]), (16, 16))[1][0] > 20


def test_round_art_needs_no_room_for_corners() -> None:
    column = {"kind": "cylinder", "diameter": 40, "tall": 10, "round": 0}
    whole = {"extent": {"wide": 36, "tall": 36}}
    laid = {"art": art(disc(36), **whole), **ABOVE}
    bare = made(column).volume
    assert made(column, laid).volume - bare == pytest.approx(PI * 18**2, rel=0.005)


def test_what_suits_a_body_is_seen_at_once() -> None:
    flat = what_suits(ready_mesh("plate", wide=80, deep=60, tall=4, corner=2))
    assert (flat.wide_mm, flat.at, flat.up) == (24, (0, 0, 4), (0, 1, 0))
    upright = what_suits(ready_mesh("box", wide=50, deep=50, tall=60, round=1))
    assert (upright.wide_mm, upright.at, upright.up) == (20, (0, -25, 30), (0, 0, 1))
    # There is nothing in the middle of a ring: its face is above, a doughnut's side in front.
    ring = what_suits(ready_mesh("ring", inside=18, wide=6, thick=2, face=11))
    assert (ring.up, ring.at[1]) == ((0, 1, 0), 0)
    doughnut = what_suits(ready_mesh("torus", diameter=60, thick=14))
    assert (doughnut.up, doughnut.at[2]) == ((0, 0, 1), 7)


def test_the_room_on_a_face_is_known_where_it_is_flat() -> None:
    plate = what_suits(ready_mesh("plate", wide=80, deep=60, tall=4, corner=2))
    assert plate.room_mm == pytest.approx(30, abs=1e-3)
    medal = what_suits(ready_mesh("medal", diameter=50, tall=2.6, rim=2.4, rim_tall=1))
    # Within its rim the place is above: seen from its highest, the middle is no face.
    assert medal.at[2] == pytest.approx(2.6, abs=1e-3)
    assert medal.room_mm == pytest.approx(25 - 2.4, abs=0.01)
    front = what_suits(ready_mesh("box", wide=50, deep=30, tall=60, round=3))
    assert front.room_mm == pytest.approx(22, abs=0.05)
    assert what_suits(ready_mesh("sphere", diameter=50)).room_mm is None
    mug = what_suits(ready_mesh("mug", diameter=80, tall=92, wall=3, floor=4, handle=10, reach=32))
    assert mug.room_mm is None
    assert mug.at == pytest.approx((0, -40, 46), abs=0.01)
    assert mug.about[:2] == pytest.approx((0, 0), abs=1e-3)


@pytest.mark.parametrize(
    ("kind", "isolated", "mapping"),
    [("shaded", True, "straight"), ("shape", False, "plateaus"), ("whole", False, "straight")],
)
def test_a_plain_ground_is_left_out_of_art(kind: str, isolated: bool, mapping: str) -> None:
    y, x = np.mgrid[-1:1:80j, -1:1:80j]
    ball = np.sqrt(np.clip(0.5 - x**2 - y**2, 0, 1))
    tone = {
        "shaded": np.where(ball > 0, 0.1 + ball, 1.0),
        "shape": np.where(ball > 0, 0.0, 1.0),
        "whole": 0.5 + 0.2 * np.sin(7 * x) * np.cos(5 * y),
    }[kind].astype(np.float32)
    fresh = of_picture(PictureFile(sha256="0" * 64, filename="a.png"), 20, 1)
    found = on_its_ground(fresh, look_at(tone, None, None))
    assert [one.kind for one in found.pictured.corrections] == ["isolate"] * isolated
    assert found.tones is not None
    assert found.tones.mapping == mapping
    assert (found == fresh) == (kind == "whole")


@pytest.mark.parametrize("lie", ["axis", "straight"])
def test_only_where_there_is_art_the_body_is_needed(lie: str) -> None:
    """A small disc to the right on a large sheet, whose left half reaches beyond the body."""
    sheet = {"extent": {"wide": 60, "tall": 8}}
    right = {"art": art(disc(6, 1, 20), **sheet), "lie": lie, "at": (-12, -30, 5)}
    body = {"kind": "box", "wide": 60, "deep": 60, "tall": 10, "round": 0}
    bare = made(body).volume
    assert made(body, {**right, "up": (0, 0, 1)}).volume - bare == pytest.approx(PI * 9, rel=0.02)
    if lie != "axis":
        both = {**right, "layout": "mirror", "axis": "y", "up": (0, 0, 1)}
        assert made(body, both).volume - bare == pytest.approx(2 * PI * 9, rel=0.02)
