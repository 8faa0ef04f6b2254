"""Parts of a figure turned, moved, mirrored and leant; regions clicked, and left alone."""

from dataclasses import replace

import numpy as np
import pytest

from nebrel.core.data import Floats, Mesh, Picture
from nebrel.core.errors import InvalidValue
from nebrel.core.figure.figure import Beside, Wanted, make_figure
from nebrel.core.figure.pose import Part
from nebrel.core.figure.regions import region_at
from nebrel.core.figure.subject import find_subject
from tests.core.test_figure import MIDDLE, PX, SMALL, drawn, solid

BODY, SKIN = (0.8, 0.4, 0.2), (0.2, 0.5, 0.8)
TALL = 100.0
# A body of 100 px, with an arm of 60 px that stands off to the right, 20 px thick.
TRUNK = drawn(lambda x, y: (x / 35) ** 2 + (y / 50) ** 2 < 1)
ARM = drawn(lambda x, y: (np.abs(y + 10) < 10) & (x > 15) & (x < 85))


def doll() -> Picture:
    colours = np.where((ARM > 0.5)[..., None], np.float32(SKIN), np.float32(BODY))
    return Picture(colours.astype(np.float32), np.maximum(TRUNK, ARM))


def made(**arm: object) -> Mesh:
    part = replace(Part(ARM), **arm)  # type: ignore[arg-type]
    wanted = Wanted(tall_mm=TALL, resolution=SMALL)
    return make_figure(find_subject(doll()), wanted, Beside(parts=(part,))).mesh


def reach(mesh: Mesh) -> np.ndarray:
    """Of what has the arm's colour: low and high, from the middle of the trunk, mm."""
    assert mesh.colours is not None
    blue = mesh.colours[:, 2] > 150
    trunk = mesh.vertices[~blue]
    middle = (trunk.min(axis=0) + trunk.max(axis=0)) / 2
    own = mesh.vertices[blue] - middle
    return np.array([own.min(axis=0), own.max(axis=0)])


def test_an_arm_is_turned_about_where_it_meets_the_rest() -> None:
    still, up = made(), made(turn_deg=90)
    solid(up)
    assert reach(still)[1][0] == pytest.approx(85, abs=2)
    high = reach(up)[1]
    # Its joint is about 33 px right of the middle; from there it goes up as far as it went out.
    assert high[0] < 52 and high[2] > 50
    # The trunk is as large as it was, whatever reaches beyond it.
    assert np.ptp(still.vertices[:, 2]) == pytest.approx(TALL, abs=0.5)
    tall = np.ptp(up.vertices[up.colours[:, 2] < 120][:, 2])  # type: ignore[index]
    assert tall == pytest.approx(TALL, abs=1.5)


def test_it_is_moved_by_millimetres_and_turned_about_a_joint_of_ones_own() -> None:
    joint = MIDDLE + 33.0, MIDDLE - 10.0
    down = reach(made(turn_deg=-90, joint=joint))
    assert down[0][2] == pytest.approx(10 - 52, abs=2.5)
    moved = reach(made(right_mm=-5, up_mm=12)) - reach(made())
    assert moved[1] == pytest.approx((-5, 0, 12), abs=1.0)


def test_an_arm_is_there_on_the_other_side_too() -> None:
    mesh = made(mirrored=True)
    solid(mesh)
    low, high = reach(mesh)
    assert -low[0] == pytest.approx(high[0], abs=2.2) and high[0] > 80
    assert mesh.vertices[:, 0].max() == pytest.approx(-mesh.vertices[:, 0].min(), abs=0.8)


def test_its_free_end_comes_forward() -> None:
    joint = MIDDLE + 33.0, MIDDLE - 10.0
    mesh, lean = made(lean_deg=40, joint=joint), np.tan(np.radians(40))
    solid(mesh)
    tip = mesh.vertices[mesh.vertices[:, 0] > mesh.vertices[:, 0].max() - 6]
    # 49 px from its joint to there; forward is -y.
    assert tip[:, 1].mean() == pytest.approx(-49 * lean, abs=3)


def test_what_is_moved_away_from_all_else_is_refused() -> None:
    with pytest.raises(InvalidValue, match="falls into 2 pieces"):
        made(right_mm=60)


