"""The shapes of an SVG as they are placed: through groups, references and nested pages."""

from __future__ import annotations

import math
import re
from collections import Counter
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.formats.svg_styles import Said
from nebrel.core.kernel import Region, non_zero

Matrix = NDArray[np.float64]
SHAPES = ("path", "rect", "circle", "ellipse", "line", "polyline", "polygon")
_GROUPS = ("g", "a", "switch")
# Pixels of 1/96 inch; em and ex hang on the size of letters.
_UNITS = {"px": 1.0, "": 1.0, "in": 96.0, "pt": 96 / 72, "pc": 16.0, "mm": 96 / 25.4}
_UNITS |= {"cm": 960 / 25.4, "q": 24 / 25.4}
_INHERITED = frozenset(
    {
        "clip-rule",
        "color",
        "fill",
        "fill-opacity",
        "fill-rule",
        "stroke",
        "stroke-dasharray",
        "stroke-dashoffset",
        "stroke-linecap",
        "stroke-linejoin",
        "stroke-miterlimit",
        "stroke-opacity",
        "stroke-width",
        "visibility",
    }
)
_NUMBER = re.compile(r"\s*([-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?)\s*([a-zA-Z%]*)\s*$")
_REFERENCE = re.compile(r"url\(\s*['\"]?#([^'\")]+)['\"]?\s*\)")
_DEEPEST = 50  # clips within clips
_LETTERS_PX = 16.0


@dataclass(frozen=True)
class Viewport:
    """What shares of a length are of, in user units, and how large letters are."""

    wide: float
    tall: float
    letters: float = _LETTERS_PX

    def length(self, text: str | None, along: str, otherwise: float = 0.0) -> float:
        """A length in user units.

        Parameters
        ----------
        along : x, y, or both, for shares
        """
        found = _NUMBER.match(text) if text else None
        if found is None:
            return otherwise
        number, unit = float(found[1]), found[2].lower()
        if unit == "%":
            both = math.hypot(self.wide, self.tall) / math.sqrt(2)
            return number / 100 * {"x": self.wide, "y": self.tall}.get(along, both)
        if unit in ("em", "rem", "ex", "ch"):
            return number * self.letters * (0.5 if unit in ("ex", "ch") else 1.0)
        return number * _UNITS[unit] if unit in _UNITS else otherwise


@dataclass(frozen=True)
class Placed:
    """A shape where it is drawn.

    Attributes
    ----------
    matrix : (3, 3) from its own user units to mm of the page
    style : what holds for it, with what it inherits
    group : of the page, that it lies in
    clip : what of the page it is seen through, mm; None for all of it
    """

    element: Any
    matrix: Matrix
    style: Mapping[str, str]
    viewport: Viewport
    group: str = ""
    clip: Region | None = None


@dataclass(frozen=True)
class _Frame:
    """A place in the tree that is still to be drawn."""

    placed: Placed
    depth: int
    size: tuple[str | None, str | None] | None = None  # that a reference gives


Lines = Callable[[Placed], Region]
"""The area of a shape, mm."""


