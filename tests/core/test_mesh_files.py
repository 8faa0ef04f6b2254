"""Mesh files, each format written and read back, by us and by others; and damaged ones."""

import json
import locale
import struct
import zipfile
from dataclasses import replace
from pathlib import Path
from xml.etree import ElementTree
from zipfile import ZIP_DEFLATED, ZipFile

import numpy as np
import pytest
import trimesh
from PIL import Image

from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue, NebrelError, TooLarge, UnreadableFile
from nebrel.core.formats.meshes import read_brought, read_mesh, write_mesh
from nebrel.core.formats.text_stl import write_text_stl
from nebrel.core.formats.threemf import write_3mf
from nebrel.core.mesh.colour import by_height, rgba
from nebrel.core.mesh.measure import measure
from tests.meshes import ball, box, joined

ENDINGS = (".stl", ".obj", ".ply", ".off", ".glb", ".3mf")
TINTED = (".obj", ".ply", ".off", ".glb", ".3mf")


def tinted(mesh: Mesh) -> Mesh:
    rng = np.random.default_rng(4)
    colours = rng.integers(0, 256, (len(mesh.vertices), 4)).astype(np.uint8)
    colours[:, 3] = 255
    return Mesh(mesh.vertices, mesh.faces, "Moon hare", colours)


def by_place(mesh: Mesh) -> dict[tuple[float, ...], int]:
    return {tuple(row): n for n, row in enumerate(mesh.vertices.tolist())}


@pytest.mark.parametrize("ending", ENDINGS)
def test_a_mesh_written_is_read_back_to_the_last_bit(tmp_path: Path, ending: str) -> None:
    mesh = Mesh(ball(37.123).vertices + np.float32(0.337), ball().faces, "Moon hare")
    size = write_mesh(mesh, tmp_path / f"made{ending}")
    assert size == (tmp_path / f"made{ending}").stat().st_size
    found = read_mesh(tmp_path / f"made{ending}")
    assert len(found.faces) == len(mesh.faces)
    assert measure(found).manifold
    if ending == ".glb":  # its node makes metres of it and back
        assert np.abs(np.sort(found.vertices, 0) - np.sort(mesh.vertices, 0)).max() < 1e-5
    elif ending == ".3mf":  # its library reads decimals to the last bit but one
        assert np.abs(np.sort(found.vertices, 0) - np.sort(mesh.vertices, 0)).max() < 5e-6
    else:
        assert by_place(found).keys() == by_place(mesh).keys()


@pytest.mark.parametrize("ending", TINTED)
def test_colours_travel(tmp_path: Path, ending: str) -> None:
    mesh = tinted(box(20, 10, 5))
    write_mesh(mesh, tmp_path / f"made{ending}")
    found = read_mesh(tmp_path / f"made{ending}")
    assert found.colours is not None
    assert mesh.colours is not None
    order = np.lexsort(mesh.vertices.T), np.lexsort(found.vertices.round(5).T)
    off = found.colours[order[1]].astype(int) - mesh.colours[order[0]].astype(int)
    assert np.abs(off).max() <= (14 if ending == ".glb" else 0)  # 8 bits of light in the dark


@pytest.mark.parametrize("ending", (".stl", ".obj", ".ply", ".off", ".glb"))
def test_another_library_reads_what_is_written(tmp_path: Path, ending: str) -> None:
    write_mesh(box(20, 10, 5), tmp_path / f"made{ending}")
    scene = trimesh.load(tmp_path / f"made{ending}")
    found = scene.to_mesh() if isinstance(scene, trimesh.Scene) else scene
    sides = [0.02, 0.005, 0.01] if ending == ".glb" else [20, 10, 5]  # metres, y up
    assert np.ptp(found.vertices, axis=0) == pytest.approx(sides, rel=1e-6)
    assert found.volume == pytest.approx(np.prod(sides), rel=1e-5)