def test_a_region_is_what_hangs_together_with_a_place() -> None:
    picture = doll()
    cover: Floats = np.maximum(TRUNK, ARM)
    at = MIDDLE + 60, MIDDLE - 10
    found = region_at(picture.pixels, cover, [at], 0.1)
    assert np.abs(found - (ARM > 0.5) * (cover >= 0.5)).sum() < 0.15 * ARM.sum()
    assert region_at(picture.pixels, cover, [(2, 2), (-5, 900)], 0.1).sum() == 0
    both = region_at(picture.pixels, cover, [at, (MIDDLE - 10, MIDDLE + 20)], 0.1)
    assert both.sum() > 0.97 * (cover >= 0.5).sum()


def test_detail_leaves_a_region_alone() -> None:
    bumps = 0.5 + 0.08 * np.sin(np.arange(PX) / 2.2)[None] * np.ones((PX, 1))
    shown = np.repeat((bumps)[..., None], 3, axis=2).astype(np.float32)
    subject = find_subject(Picture(shown, TRUNK))
    calm = drawn(lambda x, y: y < 0)
    wanted = Wanted(tall_mm=TALL, resolution=SMALL, detail_mm=1.0)

    def rough(beside: Beside, part: slice) -> float:
        mesh = make_figure(subject, wanted, beside).mesh
        plain = make_figure(subject, replace(wanted, detail_mm=0.0)).mesh
        front = [m.vertices[m.vertices[:, 1] < 0] for m in (mesh, plain)]
        some = [f[(f[:, 2] >= part.start) & (f[:, 2] < part.stop)] for f in front]
        return float(abs(some[0][:, 1].mean() - some[1][:, 1].mean()) + some[0][:, 1].std())

    upper, lower = slice(60, 80), slice(20, 40)
    without = rough(Beside(), upper), rough(Beside(), lower)
    with_calm = rough(Beside(calm=calm), upper), rough(Beside(calm=calm), lower)
    even = rough(Beside(calm=np.ones_like(calm)), upper), rough(Beside(), lower)
    assert with_calm[0] == pytest.approx(even[0], rel=1e-3)
    assert with_calm[1] == pytest.approx(without[1], rel=1e-3)
    assert without[0] != pytest.approx(even[0], rel=1e-3)


def test_it_stands_on_four_feet() -> None:
    subject = find_subject(doll())
    wanted = Wanted(tall_mm=TALL, resolution=SMALL)
    bare = make_figure(subject, wanted)
    found = make_figure(subject, replace(wanted, feet_mm=6.0))
    solid(found.mesh)
    assert found.tips_deg > bare.tips_deg + 3
    assert found.mesh.vertices[:, 2].min() == 0
    assert np.ptp(found.mesh.vertices[:, 2]) == pytest.approx(TALL + 6, abs=0.5)
    soles = found.mesh.vertices[found.mesh.vertices[:, 2] < 0.01, :2]
    quarters = {(bool(x > soles[:, 0].mean()), bool(y > 0)) for x, y in soles}
    assert len(quarters) == 4
    both = make_figure(subject, replace(wanted, feet_mm=6.0, base_mm=3.0))
    solid(both.mesh)
    assert both.tips_deg > 8


def test_its_back_keeps_its_place_when_an_arm_reaches_beyond_it() -> None:
    upper = (np.arange(PX) < MIDDLE)[:, None, None]
    behind = np.where(upper, np.float32((0, 1, 0)), np.float32((0, 0, 0))) + np.zeros((1, PX, 1))
    seen = find_subject(Picture(behind.astype(np.float32), np.maximum(TRUNK, ARM)[:, ::-1]))
    borders = []
    for up in (0.0, 40.0):
        beside = Beside(parts=(replace(Part(ARM), turn_deg=90, up_mm=up),), back=seen)
        wanted = Wanted(tall_mm=TALL, resolution=SMALL)
        mesh = make_figure(find_subject(doll()), wanted, beside).mesh
        assert mesh.colours is not None
        places, green = mesh.vertices, mesh.colours[:, 1] > 128
        on = (places[:, 1] > 5) & (np.abs(places[:, 0] - np.median(places[:, 0])) < 10)
        borders.append((places[on & green, 2].min(), places[on & ~green, 2].max()))
    for low, high in borders:
        assert low == pytest.approx(TALL / 2, abs=2) and high == pytest.approx(TALL / 2, abs=2)
