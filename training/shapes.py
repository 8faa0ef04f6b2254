"""Solids of many kinds, made up: bodies, vessels, plants, boxes, cloth, plates."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.random import Generator
from numpy.typing import ArrayLike, NDArray

from training import kernels as k

Vector = NDArray[np.float64]
_PROFILE = 64


def turned_by(rng: Generator, much: float) -> Vector:
    """A turn about any axis, by about so many radians."""
    axis = rng.normal(size=3) * much
    angle = float(np.linalg.norm(axis)) + 1e-9
    x, y, z = axis / angle
    cross = np.array([[0, -z, y], [z, 0, -x], [-y, x, 0]])
    whole: Vector = np.eye(3) + np.sin(angle) * cross + (1 - np.cos(angle)) * cross @ cross
    return whole


def about(axis: int, angle: float) -> Vector:
    """A turn about x, y or z."""
    found = np.eye(3)
    a, b = [other for other in range(3) if other != axis]
    found[a, a] = found[b, b] = np.cos(angle)
    found[a, b], found[b, a] = -np.sin(angle), np.sin(angle)
    return found


def _frame(along: Vector) -> Vector:
    """Rows u, v, w with v along something."""
    v = along / (np.linalg.norm(along) + 1e-9)
    other = np.array([1.0, 0, 0]) if abs(v[0]) < 0.8 else np.array([0, 1.0, 0])
    u = np.cross(v, other)
    u /= np.linalg.norm(u)
    return np.stack([u, v, np.cross(u, v)])


@dataclass
class Shape:
    """Solids that are joined: smoothly within a group, sharply between groups."""

    solids: list[dict[str, Any]] = field(default_factory=list)
    waves: NDArray[np.float32] = field(default_factory=lambda: np.zeros((0, 5), np.float32))

    def _add(self, type_: int, middle: ArrayLike, size: ArrayLike, **more: Any) -> None:
        solid = {
            "type": type_,
            "middle": np.asarray(middle, float),
            "size": np.asarray(size, float) * np.ones(3),
            "axes": np.eye(3),
            "sharp": 8.0,
            "power": 2.0,
            "group": 0,
            "part": 0,
            "carves": False,
            "fold": (0.0, 0.0, 0),
            "bend": 0.0,
            "table": np.zeros(0),
        }
        self.solids.append({**solid, **more})

    def ball(self, middle: ArrayLike, size: ArrayLike, **more: Any) -> None:
        """An ellipsoid."""
        self._add(k.BALL, middle, size, **more)

    def block(self, middle: ArrayLike, size: ArrayLike, power: float = 10, **more: Any) -> None:
        """A box with edges that are the sharper the greater the power."""
        self._add(k.BLOCK, middle, size, power=power, **{"sharp": 12.0, **more})

    def lathe(self, middle: ArrayLike, half: float, radii: Vector, **more: Any) -> None:
        """What is turned about its axis v; radii from below."""
        most = float(radii.max())
        self._add(k.LATHE, middle, [most, half, most], table=radii, **{"sharp": 16.0, **more})

    def plate(self, middle: ArrayLike, thick: float, outline: Vector, **more: Any) -> None:
        """A plate across w; outline: its radii around, from u to v."""
        most = float(outline.max())
        self._add(k.PLATE, middle, [most, most, thick], table=outline, **{"power": 6.0, **more})

    def limb(self, joints: ArrayLike, first: float, last: float, **more: Any) -> None:
        """A round limb through joints, from one radius to another."""
        points = np.asarray(joints, float)
        if len(points) > 2:
            points = _curved(points)
        long = np.r_[0, np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))]
        radii = first + (last - first) * long / max(1e-9, long[-1])
        self.tube(points, radii, **more)

    def tube(self, points: Vector, radii: Vector, **more: Any) -> None:
        """A round tube through points, with a radius at each."""
        middle = points.mean(axis=0)
        self._add(k.LIMB, middle, 1.0, table=np.column_stack([points - middle, radii]), **more)

    def turn(self, by: Vector) -> None:
        """All of it about the middle."""
        for solid in self.solids:
            solid["middle"] = by @ solid["middle"]
            solid["axes"] = solid["axes"] @ by.T
            if solid["type"] == k.LIMB:
                table = solid["table"].copy()
                table[:, :3] = table[:, :3] @ by.T
                solid["table"] = table

    def roughen(self, rng: Generator, high: float, least: float, most: float, n: int = 4) -> None:
        """Fine relief all over it."""
        to = rng.normal(size=(n, 3))
        if rng.random() < 0.4:
            to = 0.3 * to + rng.normal(size=3)
        to /= np.linalg.norm(to, axis=1, keepdims=True)
        often = np.exp(rng.uniform(np.log(least), np.log(most)) + 0.4 * rng.normal(size=n))
        phase, tall = rng.uniform(0, 6.3, n), 2 * high * rng.uniform(0.3, 1, n)
        self.waves = np.column_stack([to * often[:, None], phase, tall]).astype(np.float32)

    def fitted(self, size: float) -> tuple[Any, Any, Any, Any, float]:
        """As `kernels.seen` takes it, half its larger side as long as said."""
        low, high = np.full(3, 9e9), np.full(3, -9e9)
        for solid in self.solids:
            if solid["carves"]:
                continue
            least, most = _box(solid)
            low, high = np.minimum(low, least), np.maximum(high, most)
        scale = size / max(1e-6, float((high - low)[:2].max()) / 2)
        middle = (low + high) / 2
        numbers = np.zeros((len(self.solids), k.NUMBERS), np.float32)
        choices = np.zeros((len(self.solids), k.CHOICES), np.int32)
        table: list[float] = []
        for row, choice, solid in zip(numbers, choices, self.solids, strict=True):
            own = solid["table"] * scale
            sides = solid["size"] * scale
            row[:3] = (solid["middle"] - middle) * scale
            row[k.AXES : k.SIZE] = solid["axes"].ravel()
            row[k.SIZE : k.SHARP] = sides
            row[k.SHARP], row[k.POWER], row[k.BEND] = (
                solid["sharp"],
                solid["power"],
                solid["bend"] / scale,
            )
            row[k.FOLD], row[k.PHASE] = solid["fold"][:2]
            least, most = _around(solid)
            row[k.LOW : k.HIGH] = (least - middle) * scale
            row[k.HIGH : k.HIGH + 3] = (most - middle) * scale
            choice[:] = (
                solid["type"],
                solid["group"] % k.GROUPS,
                solid["part"],
                solid["carves"],
                len(table),
                len(own),
                solid["fold"][2],
            )
            table += own.ravel().tolist()
        sharp = float(np.mean(numbers[:, k.SHARP]))
        return numbers, choices, np.array([*table, 0.0], np.float32), self.waves, sharp


def _curved(points: Vector, count: int = 9) -> Vector:
    """Through the joints without corners."""
    from scipy.interpolate import CubicSpline

    long = np.r_[0, np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1) + 1e-6)]
    at = np.unique(np.r_[np.linspace(0, long[-1], count), long])
    spline = CubicSpline(long, points)(at)
    straight = np.stack([np.interp(at, long, points[:, i]) for i in range(3)], axis=1)
    return 0.5 * spline + 0.5 * straight


def _box(solid: dict[str, Any]) -> tuple[Vector, Vector]:
    if solid["type"] == k.LIMB:
        points, radii = solid["middle"] + solid["table"][:, :3], solid["table"][:, 3:]
        return (points - radii).min(axis=0), (points + radii).max(axis=0)
    if solid["type"] == k.BALL:
        half = np.sqrt(((solid["axes"].T * solid["size"]) ** 2).sum(axis=1))
    else:
        share = 1.0 if solid["type"] == k.LATHE else 0.85
        half = share * np.abs(solid["axes"].T * solid["size"]).sum(axis=1)
    return solid["middle"] - half, solid["middle"] + half


def _around(solid: dict[str, Any]) -> tuple[Vector, Vector]:
    """The box beyond which it counts for nothing."""
    soft = float(np.sqrt(1 + 4 / solid["sharp"])) if not solid["carves"] else 1.05
    if solid["type"] == k.LIMB:
        points, radii = solid["middle"] + solid["table"][:, :3], soft * solid["table"][:, 3:]
        return (points - radii).min(axis=0), (points + radii).max(axis=0)
    sides = soft * solid["size"]
    if solid["type"] == k.LATHE:
        sides = solid["size"] * (1 + solid["fold"][0]) + 0.15 * solid["size"][0]
    if solid["type"] == k.PLATE:
        sides = sides + [0, 0, abs(solid["bend"]) * sides[0] ** 2]
    if solid["type"] == k.BALL:
        half = np.sqrt(((solid["axes"].T * sides) ** 2).sum(axis=1))
    else:
        half = np.abs(solid["axes"].T * sides).sum(axis=1)
    return solid["middle"] - half, solid["middle"] + half


def _u(rng: Generator, least: float, most: float) -> float:
    return float(rng.uniform(least, most))


def _profile(rng: Generator, knots: int, least: float = 0.25) -> Vector:
    """Radii of something turned, 0 to 1."""
    from scipy.interpolate import PchipInterpolator

    t, at = np.linspace(0, 1, _PROFILE), np.linspace(0, 1, knots)
    values = rng.uniform(least, 1, knots)
    found: Vector = PchipInterpolator(at, values)(t)
    return found if rng.random() < 0.75 else np.interp(t, at, values)


# The kinds.


Pick = Callable[[int], int]


def figure(rng: Generator) -> Shape:
    """Someone on two legs or four: trunk, limbs, head, ears, eyes."""
    shape, sharp = Shape(), _u(rng, 5, 14)
    own = rng.random() < 0.6
    pick: Pick = lambda i: i if own else 0  # noqa: E731
    size = _u(rng, 0.2, 0.4)
    made = _on_four if rng.random() < 0.5 else _on_two
    head, large, looks = made(rng, shape, size, sharp, pick)
    _head(rng, shape, head, large, looks, sharp, pick(6))
    shape.turn(about(0, _u(rng, -0.25, 0.25)) @ about(1, 0.35 * rng.normal()))
    if rng.random() < 0.5:
        shape.turn(np.diag([-1.0, 1, 1]))
    if rng.random() < 0.3:
        shape.roughen(rng, _u(rng, 0.01, 0.04), 8, 40)
    return shape


def _on_four(
    rng: Generator, shape: Shape, size: float, sharp: float, pick: Pick
) -> tuple[Vector, float, float]:
    """Where its head goes, how large that is, and which way it looks."""
    long, tilt = _u(rng, 0.45, 0.85), _u(rng, -0.2, 0.3)
    spine = [[-long, 0, 0], [0, _u(rng, -0.06, 0.1), 0], [long, tilt / 2, 0]]
    shape.limb(spine, size * _u(rng, 0.85, 1.15), size * _u(rng, 0.8, 1.2), sharp=sharp)
    tall, thick = _u(rng, 0.3, 0.85), size * _u(rng, 0.25, 0.5)
    for j, (x, side) in enumerate(
        [(-0.9 * long, 1), (-0.9 * long, -1), (0.85 * long, 1), (0.85 * long, -1)]
    ):
        z, dx = side * size * _u(rng, 0.5, 0.8), _u(rng, -0.25, 0.25)
        knee = [x + dx / 2 + _u(rng, -0.15, 0.15), -size - 0.4 * tall, z]
        foot = [x + dx, -size - tall, z]
        toes = [x + dx + 0.9 * thick, -size - tall, z]
        leg: list[Any] = [[x, -0.2 * size, z], knee, foot, toes]
        part = 1 + j % 2 if pick(1) else 0
        shape.limb(leg, 1.3 * thick, 0.8 * thick, sharp=sharp, group=pick(1 + j), part=part)
    head = np.array([long + _u(rng, 0.1, 0.4), tilt / 2 + _u(rng, 0.05, 0.65), _u(rng, -0.1, 0.25)])
    large = size * _u(rng, 0.6, 1.05)
    neck: list[Any] = [[0.85 * long, tilt / 2, 0], head]
    shape.limb(neck, 0.7 * size, 0.8 * large, sharp=sharp)
    if rng.random() < 0.8:
        tail: list[Any] = [
            [-long, 0, 0],
            [-long - _u(rng, 0.1, 0.4), _u(rng, -0.1, 0.4), _u(rng, -0.2, 0.2)],
            [-long - _u(rng, 0.1, 0.6), _u(rng, -0.4, 0.7), _u(rng, -0.2, 0.2)],
        ]
        ends = size * _u(rng, 0.15, 0.5), size * _u(rng, 0.08, 0.4)
        shape.limb(tail, *ends, sharp=sharp, part=5)
    looks = _u(rng, -0.2, 1.4)
    return head, large, looks


def _on_two(
    rng: Generator, shape: Shape, size: float, sharp: float, pick: Pick
) -> tuple[Vector, float, float]:
    long, looks = _u(rng, 0.4, 0.7), _u(rng, 0.2, 2.9)
    size *= 1.05
    trunk: list[Any] = [
        [0, -long, 0],
        [_u(rng, -0.1, 0.1), 0, _u(rng, -0.1, 0.1)],
        [0, 0.7 * long, 0],
    ]
    shape.limb(trunk, size * _u(rng, 0.8, 1.3), size * _u(rng, 0.7, 1.1), sharp=sharp)
    large = _u(rng, 0.2, 0.42)
    head = np.array([_u(rng, -0.1, 0.1), 0.7 * long + large + _u(rng, 0, 0.2), _u(rng, -0.05, 0.2)])
    neck: list[Any] = [[0, 0.6 * long, 0], head]
    shape.limb(neck, 0.5 * size, 0.5 * large, sharp=sharp)
    thick, reach, tall = size * _u(rng, 0.22, 0.45), _u(rng, 0.4, 0.9), _u(rng, 0.35, 0.9)
    for j, side in enumerate((-1, 1)):
        shoulder = np.array([0.85 * side * size, 0.45 * long, 0])
        lift = _u(rng, -0.5, 1.4)
        bent = np.array([0.6 * side * np.cos(lift), -np.sin(lift), _u(rng, -0.3, 0.7)])
        elbow = shoulder + reach / 2 * bent
        to = np.array([_u(rng, -1, 0.8) * side, _u(rng, -1, 0.8), _u(rng, -0.3, 1.2)])
        hand = elbow + reach / 2 * to / np.linalg.norm(to)
        arm: dict[str, Any] = {"sharp": sharp, "group": pick(1 + j)}
        shape.limb([shoulder, elbow, hand], 1.2 * thick, 0.75 * thick, part=1, **arm)
        shape.ball(hand, thick * _u(rng, 0.9, 1.4), part=2, **arm)
    for j, side in enumerate((-1, 1)):
        hip = np.array([0.55 * side * size, -0.8 * long, 0])
        knee = hip + tall / 2 * np.array([side * _u(rng, -0.1, 0.5), -1, _u(rng, -0.1, 0.6)])
        foot = knee + tall / 2 * np.array([side * _u(rng, -0.3, 0.3), -1, _u(rng, -0.6, 0.1)])
        toes = foot + np.array([0.3 * side * thick, 0, 1.5 * thick])
        leg: dict[str, Any] = {"sharp": sharp, "group": pick(3 + j), "part": 3}
        shape.limb([hip, knee, foot, toes], 1.5 * thick, 0.9 * thick, **leg)
    return head, large, looks


def _head(
    rng: Generator, shape: Shape, at: Vector, size: float, looks: float, sharp: float, group: int
) -> None:
    sides = size * np.array([_u(rng, 0.85, 1.15), _u(rng, 0.85, 1.2), _u(rng, 0.8, 1.1)])
    more: dict[str, Any] = {"sharp": sharp, "group": group}
    shape.ball(at, sides, axes=turned_by(rng, 0.15), part=6, **more)
    if rng.random() < 0.7:
        to = np.array([np.cos(looks), _u(rng, -0.4, 0.1), np.sin(looks)])
        to /= np.linalg.norm(to)
        nose = [at + 0.5 * size * to, at + size * _u(rng, 1, 1.7) * to]
        shape.limb(nose, size * _u(rng, 0.3, 0.6), size * _u(rng, 0.2, 0.4), part=7, **more)
    if rng.random() < 0.8:
        wide, long = size * _u(rng, 0.2, 0.5), size * _u(rng, 0.25, 1.1)
        for side in (-1, 1):
            to = np.array([side * _u(rng, 0.3, 0.9), _u(rng, 0.5, 1), _u(rng, -0.3, 0.1)])
            to /= np.linalg.norm(to)
            axes = np.stack([np.cross(to, [0, 0, 1.0]), to, [0, 0, 1.0]])
            axes[0] /= np.linalg.norm(axes[0])
            axes[2] = np.cross(axes[0], to)
            ear = [wide, long, wide * _u(rng, 0.25, 1)]
            shape.ball(at + to * (0.85 * size + 0.6 * long), ear, axes=axes, part=8, **more)
    if rng.random() < 0.6:
        for side in (-1, 1):
            eye = at + np.array([0.38 * side * sides[0], 0.2 * sides[1], 0.88 * sides[2]])
            shape.ball(eye, size * _u(rng, 0.1, 0.2), sharp=20.0, group=7, part=9)


def face(rng: Generator) -> Shape:
    """A head with brows, eyes, nose, mouth, hair."""
    shape, sharp = Shape(), _u(rng, 7, 14)
    wide, deep = _u(rng, 0.6, 0.85), _u(rng, 0.5, 0.9)
    more: dict[str, Any] = {"sharp": sharp}
    shape.ball([0, 0.1, 0], [wide, 0.85, deep], **more)
    chin = [wide * _u(rng, 0.6, 0.85), 0.5, 0.75 * deep]
    shape.ball([0, -0.45, 0.12 * deep], chin, **more)
    long, broad = _u(rng, 0.15, 0.32), _u(rng, 0.08, 0.18)
    tip = [0, -long, deep + _u(rng, 0.05, 0.25)]
    shape.limb([[0, 0.2, 0.95 * deep], tip], 0.6 * broad, broad, **more)
    eye_x, eye_y, eye = wide * _u(rng, 0.35, 0.45), _u(rng, 0.1, 0.25), _u(rng, 0.1, 0.2)
    hollow, brow = rng.random() < 0.9, 3 * int(rng.random() < 0.4)
    for side in (-1, 1):
        shape.ball([side * broad, -long, 0.98 * deep], 0.6 * broad, **more)
        if hollow:
            at, sides = [side * eye_x, eye_y, 0.98 * deep], [1.4 * eye, eye, eye]
            shape.ball(at, sides, sharp=7.0, carves=True)
        ball = eye * _u(rng, 0.8, 1.1)
        shape.ball([side * eye_x, eye_y, 0.8 * deep], ball, sharp=20.0, group=1, part=2)
        ridge = [
            [0.4 * side * eye_x, eye_y + 1.3 * eye, 0.92 * deep],
            [1.6 * side * eye_x, eye_y + eye * _u(rng, 0.9, 1.5), 0.72 * deep],
        ]
        shape.limb(ridge, 0.07, 0.05, part=brow, **more)
        shape.ball([0.5 * side * wide, -0.25, 0.7 * deep], [0.2, 0.18, 0.18], **more)
        if rng.random() < 0.7:
            ear = [_u(rng, 0.06, 0.15), _u(rng, 0.15, 0.3), 0.15]
            shape.ball([0.98 * side * wide, _u(rng, -0.1, 0.1), -0.05], ear, **more)
    mouth_y, mouth = -long - _u(rng, 0.18, 0.28), _u(rng, 0.15, 0.32)
    lips: dict[str, Any] = {"sharp": 12.0, "part": 4}
    shape.ball([0, mouth_y + 0.04, 0.88 * deep], [mouth, 0.05, 0.1], **lips)
    shape.ball([0, mouth_y - 0.06, 0.87 * deep], [0.8 * mouth, 0.06, 0.1], **lips)
    gap = [mouth, _u(rng, 0.015, 0.06), 0.06]
    shape.ball([0, mouth_y - 0.01, 0.98 * deep], gap, sharp=10.0, carves=True)
    shape.ball([0, mouth_y - 0.28, 0.75 * deep], [0.15, 0.13, 0.15], **more)
    if rng.random() < 0.75:
        for _ in range(rng.integers(1, 5)):
            at = [_u(rng, -0.3, 0.3), _u(rng, 0.45, 0.75), _u(rng, -0.4, 0.1)]
            lock = [wide * _u(rng, 0.7, 1.1), _u(rng, 0.3, 0.55), deep * _u(rng, 0.8, 1.05)]
            hair: dict[str, Any] = {"sharp": 10.0, "group": 2, "part": 3}
            shape.ball(at, lock, axes=turned_by(rng, 0.2), **hair)
    if rng.random() < 0.5:
        shape.limb([[0, -0.6, -0.1], [0, -1.2, -0.15]], wide / 2, 0.6 * wide, **more)
    if rng.random() < 0.3:
        shape.ball([0, -1.4, -0.2], [1.1, 0.35, 0.4], part=5, **more)
    turn = about(2, 0.12 * rng.normal()) @ about(0, 0.15 * rng.normal())
    shape.turn(turn @ about(1, 0.4 * rng.normal()))
    if rng.random() < 0.3:
        shape.roughen(rng, _u(rng, 0.005, 0.02), 10, 45)
    return shape


def vessel(rng: Generator) -> Shape:
    """A jug, bottle, bowl or lamp: turned, with handles, a lid or an opening."""
    shape = Shape()
    radii = _profile(rng, int(rng.integers(3, 7)))
    t = np.linspace(0, 1, _PROFILE)
    for _ in range(rng.integers(0, 4)):
        radii = radii + _u(rng, -0.06, 0.1) * np.exp(
            -(((t - rng.random()) / _u(rng, 0.015, 0.06)) ** 2)
        )
    radii = np.clip(radii, 0.08, None) * _u(rng, 0.4, 1.0)
    if rng.random() < 0.3:
        radii = radii * np.sqrt(np.clip(1 - (2 * t - 1) ** 6, 0.01, 1))
    turn = about(2, 0.15 * rng.normal()) @ about(0, _u(rng, -0.1, 0.5))
    axes, top = turn.T, float(radii[-1])
    shape.lathe([0, 0, 0], 1.0, radii, axes=axes)
    if rng.random() < 0.5:
        hole = [0.85 * top, _u(rng, 0.2, 0.8), 0.85 * top]
        shape.ball(turn @ [0, 1.0, 0], hole, axes=axes, sharp=16.0, carves=True)
    elif rng.random() < 0.5:
        lid = [0.9 * top, top * _u(rng, 0.2, 0.9), 0.9 * top]
        shape.ball(turn @ [0, 1.0, 0], lid, axes=axes, sharp=10.0, part=3)
        knob = turn @ [0, 1 + top / 2, 0]
        shape.ball(knob, top * _u(rng, 0.15, 0.3), sharp=10.0, part=4)
    sides: Sequence[int] = [1, -1] if rng.random() < 0.4 else [1][: int(rng.random() < 0.6)]
    for side in sides:
        around = _u(rng, -0.5, 0.5) if rng.random() < 0.7 else _u(rng, 0, 3.1)
        low, high, out = _u(rng, -0.6, 0), _u(rng, 0.1, 0.9), _u(rng, 0.15, 0.5)
        at = [radii[int((v + 1) / 2 * (_PROFILE - 1))] for v in (low, high)]
        to = np.array([side * np.cos(around), 0, np.sin(around)])
        up = np.array([0, 1.0, 0])
        joints = [
            0.95 * at[0] * to + low * up,
            (at[0] + out) * to + (0.8 * low + 0.2 * high) * up,
            (at[1] + 0.9 * out) * to + (0.2 * low + 0.8 * high) * up,
            0.95 * at[1] * to + high * up,
        ]
        ends = _u(rng, 0.05, 0.1), _u(rng, 0.05, 0.1)
        shape.limb([turn @ joint for joint in joints], *ends, sharp=12.0, group=1, part=1)
    if rng.random() < 0.3:
        shape.roughen(rng, _u(rng, 0.01, 0.04), 10, 40)
    return shape


def blob(rng: Generator) -> Shape:
    """Lumps and hollows of all sizes: stones, roots, fruit."""
    shape, sharp = Shape(), _u(rng, 3, 9)
    at = np.zeros(3)
    for _ in range(rng.integers(1, 7)):
        more: dict[str, Any] = {"axes": turned_by(rng, 2), "part": int(rng.integers(0, 3))}
        shape.ball(at, rng.uniform(0.2, 0.6, 3), sharp=sharp, **more)
        at = at + rng.normal(size=3) * [0.35, 0.35, 0.2]
    body = list(shape.solids)
    for carves in [True] * int(rng.integers(0, 5)) + [False] * int(rng.integers(0, 6)):
        on = body[rng.integers(0, len(body))]
        to = rng.normal(size=3)
        to[2] = abs(to[2]) + 0.25
        place = on["middle"] + to / np.linalg.norm(to) * on["size"].mean() * _u(rng, 0.8, 1.15)
        more = {"axes": turned_by(rng, 2), "sharp": _u(rng, 5, 16), "carves": carves, "part": 5}
        shape.ball(place, rng.uniform(0.04, 0.22, 3), **more)
    if rng.random() < 0.5:
        shape.roughen(rng, _u(rng, 0.01, 0.07), 4, 40, 5)
    return shape


def boxes(rng: Generator) -> Shape:
    """Hard-edged things: blocks on blocks, with bores and pegs."""
    shape = Shape()
    turn = about(0, _u(rng, 0.0, 0.6)) @ about(1, _u(rng, -0.9, 0.9))
    if rng.random() < 0.25:
        turn = turned_by(rng, 1.0)
    shape.block([0, 0, 0], rng.uniform(0.2, 0.6, 3), _u(rng, 6, 16), axes=turn.T)
    for i in range(1, int(rng.integers(1, 6))):
        on = shape.solids[rng.integers(0, len(shape.solids))]
        sides = on["size"] * rng.uniform(0.3, 0.85, 3)
        axis, side = int(rng.integers(0, 3)), 1 if rng.random() < 0.7 else -1
        off = rng.uniform(-0.5, 0.5, 3) * on["size"]
        off[axis] = side * (on["size"][axis] + 0.8 * sides[axis])
        place, more = on["middle"] + turn @ off, {"part": i, "group": i}
        if rng.random() < 0.7:
            shape.block(place, sides, _u(rng, 6, 16), axes=turn.T, **more)
        else:
            radius = float(sides.min())
            shape.lathe(place, float(sides.max()), np.full(8, radius), axes=turn.T, **more)
    if rng.random() < 0.4:
        on = shape.solids[rng.integers(0, len(shape.solids))]
        bore = turn @ (np.array([0, 0, on["size"][2]]) + rng.uniform(-0.4, 0.4, 3) * on["size"])
        size = float(on["size"][:2].min()) * _u(rng, 0.3, 0.6)
        shape.lathe(
            on["middle"] + bore,
            _u(rng, 0.1, 0.4),
            np.full(8, size),
            axes=(turn @ about(0, np.pi / 2)).T,
            carves=True,
        )
    if rng.random() < 0.15:
        shape.roughen(rng, _u(rng, 0.005, 0.02), 8, 30)
    return shape


def plant(rng: Generator) -> Shape:
    """Leaves that are bent, on stems, with buds and fruit."""
    shape, angles = Shape(), np.linspace(0, 2 * np.pi, 48, endpoint=False)
    sway = [_u(rng, -0.4, 0.4), _u(rng, -0.1, 0.4)]
    stem = np.array([[0, -1, 0], [sway[0] / 2, -0.2, sway[1] / 3], [sway[0], 0.7, sway[1]]])
    shape.limb(stem, _u(rng, 0.04, 0.09), _u(rng, 0.03, 0.06), sharp=12.0, part=1)
    slim = _u(rng, 0.3, 0.8)
    lobes, deep = int(rng.integers(3, 9)), _u(rng, 0, 0.25) * (rng.random() < 0.4)
    for i in range(int(rng.integers(2, 8))):
        t = rng.random()
        at = stem[0] + (stem[2] - stem[0]) * t + np.array([sway[0] * t * (1 - t), 0, 0])
        size = _u(rng, 0.25, 0.55)
        side = 1 if i % 2 else -1
        to = np.array([side * _u(rng, 0.3, 1.2), _u(rng, -0.3, 1.1), _u(rng, -0.5, 0.8)])
        to /= np.linalg.norm(to)
        axes = _frame(to)[[1, 0, 2]] * np.array([[1], [1], [-1.0]])
        axes = about(0, _u(rng, -1, 1)) @ axes
        outline = size / np.sqrt(np.cos(angles) ** 2 + (np.sin(angles) / slim) ** 2)
        outline *= 1 + deep * np.cos(lobes * angles)
        more: dict[str, Any] = {"axes": axes, "group": 1 + i % 10, "part": 2 + i % 3}
        bend = _u(rng, -0.8, 0.8)
        thick = _u(rng, 0.03, 0.06)
        shape.plate(at + to * 0.9 * size, thick, outline, bend=bend, power=3.0, **more)
    if rng.random() < 0.6:
        for _ in range(int(rng.integers(1, 4))):
            at = stem[2] + rng.normal(size=3) * [0.15, 0.12, 0.1]
            fruit = rng.uniform(0.1, 0.28, 3)
            shape.ball(at, fruit, axes=turned_by(rng, 1), group=12, part=6, sharp=12.0)
    shape.turn(about(0, _u(rng, -0.4, 0.4)) @ about(1, _u(rng, -1.5, 1.5)))
    return shape


def cloth(rng: Generator) -> Shape:
    """Someone or something draped: folds that run down, a head or a knob on top."""
    shape = Shape()
    radii = np.sort(_profile(rng, int(rng.integers(3, 6)), 0.2))[::-1]
    if rng.random() < 0.4:
        radii = _profile(rng, int(rng.integers(3, 6)), 0.35)
    radii = np.ascontiguousarray(radii) * _u(rng, 0.35, 0.8)
    fold = _u(rng, 0.03, 0.2), _u(rng, 0, 6.3), int(rng.integers(4, 15))
    flat = np.array([_u(rng, 0.7, 1.0), 1, 1])
    turn = about(2, 0.1 * rng.normal()) @ about(0, _u(rng, -0.15, 0.35))
    shape.lathe([0, 0, 0], 1.0, radii, axes=turn.T, fold=fold)
    top, sharp = float(radii[-1]), _u(rng, 7, 14)
    if rng.random() < 0.75:
        large = _u(rng, 0.18, 0.35)
        _head(rng, shape, turn @ [0, 1 + 0.7 * large, 0], large, _u(rng, 0.3, 2.8), sharp, 1)
        for side in (-1, 1):
            if rng.random() < 0.3:
                continue
            shoulder = np.array([0.9 * side * top, 0.85, 0])
            elbow = shoulder + [side * _u(rng, 0, 0.35), -_u(rng, 0.2, 0.5), _u(rng, 0, 0.3)]
            hand = elbow + [side * _u(rng, -0.4, 0.3), _u(rng, -0.4, 0.3), _u(rng, 0.1, 0.5)]
            arm = [turn @ joint for joint in (shoulder, elbow, hand)]
            thick = _u(rng, 0.08, 0.16)
            shape.limb(arm, 1.3 * thick, thick * _u(rng, 0.8, 1.6), sharp=12.0, group=2, part=2)
            shape.ball(arm[2], thick * _u(rng, 0.6, 0.9), sharp=14.0, group=3, part=3)
    else:
        knob = max(0.1, top) * _u(rng, 0.4, 1.1)
        shape.ball(turn @ [0, 1.0, 0], knob * flat, sharp=sharp, part=3, group=1)
    if rng.random() < 0.3:
        shape.roughen(rng, _u(rng, 0.01, 0.03), 6, 25)
    return shape


def plate(rng: Generator) -> Shape:
    """Thin things: medals, stars, leaves of metal, tools, tiles, with relief."""
    shape, angles = Shape(), np.linspace(0, 2 * np.pi, 96, endpoint=False)
    points = int(rng.integers(3, 12))
    kind = int(rng.integers(0, 5))
    if kind == 0:
        outline = np.ones(96)
    elif kind == 1:
        outline = 1 + _u(rng, 0.1, 0.45) * np.cos(points * angles)
    elif kind == 2:
        outline = np.ones(96)
        for often in range(2, 7):
            outline += rng.normal() * 0.35 / often * np.cos(often * angles + _u(rng, 0, 6.3))
        outline = np.clip(outline, 0.3, 2)
    else:
        wide = _u(rng, 0.2, 1)
        outline = 1 / np.maximum(np.abs(np.cos(angles)), np.abs(np.sin(angles)) / wide)
        outline = np.minimum(outline, 1.3)
    thick = _u(rng, 0.05, 0.16)
    power = _u(rng, 4, 14)
    shape.plate([0, 0, 0], thick, outline, power=power, sharp=14.0, bend=_u(rng, -0.2, 0.2))
    spread, most = float(outline.mean()), int(rng.integers(0, 6))
    for i in range(most):
        at = np.array([*rng.uniform(-0.55, 0.55, 2) * spread, thick])
        sides = [_u(rng, 0.06, 0.4), _u(rng, 0.06, 0.4), _u(rng, 0.04, 0.2)]
        more: dict[str, Any] = {"sharp": 12.0, "part": 1 + i % 4, "group": int(rng.integers(0, 3))}
        axes = about(2, _u(rng, 0, 3))
        if rng.random() < 0.35:
            shape.block(at, [*sides[:2], _u(rng, 0.03, 0.1)], _u(rng, 6, 12), axes=axes, **more)
        else:
            carves = rng.random() < 0.3
            shape.ball(at, sides, axes=axes, carves=carves, **more)
    if rng.random() < 0.35:
        rim = np.column_stack([np.cos(angles[::4]), np.sin(angles[::4]), np.zeros(24)])
        ring = np.vstack([rim, rim[:1]]) * 0.85 * float(outline.min())
        ring[:, 2] = thick
        shape.tube(ring, np.full(25, _u(rng, 0.03, 0.08)), sharp=12.0, part=5)
    shape.turn(turned_by(rng, 0.35) if rng.random() < 0.7 else turned_by(rng, 1.0))
    if rng.random() < 0.3:
        shape.roughen(rng, _u(rng, 0.005, 0.025), 8, 40)
    return shape


def winding(rng: Generator) -> Shape:
    """What winds and branches: ropes, snakes, roots, antlers, corals."""
    shape, sharp = Shape(), _u(rng, 6, 14)
    if rng.random() < 0.5:
        _ropes(rng, shape, sharp)
    else:
        grown = [0]
        deep = int(rng.integers(2, 4))
        for _ in range(int(rng.integers(1, 3))):
            to = np.array([_u(rng, -0.4, 0.4), 1, _u(rng, -0.3, 0.3)])
            _branches(rng, shape, np.zeros(3), to, _u(rng, 0.08, 0.22), deep, sharp, grown)
        if rng.random() < 0.4:
            foot = [_u(rng, 0.3, 0.6), _u(rng, 0.1, 0.3), _u(rng, 0.2, 0.5)]
            shape.ball([0, -0.1, 0], foot, sharp=sharp, part=5)
    shape.turn(turned_by(rng, 0.5) if rng.random() < 0.7 else turned_by(rng, 1.5))
    if rng.random() < 0.4:
        shape.roughen(rng, _u(rng, 0.005, 0.03), 10, 40)
    return shape


def _ropes(rng: Generator, shape: Shape, sharp: float) -> None:
    """One to three, each through places that it finds as it goes."""
    for i in range(int(rng.integers(1, 4))):
        at, to = rng.normal(size=3) * [0.4, 0.4, 0.2], rng.normal(size=3) * [1, 1, 0.5]
        places = [at]
        for _ in range(int(rng.integers(3, 9))):
            to = to + rng.normal(size=3) * [0.9, 0.9, 0.5]
            to = 0.55 * to / np.linalg.norm(to) - 0.25 * at * [1, 1, 1.5]
            at = at + to
            places.append(at)
        first, last = _u(rng, 0.1, 0.24), _u(rng, 0.04, 0.24)
        more: dict[str, Any] = {"sharp": sharp, "group": i, "part": i}
        curve = _curved(np.array(places), 4 * len(places))
        shape.tube(curve, np.linspace(first, last, len(curve)), **more)
        if rng.random() < 0.4:
            ahead = _frame(places[0] - places[1])
            head = first * np.array([_u(rng, 1, 1.5), _u(rng, 1.1, 1.9), _u(rng, 0.8, 1.2)])
            shape.ball(places[0], head, axes=ahead, **more)


def _branches(
    rng: Generator,
    shape: Shape,
    at: Vector,
    to: Vector,
    thick: float,
    deep: int,
    sharp: float,
    grown: list[int],
) -> None:
    """A branch and what grows out of it; counted in `grown`."""
    to = to / np.linalg.norm(to)
    long = _u(rng, 0.45, 0.9)
    way = to + rng.normal(size=3) * [0.35, 0.35, 0.25]
    knee, end = at + long / 2 * to, at + long / 2 * (to + way / np.linalg.norm(way))
    tip = thick * _u(rng, 0.45, 0.85)
    grown[0] += 1
    more: dict[str, Any] = {"sharp": sharp, "part": grown[0] % 3}
    shape.limb([at, knee, end], thick, tip, **more)
    if deep == 0:
        if rng.random() < 0.3:
            shape.ball(end, tip * rng.uniform(1, 2.2, 3), **more)
        return
    for _ in range(int(rng.integers(1, 4))):
        start = knee + (end - knee) * rng.random()
        on = way / np.linalg.norm(way) + rng.normal(size=3) * [0.8, 0.5, 0.6]
        _branches(rng, shape, start, on, max(0.04, 0.9 * tip), deep - 1, sharp, grown)


# Never trained on.


def bunch(rng: Generator) -> Shape:
    """Fruit in bunches, flowers, mushrooms."""
    shape, which = Shape(), int(rng.integers(0, 3))
    if which == 0:
        size = _u(rng, 0.14, 0.26)
        for i in range(rng.integers(5, 22)):
            at = rng.normal(size=3) * [0.3, 0.38, 0.22]
            more: dict[str, Any] = {"group": int(rng.integers(0, 8)), "part": i % 4}
            sides = size * rng.uniform(0.8, 1.2, 3)
            shape.ball(at, sides, axes=turned_by(rng, 1), sharp=14.0, **more)
    elif which == 1:
        count, size, phase = int(rng.integers(5, 10)), _u(rng, 0.35, 0.55), _u(rng, 0, 6)
        shape.ball([0, 0, 0.08], [0.25, 0.25, _u(rng, 0.12, 0.25)], sharp=10.0, group=1, part=1)
        for i in range(count):
            angle = phase + i * 2 * np.pi / count
            to = np.array([np.cos(angle), np.sin(angle), _u(rng, -0.3, 0.4)])
            to /= np.linalg.norm(to)
            side = np.cross(to, [0, 0, 1.0])
            side /= np.linalg.norm(side)
            axes = np.stack([side, to, np.cross(side, to)])
            petal = [size * _u(rng, 0.35, 0.5), 0.6 * size, 0.09]
            at = to * (0.55 * size + 0.2)
            shape.ball(at, petal, axes=axes, sharp=10.0, group=2 + i % 4, part=2)
        shape.turn(turned_by(rng, 0.4))
        stem = [[0, 0, -0.1], [_u(rng, -0.2, 0.2), -1.2, -0.1]]
        shape.limb(stem, 0.06, 0.06, sharp=10.0, part=3, group=7)
    else:
        for i in range(rng.integers(1, 4)):
            x, z = _u(rng, -0.6, 0.6) * (i > 0), _u(rng, -0.3, 0.3) * (i > 0)
            tall, wide = _u(rng, 0.5, 1), _u(rng, 0.3, 0.6)
            stem = [[x, -0.6, z], [x + _u(rng, -0.1, 0.1), tall - 0.6, z]]
            shape.limb(stem, 0.4 * wide, 0.25 * wide, sharp=10.0, group=2 * i, part=1)
            cap = [wide, wide * _u(rng, 0.35, 0.7), wide]
            axes = about(2, 0.25 * rng.normal())
            more = {"sharp": 8.0, "group": 2 * i + 1}
            shape.ball([x, tall - 0.55, z], cap, axes=axes, part=0, **more)
    return shape


def house(rng: Generator) -> Shape:
    """Walls, roofs, towers, columns."""
    shape = Shape()
    turn = about(0, _u(rng, 0.05, 0.5)) @ about(1, _u(rng, -0.9, 0.9))
    corners = np.linspace(0, 2 * np.pi, 64, endpoint=False)
    for i in range(int(rng.integers(1, 4))):
        x, z = (_u(rng, -0.6, 0.6), _u(rng, -0.4, 0.4)) if i else (0.0, 0.0)
        wide, deep, tall = _u(rng, 0.2, 0.45), _u(rng, 0.2, 0.4), _u(rng, 0.2, 0.6)
        place = np.array([x, tall - 0.6, z])
        if rng.random() < 0.6:
            shape.block(turn @ place, [wide, tall, deep], 12, axes=turn.T, group=3 * i, part=0)
            high = _u(rng, 0.5, 1.2) * wide
            # A gable: what is under two planes, as a plate across its ridge.
            gable = 1 / np.maximum(
                np.maximum(-np.sin(corners) * 4, 1e-3),
                np.abs(np.cos(corners)) / (1.25 * wide) + np.sin(corners) / high,
            )
            gable = np.minimum(gable, 2 * wide)
            at = turn @ (place + [0, tall, 0])
            axes = turn.T
            more: dict[str, Any] = {"group": 3 * i + 1, "part": 1, "power": 12.0, "sharp": 14.0}
            shape.plate(at, 1.1 * deep, np.clip(gable, 0.05, None), axes=axes, **more)
        else:
            radius = min(wide, deep)
            more = {"axes": turn.T, "group": 3 * i}
            shape.lathe(turn @ place, tall, np.full(8, radius), part=2, **more)
            roof = np.linspace(1.2 * radius, 0.02, 16)
            high = _u(rng, 0.2, 0.5)
            at = turn @ (place + [0, tall + high, 0])
            shape.lathe(at, high, roof, axes=turn.T, group=3 * i + 1, part=1)
        door = turn @ (place + [_u(rng, -0.4, 0.4) * wide, -0.4 * tall, deep])
        shape.block(door, [0.2 * wide, 0.4 * tall, 0.06], 10, axes=turn.T, carves=True)
    return shape


def shell(rng: Generator) -> Shape:
    """Snails' houses and horns: a tube that winds and grows."""
    shape = Shape()
    winds, growth = _u(rng, 1.2, 3.5), _u(rng, 0.12, 0.35)
    angle = np.linspace(0, 2 * np.pi * winds, int(18 * winds))
    size = np.exp(growth * (angle - angle[-1]))
    rise = _u(rng, 0, 1.2)
    points = np.column_stack([size * np.cos(angle), size * np.sin(angle), rise * (1 - size)])
    tube = size * _u(rng, 0.3, 0.6)
    shape.tube(points, tube, sharp=12.0, part=0)
    if rng.random() < 0.6:
        last, before = points[-1], points[-3]
        to = (last - before) / np.linalg.norm(last - before)
        mouth = float(tube[-1])
        hole = [0.75 * mouth, 0.9 * mouth, 0.75 * mouth]
        shape.ball(last + 0.5 * mouth * to, hole, axes=_frame(to), sharp=12.0, carves=True)
    if rng.random() < 0.4:
        foot = [[-1.2, -1.1, 0], [0.3, -1.15, 0], [1.5, -0.9, 0.1]]
        shape.limb(foot, 0.15, 0.3, sharp=10.0, group=1, part=1)
    turn = about(2, _u(rng, 0, 6.3)) if rng.random() < 0.5 else np.eye(3)
    shape.turn(about(0, _u(rng, -0.7, 0.7)) @ about(1, _u(rng, -0.8, 0.8)) @ turn)
    if rng.random() < 0.4:
        shape.roughen(rng, _u(rng, 0.005, 0.03), 10, 40)
    return shape


Kind = Callable[[Generator], Shape]
TRAINED: tuple[Kind, ...] = (figure, face, vessel, blob, boxes, plant, cloth, plate, winding)
LEFT_OUT: tuple[Kind, ...] = (bunch, house, shell)
