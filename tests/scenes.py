"""Generated scenes: a subject of several colours, its true mask, and marks a hand would make."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np


@dataclass(frozen=True)
class Scene:
    """A picture, what of it is the subject, a box around that and strokes on and off it."""

    name: str
    pixels: np.ndarray
    truth: np.ndarray
    box: tuple[float, float, float, float]
    keep: list[dict[str, object]]
    drop: list[dict[str, object]]


def _texture(rng: np.random.Generator, size: tuple[int, int], grain: float) -> np.ndarray:
    found = sum(
        cv2.resize(
            rng.random((2 + k, 3 + k), np.float32), size[::-1], interpolation=cv2.INTER_CUBIC
        )
        / k
        for k in (2, 5, 11, 31)
    )
    found = (found - found.min()) / (found.max() - found.min())
    return found + grain * rng.normal(size=size).astype(np.float32)


def _ground(rng: np.random.Generator, size: tuple[int, int], a: tuple, b: tuple) -> np.ndarray:
    share = np.clip(_texture(rng, size, 0.05), 0, 1)[..., None]
    return (np.float32(a) * (1 - share) + np.float32(b) * share).astype(np.float32)


def _stroke(*points: tuple[float, float], wide: float = 9) -> dict[str, object]:
    return {"points": [list(point) for point in points], "wide": wide}


def _draw(size: tuple[int, int], shapes: list[tuple]) -> tuple[np.ndarray, np.ndarray]:
    """Colours and cover of ellipses (x, y, rx, ry, turn) and polygons, later ones on top."""
    paint, cover = np.zeros((*size, 3), np.float32), np.zeros(size, np.float32)
    for colour, kind, *rest in shapes:
        mask = np.zeros((size[0] * 4, size[1] * 4), np.uint8)
        if kind == "ellipse":
            x, y, rx, ry, turn = rest
            cv2.ellipse(
                mask, (int(4 * x), int(4 * y)), (int(4 * rx), int(4 * ry)), turn, 0, 360, 255, -1
            )
        else:
            cv2.fillPoly(mask, [(np.array(rest[0]) * 4).astype(np.int32)], 255)
        soft = cv2.resize(mask, size[::-1], interpolation=cv2.INTER_AREA).astype(np.float32) / 255
        paint = paint * (1 - soft[..., None]) + np.float32(colour) * soft[..., None]
        cover = np.maximum(cover, soft)
    return paint, cover


def _scene(
    name: str, seed: int, ground: tuple, shapes: list[tuple], keep: list, drop: list,
    grain: float = 0.03,
) -> Scene:  # fmt: skip
    size = (360, 480)
    rng = np.random.default_rng(seed)
    paint, cover = _draw(size, shapes)
    shade = 0.9 + 0.2 * _texture(rng, size, 0)[..., None]
    pixels = _ground(rng, size, *ground) * (1 - cover[..., None])
    # The paint of what is drawn was mixed with black at its soft edge: undo that.
    pixels += paint * shade
    pixels += grain * rng.normal(size=pixels.shape)
    pixels = np.clip(cv2.GaussianBlur(pixels.astype(np.float32), (0, 0), 0.7), 0, 1)
    y, x = np.nonzero(cover > 0.5)
    box = (x.min() - 9.0, y.min() - 9.0, np.ptp(x) + 18.0, np.ptp(y) + 18.0)
    return Scene(name, pixels, cover > 0.5, box, keep, drop)


def scenes() -> list[Scene]:
    """Eleven of them; no keep stroke touches every colour of its subject."""
    grass, sand = ((0.25, 0.42, 0.2), (0.45, 0.58, 0.3)), ((0.72, 0.62, 0.45), (0.86, 0.78, 0.6))
    slate, brick = ((0.3, 0.33, 0.38), (0.48, 0.52, 0.58)), ((0.5, 0.28, 0.22), (0.68, 0.42, 0.34))
    sky, wood = ((0.5, 0.66, 0.85), (0.7, 0.82, 0.95)), ((0.42, 0.28, 0.16), (0.6, 0.44, 0.28))
    skin, red, blue = (0.85, 0.65, 0.52), (0.7, 0.12, 0.14), (0.12, 0.2, 0.55)
    white, black, gold = (0.93, 0.93, 0.9), (0.08, 0.08, 0.1), (0.85, 0.68, 0.15)
    return [
        _scene("figure of two colours", 1, grass,
               [(red, "ellipse", 240, 240, 70, 90, 0), (skin, "ellipse", 240, 120, 42, 50, 0)],
               [_stroke((220, 230), (260, 260))], []),
        _scene("coat, face, hair", 2, slate,
               [(blue, "ellipse", 230, 265, 90, 80, 0), (skin, "ellipse", 230, 150, 40, 52, 0),
                (black, "ellipse", 230, 108, 44, 26, 0)],
               [_stroke((200, 260), (260, 270))], [_stroke((60, 60), (60, 200))]),
        _scene("cup and saucer", 3, wood,
               [(white, "ellipse", 240, 250, 130, 34, 0), (blue, "ellipse", 235, 180, 70, 74, 0),
                (gold, "ellipse", 235, 118, 66, 14, 0)],
               [_stroke((210, 180), (260, 190))], []),
        _scene("parrot", 4, grass,
               [(red, "ellipse", 230, 190, 55, 95, 20), (gold, "ellipse", 262, 215, 30, 70, 25),
                (blue, "ellipse", 285, 275, 20, 60, 30), (white, "ellipse", 205, 105, 22, 18, 0)],
               [_stroke((220, 150), (225, 210))], []),
        _scene("boat", 5, sky,
               [(red, "polygon", [(120, 250), (360, 250), (320, 300), (160, 300)]),
                (white, "polygon", [(240, 60), (240, 245), (130, 245)]),
                (gold, "polygon", [(246, 90), (246, 245), (330, 245)])],
               [_stroke((170, 275), (310, 275))], []),
        _scene("mushroom", 6, brick,
               [(white, "ellipse", 240, 250, 32, 80, 0), (gold, "ellipse", 240, 160, 110, 60, 0)],
               [_stroke((180, 160), (300, 160))], [_stroke((60, 320), (140, 330))]),
        _scene("striped fish", 7, sand,
               [(blue, "ellipse", 240, 180, 120, 66, 0), (white, "ellipse", 200, 180, 16, 62, 0),
                (white, "ellipse", 260, 180, 16, 64, 0), (black, "ellipse", 142, 165, 9, 9, 0)],
               [_stroke((225, 180), (235, 200))], []),
        _scene("gown and gloves", 8, slate,
               [(gold, "polygon", [(240, 120), (330, 330), (150, 330)]),
                (skin, "ellipse", 240, 95, 30, 38, 0), (white, "ellipse", 175, 220, 16, 40, 30),
                (white, "ellipse", 305, 220, 16, 40, -30)],
               [_stroke((230, 220), (250, 290))], []),
        _scene("lamp", 9, wood,
               [(black, "polygon", [(225, 180), (255, 180), (262, 320), (218, 320)]),
                (gold, "polygon", [(190, 90), (290, 90), (330, 190), (150, 190)]),
                (red, "ellipse", 240, 325, 60, 14, 0)],
               [_stroke((200, 150), (280, 150))], []),
        _scene("cat in gray", 10, ((0.55, 0.55, 0.55), (0.75, 0.75, 0.75)),
               [(black, "ellipse", 250, 220, 110, 70, 0), (black, "ellipse", 150, 150, 46, 42, 0),
                (white, "ellipse", 235, 262, 50, 26, 0), (white, "ellipse", 150, 168, 20, 14, 0)],
               [_stroke((220, 200), (290, 210))], []),
        _scene("two balloons", 11, sky,
               [(red, "ellipse", 170, 170, 60, 74, 0), (gold, "ellipse", 330, 200, 50, 62, 0)],
               [_stroke((150, 160), (190, 180))], []),
    ]  # fmt: skip


def plain_cut(scene: Scene) -> np.ndarray:
    """GrabCut with the same marks and nothing else, at the size of the scene."""
    rows, cols = scene.truth.shape
    marks = np.full((rows, cols), cv2.GC_BGD, np.uint8)
    left, top, wide, tall = (round(value) for value in scene.box)
    marks[max(0, top) : top + tall + 1, max(0, left) : left + wide + 1] = cv2.GC_PR_FGD
    for strokes, value in ((scene.keep, cv2.GC_FGD), (scene.drop, cv2.GC_BGD)):
        for stroke in strokes:
            line = np.array(stroke["points"], np.int32)
            cv2.polylines(marks, [line], False, value, int(stroke["wide"]))  # type: ignore[call-overload]
    models = np.zeros((1, 65)), np.zeros((1, 65))
    cv2.setRNGSeed(7)
    bytes_ = (scene.pixels * 255 + 0.5).astype(np.uint8)
    cv2.grabCut(bytes_, marks, None, *models, 5, cv2.GC_INIT_WITH_MASK)
    return (marks == cv2.GC_FGD) | (marks == cv2.GC_PR_FGD)


def overlap(found: np.ndarray, truth: np.ndarray) -> float:
    """Intersection over union."""
    return float((found & truth).sum() / max(1, (found | truth).sum()))
