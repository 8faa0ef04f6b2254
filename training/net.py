"""The network: what its answer differs by from a body that is swollen over the mask."""

from __future__ import annotations

import argparse
from pathlib import Path

import torch
import torch.nn.functional as f
from torch import Tensor, nn

READS = 8  # features: as `nebrel.core.figure.learned.features`
GIVES = 5  # normals right, up, to the eye; thickness; depth
Widths = tuple[int, int, int, int]
MEDIUM: Widths = (24, 48, 80, 112)
_SMALL = 16  # numbers: fewer are kept as they are


def _layer(reads: int, gives: int, stride: int = 1, size: int = 3) -> nn.Sequential:
    return nn.Sequential(
        nn.Conv2d(reads, gives, size, stride, size // 2, bias=False),
        nn.BatchNorm2d(gives),
        nn.ReLU(inplace=True),
    )


class Net(nn.Module):
    """A U-Net from half to a sixteenth of the picture, and a head at its full size.

    Source: Ronneberger, Fischer and Brox, U-Net (2015).
    """

    def __init__(self, widths: Widths = MEDIUM, head: int = 12) -> None:
        super().__init__()
        a, b, c, d = widths
        self.widths, self.head = widths, head
        stem = nn.Conv2d(READS, a, 4, 2, 1, bias=False)
        self.first = nn.Sequential(stem, nn.BatchNorm2d(a), nn.ReLU(inplace=True), _layer(a, a))
        self.down = nn.ModuleList(
            [
                nn.Sequential(_layer(a, b, 2), _layer(b, b)),
                nn.Sequential(_layer(b, c, 2), _layer(c, c)),
                nn.Sequential(_layer(c, d, 2), _layer(d, d), _layer(d, d)),
            ]
        )
        self.up = nn.ModuleList([_layer(d, c, size=1), _layer(c, b, size=1), _layer(b, a, size=1)])
        self.after = nn.ModuleList(
            [
                nn.Sequential(_layer(2 * c, c), _layer(c, c)),
                nn.Sequential(_layer(2 * b, b), _layer(b, b)),
                nn.Sequential(_layer(2 * a, a), _layer(a, a)),
            ]
        )
        self.before_head, self.in_head = _layer(a, head, size=1), _layer(head + READS, head)
        self.last = nn.Conv2d(head, GIVES, 3, 1, 1)
        nn.init.zeros_(self.last.weight)
        assert self.last.bias is not None
        nn.init.zeros_(self.last.bias)

    def forward(self, given: Tensor) -> Tensor:
        """(n, GIVES, rows, cols) of (n, READS, rows, cols); sides are multiples of 16."""
        kept = [self.first(given)]
        for down in self.down:
            kept.append(down(kept[-1]))
        found = kept.pop()
        for up, after in zip(self.up, self.after, strict=True):
            larger = f.interpolate(up(found), scale_factor=2, mode="nearest")
            found = after(torch.cat([larger, kept.pop()], 1))
        fine = f.interpolate(self.before_head(found), scale_factor=2, mode="bilinear")
        off = self.last(self.in_head(torch.cat([fine, given], 1)))
        normals = off[:, :3] + given[:, 5:8]
        normals = normals / torch.sqrt((normals * normals).sum(1, keepdim=True) + 1e-6)
        half = given[:, 4:5]
        thick = 2 * half * torch.exp(off[:, 3:4].clamp(-3, 3))
        return torch.cat([normals, thick, half + off[:, 4:5]], 1)


def export(net: Net, path: Path) -> None:
    """As ONNX, for pictures of any size; its weights are kept in half as many bytes."""
    import onnx
    from onnx import TensorProto, helper, numpy_helper

    net.eval()
    part = path.with_suffix(".part")
    torch.onnx.export(
        net,
        (torch.zeros(1, READS, 96, 96),),
        str(part),
        input_names=["given"],
        output_names=["found"],
        dynamic_axes={"given": {2: "rows", 3: "cols"}, "found": {2: "rows", 3: "cols"}},
        dynamo=False,
        opset_version=17,
    )
    model = onnx.load(part)
    casts = []
    for one in list(model.graph.initializer):
        if one.data_type != TensorProto.FLOAT or numpy_helper.to_array(one).size < _SMALL:
            continue
        half = numpy_helper.to_array(one).astype("float16")
        model.graph.initializer.remove(one)
        model.graph.initializer.append(numpy_helper.from_array(half, f"{one.name}_half"))
        casts.append(
            helper.make_node("Cast", [f"{one.name}_half"], [one.name], to=TensorProto.FLOAT)
        )
    nodes = [*casts, *model.graph.node]
    del model.graph.node[:]
    model.graph.node.extend(nodes)
    onnx.checker.check_model(model)
    onnx.save(model, part)
    part.replace(path)


def taken_from(path: Path, given: Tensor) -> Net:
    """The network of a file that was shipped, to go on with.

    Its layers were joined with what evens them out when it was exported. They are parted again by
    what the layers give for some pictures, so that it does what it did, and learns as before.

    Parameters
    ----------
    given : (n, READS, rows, cols) features of some pictures
    """
    import onnx
    from onnx import numpy_helper

    model = onnx.load(path)
    kept = {one.name: numpy_helper.to_array(one) for one in model.graph.initializer}
    halves = {n.output[0]: n.input[0] for n in model.graph.node if n.op_type == "Cast"}

    def numbers(name: str) -> Tensor:
        return torch.from_numpy(kept[halves.get(name, name)].astype("float32"))

    told = [
        [numbers(n) for n in one.input[1:]] for one in model.graph.node if one.op_type == "Conv"
    ]
    net = Net()
    net.eval()
    order: list[nn.Conv2d] = []
    hooks = [
        one.register_forward_hook(lambda layer, *_: order.append(layer))
        for one in net.modules()
        if isinstance(one, nn.Conv2d)
    ]
    with torch.no_grad():
        net(given[:1])
    for hook in hooks:
        hook.remove()
    biases = {}
    layers = list(net.modules())
    for layer, (weight, bias) in zip(order, told, strict=True):
        layer.weight.data.copy_(weight)
        if layer.bias is not None:
            layer.bias.data.copy_(bias)
        else:
            follows = layers[layers.index(layer) + 1]
            assert isinstance(follows, nn.BatchNorm2d)
            biases[follows] = bias

    def part(even: nn.BatchNorm2d, into: tuple[Tensor, ...]) -> None:
        spread, mean = torch.var_mean(into[0], (0, 2, 3))
        even.running_mean, even.running_var = mean, spread  # type: ignore[assignment]
        even.weight.data.copy_(torch.sqrt(spread + even.eps))
        even.bias.data.copy_(biases[even] + mean)

    hooks = [even.register_forward_pre_hook(part) for even in biases]  # type: ignore[arg-type]
    with torch.no_grad():
        net(given)
    for hook in hooks:
        hook.remove()
    return net


def main() -> None:
    """`python -m training.net KEPT learned.onnx`: what was learned so far as a network to ship."""
    parser = argparse.ArgumentParser(description=main.__doc__)
    parser.add_argument("kept", type=Path)
    parser.add_argument("out", type=Path)
    options = parser.parse_args()
    kept = torch.load(options.kept, weights_only=True)
    net = Net()
    net.load_state_dict(kept["average"])
    export(net, options.out)
    print(f"{kept['shown']} pictures shown, {options.out.stat().st_size / 1e6:.2f} MB")


if __name__ == "__main__":
    main()
