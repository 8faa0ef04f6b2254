"""Broken meshes: what is wrong with them is counted, and mended."""

import numpy as np
import pytest

from nebrel.core.data import Mesh
from nebrel.core.errors import NotSolid
from nebrel.core.mesh.faults import find_faults
from nebrel.core.mesh.measure import measure, merge
from nebrel.core.mesh.repair import repair
from tests.meshes import BREAKS, WHOLE, ball, box, doughnut, joined, with_hole


@pytest.mark.parametrize("shape", WHOLE)
@pytest.mark.parametrize("fault", BREAKS)
def test_each_fault_is_counted_and_mended(shape: str, fault: str) -> None:
    whole = WHOLE[shape]()
    for seed in range(2):
        broken = merge(BREAKS[fault](whole, seed))
        faults = find_faults(broken, thickness=False)
        counts = {
            "holes": faults.holes,
            "flips": faults.flipped,
            "doubles": faults.duplicates,
            "T-junctions": faults.holes,
            "self-crossings": faults.self_crossings,
            "needles": faults.degenerate + faults.needles,
            "floaters": faults.floaters,
        }
        assert counts[fault] > 0
        found = repair(broken)
        assert found.report.manifold
        assert found.done
        assert found.report.volume_mm3 == pytest.approx(measure(whole).volume_mm3, rel=5e-3)
        after = find_faults(found.mesh, thickness=False)
        assert after.self_crossings == after.holes == after.flipped == after.floaters == 0


def test_a_whole_mesh_has_no_fault_and_stays_as_it_is() -> None:
    for make in WHOLE.values():
        mesh = make()
        counts = find_faults(mesh, thickness=False).as_dict()
        assert not any(counts.values()), counts
        found = repair(mesh)
        assert found.done == ()
        assert np.array_equal(found.mesh.vertices, mesh.vertices)
        assert np.array_equal(found.mesh.faces, mesh.faces)


def test_what_was_whole_is_untouched_by_a_repair() -> None:
    whole = doughnut()
    found = repair(with_hole(whole)).mesh
    was = {tuple(row) for row in whole.vertices.round(5).tolist()}
    assert {tuple(row) for row in found.vertices.round(5).tolist()} <= was


def test_overlapping_bodies_become_one() -> None:
    found = repair(joined(box(10, 10, 10), box(10, 10, 10, at=(5, 3, 2))))
    assert found.report.bodies == 1
    assert found.report.volume_mm3 == pytest.approx(2000 - 5 * 7 * 8, rel=1e-4)


def test_a_hollow_inside_is_no_fault() -> None:
    inner = ball(5)
    hollow = joined(ball(10), Mesh(inner.vertices, np.ascontiguousarray(inner.faces[:, ::-1])))
    faults = find_faults(hollow)
    assert faults.floaters == faults.flipped == 0
    assert faults.thinnest_mm == pytest.approx(5, abs=0.05)
    assert repair(hollow).done == ()
    turned = joined(ball(10), ball(5))
    assert find_faults(turned, thickness=False).floaters == 1


def test_a_mesh_turned_inside_out_is_turned_back() -> None:
    whole = ball()
    inside_out = Mesh(whole.vertices, np.ascontiguousarray(whole.faces[:, ::-1]))
    assert find_faults(inside_out, thickness=False).flipped == len(whole.faces)
    assert repair(inside_out).report.volume_mm3 == pytest.approx(measure(whole).volume_mm3)


def test_what_cannot_be_closed_says_what_is_left() -> None:
    sheet = Mesh(
        np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0]], np.float32), np.array([[0, 1, 2]], np.int32)
    )
    with pytest.raises(NotSolid, match="left"):
        repair(sheet)


def test_the_thinnest_wall_is_found() -> None:
    assert find_faults(box(30, 20, 1.25)).thinnest_mm == pytest.approx(1.25, abs=1e-4)
    assert find_faults(WHOLE["beaker"]()).thinnest_mm == pytest.approx(2, abs=0.02)