class Page:
    """What an SVG draws.

    Parameters
    ----------
    tree : without what is not drawn
    said : as from `said_of`
    area : the area that a shape fills, to clip by

    Attributes
    ----------
    unit_px : pixels of one user unit
    """

    def __init__(self, tree: Any, said: Mapping[Any, Said], area: Lines) -> None:
        self._tree, self._said, self._area = tree, said, area
        self._by_id = {one.get("id"): one for one in tree.iter() if one.get("id")}
        self._left_out: Counter[str] = Counter()
        box = _numbers(tree.get("viewBox"), 4)
        plain = Viewport(box[2] if box else 0.0, box[3] if box else 0.0)
        wide, tall = plain.length(tree.get("width"), "x"), plain.length(tree.get("height"), "y")
        self._size_px = (wide, tall) if wide > 0 and tall > 0 else None
        matrix = np.eye(3)
        if box and self._size_px:
            matrix = _fitted(box, tree.get("preserveAspectRatio"), *self._size_px)
        self.unit_px = wide / box[2] if box and box[2] > 0 and wide > 0 else 1.0
        inner = Viewport(box[2], box[3]) if box else Viewport(wide, tall)
        self._whole = Placed(tree, matrix, {}, inner)

    def size_mm(self, scale: float) -> tuple[float, float] | None:
        """Width and height that it says, at so many mm for a pixel; None where it says none."""
        if self._size_px is None:
            return None
        wide, tall = self._size_px
        return round(wide * scale, 4), round(tall * scale, 4)

    @property
    def notes(self) -> list[str]:
        """What could not be drawn as it is meant, once all shapes were asked for."""
        return [
            f"{count} {what}{'s' if count > 1 else ''} not applied"
            for what, count in sorted(self._left_out.items())
        ]

    def shapes(self, scale: float) -> Iterator[Placed]:
        """Every shape that is seen, in the order it is painted, so many mm for a pixel."""
        matrix = np.diag([scale, scale, 1.0]) @ self._whole.matrix
        frames = [_Frame(replace(self._whole, matrix=matrix), 0)]
        while frames:
            frame = frames.pop()
            entered = self._entered(frame)
            if entered is None:
                continue
            tag = tag_of(entered.element)
            if tag in SHAPES:
                if entered.style.get("visibility", "visible") == "visible":
                    yield entered
                continue
            frames += [*reversed(list(self._within(entered, tag, frame)))]

    def _entered(self, frame: _Frame) -> Placed | None:
        """A place with its own style, transform and clip; None where nothing of it is seen."""
        before = frame.placed
        element, own = before.element, self._said.get(before.element, {})
        inherited = {k: v for k, v in before.style.items() if k in _INHERITED}
        style = inherited | {k: v for k, v in own.items() if v != "inherit"}
        if style.get("display") == "none" or share_of(style.get("opacity")) <= 0:
            return None
        viewport = before.viewport
        if "font-size" in own:
            letters = viewport.length(own["font-size"], "both", viewport.letters)
            if own["font-size"].strip().endswith("%"):
                letters = viewport.letters * share_of(own["font-size"])
            viewport = replace(viewport, letters=letters)
        matrix = before.matrix
        if frame.depth > 0 and (text := own.get("transform")):
            matrix = matrix @ _transform(text)
        found = replace(before, matrix=matrix, style=style, viewport=viewport)
        if own.get("mask", "none") != "none":
            self._left_out["mask"] += 1
        clip = found.clip
        if (text := own.get("clip-path", "none")) != "none":
            area = self._clip(found, text, 0)
            if area is not None:
                clip = area if clip is None else clip ^ area
                if clip.is_empty():
                    return None
        if frame.depth == 1 and tag_of(element) in (*_GROUPS, "use", "svg"):
            found = replace(found, group=_label(element) or element.get("id") or found.group)
        found = replace(found, clip=clip)
        if tag_of(element) in ("svg", "symbol") and frame.depth > 0:
            return _nested(found, frame.size)
        return found

    def _within(self, placed: Placed, tag: str, frame: _Frame) -> Iterator[_Frame]:
        element, depth = placed.element, frame.depth + 1
        if tag == "use":
            target = self._by_id.get(reference_of(element))
            if target is None:
                return
            port = placed.viewport
            x, y = port.length(element.get("x"), "x"), port.length(element.get("y"), "y")
            moved = replace(placed, element=target, matrix=placed.matrix @ _moved(x, y))
            size = element.get("width"), element.get("height")
            yield _Frame(moved, depth, size)
            return
        if tag == "symbol" and frame.size is None:
            return
        if tag not in (*_GROUPS, "svg", "symbol"):
            return
        children = list(element)
        if tag == "switch":
            children = [
                child
                for child in children
                if not {"requiredExtensions", "systemLanguage"} & set(child.keys())
            ][:1]
        for child in children:
            if isinstance(child.tag, str) and tag_of(child) != "symbol":
                yield _Frame(replace(placed, element=child), depth)

    def _clip(self, placed: Placed, text: str, depth: int) -> Region | None:
        """What a clip path lets through, mm; None where it is none."""
        named = _REFERENCE.match(text)
        target = self._by_id.get(named[1]) if named else None
        if target is None or tag_of(target) != "clipPath" or depth > _DEEPEST:
            return None
        own = self._said.get(target, {})
        matrix = placed.matrix @ _transform(own.get("transform", ""))
        if target.get("clipPathUnits") == "objectBoundingBox":
            self._left_out["clip in shares of a box"] += 1
            return None
        found = non_zero([])
        inside = Placed(target, matrix, {}, placed.viewport)
        for child in target:
            at, element = inside, child
            if not isinstance(child.tag, str):
                continue
            if tag_of(child) == "use":
                port = at.viewport
                element = self._by_id.get(reference_of(child))
                if element is None:
                    continue
                turned = at.matrix @ _transform(self._said.get(child, {}).get("transform", ""))
                x, y = port.length(child.get("x"), "x"), port.length(child.get("y"), "y")
                at = replace(at, matrix=turned @ _moved(x, y))
            style = dict(self._said.get(element, {}))
            if tag_of(element) not in SHAPES or style.get("display") == "none":
                continue
            if style.get("visibility", "visible") != "visible":
                continue
            style["fill-rule"] = style.get("clip-rule", own.get("clip-rule", "nonzero"))
            turned = at.matrix @ _transform(style.get("transform", ""))
            shape = replace(at, element=element, matrix=turned, style=style)
            area = self._area(shape)
            if (inner := style.get("clip-path", "none")) != "none":
                further = self._clip(shape, inner, depth + 1)
                area = area if further is None else area ^ further
            found += area
        if (outer := own.get("clip-path", "none")) != "none":
            further = self._clip(placed, outer, depth + 1)
            found = found if further is None else found ^ further
        return found