def test_a_3mf_holds_unit_names_and_triangles(tmp_path: Path) -> None:
    path = tmp_path / "two.3mf"
    write_3mf([box(20, 10, 5), tinted(ball(3))], path, title="Shop set")
    with zipfile.ZipFile(path) as packed:
        root = ElementTree.fromstring(packed.read("3D/3dmodel.model"))
    space = "{http://schemas.microsoft.com/3dmanufacturing/core/2015/02}"
    assert root.get("unit") == "millimeter"
    titles = [m.text for m in root.iter(f"{space}metadata") if m.get("name") == "Title"]
    assert titles == ["Shop set"]
    objects = list(root.iter(f"{space}object"))
    assert [thing.get("name") for thing in objects] == ["made", "Moon hare"]
    counts = [len(list(thing.iter(f"{space}triangle"))) for thing in objects]
    assert counts == [len(box(1, 1, 1).faces), len(ball().faces)]
    brought = read_brought(path)
    assert brought.unit == "mm"
    assert [part.name for part in brought.parts] == ["made", "Moon hare"]
    assert brought.parts[1].colours is not None


def test_units_and_components_of_a_3mf_are_applied(tmp_path: Path) -> None:
    write_3mf([box(2, 2, 2)], tmp_path / "one.3mf")
    with zipfile.ZipFile(tmp_path / "one.3mf") as packed:
        names = {name: packed.read(name) for name in packed.namelist()}
    model = names["3D/3dmodel.model"].decode()
    model = model.replace('unit="millimeter"', 'unit="inch"')
    first, last = model.index("<build"), model.index("</build>")
    item = '<component objectid="1" transform="{} 0 0 0 1 0 0 0 1 {} 0 0"/>'
    whole = f'<object id="90" type="model"><components>{item.format(1, 10)}'
    whole += f"{item.format(-1, 0)}</components></object>"
    model = model.replace("</resources>", f"{whole}</resources>")
    first, last = model.index("<build"), model.index("</build>")
    model = f'{model[:first]}<build><item objectid="90"/>{model[last:]}'
    names["3D/3dmodel.model"] = model.encode()
    with zipfile.ZipFile(tmp_path / "two.3mf", "w") as packed:
        for name, data in names.items():
            packed.writestr(name, data)
    report = measure(read_mesh(tmp_path / "two.3mf"))
    assert report.size_mm == pytest.approx((12 * 25.4, 2 * 25.4, 2 * 25.4), rel=1e-5)
    assert report.volume_mm3 == pytest.approx(16 * 25.4**3, rel=1e-5)  # mirrored, not inside out


def test_an_obj_has_groups_materials_and_textures(tmp_path: Path) -> None:
    Image.fromarray(np.array([[[255, 0, 0]] * 8 + [[0, 255, 0]] * 8] * 16, np.uint8)).save(
        tmp_path / "t.png"
    )
    (tmp_path / "m.mtl").write_text("newmtl a\nKd 0 0 1\nnewmtl b\nKd 1 1 1\nmap_Kd t.png\n")
    (tmp_path / "x.obj").write_text(
        "mtllib m.mtl\nv 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\nvt 0.1 0.5\nvt 0.9 0.5\n"
        "o blue one\nusemtl a\nf -4 -3 -2 -1\n"
        "g other\nusemtl b\nf 1/1 2/2 3/2\n"
    )
    brought = read_brought(tmp_path / "x.obj")
    assert [part.name for part in brought.parts] == ["blue one", "other"]
    assert [len(part.faces) for part in brought.parts] == [2, 1]
    blue, other = brought.parts
    assert blue.colours is not None
    assert (blue.colours == [0, 0, 255, 255]).all()
    assert other.colours is not None
    found = {tuple(v): tuple(c[:3]) for v, c in zip(other.vertices, other.colours, strict=True)}
    assert found[0, 0, 0] == (255, 0, 0)
    assert found[1, 0, 0] == (0, 255, 0)


def test_a_text_stl_of_any_spelling_is_read(tmp_path: Path) -> None:
    write_text_stl(ball(), tmp_path / "a.stl")
    text = (tmp_path / "a.stl").read_text()
    (tmp_path / "b.stl").write_text(text.upper().replace("E-", "e-").replace("\n", "\r\n"))
    for name in ("a.stl", "b.stl"):
        report = measure(read_mesh(tmp_path / name))
        assert report.manifold
        assert report.triangles == len(ball().faces)
    broken = text.replace("endfacet", "endfacet", 1).split("facet normal")
    broken[5] = broken[5].replace("vertex", "wertex", 1)
    (tmp_path / "c.stl").write_text("facet normal".join(broken))
    brought = read_brought(tmp_path / "c.stl")
    assert len(brought.parts[0].faces) == len(ball().faces) - 1
    assert "1 broken facet" in brought.notes[0]


