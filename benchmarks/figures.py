"""Figures: how long they take, how true they are, and what of fine shading becomes height.

PYTHONPATH=. .venv/bin/python benchmarks/figures.py [--quick]
"""

from __future__ import annotations

import argparse
import resource
import time
from dataclasses import replace

import cv2
import numpy as np
import trimesh

from nebrel.core.data import Floats, Picture
from nebrel.core.errors import InvalidValue
from nebrel.core.figure.figure import Beside, Part, Wanted, make_figure
from nebrel.core.figure.seen import front_view
from nebrel.core.figure.shading import fine_heights
from nebrel.core.figure.subject import Subject, find_subject
from nebrel.core.questions.evaluation import shown_glb
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.recipe.models import Recipe
from nebrel.demo.figures import oil_lamp, star_keeper
from nebrel.demo.flawed import moon_hare


def _pictures() -> dict[str, Picture]:
    return {
        "hare": Picture(moon_hare(cluttered=False)[0]),
        "keeper": Picture(star_keeper()),
        "lamp": Picture(oil_lamp()),
    }


def _round(pixels: int) -> Subject:
    """A shaded disc that fills its picture: the most triangles that so many cells can give."""
    y, x = np.mgrid[0:pixels, 0:pixels].astype(np.float32) - (pixels - 1) / 2
    away = np.hypot(x, y)
    cover = np.clip(0.46 * pixels - away + 0.5, 0, 1).astype(np.float32)
    shade = 0.3 + 0.5 * np.sqrt(np.clip(1 - (away / (0.46 * pixels)) ** 2, 0, 1))
    colours = shade[..., None] * np.array([0.9, 0.6, 0.4], np.float32)
    return find_subject(Picture(colours.astype(np.float32), cover))


def speed(quick: bool) -> None:
    """A source of 512 pixels at 512 and 1024 cells, and a draft while a dial moves."""
    subject = _round(512)
    make_figure(subject, Wanted(resolution=64, detail_mm=1))  # compiled
    for cells in (512,) if quick else (512, 1024):
        start = time.perf_counter()
        found = make_figure(subject, Wanted(resolution=cells))
        seconds = time.perf_counter() - start
        peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6
        count = len(found.mesh.faces)
        print(f"{cells} cells: {seconds:.1f} s, {peak:.2f} GB at most so far, {count} triangles")
    pictures = _pictures()
    for name, way in (("hare", "inflate"), ("keeper", "half"), ("lamp", "turn")):
        evaluator = Evaluator(lambda _, name=name: pictures[name])
        times = []
        for k in range(9):
            file = {"sha256": "0" * 64}
            begins = {"kind": "figure", "way": way, "picture": {"file": file}, "tall": 70 + k}
            recipe = Recipe.model_validate({"begins": {**begins, "detail": 0.5}})
            start = time.perf_counter()
            shown_glb(recipe, evaluator.evaluate(recipe, "draft"))
            times.append(time.perf_counter() - start)
        print(f"draft of the {name}: median {1000 * float(np.median(times[1:])):.0f} ms")


def truth() -> None:
    """Silhouettes and colours from the picture's own view."""
    for name, picture in _pictures().items():
        subject = find_subject(picture)
        way = "turn" if name == "lamp" else "inflate"
        figure = make_figure(subject, Wanted(way=way, resolution=512))
        seen = front_view(figure.mesh, subject.cover.shape, figure.mm_per_px, figure.low_mm)
        both = seen.inside & (subject.cover > 0.98)
        lab = [
            cv2.cvtColor(one.astype(np.float32), cv2.COLOR_RGB2Lab)[..., 0]
            for one in (seen.colours / 255, subject.pixels)
        ]
        off = float(np.abs(lab[0] - lab[1])[both].mean())
        shared = seen.overlap(subject.cover)
        print(f"{name}: silhouettes {shared:.4f} in both, lightness off {off:.2f}")


