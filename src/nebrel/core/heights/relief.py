"""A relief: the picture's heights, with the entries of the build-up below and above it."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import cached_property
from typing import Literal

import numpy as np

from nebrel.core.data import Floats, HeightField, Mask
from nebrel.core.heights.laid import Laid, Points, between_pixels, join_at, join_over
from nebrel.core.heights.plateaus import Plateau

PictureRule = Literal["replace", "add", "highest", "lowest"]


@dataclass(frozen=True)
class Relief:
    """Points in mm and where they are.

    Attributes
    ----------
    field : heights of the picture above the underside; where nothing is, those of the
        nearest place
    cover : (rows, cols) float32, the wall runs at 0.5; None when all of it is there
    plateaus : flat heights with walls between them, instead of the field
    steps : plateaus whose edges are shaped, above the first of the flat ones
    backing_mm : how thick the plate is that `below` stands on
    below, above : entries of the build-up on either side of the picture
    rule : how the picture joins what lies below it
    blank : there is no picture, only the plate
    negative_mm : above 0, the heights are turned upside down: each becomes this less itself, and
        what was cut through or lower than the backing stands as high as the backing's negative
    room_mm : how far it reaches beyond the picture on each side, across and up
    ends : what is cut away from all of it at last, turned upside down or not
    """

    field: HeightField
    cover: Floats | None = None
    plateaus: tuple[Plateau, ...] = ()
    steps: tuple[Laid, ...] = ()
    backing_mm: float = 0.0
    below: tuple[Laid, ...] = ()
    above: tuple[Laid, ...] = ()
    rule: PictureRule = "replace"
    blank: bool = False
    negative_mm: float = 0.0
    room_mm: tuple[float, float] = (0.0, 0.0)
    ends: Laid | None = None

    @property
    def size_mm(self) -> tuple[float, float]:
        """Width and height."""
        return self.field.wide_mm, self.field.tall_mm

    @property
    def picture_mm(self) -> tuple[float, float]:
        """Width and height of the picture alone."""
        return (
            self.field.wide_mm - 2 * self.room_mm[0],
            self.field.tall_mm - 2 * self.room_mm[1],
        )

    @property
    def picture_px(self) -> tuple[slice, slice]:
        """Rows and cols of the picture alone."""
        across, up = (
            round(room / pitch)
            for room, pitch in zip(self.room_mm, self.field.pitch_mm, strict=True)
        )
        rows, cols = self.field.mm.shape
        return slice(up, rows - up), slice(across, cols - across)

    def with_room(self, cols: int, rows: int) -> Relief:
        """The picture alone with so many pixels of bare backing more on each side."""
        if cols == 0 and rows == 0:
            return self
        around = (rows, rows), (cols, cols)
        pitch_x, pitch_y = self.field.pitch_mm
        room = cols * pitch_x, rows * pitch_y

        def wider(values: Floats, beyond: float) -> Floats:
            return np.pad(values, around, constant_values=np.float32(beyond))

        field = HeightField(
            wider(self.field.mm, self.backing_mm),
            self.field.wide_mm + 2 * room[0],
            self.field.tall_mm + 2 * room[1],
        )
        plateaus = tuple(replace(part, cover=wider(part.cover, 0.0)) for part in self.plateaus)
        return replace(
            self,
            field=field,
            cover=None if self.cover is None else wider(self.cover, 0.0),
            plateaus=plateaus,
            steps=tuple(entry.shifted(*room) for entry in self.steps),
            room_mm=room,
        )

    @property
    def plain(self) -> bool:
        """Whether it is the picture and nothing else."""
        return not (self.below or self.above or self.blank) and self.rule == "replace"

    @property
    def highest_mm(self) -> float:
        """No height is above this."""
        if self.negative_mm > 0:
            return self.negative_mm - self.backing_mm
        entries = (*self.below, *self.above)
        added = sum(max(0.0, entry.mm) for entry in entries if entry.rule == "add")
        tops = [entry.mm for entry in entries if entry.rule in ("replace", "highest")]
        own = float(self.field.mm.max())
        return max([own, *tops]) + added + (own if self.rule == "add" else 0.0)

    @cached_property
    def top_mm(self) -> float:
        """The highest point, at a pixel or on the flat top of the last entry."""
        field, there = self.joined()
        kept = field.mm if there is None else field.mm[there]
        last = self.above[-1:] if self.negative_mm <= 0 else ()
        tops = [entry.mm for entry in last if entry.rule in ("replace", "highest")]
        return max([float(kept.max()) if kept.size else 0.0, *tops])

    @property
    def picture_there(self) -> Mask | None:
        """Where the picture leaves something; None when everywhere."""
        if self.blank and self.backing_mm <= 0:
            return np.zeros(self.field.mm.shape, bool)
        cover = self.plateaus[0].cover if self.plateaus else self.cover
        if cover is None or (cover >= 0.5).all():
            return None
        there: Mask = cover >= 0.5
        return there

    def mirrored(self) -> Relief:
        """The same, left for right."""
        wide = self.field.wide_mm

        def flip(values: Floats) -> Floats:
            return np.ascontiguousarray(values[:, ::-1])

        return replace(
            self,
            field=replace(self.field, mm=flip(self.field.mm)),
            cover=None if self.cover is None else flip(self.cover),
            plateaus=tuple(replace(part, cover=flip(part.cover)) for part in self.plateaus),
            steps=tuple(entry.mirrored(wide) for entry in self.steps),
            below=tuple(entry.mirrored(wide) for entry in self.below),
            above=tuple(entry.mirrored(wide) for entry in self.above),
            ends=None if self.ends is None else self.ends.mirrored(wide),
        )

    def joined(self) -> tuple[HeightField, Mask | None]:
        """Points of every pixel with the whole build-up; None when all of it is there."""
        if self.negative_mm <= 0:
            return self._joined
        field, there = self._joined
        turned = replace(field, mm=self._turned(field.mm, there).astype(np.float32))
        return join_over(turned, None, () if self.ends is None else [self.ends])

    def _turned(self, mm: Points, there: Mask | None) -> Points:
        """Heights upside down."""
        kept = mm if there is None else np.where(there, mm, 0)
        found: Points = self.negative_mm - np.maximum(kept, self.backing_mm)
        return found

    @cached_property
    def _joined(self) -> tuple[HeightField, Mask | None]:
        field, there = self.field, self.picture_there
        if self.below or self.rule != "replace":
            flat = np.full(field.mm.shape, self.backing_mm, np.float32)
            bare = None if self.backing_mm > 0 else np.zeros(flat.shape, bool)
            under, was = join_over(replace(field, mm=flat), bare, self.below)
            everywhere = np.ones(flat.shape, bool)
            mm, kept = self._with_picture(
                under.mm,
                everywhere if was is None else was,
                field.mm,
                everywhere if there is None else there,
            )
            field = replace(field, mm=mm.astype(np.float32))
            there = None if kept.all() else kept
        return join_over(field, there, self.above)

    def at(self, x: Points, y: Points) -> tuple[Points, Mask]:
        """Points at places (n,) in mm from the lower left corner, and whether anything is there.

        The picture is read between its pixels, the entries at their exact outlines.
        """
        rows, cols = self.field.mm.shape
        pitch_x, pitch_y = self.field.pitch_mm
        across, down = x / pitch_x, rows - 1 - y / pitch_y
        near = (across >= -1e-6) & (across <= cols - 1 + 1e-6)
        near &= (down >= -1e-6) & (down <= rows - 1 + 1e-6)
        heights: Points = between_pixels(self.field.mm, across, down)
        there = near.copy()
        kept = self.picture_there
        if kept is not None:
            row = np.clip(np.round(down).astype(int), 0, rows - 1)
            col = np.clip(np.round(across).astype(int), 0, cols - 1)
            there &= kept[row, col]
        if self.below or self.rule != "replace":
            under, was = join_at(
                np.full(x.shape, self.backing_mm), near & (self.backing_mm > 0), self.below, x, y
            )
            heights, there = self._with_picture(under, was, heights, there)
        heights, there = join_at(heights, there, self.above, x, y)
        if self.negative_mm > 0:
            turned = self._turned(heights, there & near)
            return join_at(turned, near, () if self.ends is None else [self.ends], x, y)
        return heights, there & near

    def _with_picture(
        self, under: Points, was: Mask, own: Points, there: Mask
    ) -> tuple[Points, Mask]:
        if self.blank:
            return under, was
        if self.rule == "highest":
            return np.where(was, np.maximum(under, own), own), there
        if self.rule == "lowest":
            return np.minimum(under, own), there & was
        if self.rule == "add":
            return under + own - self.backing_mm, there & was
        return own, there
