"""The lines of the shapes that SVG has, as cubic curves."""

from __future__ import annotations

import math
import re
from functools import cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.formats.svg_parts import Placed, tag_of
from nebrel.core.outline.outline import Cubics

Curves = tuple[Cubics, bool]
"""A line, and whether it is closed."""

_ARCS = 3  # cubics of a quarter round: off by a millionth
_NUMBER = r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?"
_POINTS = re.compile(_NUMBER)
_BETWEEN = r"(?:\s+,?\s*|,\s*|(?=[-+.]))"
# Straight pieces with their numbers, as most drawings of many lines are written.
_PIECE = re.compile(rf"\s*([MmLlHhVvZz])\s*((?:{_NUMBER})?(?:{_BETWEEN}{_NUMBER})*)\s*")


def curves_of(shape: Placed) -> list[Curves]:
    """The lines of a shape, in its own units.

    Raises
    ------
    ValueError : or whatever else comes of values that no SVG has
    """
    element, tag = shape.element, tag_of(shape.element)
    if tag == "path":
        return _of_path(element.get("d") or "")
    if tag in ("polyline", "polygon"):
        numbers = [float(part) for part in _POINTS.findall(element.get("points") or "")]
        points = np.array(numbers[: len(numbers) // 2 * 2], np.float64).reshape(-1, 2)
        return _straight(points, tag == "polygon")

    def said(name: str, along: str, otherwise: float = 0.0) -> float:
        return shape.viewport.length(element.get(name), along, otherwise)

    if tag == "line":
        ends = [[said("x1", "x"), said("y1", "y")], [said("x2", "x"), said("y2", "y")]]
        return _straight(np.array(ends), False)
    if tag == "rect":
        rx, ry = said("rx", "x", math.nan), said("ry", "y", math.nan)
        rx, ry = (ry if math.isnan(rx) else rx), (rx if math.isnan(ry) else ry)
        place = said("x", "x"), said("y", "y")
        return _rectangle(place, said("width", "x"), said("height", "y"), rx, ry)
    middle = said("cx", "x"), said("cy", "y")
    if tag == "circle":
        rx = ry = said("r", "both")
    else:
        rx, ry = said("rx", "x", math.nan), said("ry", "y", math.nan)
        rx, ry = (ry if math.isnan(rx) else rx), (rx if math.isnan(ry) else ry)
    if not (rx > 0 and ry > 0):
        return []
    return [(_round(middle, rx, ry, 0, 4), True)]


def _straight(points: NDArray[np.float64], closed: bool) -> list[Curves]:
    if len(points) < 2:
        return []
    after = np.roll(points, -1, axis=0)
    if not closed:
        points, after = points[:-1], after[:-1]
    apart = np.hypot(*(after - points).T) > 1e-12
    if not apart.any():
        if closed:
            return []
        apart[:1] = True  # a dot
    a, b = points[apart], after[apart]
    with np.errstate(over="ignore", invalid="ignore"):
        third = (b - a) / 3
        return [(np.stack([a, a + third, b - third, b], axis=1), closed)]


def _round(middle: tuple[float, float], rx: float, ry: float, first: int, last: int) -> Cubics:
    """Quarters of an ellipse, from the right one on, clockwise as it is seen."""
    found: Cubics = _quarters(first, last) * (rx, ry) + middle
    return found


@cache
def _quarters(first: int, last: int) -> Cubics:
    angle = np.linspace(first, last, (last - first) * _ARCS + 1) * (math.pi / 2)
    reach = 4 / 3 * math.tan(math.pi / 8 / _ARCS)
    on = np.column_stack([np.cos(angle), np.sin(angle)])
    way = reach * np.column_stack([-on[:, 1], on[:, 0]])
    a, b = on[:-1], on[1:]
    return np.stack([a, a + way[:-1], b - way[1:], b], axis=1)


def _rectangle(
    place: tuple[float, float], wide: float, tall: float, rx: float, ry: float
) -> list[Curves]:
    x, y = place
    if not (wide > 0 and tall > 0):
        return []
    rx = 0.0 if math.isnan(rx) else min(max(rx, 0.0), wide / 2)
    ry = 0.0 if math.isnan(ry) else min(max(ry, 0.0), tall / 2)
    if rx == 0 or ry == 0:
        corners = [[x, y], [x + wide, y], [x + wide, y + tall], [x, y + tall]]
        return _straight(np.array(corners), True)
    rounds = [
        _round((x + wide - rx, y + ry), rx, ry, 3, 4),
        _round((x + wide - rx, y + tall - ry), rx, ry, 0, 1),
        _round((x + rx, y + tall - ry), rx, ry, 1, 2),
        _round((x + rx, y + ry), rx, ry, 2, 3),
    ]
    whole = []  # from where the upper side begins: dashes do so, too
    for before, one in zip(rounds[-1:] + rounds[:-1], rounds, strict=True):
        side = _straight(np.array([before[-1, 3], one[0, 0]]), False)
        whole += [*(part for part, _ in side), one]
    found = np.concatenate(whole)
    apart = np.hypot(*(found[:, 3] - found[:, 0]).T) > 1e-12
    return [(found[apart], True)]


def _of_path(text: str) -> list[Curves]:
    straight = straight_path(text)
    return any_path(text) if straight is None else straight


def any_path(text: str) -> list[Curves]:
    """A path of pieces of any kind, as far as it is well written."""
    from svgelements import Path

    path = Path(text)
    path.approximate_arcs_with_cubics()
    found = []
    for sub in path.as_subpaths():
        pieces, closed = _cubics(sub)
        if pieces:
            found.append((np.array(pieces, np.float64), closed))
    return found


def straight_path(text: str) -> list[Curves] | None:
    """A path of straight pieces alone; None where it has others, or is not well written."""
    if not text.lstrip().startswith(("M", "m")):
        return None
    found: list[Curves] = []
    places: list[tuple[float, float]] = []
    x = y = 0.0
    at = 0
    while at < len(text):
        piece = _PIECE.match(text, at)
        if piece is None:
            return None
        at, command, numbers = piece.end(), piece[1], [*map(float, _POINTS.findall(piece[2]))]
        kind = command.upper()
        if (kind == "Z") != (not numbers) or (kind in "ML" and len(numbers) % 2):
            return None
        if kind == "Z":
            found += _ended(places, True)
            places = places[:1]
            x, y = places[0]
            continue
        if kind == "M":
            found += _ended(places, False)
            places = []
        steps = zip(numbers[::2], numbers[1::2], strict=True) if kind in "ML" else zip(numbers)
        for step in steps:
            if command != kind:
                x += step[0] if kind != "V" else 0.0
                y += step[-1] if kind != "H" else 0.0
            else:
                x = step[0] if kind != "V" else x
                y = step[-1] if kind != "H" else y
            places.append((x, y))
    return found + _ended(places, False)


def _ended(places: list[tuple[float, float]], closed: bool) -> list[Curves]:
    """The line along places of a path; a dot where all of them are one."""
    if len(places) < 2 and not closed:
        return []
    if all(place == places[0] for place in places):
        return [(np.array([[places[0]] * 4], np.float64), False)]
    return _straight(np.array(places, np.float64), closed)


def _cubics(sub: Any) -> tuple[list[Any], bool]:
    from svgelements import Close, CubicBezier, Line, Move, QuadraticBezier

    found, closed, dot = [], False, None
    for segment in sub:
        if isinstance(segment, Move) or segment.end is None or segment.start is None:
            continue
        a, d = complex(segment.start), complex(segment.end)
        if isinstance(segment, CubicBezier):
            b, c = complex(segment.control1), complex(segment.control2)
        elif isinstance(segment, QuadraticBezier):
            middle = complex(segment.control)
            b, c = a + (middle - a) * 2 / 3, d + (middle - d) * 2 / 3
        elif isinstance(segment, Line | Close):
            closed = closed or isinstance(segment, Close)
            if abs(d - a) < 1e-12:
                dot = a
                continue
            b, c = a + (d - a) / 3, a + (d - a) * 2 / 3
        else:
            continue
        found.append([(z.real, z.imag) for z in (a, b, c, d)])
    if not found and dot is not None:
        return [[(dot.real, dot.imag)] * 4], False
    return found, closed
