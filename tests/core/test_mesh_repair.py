"""Broken meshes: what is wrong with them is counted, and mended."""

import numpy as np
import pytest
import trimesh

from nebrel.core.data import Mesh
from nebrel.core.errors import NotSolid
from nebrel.core.kernel import mesh_of, non_zero
from nebrel.core.mesh.crossings import held_mm3
from nebrel.core.mesh.faults import Edges, find_faults
from nebrel.core.mesh.measure import measure, merge
from nebrel.core.mesh.only import without_doubles
from nebrel.core.mesh.repair import mend, repair
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


def test_a_wall_between_two_bodies_goes_and_a_double_sided_one_stays() -> None:
    both = merge(joined(box(10, 10, 10), box(10, 10, 10, at=(10, 0, 0))))
    assert find_faults(both, thickness=False).nonmanifold_edges > 0
    found = repair(both)
    assert found.report.manifold
    assert found.report.volume_mm3 == pytest.approx(2000, rel=1e-3)
    corners = np.array([[x, y, z] for x in (0, 5, 9) for y in (0, 5) for z in (0, 5)], np.float32)
    sides = [[0, 1, 3, 2], [0, 4, 5, 1], [2, 3, 7, 6], [0, 2, 6, 4], [1, 5, 7, 3]]
    near = [[s[0], s[k], s[k + 1]] for s in sides for k in (1, 2)]
    far = [[s[0] + 4, s[k] + 4, s[k + 1] + 4] for s in sides[1:] for k in (1, 2)]
    end, wall = [[8, 10, 11], [8, 11, 9]], [[4, 6, 7], [4, 7, 5]]
    other = [face[::-1] for face in wall]
    found = repair(Mesh(corners, np.array([*near, *wall, *far, *end, *other], np.int32)))
    assert found.report.bodies == 1
    assert found.report.volume_mm3 == pytest.approx(9 * 5 * 5)
    assert found.report.triangles == 20
    assert found.done == ("4 faces of walls inside",)
    whole = ball()
    twice = Mesh(whole.vertices, np.concatenate([whole.faces, whole.faces[:, ::-1]]))
    found = repair(twice)
    assert found.report.triangles == len(whole.faces)
    assert found.report.volume_mm3 == pytest.approx(measure(whole).volume_mm3)


@pytest.mark.parametrize("along_an_edge", [True, False])
def test_a_fin_goes(along_an_edge: bool) -> None:
    whole = box(10, 10, 10)
    a, b = (int(n) for n in (whole.faces[0, :2] if along_an_edge else (0, len(whole.vertices) - 1)))
    n = len(whole.vertices)
    more = np.array([[0, 0, 12], [5, 0, 13]], np.float32)
    fin = Mesh(
        np.concatenate([whole.vertices, more]),
        np.concatenate([whole.faces, np.array([[a, b, n], [b, n + 1, n]], np.int32)]),
    )
    found = repair(fin)
    assert found.report.volume_mm3 == pytest.approx(1000, rel=1e-5)
    assert found.report.bodies == 1
    assert found.mesh.vertices[:, 2].max() == pytest.approx(5)


def test_bodies_that_touch_are_parted() -> None:
    touching = merge(joined(box(2, 2, 2), box(2, 2, 2, at=(2, 2, 0))))
    found = repair(touching)
    assert found.report.bodies == 2
    assert found.report.volume_mm3 == pytest.approx(16, rel=1e-3)
    assert any("touching" in line for line in found.done)


def test_colours_outlast_a_repair() -> None:
    whole = ball(10, 5)
    tints = np.full((len(whole.vertices), 4), 255, np.uint8)
    tints[whole.vertices[:, 0] > 0] = (10, 90, 200, 255)
    broken = with_hole(Mesh(whole.vertices, whole.faces, "two halves", tints), 4)
    found = repair(Mesh(broken.vertices, broken.faces, "two halves", tints)).mesh
    assert found.colours is not None
    assert (found.colours[found.vertices[:, 0] > 0.5, 2] == 200).all()
    assert (found.colours[found.vertices[:, 0] < -0.5, 2] == 255).all()


