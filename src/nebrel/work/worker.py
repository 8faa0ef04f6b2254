"""What a process keeps of a depot from task to task."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path
from threading import Lock
from typing import Any

from nebrel.core.data import Mesh, Picture
from nebrel.core.errors import NotFound
from nebrel.core.figure.judge import judge as judge_figure
from nebrel.core.picture.decode import decode
from nebrel.core.picture.report import Finding
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.questions.judge import judge_each, printing_of
from nebrel.core.recipe.files import lost, names_of
from nebrel.core.recipe.models import Recipe, load_recipe
from nebrel.work.depot import Depot

_REPORTS = 6


class Worker:
    """What a process keeps of one depot from task to task."""

    def __init__(self, depot: Depot, kept_bytes: int) -> None:
        self.depot = depot
        self.evaluator = Evaluator(
            self.picture, kept_bytes, files=self.content, meshes=self.mesh_path
        )
        self.seen: tuple[str, Mesh] | None = None  # the finished mesh that was looked at last
        self._names: dict[str, str] = {}
        self._reports: OrderedDict[str, Report] = OrderedDict()

    def read(self, document: dict[str, Any]) -> Recipe:
        """A recipe; its files are called as it calls them from now on."""
        recipe = load_recipe(document)
        self._names |= names_of(recipe)
        return recipe

    def picture(self, sha256: str) -> Picture:
        """A decoded picture. Raises NotFound, UnreadableFile."""
        name = self._names.get(sha256, "picture")
        try:
            path = self.depot.load("picture", sha256)
        except NotFound as error:
            raise lost(name) from error
        return decode(path, name)

    def content(self, sha256: str) -> bytes:
        """What a kept file holds. Raises NotFound."""
        try:
            return self.depot.load("picture", sha256).read_bytes()
        except (NotFound, OSError) as error:
            raise lost(self._names.get(sha256, "drawing")) from error

    def mesh_path(self, sha256: str) -> Path:
        """Where a kept mesh lies. Raises NotFound."""
        try:
            return self.depot.load("picture", sha256)
        except NotFound as error:
            raise lost(self._names.get(sha256, "mesh")) from error

    def report(self, recipe: Recipe) -> Report:
        """What of the corrected picture of a recipe will not print as meant, as far as it is."""
        key = self.report_key(recipe)
        if key not in self._reports:
            self._reports[key] = Report(partial(self._judge, recipe))
            while len(self._reports) > _REPORTS:
                self._reports.popitem(last=False)
        self._reports.move_to_end(key)
        return self._reports[key]

    def begun(self, recipe: Recipe) -> bool:
        """Whether that was asked for before."""
        return self.report_key(recipe) in self._reports

    def report_key(self, recipe: Recipe) -> str:
        """Tells reports apart."""
        picture = recipe.pictured
        corrected = self.evaluator.picture_key(recipe)
        if recipe.figure is not None:
            mask = recipe.figure.mask
            return f"{corrected}:figure:{mask and mask.sha256}"
        return f"{corrected}:{picture.along}:{picture.side.mm}:{printing_of(recipe)}"

    def _judge(self, recipe: Recipe) -> Iterator[Finding]:
        work = self.evaluator.correct(recipe, "full").work
        if recipe.figure is not None:
            yield from judge_figure(work, self.evaluator.mask(recipe.figure))
            return
        picture = self.evaluator.original(recipe)
        tone = picture.tone if picture.pixels is work.pixels else None
        yield from judge_each(work, printing_of(recipe), tone)


class Report:
    """Findings, looked for as they are asked for, each once."""

    def __init__(self, begin: Callable[[], Iterator[Finding]]) -> None:
        self._begin = begin
        self._found: list[Finding] = []
        self._left: Iterator[Finding] | None = None
        self._lock = Lock()

    def at(self, number: int) -> Finding | None:
        """The finding of that number, from 0; None behind the last."""
        with self._lock:
            try:
                self._left = self._begin() if self._left is None else self._left
                while len(self._found) <= number:
                    following = next(self._left, None)
                    if following is None:
                        return None
                    self._found.append(following)
            except BaseException:
                self._left, self._found = None, []  # refused: it is looked for anew
                raise
        return self._found[number]

    def __iter__(self) -> Iterator[Finding]:
        number = 0
        while (finding := self.at(number)) is not None:
            yield finding
            number += 1
