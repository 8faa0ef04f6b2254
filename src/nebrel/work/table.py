"""All that can be asked of workers, a line each."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from importlib import import_module
from typing import Any

from nebrel.work.tasks import LaneName


@dataclass(frozen=True)
class Kind:
    """A kind of task.

    Attributes
    ----------
    called : its function in `work/`; whoever only asks need not load what it takes
    lane : where it is done: `draft` while something moves, `view` for the picture on the screen,
        `sight` for what is computed from the piece at full resolution, `work` for what takes long
    """

    called: str
    lane: LaneName

    @property
    def do(self) -> Callable[..., Any]:
        """Takes the worker, what it tells its progress, and what the task gives."""
        room, _, name = self.called.partition(".")
        found: Callable[..., Any] = getattr(import_module(f"nebrel.work.{room}"), name)
        return found


TASKS: dict[str, Kind] = {
    "preview": Kind("relief.preview", "draft"),
    "suggest": Kind("starts.suggest", "view"),
    "start": Kind("starts.begin", "view"),
    "tones_traced": Kind("starts.tones_traced", "view"),
    "on_its_ground": Kind("starts.on_its_ground", "view"),
    "outlines": Kind("relief.outlines", "draft"),
    "art_size": Kind("decorations.art_size", "draft"),
    "decoration_spots": Kind("decorations.spots", "draft"),
    "decoration_caught": Kind("decorations.catch", "draft"),
    "decoration_picture": Kind("decorations.art_picture", "sight"),
    "parts": Kind("relief.parts", "view"),
    "wedge": Kind("light.wedge", "draft"),
    "corrected": Kind("picture.corrected", "view"),
    "corrected_view": Kind("picture.corrected_view", "view"),
    "corrected_whole": Kind("picture.corrected", "sight"),
    "corrected_view_whole": Kind("picture.corrected_view", "sight"),
    "glance": Kind("picture.glance_at", "sight"),
    "finding": Kind("picture.finding", "sight"),
    "mark": Kind("picture.mark", "sight"),
    "tones": Kind("picture.tones", "sight"),
    "subject_picture": Kind("figures.subject_picture", "sight"),
    "figure_look": Kind("figures.look", "view"),
    "figure_seen": Kind("figures.seen", "sight"),
    "motif": Kind("picture.motif", "sight"),
    "section": Kind("relief.section", "sight"),
    "cut": Kind("body.cut", "view"),
    "spot": Kind("relief.spot", "sight"),
    "light": Kind("light.light", "sight"),
    "light_view": Kind("light.light_view", "sight"),
    "practice_photograph": Kind("light.practice_photograph", "sight"),
    "calibration": Kind("light.calibration", "sight"),
    "card": Kind("making.card", "work"),
    "product": Kind("making.product", "work"),
}
