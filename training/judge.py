"""How near the network comes to what is true, beside a body that is swollen over the mask.

`python -m training.judge PICTURES [--left-out PICTURES] [--scale-on PICTURES]`: what it prints is
what docs/learned.md tells.
"""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.figure.learned import _network, asked, body_over, features, front_of
from training.pictures import Pictures
from training.shapes import LEFT_OUT, TRAINED

Figures = dict[str, NDArray[np.float64]]


def best_scale(of: Pictures, most: int = 400) -> tuple[float, float]:
    """How many times as thick as its film a body is best, for its normals and its thickness."""
    scales = np.linspace(0.4, 1.4, 21)
    angle, thick = np.zeros(len(scales)), np.zeros(len(scales))
    for at in range(min(most, len(of.kind))):
        inside, true = of.inside[at] > 0, _unit(of.normals[at])
        for i, scale in enumerate(scales):
            half, normals = body_over(of.film[at].astype(np.float32), float(scale))
            angle[i] += _angle(normals.transpose(1, 2, 0), true)[inside].mean()
            thick[i] += np.abs(2 * half - of.thick[at])[inside].mean()
    return float(scales[angle.argmin()]), float(scales[thick.argmin()])


def measured(of: Pictures, scales: tuple[float, float], network: Any = None) -> Figures:
    """Of each picture: mean angle of normals in degrees, errors of thickness and depth."""
    network = network or _network()
    names = ("angle", "angle inflated", "thick", "thick inflated", "depth", "depth inflated")
    found: Figures = {name: np.zeros(len(of.shape)) for name in names}
    for i, shape in enumerate(of.shape):
        film, inside = of.film[shape].astype(np.float32), of.inside[shape] > 0
        pixels = of.colours[i].astype(np.float32) / 255
        true, front = _unit(of.normals[shape]), of.front[shape].astype(np.float64)
        thick = of.thick[shape].astype(np.float64)
        said = asked(network, features(pixels, film), inside, np.zeros((2, 3)))
        swollen = body_over(film, scales[0])[1]
        found["angle"][i] = _angle(said.normals, true)[inside].mean()
        found["angle inflated"][i] = _angle(swollen.transpose(1, 2, 0), true)[inside].mean()
        found["thick"][i] = np.abs(said.thick - thick)[inside].mean()
        half_thick = body_over(film, scales[1])[0]
        found["thick inflated"][i] = np.abs(2 * half_thick - thick)[inside].mean()
        found["depth"][i] = _off(front_of(said), front, inside)
        found["depth inflated"][i] = _off(half_thick, front, inside)
    return found


def _unit(normals: NDArray[np.int8]) -> NDArray[np.float32]:
    long = normals.astype(np.float32)
    return np.asarray(long / np.maximum(np.linalg.norm(long, axis=2, keepdims=True), 1e-6))


def _angle(one: Any, other: Any) -> NDArray[np.float64]:
    return np.degrees(np.arccos(np.clip((one * other).sum(axis=2), -1, 1)))


def _off(one: Any, other: Any, inside: NDArray[np.bool_]) -> float:
    apart = (one - other)[inside]
    return float(np.abs(apart - np.median(apart)).mean())


def table(of: Pictures, figures: Figures, names: list[str]) -> dict[str, dict[str, float]]:
    """Means by kind and of all, and ratios."""
    kinds = of.kind[of.shape]
    rows = {name: kinds == at for at, name in enumerate(names)}
    rows["all"] = np.ones(len(kinds), bool)
    found = {}
    for name, chosen in rows.items():
        row = {key: round(float(values[chosen].mean()), 4) for key, values in figures.items()}
        for key in ("angle", "thick", "depth"):
            row[f"{key} ratio"] = round(row[key] / row[f"{key} inflated"], 3)
        worse = figures["angle"][chosen] > figures["angle inflated"][chosen]
        row["worse"] = round(float(worse.mean()), 3)
        found[name] = row
    return found


def main() -> None:
    """Print the figures as JSON, a line for each kind."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("pictures", type=Path)
    parser.add_argument("--kinds", choices=["trained", "left-out"], default="trained")
    parser.add_argument("--scales", type=float, nargs=2, help="left out: chosen on --scale-on")
    parser.add_argument("--scale-on", type=Path)
    parser.add_argument("--network", type=Path)
    options = parser.parse_args()
    if options.scale_on is not None:
        scales = best_scale(Pictures.load(sorted(options.scale_on.glob("*.npz"))[:1]))
    else:
        scales = tuple(options.scales or (1.0, 1.0))
    network = None
    if options.network is not None:
        import onnxruntime

        network = onnxruntime.InferenceSession(str(options.network))
    of = Pictures.load(sorted(options.pictures.glob("*.npz")))
    names = [kind.__name__ for kind in (TRAINED if options.kinds == "trained" else LEFT_OUT)]
    print(json.dumps({"scales": scales}))
    for name, row in table(of, measured(of, scales, network), names).items():
        print(json.dumps({name: row}))


if __name__ == "__main__":
    main()
