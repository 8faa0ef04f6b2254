"""Entries of the build-up laid out in mm, and how they join what lies below."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any, Literal

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.choices import ProfileKind
from nebrel.core.data import Floats, HeightField, Mask
from nebrel.core.heights.profiles import drop_mm, profile_share
from nebrel.core.outline.outline import Corner, Outline
from nebrel.core.outline.raster import fill, inwards_px

Rule = Literal["replace", "add", "highest", "lowest", "cut"]
Points = NDArray[np.floating[Any]]

_FINE_PX = 40  # pixels over the reach of a profile
_MOST_PX = 1600
_NOTHING = Outline()


def between_pixels(mm: Floats, across: Points, down: Points) -> Points:
    """Bilinear values at places in pixels; beyond the edge those of the edge."""
    rows, cols = mm.shape
    x, y = np.clip(across, 0, cols - 1), np.clip(down, 0, rows - 1)
    left, up = np.minimum(x.astype(int), cols - 2), np.minimum(y.astype(int), rows - 2)
    u, v = x - left, y - up
    upper = mm[up, left] * (1 - u) + mm[up, left + 1] * u
    lower = mm[up + 1, left] * (1 - u) + mm[up + 1, left + 1] * u
    found: Points = upper * (1 - v) + lower * v
    return found


@dataclass(frozen=True)
class ShapedEdge:
    """What the heights of a patch come from, where that is the profile of an edge.

    Attributes
    ----------
    inwards_mm : (rows, cols) float32 distance from the outline
    kind, reach_mm : of the profile, which is no pillow
    top_mm, fall_mm : where it ends, and how far from there the outline stands
    """

    inwards_mm: Floats
    kind: ProfileKind
    reach_mm: float
    top_mm: float
    fall_mm: float

    def heights(self, inwards_mm: Floats) -> Floats:
        """Those at such distances."""
        return self.top_mm - self.fall_mm * (
            1 - profile_share(inwards_mm, self.kind, self.reach_mm, 0.0)
        )


@dataclass(frozen=True)
class Patch:
    """Heights over a box of the piece.

    Attributes
    ----------
    mm : (rows, cols) float32, row 0 above
    x_mm, y_mm : of the centre of the lower left pixel
    pitch_mm : of a pixel, both ways
    edge : what gives them between pixels, too, where they are no more than an edge
    """

    mm: Floats
    x_mm: float
    y_mm: float
    pitch_mm: float
    edge: ShapedEdge | None = None

    def at(self, x: Points, y: Points) -> Points:
        """Heights at places, bilinear; beyond the box those of its edge."""
        across = (x - self.x_mm) / self.pitch_mm
        down = self.mm.shape[0] - 1 - (y - self.y_mm) / self.pitch_mm
        if self.edge is None:
            return between_pixels(self.mm, across, down)
        return self.edge.heights(between_pixels(self.edge.inwards_mm, across, down))

    @property
    def field(self) -> HeightField:
        """The same heights as a field of their own."""
        rows, cols = self.mm.shape
        return HeightField(self.mm, (cols - 1) * self.pitch_mm, (rows - 1) * self.pitch_mm)


@dataclass(frozen=True)
class Stack:
    """Something by its contours, as a map has them, standing on z = 0.

    Attributes
    ----------
    contours : outlines, each within the one before, and their heights above the underside,
        rising; straight slopes between them, the last is flat
    opening : left out of all of it
    """

    contours: tuple[tuple[Outline, float], ...]
    opening: Outline = _NOTHING

    @property
    def top_mm(self) -> float:
        """Its highest contour."""
        return self.contours[-1][1]

    def changed(self, change: Callable[[Outline], Outline]) -> Stack:
        """The same with every outline another."""
        contours = tuple((change(outline), mm) for outline, mm in self.contours)
        return Stack(contours, change(self.opening))


@dataclass(frozen=True)
class Laid:
    """One entry, laid out.

    Attributes
    ----------
    rule : how it joins what lies below
    outline : over the piece, mm from the lower left corner
    mm : its top above the underside, or how much is added
    patch : the same where it is not flat, instead
    stacks : what it is exactly, where a patch only shows it
    below : how its edge on z = 0 is shaped, and how far in; None where it is sharp
    """

    rule: Rule
    outline: Outline
    mm: float
    patch: Patch | None = None
    stacks: tuple[Stack, ...] = ()
    below: tuple[ProfileKind, float] | None = None

    def over(self, x: Points, y: Points) -> Points:
        """Its own heights at places."""
        return np.full(x.shape, self.mm) if self.patch is None else self.patch.at(x, y)

    def mirrored(self, wide_mm: float) -> Laid:
        """The same, left for right, on a piece of that width."""
        patch = self.patch
        if patch is not None:
            right = patch.x_mm + patch.field.wide_mm
            edge = patch.edge
            edge = edge and replace(edge, inwards_mm=_left_for_right(edge.inwards_mm))
            flipped = _left_for_right(patch.mm)
            patch = replace(patch, mm=flipped, x_mm=wide_mm - right, edge=edge)
        return self._changed(lambda outline: outline.mirrored(wide_mm), patch)

    def shifted(self, x_mm: float, y_mm: float = 0.0) -> Laid:
        """The same, further to the right and up."""
        own = self.patch
        patch = own and replace(own, x_mm=own.x_mm + x_mm, y_mm=own.y_mm + y_mm)
        return self._changed(lambda outline: outline.moved(x_mm, y_mm), patch)

    def _changed(self, change: Callable[[Outline], Outline], patch: Patch | None) -> Laid:
        stacks = tuple(stack.changed(change) for stack in self.stacks)
        return replace(self, outline=change(self.outline), patch=patch, stacks=stacks)


def _left_for_right(grid: Floats) -> Floats:
    return np.ascontiguousarray(grid[:, ::-1])


def join_at(
    heights: Points, there: Mask, entries: Sequence[Laid], x: Points, y: Points
) -> tuple[Points, Mask]:
    """Heights at places after all entries, and whether anything is there.

    Parameters
    ----------
    heights, there : (n,) what lies below
    x, y : (n,) the places, mm
    """
    heights, there = heights.copy(), there.copy()
    for entry in entries:
        near = np.flatnonzero(entry.outline.inside(x, y))
        if len(near):
            own = entry.over(x[near], y[near])
            heights[near], there[near] = _joined(entry.rule, heights[near], there[near], own)
    return heights, there


def join_over(
    field: HeightField, there: Mask | None, entries: Sequence[Laid]
) -> tuple[HeightField, Mask | None]:
    """The same for every pixel of a field; None when all of it is there."""
    if not entries:
        return field, there
    rows, cols = field.mm.shape
    pitch_x, pitch_y = field.pitch_mm
    heights = field.mm.copy()
    kept = np.ones((rows, cols), bool) if there is None else there.copy()
    for entry in entries:
        if not entry.outline:
            continue
        low, high = entry.outline.bounds
        left, right = _window(low[0] / pitch_x, high[0] / pitch_x, cols)
        up, down = _window(rows - 1 - high[1] / pitch_y, rows - 1 - low[1] / pitch_y, rows)
        if left >= right or up >= down:
            continue
        pixels = [
            np.column_stack([loop[:, 0] / pitch_x - left, rows - 1 - loop[:, 1] / pitch_y - up])
            for loop in entry.outline.loops
        ]
        near = fill(pixels, down - up, right - left)
        y, x = np.nonzero(near)
        if not len(x):
            continue
        at_x: Points = (x + left) * pitch_x
        at_y: Points = (rows - 1 - y - up) * pitch_y
        own = entry.over(at_x, at_y)
        window = (slice(up, down), slice(left, right))
        old, was = heights[window][near].astype(np.float64), kept[window][near]
        joined, now = _joined(entry.rule, old, was, own)
        heights[window][near], kept[window][near] = joined, now
    return HeightField(heights, field.wide_mm, field.tall_mm), None if kept.all() else kept


def _window(low: float, high: float, most: int) -> tuple[int, int]:
    return max(0, int(np.floor(low)) - 1), min(most, int(np.ceil(high)) + 2)


def _joined(rule: Rule, old: Points, was: Mask, own: Points) -> tuple[Points, Mask]:
    """Heights inside one outline after it joined what was there."""
    if rule == "cut":
        return old, np.zeros_like(was)
    if rule == "add":
        return np.where(was, old + own, old), was
    if rule == "lowest":
        return np.where(was, np.minimum(old, own), old), was
    if rule == "highest":
        own = np.where(was, np.maximum(old, own), own)
    return own, np.ones_like(was)


def shape_edge(
    outline: Outline,
    base_mm: float,
    top_mm: float,
    kind: ProfileKind,
    reach_mm: float,
    softness: float,
    coarse_mm: float,
) -> Patch | None:
    """The heights of an entry whose edge is shaped; None when it stays flat.

    Parameters
    ----------
    base_mm, top_mm : between which the edge may run; the top may be the lower one
    coarse_mm : no finer pitch than this is needed
    """
    if kind == "sharp" or (kind != "pillow" and reach_mm <= 0) or not outline:
        return None
    low, high = outline.bounds
    span = float((high - low).max())
    fine = (reach_mm if reach_mm > 0 else span / 4) / _FINE_PX
    pitch = max(fine, coarse_mm, span / _MOST_PX)
    inwards, x, y = measure_inwards(outline, pitch)
    fall = float(np.sign(top_mm - base_mm)) * drop_mm(kind, reach_mm, abs(top_mm - base_mm))
    if kind == "pillow":
        mm = top_mm - fall * (1 - profile_share(inwards, kind, reach_mm, softness))
        return Patch(mm.astype(np.float32), x, y, pitch)
    edge = ShapedEdge(inwards, kind, reach_mm, top_mm, fall)
    return Patch(edge.heights(inwards).astype(np.float32), x, y, pitch, edge)


def measure_inwards(
    outline: Outline, pitch_mm: float, box: tuple[Corner, Corner] | None = None
) -> tuple[Floats, float, float]:
    """Distance from an outline on a grid, mm, positive inside; and its lower left pixel, mm.

    Parameters
    ----------
    box : lowest and highest that the grid is to hold, with two pixels more on every side; those
        of the outline when left out
    """
    low, high = outline.bounds if box is None else box
    x, y = (float(value) for value in low - 2 * pitch_mm)
    cols, rows = (int(n) for n in np.ceil((high - low) / pitch_mm) + 5)
    pixels = outline.in_pixels(x, y, (pitch_mm, pitch_mm), rows)
    return inwards_px(pixels, rows, cols) * np.float32(pitch_mm), x, y


def show_stacks(stacks: Sequence[Stack], pitch_mm: float) -> Patch:
    """The heights of stacks on a grid; between pixels of what is there nothing else shows."""
    boxes = [stack.contours[0][0].bounds for stack in stacks]
    low, high = np.min([b[0] for b in boxes], axis=0), np.max([b[1] for b in boxes], axis=0)
    pitch = max(pitch_mm, float((high - low).max()) / _MOST_PX)
    whole: Floats | None = None
    for stack in stacks:
        (base, first), *rest = stack.contours
        outer, x, y = measure_inwards(base, pitch, (low, high))
        mm = np.where(outer > 0, np.float32(first), np.float32(0))
        reached = first
        for outline, top in rest:
            if not outline:
                break
            inner = measure_inwards(outline, pitch, (low, high))[0]
            share = np.clip(outer / np.maximum(outer - np.minimum(inner, 0), 1e-6), 0, 1)
            slope = np.float32(reached) + share * np.float32(top - reached)
            mm = np.where(outer > 0, slope, mm)
            outer, reached = inner, top
        if stack.opening:
            mm[measure_inwards(stack.opening, pitch, (low, high))[0] > 0] = 0
        whole = mm if whole is None else np.maximum(whole, mm)
    assert whole is not None
    # What lies between a pixel of it and one beside it is as high as it is.
    beyond = cv2.dilate(whole, np.ones((3, 3), np.uint8))
    return Patch(np.where(whole > 0, whole, beyond).astype(np.float32), x, y, pitch)
