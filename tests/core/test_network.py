"""Networks of one's own, made here: used, and refused in words."""

from pathlib import Path

import numpy as np
import onnx
import pytest
from onnx import TensorProto, helper

from nebrel.core.errors import InvalidValue, NebrelError, UnreadableFile
from nebrel.core.figure.integrate import from_normals
from nebrel.core.figure.network import Network, depth_by

N = 48
PLAIN = Network(values="0 to 1")


def kept(
    path: Path,
    nodes: list[onnx.NodeProto],
    rows: object = "h",
    constants: object = (),
    domain: str | None = None,
    opset: int = 17,
) -> Path:
    """A file of one picture (1, 3, h, w) to y."""
    shape = [1, 3, "h", "w"]
    taken = helper.make_tensor_value_info("x", TensorProto.FLOAT, shape)
    given = helper.make_tensor_value_info("y", TensorProto.FLOAT, None)
    graph = helper.make_graph(nodes, "g", [taken], [given], list(constants))  # type: ignore[call-overload]
    imported = [helper.make_opsetid("", opset)]
    if domain is not None:
        imported.append(helper.make_opsetid(domain, 1))
    model = helper.make_model(graph, opset_imports=imported)
    model.ir_version = 8
    onnx.save(model, str(path))
    return path


def brightness(path: Path) -> Path:
    return kept(path, [helper.make_node("ReduceMean", ["x"], ["y"], axes=[1], keepdims=1)])


def ramp() -> tuple[np.ndarray, np.ndarray]:
    across = np.linspace(0, 1, N, dtype=np.float32)
    return np.dstack([np.tile(across, (N, 1))] * 3), np.ones((N, N), np.float32)


def test_depth_is_taken_as_the_file_is_described(tmp_path: Path) -> None:
    path = brightness(tmp_path / "depth.onnx")
    pixels, cover = ramp()
    near = depth_by(path, Network(values="0 to 1", size=64), pixels, cover)
    assert near.shape == (N, N) and np.abs(near - pixels[..., 0]).max() < 0.05
    far = depth_by(path, Network(values="-1 to 1", near="small"), pixels, cover)
    assert np.abs(far - (1 - pixels[..., 0])).max() < 0.05


def test_normals_become_depth(tmp_path: Path) -> None:
    y, x = (np.mgrid[0:N, 0:N] - (N - 1) / 2) / (N * 0.7)
    normals = np.dstack([x, -y, np.sqrt(1 - x * x - y * y)])
    path = kept(tmp_path / "n.onnx", [helper.make_node("Identity", ["x"], ["y"])])
    shown = ((normals + 1) / 2).astype(np.float32)
    described = Network(gives="normals", values="-1 to 1", size=N)
    found = depth_by(path, described, shown, np.ones((N, N), np.float32))
    true = normals[..., 2]
    assert np.corrcoef(found.ravel(), true.ravel())[0, 1] > 0.99
    whole = from_normals(normals, np.ones((N, N), bool))
    assert np.ptp(whole) == pytest.approx(np.ptp(true) * N * 0.7, rel=0.05)


def wrong(folder: Path, name: str) -> tuple[Path, Network]:
    path = folder / f"{name}.onnx"
    if name == "text":
        path.write_text("no network at all")
    elif name == "cut short":
        brightness(path)
        path.write_bytes(path.read_bytes()[:40])
    elif name == "channels":
        kept(path, [helper.make_node("Identity", ["x"], ["y"])])
    elif name == "operator":
        kept(path, [helper.make_node("FrobnicateDepth", ["x"], ["y"])])
    elif name == "of others":
        node = helper.make_node("Sharpen", ["x"], ["y"], domain="org.elsewhere")
        kept(path, [node], domain="org.elsewhere")
    elif name == "newer":
        kept(path, [helper.make_node("Relu", ["x"], ["y"])], opset=999)
    elif name == "flat":
        kept(
            path,
            [
                helper.make_node("Sub", ["x", "x"], ["z"]),
                helper.make_node("ReduceMean", ["z"], ["y"], axes=[1]),
            ],
        )
    elif name == "40 GB":
        size = helper.make_tensor("n", TensorProto.INT64, [2], [100_000, 100_000])
        kept(path, [helper.make_node("ConstantOfShape", ["n"], ["y"])], constants=[size])
    return path, PLAIN


@pytest.mark.parametrize(
    ("name", "kind", "words"),
    [
        ("gone", UnreadableFile, "cannot be read"),
        ("text", UnreadableFile, "no network"),
        ("cut short", UnreadableFile, "no network"),
        ("operator", UnreadableFile, "the operator FrobnicateDepth, which is missing"),
        ("of others", UnreadableFile, "the operator org.elsewhere:Sharpen, which is missing"),
        ("newer", UnreadableFile, "version 999 of operators, which is too new"),
        ("channels", InvalidValue, "not depth"),
        ("flat", InvalidValue, "same depth everywhere"),
        ("40 GB", InvalidValue, "needs more than 8 GB"),
    ],
)
def test_what_is_no_such_network_is_refused(
    tmp_path: Path, name: str, kind: type[NebrelError], words: str
) -> None:
    path, network = wrong(tmp_path, name)
    with pytest.raises(kind, match=words):
        depth_by(path, network, *ramp())