def test_a_binary_stl_may_begin_with_solid_and_miscount(tmp_path: Path) -> None:
    path = tmp_path / "a.stl"
    write_mesh(ball(), path)
    data = bytearray(path.read_bytes())
    data[:5] = b"solid"
    path.write_bytes(data)
    assert measure(read_mesh(path)).manifold
    data[80:84] = struct.pack("<I", 7)
    path.write_bytes(data)
    brought = read_brought(path)
    assert len(brought.parts[0].faces) == len(ball().faces)
    assert "claims 7" in brought.notes[0]
    data[80:84] = struct.pack("<I", 2_000_000_000)
    path.write_bytes(data)
    with pytest.raises(UnreadableFile, match="claims 2000000000"):
        read_mesh(path)


def _gltf(**more: object) -> bytes:
    document = {"asset": {"version": "2.0"}, "buffers": [{"byteLength": 4, **more}]}
    text = json.dumps(document).encode()
    text += b" " * (-len(text) % 4)
    return struct.pack("<4sIIII", b"glTF", 2, 20 + len(text), len(text), 0x4E4F534A) + text


BAD = {
    "outside.glb": _gltf(uri="../../secret.bin"),
    "web.gltf": b'{"asset":{"version":"2.0"},"buffers":[{"byteLength":1,"uri":"http://a/b"}]}',
    "range.obj": b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 4\n",
    "negative.obj": b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf -1 -2 -4\n",
    "zero.obj": b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 0 1 2\n",
    "nan.obj": b"v 0 0 nan\nv 1 0 0\nv 0 1 0\nf 1 2 3\n",
    "infinite.ply": b"ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\n"
    b"property float z\nelement face 1\nproperty list uchar int vertex_indices\nend_header\n"
    b"inf 0 0\n1 0 0\n0 1 0\n3 0 1 2\n",
    "empty.off": b"OFF\n0 0 0\n",
    "range.off": b"OFF\n3 1 0\n0 0 0\n1 0 0\n0 1 0\n3 0 1 7\n",
    "no.3mf": b"PK\x03\x04 not really",
    "nothing.stl": b"solid nothing\nendsolid nothing\n",
    "words.obj": b"v one two three\nf 1 2 3\n",
}


@pytest.mark.parametrize("name", BAD)
def test_bad_files_are_refused_in_our_own_words(tmp_path: Path, name: str) -> None:
    (tmp_path / name).write_bytes(BAD[name])
    with pytest.raises(UnreadableFile, match=name):
        read_mesh(tmp_path / name)


def test_packages_that_reach_out_or_blow_up_are_refused(tmp_path: Path) -> None:
    def packed(name: str, entry: str, data: bytes) -> Path:
        with zipfile.ZipFile(tmp_path / name, "w", zipfile.ZIP_DEFLATED) as file:
            file.writestr(entry, data)
        return tmp_path / name

    with pytest.raises(UnreadableFile, match="outside of it"):
        read_mesh(packed("out.3mf", "../../etc/passwd", b"x"))
    entities = b'<!DOCTYPE a [<!ENTITY b "c">]><model>&b;</model>'
    with pytest.raises(UnreadableFile, match="entities"):
        read_mesh(packed("bomb.3mf", "3D/3dmodel.model", entities))
    with pytest.raises(TooLarge, match="unpacks to 100 MB"):
        read_mesh(packed("zip.3mf", "3D/3dmodel.model", bytes(100_000_000)))


def test_a_unit_that_makes_it_four_kilometres_wide_is_refused(tmp_path: Path) -> None:
    write_mesh(box(4000, 10, 10), tmp_path / "a.stl")
    assert measure(read_mesh(tmp_path / "a.stl")).size_mm[0] == pytest.approx(4000)
    with pytest.raises(TooLarge, match="4000 m wide"):
        read_mesh(tmp_path / "a.stl", "m")
    assert read_mesh(tmp_path / "a.stl", "cm").vertices.max() == pytest.approx(20_000)