def shading() -> None:
    """Fine height out of a lit ellipsoid, and out of paint."""
    n = 384
    y, x = np.mgrid[0:n, 0:n].astype(np.float64)
    u, v = (x - n / 2 + 0.5) / (n * 0.42), -(y - n / 2 + 0.5) / (n * 0.46)
    away = u * u + v * v
    cover = np.clip((1 - np.sqrt(away)) * n * 0.4 + 0.5, 0, 1).astype(np.float32)
    normals = np.dstack([u / 0.42, v / 0.46, np.sqrt(np.clip(1 - away, 1e-4, None)) / 0.45])
    normals /= np.linalg.norm(normals, axis=2, keepdims=True)
    rng = np.random.default_rng(0)
    noise = cv2.GaussianBlur(rng.normal(size=(n, n)), (0, 0), 4.0)
    fine = {
        "bumps": 1.2 * noise / noise.std(),
        "rings": 1.2 * np.sin(np.sqrt(away) * 60),
        "weave": np.sin(x / 3) * np.sin(y / 3),
        "scales": 1.8 * np.abs(np.sin(x / 9)) * np.abs(np.sin(y / 9)),
    }
    lights = {
        "from the side": (-0.5, 0.6, 0.7),
        "raking": (0.8, 0.1, 0.6),
        "from the eye": (0, 0.15, 1),
    }
    inner = away < 0.8

    def lit(high: np.ndarray, light: tuple[float, ...], paint: np.ndarray) -> Floats:
        down, right = np.gradient(high)
        steep = [-normals[..., k] / np.maximum(normals[..., 2], 0.05) for k in (0, 1)]
        way = np.dstack([-(steep[0] + right), -(steep[1] - down), np.ones_like(right)])
        way /= np.linalg.norm(way, axis=2, keepdims=True)
        towards = np.array(light) / np.linalg.norm(light)
        tone = 0.25 + 0.7 * np.clip(way @ towards, 0, None)
        shown = np.clip(tone[..., None] * paint, 0, 1) ** (1 / 2.2)
        return np.clip(shown + rng.normal(size=shown.shape) * 0.005, 0, 1).astype(np.float32)

    def alike(one: np.ndarray, other: np.ndarray) -> float:
        if one[inner].std() == 0:
            return 0.0
        return float(np.corrcoef(one[inner], other[inner])[0, 1])

    def fine_of(values: np.ndarray) -> np.ndarray:
        weight = (cover > 0.98).astype(np.float64)
        low = cv2.GaussianBlur(values * weight, (0, 0), 0.035 * n)
        found: np.ndarray = values - low / np.maximum(
            cv2.GaussianBlur(weight, (0, 0), 0.035 * n), 1e-6
        )
        return found

    plain = np.array([0.8, 0.7, 0.6])
    for name, high in fine.items():
        said = []
        for words, light in lights.items():
            found = fine_heights(lit(high, light, plain), cover, normals)
            said.append(f"{alike(found, fine_of(high)):.2f} {words}")
        print(f"{name}: correlation " + ", ".join(said))
    checks = ((x // 16 + y // 16) % 2)[..., None]
    paints = {
        "coloured checks": np.where(checks, [0.8, 0.4, 0.3], [0.3, 0.5, 0.7]),
        "gray checks": np.where(checks, [0.9, 0.9, 0.9], [0.4, 0.4, 0.4]),
    }
    for name, paint in paints.items():
        soft = cv2.GaussianBlur(paint, (0, 0), 0.6)
        said = []
        for words, light in lights.items():
            found = fine_heights(lit(0 * x, light, soft), cover, normals)
            said.append(f"{alike(found, fine_of(paint.mean(axis=2))):.2f} {words}")
        print(f"{name}: correlation " + ", ".join(said))


def mixed() -> None:
    """Forty figures of mixed kinds, judged by an independent library."""
    rng = np.random.default_rng(3)
    good = 0
    for k in range(40):
        n = int(rng.integers(90, 260))
        cover = np.zeros((n, n), np.uint8)
        points = rng.uniform(0.2, 0.8, (int(rng.integers(3, 9)), 2)) * n
        at = points[0]
        for point in points[1:]:
            cv2.line(
                cover,
                tuple(int(c) for c in at),
                tuple(int(c) for c in point),
                255,
                int(rng.integers(6, 30)),
            )
            at = point
        if k % 3 == 0:
            cv2.circle(cover, (n // 2, n // 2), n // 4, 255, -1)
        mask = cv2.GaussianBlur(cover, (0, 0), 1.0).astype(np.float32) / 255
        pixels = rng.uniform(0, 1, (n, n, 3)).astype(np.float32)
        pixels = cv2.GaussianBlur(pixels, (0, 0), 3)
        region = np.zeros((n, n), np.float32)
        cv2.circle(region, tuple(int(c) for c in points[-1]), n // 8, 1, -1)
        parts = (Part(region, float(rng.uniform(-9, 9)), 1.2, k % 2 == 0),) if k % 4 == 1 else ()
        wanted = Wanted(
            way=("inflate", "half", "turn")[k % 3],
            back=("mirror", "flat", "smooth")[k % 4 % 3],
            detail_mm=float(rng.choice([0, 0.5, 2])),
            half_round=k % 6 == 2,
            wall_mm=2.0 if k % 9 == 5 else 0.0,
            base_mm=3.0 if k % 5 == 0 else 0.0,
            resolution=int(rng.choice([96, 160, 256])),
        )
        subject, beside = find_subject(Picture(pixels, mask)), Beside(parts=parts)
        try:
            mesh = make_figure(subject, wanted, beside).mesh
        except InvalidValue as error:  # what it advises is done
            print(f"{k}: {error}")
            mesh = make_figure(subject, replace(wanted, wall_mm=0.0), beside).mesh
        solid = trimesh.Trimesh(mesh.vertices, mesh.faces, process=False)
        if solid.is_volume and solid.body_count == 1:
            good += 1
        else:
            print(f"{k}: {wanted} closed {solid.is_watertight}, bodies {solid.body_count}")
    print(f"{good} of 40 closed, one body, manifold")


if __name__ == "__main__":
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--quick", action="store_true")
    quick = parser.parse_args().quick
    speed(quick)
    truth()
    shading()
    mixed()
