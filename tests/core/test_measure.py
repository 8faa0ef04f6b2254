from pathlib import Path

import numpy as np
import pytest
import trimesh

from nebrel.core.data import Mesh
from nebrel.core.errors import StorageFailed, UnreadableFile
from nebrel.core.formats import stl
from nebrel.core.formats.glb import encode_glb
from nebrel.core.formats.meshes import read_mesh
from nebrel.core.formats.stl import encode_stl, write_stl
from nebrel.core.mesh import components, shade
from nebrel.core.mesh import fans as fans_module
from nebrel.core.mesh import measure as measure_module
from nebrel.core.mesh.fans import find_twins, number_fans
from nebrel.core.mesh.measure import measure, merge
from nebrel.core.mesh.shade import split_creases


def box(offset: float = 0.0) -> Mesh:
    solid = trimesh.creation.box((2, 3, 4))
    return Mesh(
        solid.vertices.astype(np.float32) + np.float32(offset), solid.faces.astype(np.int32)
    )


def joined(*meshes: Mesh) -> Mesh:
    start = np.cumsum([0] + [len(m.vertices) for m in meshes[:-1]])
    return Mesh(
        np.concatenate([m.vertices for m in meshes]),
        np.concatenate([m.faces + s for m, s in zip(meshes, start, strict=True)]).astype(np.int32),
    )


def test_a_box() -> None:
    report = measure(box())
    assert report.as_dict() == {
        "triangles": 12,
        "vertices": 8,
        "size_mm": [2.0, 3.0, 4.0],
        "volume_mm3": 24.0,
        "area_mm2": 52.0,
        "closed": True,
        "manifold": True,
        "bodies": 1,
    }


def test_a_sphere_agrees_with_another_library() -> None:
    ball = trimesh.creation.icosphere(subdivisions=4, radius=10)
    report = measure(Mesh(ball.vertices.astype(np.float32), ball.faces.astype(np.int32)))
    assert report.volume_mm3 == pytest.approx(ball.volume, rel=1e-5)
    assert report.area_mm2 == pytest.approx(ball.area, rel=1e-5)


def test_a_missing_triangle_is_seen() -> None:
    report = measure(Mesh(box().vertices, box().faces[1:]))
    assert not report.closed
    assert not report.manifold


def test_a_flipped_triangle_is_seen() -> None:
    faces = box().faces.copy()
    faces[0] = faces[0, ::-1]
    assert not measure(Mesh(box().vertices, faces)).closed


def test_two_boxes_are_two_bodies() -> None:
    assert measure(joined(box(), box(10))).bodies == 2


def test_boxes_that_share_a_corner_are_closed_but_not_manifold() -> None:
    other = Mesh(box().vertices + np.float32([2, 3, 4]), box().faces)
    report = measure(merge(joined(box(), other)))
    assert report.closed
    assert not report.manifold
    assert report.bodies == 1


def test_boxes_that_share_an_edge_are_closed_but_not_manifold() -> None:
    other = Mesh(box().vertices + np.float32([2, 3, 0]), box().faces)
    report = measure(merge(joined(box(), other)))
    assert report.closed
    assert not report.manifold


@pytest.mark.parametrize("suffix", [".stl", ".obj", ".ply", ".off", ".glb"])
def test_files_of_another_library(tmp_path: Path, suffix: str) -> None:
    path = tmp_path / f"box{suffix}"
    trimesh.creation.box((2, 3, 4)).export(path)
    report = measure(read_mesh(path))
    assert (report.triangles, report.vertices, report.manifold) == (12, 8, True)
    assert report.volume_mm3 == pytest.approx(24)


def test_text_stl(tmp_path: Path) -> None:
    path = tmp_path / "box.stl"
    path.write_text(trimesh.exchange.stl.export_stl_ascii(trimesh.creation.box((2, 3, 4))))
    assert measure(read_mesh(path)).volume_mm3 == pytest.approx(24, rel=1e-5)


