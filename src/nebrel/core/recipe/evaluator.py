"""Runs a recipe step by step, recomputing only what lies after a change."""

from __future__ import annotations

import hashlib
import json
from collections import Counter, OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, replace
from threading import RLock
from typing import Any, Literal, get_args

from nebrel.core.data import Floats, HeightField, Mesh, Picture
from nebrel.core.errors import InvalidValue, NotSolid
from nebrel.core.heights.raise_tones import Raised, raise_tones, size_mm
from nebrel.core.mesh.measure import MeshReport, measure
from nebrel.core.picture.resample import reduce_to
from nebrel.core.picture.tone import read_tone
from nebrel.core.recipe.models import Recipe

Quality = Literal["draft", "full"]
Progress = Callable[[float, str], None]
PictureSource = Callable[[str], Picture]

DRAFT_PIXELS = 256
DRAFT_TRIANGLES = 16_000
_VERSION = 1  # part of every key: raise it when a step computes something else than before


@dataclass(frozen=True)
class Tones:
    """A decoded picture, ready to be raised."""

    tone: Floats
    alpha: Floats | None
    shares: dict[Raised, tuple[float, float]]  # lowest and highest raised share at full resolution
    rows: int
    cols: int
    bit_depth: int
    notes: tuple[str, ...]


@dataclass(frozen=True)
class Evaluation:
    """What a recipe came to."""

    key: str
    quality: Quality
    tones: Tones
    heights: HeightField
    range_mm: tuple[float, float]  # lowest and highest of the full resolution, in a draft too
    mesh: Mesh
    report: MeshReport

    def figures(self) -> dict[str, Any]:
        """The numbers that the trail shows."""
        return {
            "quality": self.quality,
            "key": self.key,
            "picture": {
                "cols": self.tones.cols,
                "rows": self.tones.rows,
                "bit_depth": self.tones.bit_depth,
                "transparent": self.tones.alpha is not None,
                "notes": list(self.tones.notes),
            },
            "heights": {
                "lowest_mm": round(self.range_mm[0], 4),
                "highest_mm": round(self.range_mm[1], 4),
            },
            "form": {
                "kind": "panel",
                "wide_mm": self.heights.wide_mm,
                "tall_mm": self.heights.tall_mm,
            },
            "mesh": self.report.as_dict(),
        }


@dataclass(frozen=True)
class _Link:
    name: str
    params: Any
    run: Callable[[Any], Any]
    words: str
    share: float


class Evaluator:
    """Evaluates recipes and keeps the result of each step in a bounded cache.

    A step's key is a hash of its own settings and of the key before it, so a change
    recomputes only what lies after it. Draft and full quality differ by resolution and
    tolerance alone.

    Parameters
    ----------
    pictures : gives the decoded picture by the SHA-256 of its file
    cache_bytes : about how much the kept results may weigh
    """

    def __init__(self, pictures: PictureSource, cache_bytes: int = 600_000_000) -> None:
        self._pictures = pictures
        self._limit = cache_bytes
        self._kept: OrderedDict[str, Any] = OrderedDict()
        self._weight = 0
        self._lock = RLock()
        self.computed: Counter[str] = Counter()
        self.reused: Counter[str] = Counter()

    def evaluate(
        self, recipe: Recipe, quality: Quality = "full", progress: Progress | None = None
    ) -> Evaluation:
        """Run every step that is not in the cache.

        Parameters
        ----------
        recipe : what to make
        quality : draft is quick and coarse, full keeps the tolerance of the recipe
        progress : told the share done (0 to 1) and the step; may raise to call it off

        Raises
        ------
        NebrelError : whatever a step refuses
        """
        result: Any = None
        key: str = quality
        done = 0.0
        results: dict[str, Any] = {}
        with self._lock:
            for link in self._chain(recipe, quality):
                key = _hash(key, link.name, link.params)
                if progress:
                    progress(done, link.words)
                if key in self._kept:
                    self._kept.move_to_end(key)
                    self.reused[link.name] += 1
                    result = self._kept[key]
                else:
                    before = result
                    result = link.run(before)
                    self.computed[link.name] += 1
                    self._keep(key, result)
                results[link.name] = result
                done += link.share
        heights: HeightField = results["heights"]
        mesh, report = results["solid"]
        tones: Tones = results["picture"]
        return Evaluation(key, quality, tones, heights, _range_mm(recipe, tones), mesh, report)

    def key_of(self, recipe: Recipe, quality: Quality) -> str:
        """The key the whole evaluation will carry, without running it."""
        key: str = quality
        for link in self._chain(recipe, quality):
            key = _hash(key, link.name, link.params)
        return key

    def _chain(self, recipe: Recipe, quality: Quality) -> list[_Link]:
        picture, heights = recipe.picture, recipe.heights
        tolerance = draft_tolerance(recipe) if quality == "draft" else recipe.finish.tolerance.mm
        height_params = [
            picture.along,
            picture.side.mm,
            heights.raised,
            heights.depth.mm,
            heights.backing.mm,
        ]
        return [
            _Link(
                "picture",
                [picture.sha256],
                lambda _: self._read(picture.sha256, quality),
                "reading the picture",
                0.25,
            ),
            _Link(
                "heights",
                height_params,
                lambda tones: _raise(recipe, tones),
                "raising the tones",
                0.05,
            ),
            _Link(
                "solid",
                [recipe.form.kind, tolerance],
                lambda field: _solid(field, tolerance, quality),
                "making the solid",
                0.6,
            ),
        ]

    def _read(self, sha256: str, quality: Quality) -> Tones:
        picture: Picture = self._pictures(sha256)
        tone, alpha = read_tone(picture), picture.alpha
        shares = {raised: _extremes(tone, alpha, raised) for raised in get_args(Raised)}
        tones = Tones(
            tone, alpha, shares, picture.rows, picture.cols, picture.bit_depth, picture.notes
        )
        if quality == "draft":
            reduced = None if alpha is None else reduce_to(alpha, DRAFT_PIXELS)
            tones = replace(tones, tone=reduce_to(tone, DRAFT_PIXELS), alpha=reduced)
        return tones

    def _keep(self, key: str, result: Any) -> None:
        self._kept[key] = result
        self._weight += _weigh(result)
        while self._weight > self._limit and len(self._kept) > 1:
            _, dropped = self._kept.popitem(last=False)
            self._weight -= _weigh(dropped)


