"""Train the network on pictures that are made up; it may be stopped and goes on where it was.

`python -m training.train PICTURES KEPT --minutes M`, PICTURES as `training.pictures` makes them,
KEPT the file of what is learned so far.
"""

from __future__ import annotations

import argparse
import copy
import json
import time
from pathlib import Path
from typing import Any

import numpy as np
import torch
from numpy.random import Generator
from numpy.typing import NDArray
from torch import Tensor

from training.net import MEDIUM, Net, taken_from
from training.pictures import Pictures

BATCH = 16
CROP = 80
_FASTEST, _LAST = 3e-3, 0.004  # learning rate, and what is left of it at the end
_WARM = 200  # steps until it is as fast
_KEEP_S = 120.0  # from one file of what is learned to the next
_AVERAGE = 0.9985  # of the weights so far, at each step
_PARTED_BY = 256  # pictures, that a shipped network is taken apart by
_THICK, _DEPTH = 0.7, 0.7  # how much they count beside the normals


def given(of: Pictures, at: NDArray[np.int64], times: float = 1.0) -> tuple[Tensor, ...]:
    """What the network reads of pictures, and inside, normals, depth, thickness.

    Parameters
    ----------
    times : as for `nebrel.core.figure.learned.body_over`
    """
    shape = of.shape[at]

    def layer(values: NDArray[Any]) -> Tensor:
        return torch.from_numpy(values.astype(np.float32))

    colours = layer(of.colours[at]).permute(0, 3, 1, 2) / 255
    inside, film = layer(of.inside[shape])[:, None], layer(of.film[shape])
    pixel = 2 / film.shape[2]
    right, up = torch.zeros_like(film), torch.zeros_like(film)
    right[:, :, 1:-1] = (film[:, :, 2:] - film[:, :, :-2]) / (2 * pixel)
    up[:, 1:-1] = -(film[:, 2:] - film[:, :-2]) / (2 * pixel)
    half = torch.sqrt(film.clamp(min=0))
    swollen = torch.stack([-times * right, -times * up, 2 * half], 1)
    swollen = swollen / torch.sqrt((swollen * swollen).sum(1, keepdim=True) + 1e-8)
    ahead = torch.tensor([0.0, 0, 1]).view(1, 3, 1, 1)
    swollen = swollen * inside + (1 - inside) * ahead
    normals = layer(of.normals[shape]).permute(0, 3, 1, 2)
    normals = normals / torch.sqrt((normals * normals).sum(1, keepdim=True) + 1e-6)
    read = torch.cat([(colours - 0.4) * inside, inside, times * half[:, None], swollen], 1)
    front, thick = layer(of.front[shape])[:, None], layer(of.thick[shape])[:, None]
    return read, inside, normals, front, thick


def _varied(layers: tuple[Tensor, ...], rng: Generator) -> tuple[Tensor, ...]:
    """Mirrored, its colours exchanged and brighter or darker, and a part of it."""
    read, inside, normals, front, thick = layers
    if rng.random() < 0.5:
        read, inside, normals, front, thick = (one.flip(3) for one in layers)
        read, normals = read.clone(), normals.clone()
        read[:, 5] *= -1
        normals[:, 0] *= -1
    order = torch.from_numpy(rng.permutation(3))
    bright = float(rng.uniform(0.8, 1.2))
    read[:, :3] = (read[:, order] + 0.4 * read[:, 3:4]) * bright - 0.4 * read[:, 3:4]
    top, left = rng.integers(0, read.shape[2] - CROP + 1, 2)
    return tuple(
        one[:, :, top : top + CROP, left : left + CROP].contiguous(
            memory_format=torch.channels_last
        )
        for one in (read, inside, normals, front, thick)
    )


def loss(found: Tensor, layers: tuple[Tensor, ...]) -> tuple[Tensor, Tensor, Tensor]:
    """Of normals, thickness and depth; where all of a picture lies is left out."""
    _, inside, normals, front, thick = layers
    share = inside / inside.sum((1, 2, 3), keepdim=True).clamp(min=1) / len(inside)
    apart = ((found[:, :3] - normals) ** 2).sum(1, keepdim=True)
    off = found[:, 4:5] - front
    off = off - (off * share).sum((1, 2, 3), keepdim=True) * len(inside)
    return (
        (torch.sqrt(apart + 1e-3) * share).sum(),
        ((found[:, 3:4] - thick).abs() * share).sum(),
        (off.abs() * share).sum(),
    )


