"""Lettering: text in a shipped typeface as outlines in mm."""

from __future__ import annotations

import io
import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise
from pathlib import Path
from typing import Any, get_args

import numpy as np

from nebrel.core.choices import Align, Face
from nebrel.core.data import Loop
from nebrel.core.errors import InvalidValue

_FOLDER = Path(__file__).with_name("faces")
_FILES: dict[Face, str] = {
    "plain": "atkinson-hyperlegible-next-{}-600-normal.woff2",
    "plain_heavy": "atkinson-hyperlegible-next-{}-800-normal.woff2",
    "slab": "bitter-{}-700-normal.woff2",
    "stencil": "saira-stencil-one-{}-400-normal.woff2",
}
_CHORDS = 10  # straight pieces of one curve of a letter
FACES: tuple[Face, ...] = get_args(Face)


@dataclass(frozen=True)
class _Loaded:
    """One font file, ready to shape."""

    font: Any
    characters: frozenset[int]
    cap_height: float  # of the em, in font units


def letter(
    text: str,
    face: Face,
    capital_mm: float,
    align: Align = "centre",
    spacing_mm: float = 0.0,
    leading: float = 1.5,
    arc_mm: float = 0.0,
) -> list[Loop]:
    """Outlines of a text about its middle.

    Parameters
    ----------
    text : lines are parted by a line feed
    capital_mm : height of a capital letter
    spacing_mm : added between letters
    leading : from baseline to baseline, in capital heights
    arc_mm : radius of the circle that the first baseline follows; above 0 it bulges upwards,
        below 0 downwards, 0 is straight

    Returns
    -------
    Closed loops for the non-zero rule

    Raises
    ------
    InvalidValue : the face lacks a letter, or the arc is too tight
    """
    loops: list[Loop] = []
    lines = text.split("\n")
    if arc_mm and abs(arc_mm) < capital_mm * len(lines):
        raise InvalidValue(
            "arc",
            f"a radius of {abs(arc_mm):g} mm is too tight for letters of {capital_mm:g} mm",
            f"The nearest that works is {capital_mm * len(lines):g} mm",
        )
    for number, line in enumerate(lines):
        glyphs, advance = _set_line(line, face, capital_mm, spacing_mm)
        start = {"left": 0.0, "centre": -advance / 2, "right": -advance}[align]
        down = number * leading * capital_mm
        for glyph, middle in glyphs:
            for loop in glyph:
                shifted = loop + np.array([start, 0.0])
                if arc_mm:
                    shifted = _bent(shifted, middle + start, arc_mm, down)
                else:
                    shifted[:, 1] -= down
                loops.append(shifted)
    if not loops:
        return []
    points = np.concatenate(loops)
    middle_y = (points[:, 1].min() + points[:, 1].max()) / 2
    if arc_mm or align == "centre":
        return [loop - (0, middle_y) for loop in loops]
    middle_x = (points[:, 0].min() + points[:, 0].max()) / 2
    return [loop - (middle_x, middle_y) for loop in loops]


def _bent(loop: Loop, middle: float, arc_mm: float, down_mm: float) -> Loop:
    """A letter moved to its place on a circle and turned there, keeping its shape."""
    up = 1.0 if arc_mm > 0 else -1.0
    angle = middle / arc_mm
    radius = abs(arc_mm) - up * down_mm
    x, y = loop[:, 0] - middle, loop[:, 1]
    sin, cos = math.sin(angle), math.cos(angle)
    out = up * radius + y
    return np.column_stack([x * cos + out * sin, -x * sin + out * cos - up * abs(arc_mm)])


def _set_line(
    line: str, face: Face, capital_mm: float, spacing_mm: float
) -> tuple[list[tuple[list[Loop], float]], float]:
    """Glyphs of one line with the middle of each, and how far the line reaches, mm."""
    import uharfbuzz

    glyphs: list[tuple[list[Loop], float]] = []
    at = 0.0
    for loaded, run in _runs(line, face):
        scale = capital_mm / loaded.cap_height
        buffer = uharfbuzz.Buffer()
        buffer.add_str(run)
        buffer.guess_segment_properties()
        uharfbuzz.shape(loaded.font, buffer, {"kern": True, "liga": spacing_mm == 0})
        for info, position in zip(buffer.glyph_infos, buffer.glyph_positions, strict=True):
            pen = _Pen()
            loaded.font.draw_glyph_with_pen(info.codepoint, pen)
            shift = (at + position.x_offset * scale, position.y_offset * scale)
            width = position.x_advance * scale
            loops = [loop * scale + shift for loop in pen.loops]
            if loops:
                glyphs.append((loops, at + width / 2))
            at += width + spacing_mm
    return glyphs, max(0.0, at - spacing_mm)


def _runs(line: str, face: Face) -> list[tuple[_Loaded, str]]:
    """The line cut where another file of the face is needed."""
    runs: list[tuple[_Loaded, str]] = []
    for character in line.replace("\t", " "):
        files = (_load(_FILES[face].format(part)) for part in ("latin", "latin-ext"))
        found = next((file for file in files if ord(character) in file.characters), None)
        if found is None:
            raise InvalidValue(
                "text",
                f"the typeface has no “{character}”",
                "Take another typeface, or leave that letter out",
            )
        if runs and runs[-1][0] is found:
            runs[-1] = (found, runs[-1][1] + character)
        else:
            runs.append((found, character))
    return runs


@lru_cache(maxsize=8)
def _load(name: str) -> _Loaded:
    import uharfbuzz
    from fontTools.ttLib import TTFont

    opened = TTFont(_FOLDER / name)
    characters = frozenset(opened.getBestCmap())
    capital = float(opened["OS/2"].sCapHeight)
    plain = io.BytesIO()
    opened.flavor = None
    opened.save(plain)
    return _Loaded(uharfbuzz.Font(uharfbuzz.Face(plain.getvalue())), characters, capital)


class _Pen:
    """Collects the outlines of a glyph as straight pieces."""

    def __init__(self) -> None:
        self.loops: list[Loop] = []
        self._points: list[tuple[float, float]] = []

    def moveTo(self, point: tuple[float, float]) -> None:  # noqa: N802  the pen protocol
        self._points = [point]

    def lineTo(self, point: tuple[float, float]) -> None:  # noqa: N802
        self._points.append(point)

    def qCurveTo(self, *points: tuple[float, float]) -> None:  # noqa: N802
        self._curve([self._points[-1], *points])

    def curveTo(self, *points: tuple[float, float]) -> None:  # noqa: N802
        self._curve([self._points[-1], *points])

    def closePath(self) -> None:  # noqa: N802
        loop = np.asarray(self._points, np.float64)
        apart = np.hypot(*(loop - np.roll(loop, 1, axis=0)).T) > 1e-6
        if apart.sum() >= 3:
            self.loops.append(loop[apart])

    def _curve(self, points: Sequence[tuple[float, float]]) -> None:
        """A Bézier curve by de Casteljau's construction."""
        share = np.linspace(0, 1, _CHORDS + 1)[1:, None]
        level = [np.asarray(point, np.float64)[None] for point in points]
        while len(level) > 1:
            level = [a * (1 - share) + b * share for a, b in pairwise(level)]
        self._points += [(float(x), float(y)) for x, y in level[0]]