def test_overlapping_bodies_become_one() -> None:
    found = repair(joined(box(10, 10, 10), box(10, 10, 10, at=(5, 3, 2))))
    assert found.report.bodies == 1
    assert found.report.volume_mm3 == pytest.approx(2000 - 5 * 7 * 8, rel=1e-4)


def test_bodies_that_overlap_by_much_are_not_another_body() -> None:
    near = Mesh(ball(10).vertices + np.float32([3, 0.5, 0.2]), ball(10).faces)
    for both in (joined(ball(10), near), joined(ball(10), ball(5)), joined(ball(10), ball(10))):
        found = repair(both)
        assert found.report.bodies == 1
        assert not found.another
    # The union of two balls: less what both hold, a lens of two caps.
    apart = float(np.linalg.norm([3, 0.5, 0.2]))
    lens = np.pi * (20 - apart) ** 2 * (apart**2 + 40 * apart) / (12 * apart)
    wanted = 2 * measure(ball(10)).volume_mm3 - lens
    assert repair(joined(ball(10), near)).report.volume_mm3 == pytest.approx(wanted, rel=0.01)


def test_one_lobe_of_two_is_another_body() -> None:
    loop = np.array([[0, 0], [10, 9], [10, 1], [0, 7]], float)
    corners = [np.column_stack([loop, np.full(4, z)]) for z in (0.0, 5.0)]
    sides = [[k, (k + 1) % 4, 4 + (k + 1) % 4] for k in range(4)]
    sides += [[k, 4 + (k + 1) % 4, 4 + k] for k in range(4)]
    caps = [[0, 3, 2], [0, 2, 1], [4, 5, 6], [4, 6, 7]]
    found = repair(Mesh(np.concatenate(corners).astype(np.float32), np.int32(sides + caps)))
    assert found.another
    # Triangles of 7 by 4.67 and of 8 by 5.33 mm, 5 mm high.
    assert found.before_mm3 == pytest.approx(188.3, rel=0.02)


def test_what_a_body_goes_around_is_counted_once() -> None:
    assert held_mm3(joined(ball(10), ball(5))) == pytest.approx(
        measure(ball(10)).volume_mm3, rel=0.01
    )
    inner = ball(5)
    hollow = joined(ball(10), Mesh(inner.vertices, np.ascontiguousarray(inner.faces[:, ::-1])))
    assert held_mm3(hollow) == pytest.approx(measure(hollow).volume_mm3, rel=0.01)
    # Thin wires fill next to nothing of their box.
    thin = trimesh.creation.torus(40, 0.1, 200, 12)
    thin.apply_transform(trimesh.transformations.rotation_matrix(0.7, (1, 0.3, 0)))
    wire = Mesh(thin.vertices.astype(np.float32), thin.faces.astype(np.int32))
    assert held_mm3(wire) == pytest.approx(measure(wire).volume_mm3, rel=0.15)


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


@pytest.mark.parametrize(
    ("fault", "only"),
    [
        ("holes", "holes"),
        ("flips", "flipped"),
        ("doubles", "doubles"),
        ("T-junctions", "gaps"),
        ("self-crossings", "crossings"),
        ("floaters", "inside"),
    ],
)
def test_one_fault_alone_is_mended(fault: str, only: str) -> None:
    whole = doughnut()
    found = mend(merge(BREAKS[fault](whole, 3)), [only])  # type: ignore[list-item]
    assert found.done
    assert found.report.manifold
    assert found.report.volume_mm3 == pytest.approx(measure(whole).volume_mm3, rel=5e-3)


def test_what_is_not_asked_for_stays_as_it_is() -> None:
    broken = merge(BREAKS["flips"](with_hole(ball()), 1))
    before = find_faults(broken, thickness=False)
    found = mend(broken, ["flipped"])
    after = find_faults(found.mesh, thickness=False)
    assert (after.flipped, after.holes) == (0, before.holes)
    assert mend(broken, ["inside"]).done == ()
    crossing = mend(merge(BREAKS["self-crossings"](with_hole(ball()), 1)), ["crossings"])
    assert find_faults(crossing.mesh, thickness=False).holes == 1


