"""The picture report with its remedies tried: one is offered only where it works."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import numpy as np
from pydantic import TypeAdapter

from nebrel.core.data import Floats, Picture
from nebrel.core.errors import NebrelError
from nebrel.core.heights.raise_tones import size_mm
from nebrel.core.links.correct import PictureSource, correct
from nebrel.core.picture.report import Finding, Printing, findings, gravest_first, report
from nebrel.core.picture.resample import reduce_to
from nebrel.core.picture.working import Working, begin
from nebrel.core.recipe.art import Pictured
from nebrel.core.recipe.corrections import Correction
from nebrel.core.recipe.models import Recipe

_TRIED_PX = 384
# What is only seen pixel by pixel is tried on a part of the picture, the rest on all of it.
_LOCAL = ("noise", "fine_detail", "terracing", "low_resolution")
_MEASURES = {"uneven_background": "spread", "noise": "sigma", "terracing": "step_mm"}
_STEP: TypeAdapter[Any] = TypeAdapter(Correction)


def judge(work: Working, printing: Printing) -> list[Finding]:
    """Everything about a picture that will not print as meant, the gravest first.

    A remedy is kept where, tried on a small copy, it makes its finding go and brings no new
    one that is more than a note.

    Parameters
    ----------
    work : the picture as it stands, with its pitch in mm
    printing : relief depth, width of a nozzle line, layer height
    """
    return gravest_first(judge_each(work, printing))


def judge_each(
    work: Working, printing: Printing, tone: Floats | None = None, *, at_a_glance: bool = False
) -> Iterator[Finding]:
    """The same one after the other, as they are found and their remedies tried.

    Parameters
    ----------
    tone : of the picture, when it is at hand already
    at_a_glance : only what a small copy of the picture shows as well
    """
    trial = _Trial(work, printing)
    for finding in findings(work, printing, tone, at_a_glance=at_a_glance):
        works = finding.remedy is None or trial.mends(finding)
        yield finding if works else replace(finding, remedy=None)


def glance(
    view: Picture, rows: int, cols: int, step: Pictured, printing: Printing, pictures: PictureSource
) -> Iterator[Finding]:
    """What a small view of a picture shows already, before the picture itself is decoded.

    Parameters
    ----------
    view : the picture, reduced
    rows, cols : of the picture itself
    pictures : gives those that its corrections bring in
    """
    wide, _ = size_mm(rows, cols, step.along, step.side.mm)
    work = begin(view, None, wide, of=(rows, cols))
    for correction in step.corrections:
        if correction.enabled:
            with suppress(NebrelError):  # the bench says which was refused
                work = correct(work, correction, pictures)
    yield from judge_each(work, printing, at_a_glance=True)


def printing_of(recipe: Recipe) -> Printing:
    """What the picture of a recipe is judged against."""
    units = recipe.made_with.printer.units
    return Printing(recipe.relief.art.depth_mm, units.line_mm, units.layer_mm)


@dataclass(frozen=True)
class _Trial:
    """Small copies of a picture, on which remedies are tried."""

    work: Working
    printing: Printing

    @cached_property
    def whole(self) -> tuple[Working, list[Finding]]:
        """All of it, reduced."""
        pixels = reduce_to(self.work.pixels, _TRIED_PX)
        alpha = None if self.work.alpha is None else reduce_to(self.work.alpha, _TRIED_PX)
        rows, cols = pixels.shape[:2]
        scale = (cols - 1) / (self.work.cols - 1)
        small = replace(
            self.work,
            pixels=pixels,
            alpha=alpha,
            place=np.diag([scale, (rows - 1) / (self.work.rows - 1), 1.0]) @ self.work.place,
            density=self.work.density * scale,
            pitch_mm=self.work.pitch_mm / scale,
        )
        return small, report(small, self.printing)

    def part(self, finding: Finding) -> tuple[Working, list[Finding]]:
        """A part of it at its own size, around where the finding is."""
        rows, cols = self.work.rows, self.work.cols
        y, x = rows // 2, cols // 2
        if finding.where is not None and finding.where.any():
            there = np.argwhere(finding.where)
            y, x = there[len(there) // 2]
        top = int(np.clip(y - _TRIED_PX // 2, 0, max(0, rows - _TRIED_PX)))
        left = int(np.clip(x - _TRIED_PX // 2, 0, max(0, cols - _TRIED_PX)))
        box = np.s_[top : top + _TRIED_PX, left : left + _TRIED_PX]
        alpha = None if self.work.alpha is None else self.work.alpha[box]
        small = replace(self.work, alpha=alpha, pixels=np.ascontiguousarray(self.work.pixels[box]))
        return small, report(small, self.printing)

    def mends(self, finding: Finding) -> bool:
        """Whether the remedy of a finding works."""
        small, before = self.part(finding) if finding.kind in _LOCAL else self.whole
        mine = [f for f in before if _same(f, finding)]
        if not mine:
            return True  # too small a copy to see it: it is offered as it is
        try:
            after = report(
                correct(small, _STEP.validate_python(finding.remedy), _no_picture), self.printing
            )
        except NebrelError:
            return False
        left = [f for f in after if _same(f, finding) and f.severity != "note"]
        if left and left[0].share > 0.5 * mine[0].share and not _weaker(left[0], mine[0]):
            return False
        known = {f.kind for f in before}
        return all(f.kind in known or f.severity == "note" for f in after)


def _same(one: Finding, other: Finding) -> bool:
    """Whether two findings are of the same thing: dark lines are not light ones."""
    return one.kind == other.kind and one.numbers.get("dark") == other.numbers.get("dark")


def _weaker(after: Finding, before: Finding) -> bool:
    """Whether a finding is less than two fifths of what it was."""
    measure = _MEASURES.get(before.kind)
    return measure is not None and after.numbers[measure] < 0.4 * before.numbers[measure]


def _no_picture(_: str) -> Picture:
    raise NebrelError("remedy", "it needs another picture", "Bring one")