def tag_of(element: Any) -> str:
    """Its name, in whatever namespace."""
    return str(element.tag).rsplit("}", 1)[-1]


def reference_of(element: Any) -> str:
    """The name that it refers to within the file; empty where it refers to none."""
    href = element.get("href") or element.get("{http://www.w3.org/1999/xlink}href") or ""
    return href[1:] if href.startswith("#") else ""


def _label(element: Any) -> str | None:
    """What a group is called for people, by whichever program."""
    for key, value in element.attrib.items():
        if str(key).startswith("{") and str(key).endswith("}label"):
            return str(value)
    return None


def _nested(placed: Placed, size: tuple[str | None, str | None] | None) -> Placed | None:
    """A page within a page, or a symbol: its own units, and seen through its frame."""
    element, port = placed.element, placed.viewport
    wide_said, tall_said = size or (None, None)
    wide = port.length(wide_said or element.get("width"), "x", port.wide)
    tall = port.length(tall_said or element.get("height"), "y", port.tall)
    x = port.length(element.get("x"), "x") if tag_of(element) == "svg" else 0.0
    y = port.length(element.get("y"), "y") if tag_of(element) == "svg" else 0.0
    box = _numbers(element.get("viewBox"), 4)
    if box and (box[2] <= 0 or box[3] <= 0):
        return None
    framed = wide > 0 and tall > 0
    if not framed and (element.get("width") or element.get("height") or box):
        return None
    matrix, clip = placed.matrix @ _moved(x, y), placed.clip
    if framed and placed.style.get("overflow", "hidden") in ("hidden", "scroll"):
        corners = np.array([[0, 0], [wide, 0], [wide, tall], [0, tall]], np.float64)
        frame = non_zero([mapped(matrix, corners)])
        clip = frame if clip is None else clip ^ frame
        if clip.is_empty():
            return None
    inner = Viewport(wide, tall, port.letters)
    if box and framed:
        matrix = matrix @ _fitted(box, element.get("preserveAspectRatio"), wide, tall)
        inner = Viewport(box[2], box[3], port.letters)
    return replace(placed, matrix=matrix, clip=clip, viewport=inner)


def mapped(matrix: Matrix, places: NDArray[np.float64]) -> NDArray[np.float64]:
    """Places (..., 2) through a matrix."""
    found: NDArray[np.float64] = places @ matrix[:2, :2].T + matrix[:2, 2]
    return found


def _moved(x: float, y: float) -> Matrix:
    return np.array([[1.0, 0, x], [0, 1, y], [0, 0, 1]])


def _transform(text: str) -> Matrix:
    """As SVG and CSS write it. Raises ValueError where it is none."""
    if not text or text.strip() == "none":
        return np.eye(3)
    from svgelements import Matrix as Read

    one = Read(text)
    found = np.array([[one.a, one.c, one.e], [one.b, one.d, one.f], [0, 0, 1]], np.float64)
    if not np.isfinite(found).all():
        raise ValueError(text[:40])
    return found


def _fitted(box: list[float], how: str | None, wide: float, tall: float) -> Matrix:
    """From a view box to a frame of that size."""
    across, down = wide / box[2], tall / box[3]
    words = (how or "xMidYMid meet").split()
    align = words[0] if words else "xMidYMid"
    x = y = 0.0
    if align != "none":
        across = down = max(across, down) if "slice" in words else min(across, down)
        shares = {"Min": 0.0, "Mid": 0.5, "Max": 1.0}
        x = (wide - box[2] * across) * shares.get(align[1:4], 0.5)
        y = (tall - box[3] * down) * shares.get(align[5:8], 0.5)
    return np.array(
        [[across, 0, x - box[0] * across], [0, down, y - box[1] * down], [0, 0, 1]], np.float64
    )


def _numbers(text: str | None, count: int) -> list[float] | None:
    try:
        found = [float(part) for part in (text or "").replace(",", " ").split()]
    except ValueError:
        return None
    known = len(found) == count and all(math.isfinite(one) for one in found)
    return found if known and found[2] > 0 and found[3] > 0 else None


def share_of(text: str | None) -> float:
    """A number from 0 to 1, or a share in hundredths; 1 where it is none."""
    found = _NUMBER.match(text) if text else None
    if found is None:
        return 1.0
    return float(found[1]) / (100 if found[2] == "%" else 1)