def test_an_ending_that_nothing_writes_is_refused(tmp_path: Path) -> None:
    with pytest.raises(InvalidValue, match="not a mesh format"):
        write_mesh(ball(), tmp_path / "a.docx")
    with pytest.raises(NebrelError):
        write_mesh(ball(), tmp_path / "nowhere" / "a.stl")


def test_an_obj_with_its_mtl_is_packed_and_read_by_another_library(tmp_path: Path) -> None:
    mesh = by_height(ball(), [8.0], [rgba("#c81e1e"), rgba("#1e1ec8")])
    path = tmp_path / "two colours.zip"
    write_mesh(replace(mesh, name="two colours"), path)
    with ZipFile(path) as packed:
        assert sorted(packed.namelist()) == ["two_colours.mtl", "two_colours.obj"]
        packed.extractall(tmp_path)
    scene = trimesh.load(tmp_path / "two_colours.obj", force="scene")
    tints = {tuple(one.visual.material.diffuse[:3]) for one in scene.geometry.values()}
    assert tints == {(200, 30, 30), (30, 30, 200)}
    assert scene.to_geometry().volume == pytest.approx(measure(mesh).volume_mm3, rel=1e-5)
    again = read_mesh(path)
    assert measure(again) == measure(mesh)
    assert again.colours is not None
    assert {tuple(row) for row in again.colours.tolist()} == {
        (200, 30, 30, 255),
        (30, 30, 200, 255),
    }


@pytest.mark.parametrize(
    ("files", "words"),
    [
        ({"../a.obj": b"v 0 0 0"}, "outside of it"),
        ({"notes.txt": b"none"}, "no mesh"),
        ({"a.obj": b"v 0 0 0", "b.stl": b"x"}, "2 meshes"),
        ({"a.obj": b"v 0 0 0\nf 1 2 3"}, "no vertex 2"),
        ({"a.obj": bytes(200_000_000)}, "unpacks to"),
    ],
)
def test_a_zip_that_packs_no_mesh_is_refused(
    tmp_path: Path, files: dict[str, bytes], words: str
) -> None:
    path = tmp_path / "a.zip"
    with ZipFile(path, "w", ZIP_DEFLATED) as packed:
        for name, data in files.items():
            packed.writestr(name, data)
    with pytest.raises(NebrelError, match=words):
        read_mesh(path)


def test_a_zip_gives_its_materials_too(tmp_path: Path) -> None:
    path = tmp_path / "a.zip"
    obj = (
        b"mtllib a.mtl\nv 0 0 0\nv 9 0 0\nv 0 9 0\nv 0 0 9\nusemtl r\n"
        b"f 1 3 2\nf 1 2 4\nf 1 4 3\nf 2 3 4\n"
    )
    with ZipFile(path, "w") as packed:
        packed.writestr("shop/a.obj", obj)
        packed.writestr("shop/a.mtl", b"newmtl r\nKd 1 0 0\n")
        packed.writestr("__MACOSX/shop/._a.obj", b"junk")
    found = read_mesh(path)
    assert found.colours is not None
    assert (found.colours == (255, 0, 0, 255)).all()


def test_a_3mf_has_an_object_a_body_and_leaves_the_locale_alone(tmp_path: Path) -> None:
    before = locale.setlocale(locale.LC_ALL)
    both = replace(joined(ball(), box(4, 4, 4, at=(30, 0, 0))), name="shop set")
    write_mesh(both, tmp_path / "a.3mf")
    found = read_brought(tmp_path / "a.3mf")
    assert [part.name for part in found.parts] == ["shop set 1", "shop set 2"]
    assert measure(found.joined()).volume_mm3 == pytest.approx(measure(both).volume_mm3)
    assert locale.setlocale(locale.LC_ALL) == before


@pytest.mark.parametrize("ending", [".stl", ".obj", ".ply", ".off", ".3mf", ".zip"])
def test_writing_tells_how_far_it_is(tmp_path: Path, ending: str) -> None:
    told: list[float] = []
    write_mesh(ball(), tmp_path / f"a{ending}", tell=told.append)
    assert told
    assert told == sorted(told)
    assert told[-1] <= 1
