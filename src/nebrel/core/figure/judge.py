"""What of a picture stands in the way of a figure, each with what mends it."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Floats, Picture
from nebrel.core.errors import InvalidValue
from nebrel.core.figure.choose import choose_way, has_flat_colours
from nebrel.core.figure.subject import apart, find_cover
from nebrel.core.picture.report import Finding
from nebrel.core.picture.working import Working

_SMALL_PX, _GOOD_PX = 256, 512  # along the longer side of the subject
_SOFT_PX = 6.0  # that its edge takes from nothing to all
_GLOSS, _MUCH_GLOSS = 0.985, 0.004  # tone; share of the subject
_UNEVEN = 0.55  # by which tones differ from one side of the subject to the other
_EDGE = 0.01  # of the border that the subject may lie along
_HALF = 0.5
_NAMES = {"inflate": "inflated", "turn": "turned", "half": "half round", "learned": "learned"}


def judge(work: Working, mask: Floats | None = None) -> Iterator[Finding]:
    """Findings of a picture for a figure, as they are found.

    Parameters
    ----------
    mask : (rows, cols) 0 to 1, where one was brought beside it
    """
    try:
        cover = find_cover(Picture(work.pixels, work.alpha), mask)
    except InvalidValue:
        yield Finding(
            "background",
            "wrong",
            1.0,
            "The subject is not alone: its background is neither transparent nor even.",
            _isolate(work),
            {},
        )
        return
    inside = cover > _HALF
    if not inside.any():
        yield _finding("subject", "wrong", inside, "There is no subject: all of it is dropped.")
        return
    count, labels, crumbs = apart(cover)
    if count > 1:
        yield _finding(
            "several",
            "wrong",
            inside & (labels != 1 + int(crumbs.argmax())),
            f"There are {count} subjects apart from each other; a figure is one.",
            _without_crumbs(work, crumbs),
        )
    elif len(crumbs) > 1:
        beside = len(crumbs) - 1
        text = f"{beside} crumb{'s' if beside > 1 else ''} beside the subject left out."
        yield _finding("crumbs", "note", inside & (labels != 1 + int(crumbs.argmax())), text)
    yield from _at_the_border(inside)
    rows, cols = np.nonzero(inside)
    size = max(int(np.ptp(rows)), int(np.ptp(cols))) + 1
    full = round(size / work.density)
    if full < _GOOD_PX:
        factor = min(16.0, max(2.0, round(_GOOD_PX / full, 1)))
        yield Finding(
            "small",
            "wrong" if full < 40 else "caution" if full < _SMALL_PX else "note",
            float(inside.mean()),
            f"The subject is {full} pixels large; {_GOOD_PX} show what a figure can hold.",
            {"kind": "enlarge", "factor": factor},
            {"pixels": full},
        )
    yield from _of_its_edge(cover, work)
    yield from _of_its_light(work, inside)
    yield _of_its_way(work, cover)


def _finding(
    kind: str,
    severity: Any,
    where: NDArray[np.bool_],
    text: str,
    remedy: dict[str, Any] | None = None,
) -> Finding:
    return Finding(kind, severity, float(where.mean()), text, remedy, {}, where)


def _isolate(work: Working) -> dict[str, Any]:
    """By the colour along the edge where that is mostly one; else by strokes."""
    pixels = work.pixels if work.pixels.ndim == 3 else work.pixels[..., None]
    ring = np.concatenate([pixels[0], pixels[-1], pixels[:, 0], pixels[:, -1]])
    like = np.abs(ring - np.median(ring, axis=0)).max(axis=1)
    if float(np.percentile(like, 80)) < 0.2:
        return {"kind": "isolate", "tolerance": round(float(np.percentile(like, 90)) + 0.05, 3)}
    return {"kind": "isolate", "method": "strokes"}


def _without_crumbs(work: Working, areas: NDArray[np.int64]) -> dict[str, Any] | None:
    second = float(np.sort(areas)[-2]) * work.pitch_mm**2
    if second >= 0.6 * float(areas.max()) * work.pitch_mm**2:
        return None  # which of two that are as large is meant nobody knows
    return {"kind": "isolate", "drop_islands": round(second * 1.05 + 0.01, 2)}


def _at_the_border(inside: NDArray[np.bool_]) -> Iterator[Finding]:
    edge = np.concatenate([inside[0], inside[-1], inside[:, 0], inside[:, -1]])
    if float(edge.mean()) <= _EDGE:
        return
    where = inside.copy()
    where[3:-3, 3:-3] = False
    text = "The subject touches the border: where it is cut off, the figure ends flat."
    yield _finding("border", "wrong", where, text, {"kind": "extend", "percent": 4.0})


def _of_its_edge(cover: Floats, work: Working) -> Iterator[Finding]:
    soft = (cover > 0.1) & (cover < 0.9)
    outline = cv2.morphologyEx(
        (cover > _HALF).astype(np.uint8), cv2.MORPH_GRADIENT, np.ones((3, 3))
    )
    wide = float(soft.sum()) / max(1.0, float(outline.sum()) / 2) / work.density
    if wide > _SOFT_PX:
        text = f"The edge of the subject is {wide:.0f} pixels soft; the outline is in its middle."
        yield _finding("edge", "caution", soft, text)


def _of_its_light(work: Working, inside: NDArray[np.bool_]) -> Iterator[Finding]:
    tone = work.tone
    shown = work.pixels if work.pixels.ndim == 3 else np.repeat(work.pixels[..., None], 3, axis=2)
    gray = shown.max(axis=2) - shown.min(axis=2) < 0.06
    gloss = inside & (tone > _GLOSS) & gray
    gloss = cv2.morphologyEx(gloss.astype(np.uint8), cv2.MORPH_OPEN, np.ones((3, 3))) > 0
    around = cv2.dilate(gloss.astype(np.uint8), np.ones((9, 9))) > 0
    share = float(gloss.sum()) / float(inside.sum())
    darker = inside & ~around
    spots = share > _MUCH_GLOSS and darker.any() and float(np.median(tone[darker])) < 0.85
    if spots:
        text = f"{100 * share:.1f} % of the subject is gloss, white without colour: paint it out."
        yield _finding("gloss", "caution", gloss, text, {"kind": "remove"})
    rows, cols = np.nonzero(inside)
    across, down = (at / max(1, int(at.max() - at.min())) for at in (cols, rows))
    given = np.column_stack([np.ones(len(rows)), down, across])
    slope = np.linalg.lstsq(given, tone[inside], rcond=None)[0][1:]
    lean = float(np.hypot(*slope))
    if lean > _UNEVEN:
        text = "Light falls off from one side of the subject to the other; softer light shows more."
        yield Finding(
            "light",
            "caution",
            float(inside.mean()),
            text,
            {"kind": "local_contrast"},
            {"lean": lean},
        )
    if has_flat_colours(shown, inside.astype(np.float32)):
        yield Finding(
            "flat",
            "note",
            float(inside.mean()),
            "Its colours are flat, as of a drawing: only its outline tells how round it is.",
            None,
            {},
        )


def _of_its_way(work: Working, cover: Floats) -> Finding:
    shown = work.pixels if work.pixels.ndim == 3 else np.repeat(work.pixels[..., None], 3, axis=2)
    room = ((1, 1), (1, 1))
    padded = np.pad(shown[..., :3], (*room, (0, 0)), mode="edge")
    choice = choose_way(padded, np.pad(cover, room))
    text = f"As a figure it is best {_NAMES[choice.way]}: {choice.why}."
    return Finding("way", "note", 1.0, text, None, {})
