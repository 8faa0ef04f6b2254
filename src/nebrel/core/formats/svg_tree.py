"""The shapes of an SVG as they are placed: through groups, references and nested pages."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from nebrel.core.formats.svg_parts import (
    SHAPES,
    Area,
    Matrix,
    Placed,
    Viewport,
    href_of,
    mapped,
    moved,
    share_of,
    tag_of,
    transform_of,
)
from nebrel.core.formats.svg_styles import INHERITED, Said
from nebrel.core.formats.svg_windows import Tones, Windows
from nebrel.core.kernel import non_zero

_GROUPS = ("g", "a", "switch")
_MARKED = ("path", "line", "polyline", "polygon")
_MARKERS = ("marker-start", "marker-mid", "marker-end")


@dataclass(frozen=True)
class _Frame:
    """A place in the tree that is still to be drawn."""

    placed: Placed
    depth: int
    size: tuple[str | None, str | None] | None = None  # that a reference gives


class Page:
    """What an SVG draws.

    Parameters
    ----------
    tree : without what is not drawn
    said : as from `said_of`
    area, tones : what a shape fills, to clip by, and what it paints, to mask by

    Attributes
    ----------
    unit_px : pixels of one user unit
    """

    def __init__(self, tree: Any, said: dict[Any, Said], area: Area, tones: Tones) -> None:
        self._tree, self._said = tree, said
        self._by_id = {one.get("id"): one for one in tree.iter() if one.get("id")}
        self._windows = Windows(self._by_id, said, area, tones, self._drawn)
        self._markers = 0
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
        left_out = self._windows.left_out + Counter({"marker was left out": self._markers})
        return [
            f"{count} × a {what}" if count > 1 else f"a {what}"
            for what, count in sorted(left_out.items())
        ]

    def shapes(self, scale: float) -> Iterator[Placed]:
        """Every shape that is seen, in the order it is painted, so many mm for a pixel."""
        matrix = np.diag([scale, scale, 1.0]) @ self._whole.matrix
        for shape in self._drawn(replace(self._whole, matrix=matrix)):
            if tag_of(shape.element) in _MARKED:
                self._markers += any(shape.style.get(one, "none") != "none" for one in _MARKERS)
            yield shape

    def _drawn(self, whole: Placed, bare: bool = False) -> Iterator[Placed]:
        """The shapes of an element in the order they are painted; bare: behind no window."""
        frames = [_Frame(whole, 0)]
        while frames:
            frame = frames.pop()
            entered = self._entered(frame, bare)
            if entered is None:
                continue
            tag = tag_of(entered.element)
            if tag in SHAPES:
                if entered.style.get("visibility", "visible") == "visible":
                    yield entered
                continue
            frames += [*reversed(list(self._within(entered, tag, frame)))]

    def _entered(self, frame: _Frame, bare: bool) -> Placed | None:
        """A place with its own style, transform and clip; None where nothing of it is seen."""
        before = frame.placed
        element, own = before.element, self._said.get(before.element, {})
        style = before.style
        if own:
            style = {**style, **{k: v for k, v in own.items() if v != "inherit"}}
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
            matrix = matrix @ transform_of(text)
        found = Placed(element, matrix, style, viewport, before.group, before.clip)
        if not bare and ("clip-path" in style or "mask" in style):
            found = replace(found, clip=self._windows.through(found))
            if found.clip is not None and found.clip.is_empty():
                return None
        if frame.depth == 1 and tag_of(element) in (*_GROUPS, "use", "svg"):
            found = replace(found, group=_label(element) or element.get("id") or found.group)
        if tag_of(element) in ("svg", "symbol") and frame.depth > 0:
            return _nested(found, frame.size)
        return found

    def _within(self, placed: Placed, tag: str, frame: _Frame) -> Iterator[_Frame]:
        element, depth = placed.element, frame.depth + 1
        style = {k: v for k, v in placed.style.items() if k in INHERITED}
        placed = replace(placed, style=style)
        if tag == "use":
            target = self._by_id.get(href_of(element))
            if target is None:
                return
            port = placed.viewport
            x, y = port.length(element.get("x"), "x"), port.length(element.get("y"), "y")
            there = replace(placed, element=target, matrix=placed.matrix @ moved(x, y))
            yield _Frame(there, depth, (element.get("width"), element.get("height")))
            return
        if tag == "symbol" and frame.size is None:
            return
        if tag not in (*_GROUPS, "svg", "symbol") and (tag != "mask" or frame.depth > 0):
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
                inner = Placed(
                    child, placed.matrix, style, placed.viewport, placed.group, placed.clip
                )
                yield _Frame(inner, depth)


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
    matrix, clip = placed.matrix @ moved(x, y), placed.clip
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