def draft_tolerance(recipe: Recipe) -> float:
    """A fortieth of the relief depth, or the recipe's own tolerance when that is coarser."""
    return max(recipe.finish.tolerance.mm, recipe.heights.depth.mm / 40)


def _extremes(tone: Floats, alpha: Floats | None, raised: Raised) -> tuple[float, float]:
    share = raise_tones(tone, alpha, raised, 1.0, 0.0)
    return float(share.min()), float(share.max())


def _range_mm(recipe: Recipe, tones: Tones) -> tuple[float, float]:
    step = recipe.heights
    low, high = tones.shares[step.raised]
    return step.backing.mm + low * step.depth.mm, step.backing.mm + high * step.depth.mm


def _raise(recipe: Recipe, tones: Tones) -> HeightField:
    step = recipe.heights
    mm = raise_tones(tones.tone, tones.alpha, step.raised, step.depth.mm, step.backing.mm)
    if _range_mm(recipe, tones)[0] <= 0:
        raise InvalidValue(
            "backing",
            f"with {step.backing.mm:g} mm the lowest spot of the relief has no thickness",
            "The nearest that works is a backing of 0.2 mm",
        )
    return HeightField(
        mm, *size_mm(tones.rows, tones.cols, recipe.picture.along, recipe.picture.side.mm)
    )


def _solid(field: HeightField, tolerance_mm: float, quality: Quality) -> tuple[Mesh, MeshReport]:
    from nebrel.core.solid.close import close
    from nebrel.core.solid.triangulate import MOST_TRIANGLES, triangulate

    draft = quality == "draft"
    most = DRAFT_TRIANGLES if draft else MOST_TRIANGLES
    mesh = close(triangulate(field, tolerance_mm, most, settle=draft))
    report = measure(mesh)
    if not report.manifold:
        raise NotSolid("piece", "its mesh came out open", "Change the size or the depth a little")
    return mesh, report


def _hash(before: str, name: str, params: Any) -> str:
    text = json.dumps([_VERSION, before, name, params], sort_keys=True)
    return hashlib.sha256(text.encode()).hexdigest()


def _weigh(result: Any) -> int:
    if isinstance(result, tuple):
        return sum(_weigh(part) for part in result)
    if isinstance(result, Tones):
        return result.tone.nbytes + (0 if result.alpha is None else result.alpha.nbytes)
    if isinstance(result, HeightField):
        return result.mm.nbytes
    if isinstance(result, Mesh):
        return result.vertices.nbytes + result.faces.nbytes
    return 1000
