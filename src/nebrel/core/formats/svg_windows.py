"""What clip paths and masks of an SVG let through of what is drawn behind them."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Iterable
from dataclasses import replace
from typing import Any

import numpy as np

from nebrel.core.formats.svg_parts import (
    SHAPES,
    Area,
    Matrix,
    Placed,
    href_of,
    mapped,
    moved,
    named_in,
    tag_of,
    transform_of,
)
from nebrel.core.formats.svg_styles import Said
from nebrel.core.kernel import Region, all_of, non_zero

_DEEPEST = 50  # windows within windows
_HALF = 0.5
_SOFT = 0.1  # from black or white, that a mask may be and still has an edge

Tones = Callable[[Placed], Iterable[tuple[Region, float, float]]]
"""What a shape paints, mm, one over the other: how light it is and how much it covers, 0 to 1."""
Window = Callable[[Placed, Any], Region | None]
Within = Callable[[Placed, bool], Iterable[Placed]]
"""The shapes that an element draws, and whether whatever they are seen through."""


class Windows:
    """The clip paths and masks of a page.

    Parameters
    ----------
    by_id : its elements
    said : as from `said_of`
    area : the area that a shape fills
    tones : what a shape paints, to mask by
    within : the shapes of an element

    Attributes
    ----------
    left_out : what could not be applied, and how often
    """

    def __init__(
        self,
        by_id: dict[str, Any],
        said: dict[Any, Said],
        area: Area,
        tones: Tones,
        within: Within,
    ) -> None:
        self._by_id, self._said = by_id, said
        self._area, self._tones, self._within = area, tones, within
        self.left_out: Counter[str] = Counter()
        self._open: list[Any] = []

    def through(self, placed: Placed) -> Region | None:
        """What an element is seen through, mm; None for all of it."""
        found = placed.clip
        for name, tag, window in (
            ("clip-path", "clipPath", self._clip),
            ("mask", "mask", self._mask),
        ):
            area = self._seen(placed, placed.style.get(name, "none"), tag, window)
            if area is not None:
                found = area if found is None else found ^ area
        return found

    def _seen(self, placed: Placed, text: str, tag: str, window: Window) -> Region | None:
        """What the window that a reference names lets through, mm; None where it is none."""
        target = self._by_id.get(named_in(text))
        # One within itself is an error, and as if it were not there.
        if target is None or tag_of(target) != tag or target in self._open:
            return None
        if len(self._open) >= _DEEPEST:
            return None
        self._open.append(target)
        try:
            return window(placed, target)
        finally:
            self._open.pop()

    def _box(self, placed: Placed) -> tuple[float, float, float, float] | None:
        """Left, top, width and height of an element in its own units; None without a size."""
        large = float(np.linalg.norm(placed.matrix[:2, :2], 2))
        if not large > 0:
            return None
        plain = replace(placed, matrix=np.diag([large, large, 1.0]), clip=None)
        bounds = [self._area(shape).bounds() for shape in self._within(plain, True)]
        low = np.array([one[:2] for one in bounds if one[2] > one[0]], np.float64)
        high = np.array([one[2:] for one in bounds if one[2] > one[0]], np.float64)
        if not len(low):
            return None
        x, y = low.min(axis=0) / large
        wide, tall = high.max(axis=0) / large - (x, y)
        return (x, y, wide, tall) if wide > 0 and tall > 0 else None

    def _clip(self, placed: Placed, target: Any) -> Region | None:
        own = self._said.get(target, {})
        matrix = placed.matrix @ transform_of(own.get("transform", ""))
        if target.get("clipPathUnits") == "objectBoundingBox":
            box = self._box(placed)
            if box is None:
                return None
            matrix = matrix @ _of_box(box)
        found = non_zero([])
        inside = Placed(target, matrix, {}, placed.viewport)
        for child in target:
            if not isinstance(child.tag, str):
                continue
            at, element = inside, child
            if tag_of(child) == "use":
                port = at.viewport
                element = self._by_id.get(href_of(child))
                if element is None:
                    continue
                turned = at.matrix @ transform_of(self._said.get(child, {}).get("transform", ""))
                x, y = port.length(child.get("x"), "x"), port.length(child.get("y"), "y")
                at = replace(at, matrix=turned @ moved(x, y))
            style = dict(self._said.get(element, {}))
            if tag_of(element) not in SHAPES or style.get("display") == "none":
                continue
            if style.get("visibility", "visible") != "visible":
                continue
            style["fill-rule"] = style.get("clip-rule", own.get("clip-rule", "nonzero"))
            turned = at.matrix @ transform_of(style.get("transform", ""))
            shape = replace(at, element=element, matrix=turned, style=style)
            area = self._area(shape)
            further = self._seen(shape, style.get("clip-path", "none"), "clipPath", self._clip)
            found += area if further is None else area ^ further
        further = self._seen(placed, own.get("clip-path", "none"), "clipPath", self._clip)
        return found if further is None else found ^ further

    def _mask(self, placed: Placed, target: Any) -> Region | None:
        """Where a mask is lighter than half."""
        shares = target.get("maskUnits", "objectBoundingBox") == "objectBoundingBox"
        by_box = target.get("maskContentUnits") == "objectBoundingBox"
        box = self._box(placed) if shares or by_box else None
        if box is None and (shares or by_box):
            return None
        port, frame, content = placed.viewport, placed.matrix, placed.matrix
        if box is not None:
            if shares:
                port, frame = replace(port, wide=1.0, tall=1.0), frame @ _of_box(box)
            if by_box:
                content = content @ _of_box(box)
        x = port.length(target.get("x"), "x", -0.1 * port.wide)
        y = port.length(target.get("y"), "y", -0.1 * port.tall)
        wide = port.length(target.get("width"), "x", 1.2 * port.wide)
        tall = port.length(target.get("height"), "y", 1.2 * port.tall)
        corners = np.array([[x, y], [x + wide, y], [x + wide, y + tall], [x, y + tall]])
        seen, added = non_zero([]), list[Region]()
        by_cover = self._said.get(target, {}).get("mask-type") == "alpha"
        inside = Placed(target, content, {}, placed.viewport)
        for shape in self._within(inside, False):
            for area, light, cover in self._tones(shape):
                tone = cover if by_cover else light * cover
                if _SOFT < tone < 1 - _SOFT:
                    self.left_out["mask by a tone in between was taken by its half"] += 1
                if tone >= _HALF:
                    added.append(area)
                elif cover >= _HALF and not by_cover:
                    seen, added = all_of([seen, *added]) - area, []
        return all_of([seen, *added]) ^ non_zero([mapped(frame, corners)])


def _of_box(box: tuple[float, float, float, float]) -> Matrix:
    """From shares of a box to the units that it is given in."""
    x, y, wide, tall = box
    return np.array([[wide, 0, x], [0, tall, y], [0, 0, 1]], np.float64)
