"""Nodes of curves edited by hand: moved, added, taken out, made smooth or sharp."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from nebrel.core.outline.node_edit import NodeEdit
from nebrel.core.outline.outline import Corner, Cubics

_SAMPLES = 24
_SHARP_DEG = 12.0  # of turn at a node: less is smooth
_LEAST_NODES = 2
_STRAIGHT = 2e-3  # of its length: handles no further off make a straight line


@dataclass(frozen=True)
class Node:
    """A place where two curves meet.

    Attributes
    ----------
    loop, number : which line, and which of its curves begins there
    """

    place: tuple[float, float]
    smooth: bool
    loop: int
    number: int


def nodes_of(lines: Sequence[Cubics]) -> list[Node]:
    """All nodes of closed lines of curves."""
    found = []
    for loop, curves in enumerate(lines):
        before = np.roll(curves, 1, axis=0)
        arriving, leaving = before[:, 3] - before[:, 2], curves[:, 1] - curves[:, 0]
        cross = arriving[:, 0] * leaving[:, 1] - arriving[:, 1] * leaving[:, 0]
        turn = np.degrees(np.abs(np.arctan2(cross, (arriving * leaving).sum(axis=1))))
        for number, (place, angle) in enumerate(zip(curves[:, 0], turn, strict=True)):
            x, y = (float(value) for value in place)
            found.append(Node((x, y), bool(angle < _SHARP_DEG), loop, number))
    return found


def edit_nodes(
    lines: Sequence[Cubics], edits: Sequence[NodeEdit], near_mm: float, far_mm: float
) -> tuple[tuple[Cubics, ...], int]:
    """Lines after what was done to their nodes by hand, in order.

    Parameters
    ----------
    near_mm : a node as near as that to where one was is that node; where there is none, one is
        put on the line, so that what was placed stays there whatever the curves are now
    far_mm : an edit further than that from every line is of something that is not there

    Returns
    -------
    The lines, and how many edits found nothing
    """
    found = [np.array(curves, np.float64) for curves in lines]
    lost = 0
    for edit in edits:
        at = np.array(edit.at, np.float64)
        loop, number, share, away = _nearest(found, at)
        if away > far_mm:
            lost += 1
            continue
        node = _node_near(found, at)
        is_new = edit.does == "add" or node is None or node[2] > near_mm
        if edit.does == "drop":
            if node is not None and not is_new:
                found[node[0]] = _without(found[node[0]], node[1])
            continue
        if is_new:
            found[loop] = _split(found[loop], number, share)
            number = (number + 1) % len(found[loop])
        else:
            assert node is not None
            loop, number = node[:2]
        if edit.does in ("smooth", "sharp"):
            _turned(found[loop], number, edit.does == "smooth")
        if edit.to is not None:
            _moved(found[loop], number, np.array(edit.to, np.float64))
    return tuple(found), lost


def _node_near(lines: list[Cubics], at: Corner) -> tuple[int, int, float] | None:
    best: tuple[int, int, float] | None = None
    for loop, curves in enumerate(lines):
        away = np.hypot(*(curves[:, 0] - at).T)
        number = int(away.argmin())
        if best is None or away[number] < best[2]:
            best = loop, number, float(away[number])
    return best


def _nearest(lines: list[Cubics], at: Corner) -> tuple[int, int, float, float]:
    """The place on all lines that is nearest: line, curve, share of it, and how far away."""
    t = np.linspace(0, 1, _SAMPLES + 1)
    best = 0, 0, 0.0, np.inf
    for loop, curves in enumerate(lines):
        away = np.hypot(*np.moveaxis(_at(curves[:, None], t[None]) - at, -1, 0))
        number, k = np.unravel_index(away.argmin(), away.shape)
        near = float(t[k])
        low, high = max(0.0, near - 1 / _SAMPLES), min(1.0, near + 1 / _SAMPLES)
        for _ in range(3):
            fine = np.linspace(low, high, 11)
            own = np.hypot(*(_at(curves[number][None], fine) - at).T)
            middle = float(fine[own.argmin()])
            step = (high - low) / 10
            low, high = max(0.0, middle - step), min(1.0, middle + step)
        if own.min() < best[3]:
            best = loop, int(number), middle, float(own.min())
    return best


def _at(curves: NDArray[np.float64], t: NDArray[np.float64]) -> NDArray[np.float64]:
    """Points of curves (..., 4, 2) at shares."""
    t = t[..., None]
    a, b, c, d = (curves[..., k, :] for k in range(4))
    found: NDArray[np.float64] = (
        a * (1 - t) ** 3 + 3 * b * t * (1 - t) ** 2 + 3 * c * t**2 * (1 - t) + d * t**3
    )
    return found


def _split(curves: Cubics, number: int, share: float) -> Cubics:
    """One more node on a curve, which stays as it is. Source: de Casteljau."""
    share = min(max(share, 1e-3), 1 - 1e-3)
    a, b, c, d = curves[number]
    ab, bc, cd = a + (b - a) * share, b + (c - b) * share, c + (d - c) * share
    abc, bcd = ab + (bc - ab) * share, bc + (cd - bc) * share
    middle = abc + (bcd - abc) * share
    two = np.array([[a, ab, abc, middle], [middle, bcd, cd, d]])
    return np.concatenate([curves[:number], two, curves[number + 1 :]])


def _without(curves: Cubics, number: int) -> Cubics:
    """One node less: both its curves become one that leaves and arrives as they did."""
    if len(curves) <= _LEAST_NODES:
        return curves
    rolled = np.roll(curves, -((number - 1) % len(curves)), axis=0)
    first, second = rolled[0], rolled[1]
    one, two = _length(first), _length(second)
    whole = max(one + two, 1e-12)
    start = first[0] + (first[1] - first[0]) * whole / max(one, 1e-12)
    end = second[3] + (second[2] - second[3]) * whole / max(two, 1e-12)
    joined = np.array([[first[0], start, end, second[3]]])
    return np.concatenate([joined, rolled[2:]])


def _length(curve: Cubics) -> float:
    points = _at(curve[None], np.linspace(0, 1, 17))
    return float(np.hypot(*np.diff(points, axis=0).T).sum())


def _moved(curves: Cubics, number: int, to: Corner) -> None:
    """A node and its two handles put elsewhere; what was straight stays straight."""
    beside = number, (number - 1) % len(curves)
    flat = [_is_straight(curves[k]) for k in beside]
    by = to - curves[number, 0]
    curves[number, :2] += by
    curves[number - 1, 2:] += by
    for k, straight in zip(beside, flat, strict=True):
        if straight:
            start, end = curves[k, 0].copy(), curves[k, 3].copy()
            curves[k, 1:3] = start + (end - start) / 3, end - (end - start) / 3


def _is_straight(curve: Cubics) -> bool:
    way = curve[3] - curve[0]
    length = float(np.hypot(*way))
    off = np.abs((curve[1:3] - curve[0]) @ (-way[1], way[0])) / max(length, 1e-12)
    return bool(off.max() < _STRAIGHT * max(length, 1e-12))


def _turned(curves: Cubics, number: int, smooth: bool) -> None:
    """A node made smooth, its handles in one line; or sharp, each towards its neighbour."""
    node = curves[number, 0].copy()
    out, into = curves[number, 1] - node, curves[number - 1, 2] - node
    if not smooth:
        curves[number, 1] = node + (curves[number, 3] - node) / 3
        curves[number - 1, 2] = node + (curves[number - 1, 0] - node) / 3
        return
    way = out - into
    length = float(np.hypot(*way))
    if length < 1e-9:
        way = curves[number, 3] - curves[number - 1, 0]
        length = max(float(np.hypot(*way)), 1e-9)
    way = way / length
    least = 0.2 * min(_length(curves[number]), _length(curves[number - 1]))
    curves[number, 1] = node + way * max(float(np.hypot(*out)), least)
    curves[number - 1, 2] = node - way * max(float(np.hypot(*into)), least)