def test_a_hole_beside_doubles_is_counted() -> None:
    open_ = with_hole(ball())
    beside = np.flatnonzero(np.isin(open_.faces, _border(open_)).any(axis=1))[:2]
    doubled = Mesh(open_.vertices, np.concatenate([open_.faces, open_.faces[beside]]))
    assert find_faults(doubled, thickness=False).holes == 1


def _border(mesh: Mesh) -> np.ndarray:
    edges = Edges.of_faces(mesh.faces.astype(np.int64))
    return np.unique(edges.ends[edges.uses == 1])


def loosened(mesh: Mesh, by_mm: float) -> Mesh:
    """Each face by itself, its corners moved by chance."""
    corners = mesh.vertices[mesh.faces].astype(np.float64)
    corners += np.random.default_rng(4).normal(0, by_mm, corners.shape)
    faces = np.arange(3 * len(corners), dtype=np.int32).reshape(-1, 3)
    return Mesh(corners.reshape(-1, 3).astype(np.float32), faces)


def test_gaps_of_a_hair_are_joined_and_wider_ones_said() -> None:
    whole = ball(20)
    found = repair(loosened(whole, 3e-4))  # up to 0.002 mm apart, on 40 mm
    assert found.report.manifold
    assert found.report.volume_mm3 == pytest.approx(measure(whole).volume_mm3, rel=1e-3)
    with pytest.raises(NotSolid, match="hang together nowhere within"):
        repair(loosened(whole, 0.05))


def test_two_of_the_same_are_doubles_and_nothing_else() -> None:
    faults = find_faults(merge(joined(ball(10), ball(10))), thickness=False)
    assert faults.duplicates == len(ball(10).faces)
    assert faults.floaters == faults.flipped == faults.self_crossings == 0


def test_needles_within_a_flat_face_are_none_and_bent_ones_are() -> None:
    """A cap of two thousand corners is cut into needles, and shades as one face."""
    t = np.linspace(0, 2 * np.pi, 2000, endpoint=False)
    round_plate = non_zero([np.column_stack([50 * np.cos(t), 30 * np.sin(t)])]).extrude(3)
    assert find_faults(mesh_of(round_plate), thickness=False).needles == 0
    whole = ball(20, 2)
    a, b, c = whole.faces[0]
    # A place near an edge, and a little above its face.
    place = (whole.vertices[a] + whole.vertices[b]) / 2
    place = place * 1.0001 + (whole.vertices[c] - place) * 9e-4
    cut = [[a, b, len(whole.vertices)], [b, c, len(whole.vertices)], [c, a, len(whole.vertices)]]
    faces = np.vstack([whole.faces[1:], cut]).astype(np.int32)
    bent = Mesh(np.vstack([whole.vertices, place[None]]).astype(np.float32), faces)
    assert find_faults(bent, thickness=False).needles >= 1


def test_a_place_met_from_several_cells_is_one_vertex_in_a_file() -> None:
    whole = ball(20, 2)
    vertex = int(whole.faces[0, 0])
    around = np.flatnonzero((whole.faces == vertex).any(axis=1))
    other = len(whole.vertices)
    faces = whole.faces.copy()
    # Half of its faces name another vertex at the same place; two faces of no size close that.
    first = around[0]
    k = int(np.flatnonzero(faces[first] == vertex)[0])
    ahead, behind = int(faces[first, (k + 1) % 3]), int(faces[first, (k + 2) % 3])
    faces[first, k] = other
    sides = [[vertex, other, behind], [other, vertex, ahead]]
    split = Mesh(
        np.vstack([whole.vertices, whole.vertices[vertex]]),
        np.vstack([faces, sides]).astype(np.int32),
        colours=np.full((other + 1, 4), 200, np.uint8),
    )
    assert measure(split).manifold
    assert not trimesh.Trimesh(split.vertices, split.faces).is_watertight
    found = without_doubles(split)
    assert trimesh.Trimesh(found.vertices, found.faces).is_watertight
    assert (len(found.vertices), len(found.faces)) == (other, len(whole.faces))
    assert found.colours is not None and len(found.colours) == other
    assert without_doubles(whole) is whole