def test_stl_round_trip_through_another_library(tmp_path: Path) -> None:
    path = tmp_path / "box.stl"
    assert write_stl(box(), path) == path.stat().st_size == 84 + 50 * 12
    loaded = trimesh.load(path)
    assert loaded.is_watertight
    assert loaded.volume == pytest.approx(24)
    assert loaded.extents == pytest.approx([2, 3, 4])


@pytest.mark.parametrize(
    ("name", "content"),
    [
        ("cut.stl", b"x" * 84 + b"\x01"),
        ("empty.obj", b""),
        ("words.ply", b"nothing"),
        ("odd.xyz", b"1 2 3"),
    ],
)
def test_bad_meshes_are_refused(tmp_path: Path, name: str, content: bytes) -> None:
    path = tmp_path / name
    path.write_bytes(content)
    with pytest.raises(UnreadableFile, match=name):
        read_mesh(path)


def test_a_failed_write_leaves_the_old_file(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = tmp_path / "kept.stl"
    path.write_bytes(b"before")

    def full(*_: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("nebrel.core.formats.stl._write", full)
    with pytest.raises(StorageFailed, match="space"):
        write_stl(box(), path)
    assert path.read_bytes() == b"before"
    assert list(tmp_path.iterdir()) == [path]


def test_glb_is_read_by_another_library() -> None:
    shown, normals = split_creases(box())
    assert len(shown.vertices) == 24  # three sides meet in each of eight corners
    data = encode_glb(shown, normals, {"key": "k"})
    scene = trimesh.load(trimesh.util.wrap_as_stream(data), file_type="glb", force="mesh")
    assert scene.extents == pytest.approx([2, 3, 4])
    faced = np.abs(normals).max(axis=1)
    assert faced == pytest.approx(np.ones(24), abs=1e-6)


def test_smooth_surfaces_are_not_split() -> None:
    ball = trimesh.creation.icosphere(subdivisions=4, radius=10)
    mesh = Mesh(ball.vertices.astype(np.float32), ball.faces.astype(np.int32))
    shown, normals = split_creases(mesh)
    assert len(shown.vertices) == len(ball.vertices)
    assert np.einsum("ij,ij->i", normals, shown.vertices / 10).min() > 0.999


def test_large_meshes_are_measured_as_small_ones_are(monkeypatch: pytest.MonkeyPatch) -> None:
    """In compiled code and with whole arrays: a closed mesh, one with holes, one that is folded."""
    rng = np.random.default_rng(0)
    ball = trimesh.creation.icosphere(3)
    vertices = np.concatenate([ball.vertices, ball.vertices + 3]).astype(np.float32)
    faces = np.concatenate([ball.faces, ball.faces + len(ball.vertices)]).astype(np.int32)
    pierced = faces[rng.random(len(faces)) > 0.1]
    folded = np.concatenate([faces, faces[:9], faces[5:7, ::-1]])
    pinched = np.where(faces == len(ball.vertices), 0, faces)
    for kind in (faces, pierced, folded, pinched):
        mesh = Mesh(vertices, np.ascontiguousarray(kind, np.int32))
        with monkeypatch.context() as patch:
            for module in (components, fans_module, measure_module, stl, shade):
                patch.setattr(module, "many", lambda _: False)
            plain, drawn = measure(mesh), split_creases(mesh)[1]
            fans = number_fans(find_twins(mesh.faces)[0])
            record = encode_stl(mesh)
        with monkeypatch.context() as patch:
            for module in (components, fans_module, measure_module, stl, shade):
                patch.setattr(module, "many", lambda _: True)
            assert measure(mesh) == plain
            assert split_creases(mesh)[1] == pytest.approx(drawn, abs=1e-5)
            count, label = number_fans(find_twins(mesh.faces)[0])
            assert (count, label.tolist()) == (fans[0], fans[1].tolist())
            other = encode_stl(mesh)
        kept, again = (
            np.frombuffer(data[84:], np.uint8).reshape(-1, 50) for data in (record, other)
        )
        numbers = [rows[:, :48].copy().view("<f4") for rows in (kept, again)]
        assert np.abs(numbers[0] - numbers[1]).max() < 1e-6