def main() -> None:
    """Train for so long, or until so many pictures were shown."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("pictures", type=Path)
    parser.add_argument("kept", type=Path)
    parser.add_argument("--show", type=int, default=400_000, help="pictures, all in all")
    parser.add_argument("--minutes", type=float, default=1e9)
    parser.add_argument("--threads", type=int, default=1)
    parser.add_argument("--from", dest="shipped", type=Path, help="go on with a shipped network")
    parser.add_argument("--fastest", type=float, default=_FASTEST, help="learning rate")
    options = parser.parse_args()
    torch.set_num_threads(options.threads)
    torch.manual_seed(0)
    rng = np.random.default_rng(time.time_ns() % 2**32)
    net, shown, step = Net(MEDIUM), 0, 0
    paths = sorted(options.pictures.glob("*.npz"))
    train = Pictures.load(paths)
    if options.shipped is not None and not options.kept.exists():
        some = rng.permutation(len(train.shape))[:_PARTED_BY]
        net = taken_from(options.shipped, given(train, some)[0])
    average = copy.deepcopy(net)
    learner = torch.optim.AdamW(net.parameters(), options.fastest, weight_decay=1e-4, fused=True)
    if options.kept.exists():
        kept = torch.load(options.kept, weights_only=True)
        net.load_state_dict(kept["net"])
        average.load_state_dict(kept["average"])
        learner.load_state_dict(kept["learner"])
        shown, step = kept["shown"], kept["step"]
    net = net.to(memory_format=torch.channels_last)
    print(f"{len(train.shape)} pictures, {shown} shown so far", flush=True)
    start = kept_at = time.perf_counter()
    first, order, run = shown, np.zeros(0, np.int64), np.zeros(3)
    while shown < options.show and time.perf_counter() - start < 60 * options.minutes:
        share = shown / options.show
        rate = min(1, (step + 1) / _WARM) * (0.5 * (1 + np.cos(np.pi * share)) + _LAST)
        for group in learner.param_groups:
            group["lr"], group["fused"] = float(options.fastest * rate), True
        if len(order) < BATCH:
            more = sorted(options.pictures.glob("*.npz"))
            if len(more) > len(paths):  # made in the meantime
                paths = more
                train = Pictures.load(paths)
            order = rng.permutation(len(train.shape))
        layers = _varied(given(train, order[:BATCH]), rng)
        order = order[BATCH:]
        parts = loss(net(layers[0]), layers)
        whole = parts[0] + _THICK * parts[1] + _DEPTH * parts[2]
        learner.zero_grad()
        whole.backward()
        torch.nn.utils.clip_grad_norm_(net.parameters(), 2.0)
        learner.step()
        step, shown = step + 1, shown + BATCH
        keep = min(_AVERAGE, (1 + step) / (10 + step))
        with torch.no_grad():
            torch._foreach_lerp_(list(average.parameters()), list(net.parameters()), 1 - keep)
            for mean, now in zip(average.buffers(), net.buffers(), strict=True):
                if mean.dtype.is_floating_point:
                    mean.lerp_(now, 1 - keep)
        run += (np.array([part.item() for part in parts]) - run) * max(0.01, 1 / step)
        if time.perf_counter() - kept_at > _KEEP_S or shown >= options.show:
            kept_at = time.perf_counter()
            _keep(options.kept, net, average, learner, shown, step)
            said = {
                "shown": shown,
                "minutes": round((kept_at - start) / 60, 1),
                "a second": round((shown - first) / (kept_at - start), 1),
                "loss": [round(float(one), 4) for one in run],
            }
            print(json.dumps(said), flush=True)
    _keep(options.kept, net, average, learner, shown, step)


def _keep(
    path: Path, net: Net, average: Net, learner: torch.optim.Optimizer, shown: int, step: int
) -> None:
    part = path.with_suffix(".part")
    states = {"net": net, "average": average, "learner": learner}
    what = {name: one.state_dict() for name, one in states.items()}
    torch.save({**what, "shown": shown, "step": step}, part)
    part.replace(path)


if __name__ == "__main__":
    main()
