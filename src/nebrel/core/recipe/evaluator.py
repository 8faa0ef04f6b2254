"""Runs a recipe step by step, recomputing only what lies after a change."""

from __future__ import annotations

import hashlib
import json
from collections import Counter, OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, replace
from threading import RLock
from typing import Any, NamedTuple, get_args

import numpy as np
from numpy.typing import NDArray

from nebrel.core.choices import MOST_TRIANGLES
from nebrel.core.data import HeightField, Mesh, Picture
from nebrel.core.errors import NebrelError, NotSolid
from nebrel.core.forms.maps import FormMap
from nebrel.core.heights.laid import Laid
from nebrel.core.heights.made import as_made
from nebrel.core.heights.raise_tones import Raised, size_mm
from nebrel.core.heights.relief import Relief
from nebrel.core.mesh.measure import MeshReport, measure
from nebrel.core.picture.working import Working, begin
from nebrel.core.recipe.correct import PictureSource, correct, depends_on_size
from nebrel.core.recipe.corrections import Correction
from nebrel.core.recipe.evaluation import Corrected, Evaluation, Finished, Quality
from nebrel.core.recipe.finishing import finishing, within
from nebrel.core.recipe.fit_out import FitOut, fit_out
from nebrel.core.recipe.lay_map import lay_map
from nebrel.core.recipe.lay_out import Remark, Sheet, lay_out
from nebrel.core.recipe.models import Recipe
from nebrel.core.recipe.raise_relief import (
    Failure,
    Tones,
    extremes,
    only_picture,
    raise_relief,
    range_mm,
    sheet_of,
    shown_or_blank,
    with_entries,
)
from nebrel.core.recipe.turn_out import TurnedOut, doubts, turn_out
from nebrel.core.solid.build import Built, build, many_entries, raise_flat, raise_picture

Progress = Callable[[float, str], None]

DRAFT_PIXELS = 256
SCREEN_PIXELS = 1024
DRAFT_TRIANGLES = 16_000
_LONGEST: dict[Quality, int | None] = {
    "draft": DRAFT_PIXELS,
    "screen": SCREEN_PIXELS,
    "full": None,
}
_KNOWN_PICTURES = 500
_OF_A_TRIANGLE = 130  # bytes, in a solid of the boolean kernel
_VERSION = 10  # part of every key: raise it when a step computes something else than before


@dataclass(frozen=True)
class _Facts:
    """What is known of a picture that was decoded."""

    rows: int
    cols: int
    first_cols: int  # at the quality it is worked on
    density: float
    bit_depth: int
    notes: tuple[str, ...]
    shares: dict[Raised, tuple[float, float]]  # at full resolution, whatever the quality


@dataclass(frozen=True)
class _Done:
    """A picture after some corrections, and all that has to be known to go on from it.

    Attributes
    ----------
    pitch_ratio : its pitch over that of the picture as it was opened
    in_place : whether every pixel is where it was then
    refused : corrections that could not be applied, by their place in the plan
    """

    work: Working
    pitch_ratio: float
    in_place: bool
    refused: tuple[tuple[int, NebrelError], ...] = ()

    def at(self, first_pitch_mm: float) -> Working:
        """The picture when the one that was opened has this pitch."""
        return replace(self.work, pitch_mm=first_pitch_mm * self.pitch_ratio)


@dataclass(frozen=True)
class _Planned:
    name: str
    key: str
    step: Correction | None = None
    index: int = -1


class _Keys(NamedTuple):
    tones: str
    heights: str
    built: str
    turned: str
    picture: str
    joined: str
    solid: str


class Evaluator:
    """Evaluates recipes and keeps the result of each step in a bounded cache.

    A step's key is a hash of its own settings and of the key before it, so a change
    recomputes only what lies after it. Qualities differ by resolution and tolerance alone.

    Parameters
    ----------
    pictures : gives the decoded picture by the SHA-256 of its file
    cache_bytes : about how much the kept results may weigh
    """

    def __init__(self, pictures: PictureSource, cache_bytes: int = 600_000_000) -> None:
        self._pictures = pictures
        self._limit = cache_bytes
        self._kept: OrderedDict[str, Any] = OrderedDict()
        self._known: OrderedDict[str, _Facts] = OrderedDict()
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
        NebrelError : whatever a step refuses; a refused correction is only noted
        """
        tell = progress or (lambda _done, _words: None)
        begins = recipe.begins
        with self._lock:
            corrected = self._correct(recipe, quality, None, tell)
            keys = self._later(recipe, quality, corrected.key)
            tones = self._run("tones", keys.tones, lambda: self._tones(recipe, corrected))
            tones = _with_figures(tones, corrected)
            tell(0.55, "raising the tones")
            plain = self._run("heights", keys.heights, lambda: _raised(recipe, tones, True))
            tell(0.58, "laying out the build-up")
            relief, remarks = self._built(recipe, plain, keys, quality)
            turned: TurnedOut = self._run(
                "turned out",
                keys.turned,
                lambda: _turned(recipe, relief),
            )
            relief = turned.relief
            tell(0.6, "making the solid")
            fitted = fit_out(begins.fittings, begins.form, relief, begins.round)
            make = self._solid(relief, recipe, quality, keys, fitted, tell)
            built, report = self._run("solid", keys.solid, make)
        low, high = range_mm(begins.art.tones, tones, relief, begins.art.draft > 0)
        remarks = (
            *remarks,
            *doubts(recipe.made_with.printer, begins.art.backing.mm, relief, low, high),
        )
        form, wanted = begins.form_kind, finishing(recipe)
        return Evaluation(
            keys.solid,
            quality,
            tones,
            relief.field,
            (low, high),
            form,
            built.mesh,
            report,
            remarks,
            fitted.remarks,
            turned.islands,
            relief,
            built.lift_mm,
            Finished(
                round(built.tolerance_mm, 6),
                round(wanted.tolerance_mm, 6),
                None if wanted.machine is None else round(max(wanted.machine.pitch), 6),
            ),
        )

    def relief(self, recipe: Recipe) -> Relief:
        """Heights at full resolution with the whole build-up; without making the solid.

        Raises
        ------
        NebrelError : whatever a step refuses
        """
        with self._lock:
            keys = self._later(recipe, "full", _plan(recipe, "full", None)[-1].key)
            turned: TurnedOut = self._run(
                "turned out", _hash(keys.turned, "open", None), lambda: self._turned(recipe, keys)
            )
            return turned.relief

    def _turned(self, recipe: Recipe, keys: _Keys) -> TurnedOut:
        """All that the heights need, when they are not kept."""
        corrected = self._correct(recipe, "full", None, lambda _done, _words: None)
        tones = self._run("tones", keys.tones, lambda: self._tones(recipe, corrected))
        tones = _with_figures(tones, corrected)
        key = _hash(keys.heights, "open", None)
        plain = self._run("heights", key, lambda: _raised(recipe, tones, False))
        built = self._built(recipe, plain, keys, "full", solid=False)[0]
        return _turned(recipe, built)

    def outlines(self, recipe: Recipe) -> tuple[HeightField, dict[str, Laid]]:
        """Every entry of the build-up as it lies, by its id, at draft quality; and the extent.

        Raises
        ------
        NebrelError : whatever a step before the build-up refuses
        """
        with self._lock:
            corrected = self._correct(recipe, "draft", None, lambda _done, _words: None)
            keys = self._later(recipe, "draft", corrected.key)
            tones = self._run("tones", keys.tones, lambda: self._tones(recipe, corrected))
            tones = _with_figures(tones, corrected)
            key = _hash(keys.heights, "open", None)
            plain = self._run("heights", key, lambda: _raised(recipe, tones, False))
            sheet = _sheet(recipe, plain, True)
        return plain.field, lay_out(recipe.begins.art.build_up, sheet, self._pictures)[0]

    def heights(self, recipe: Recipe) -> tuple[HeightField, NDArray[np.bool_] | None]:
        """The heights of every pixel, and where they are.

        Raises
        ------
        NebrelError : whatever a step refuses
        """
        return self.relief(recipe).joined()

    def _built(
        self, recipe: Recipe, plain: Relief, keys: _Keys, quality: Quality, solid: bool = True
    ) -> tuple[Relief, tuple[Remark, ...]]:
        entries = recipe.begins.art.build_up
        if only_picture(entries):
            return plain, ()
        relief = shown_or_blank(entries, plain)
        sheet = _sheet(recipe, relief, quality == "draft")
        built: tuple[Relief, tuple[Remark, ...]] = self._run(
            "build-up",
            keys.built if solid else _hash(keys.built, "open", None),
            lambda: with_entries(entries, relief, sheet, self._pictures, solid),
        )
        return built

    def _solid(
        self,
        relief: Relief,
        recipe: Recipe,
        quality: Quality,
        keys: _Keys,
        fitted: FitOut,
        tell: Progress,
    ) -> Callable[[], tuple[Built, MeshReport]]:
        draft = quality == "draft"
        most = DRAFT_TRIANGLES if draft else MOST_TRIANGLES
        finish, round_edge = finishing(recipe, draft), recipe.begins.round
        fits, rings = fitted.flat, fitted.rings

        def still() -> None:
            tell(0.62, "making the solid")

        def attempt(tolerance: float, fine: Relief, bent: FormMap | None) -> Built:
            still()
            how = tolerance, most, draft
            flat = None
            if (fits or not relief.plain) and not (draft and many_entries(relief)):
                # Moving an entry leaves the picture's own solid as it is.
                picture = self._run(
                    "picture solid",
                    _hash(keys.picture, "within", tolerance),
                    lambda: raise_picture(fine, bent, *how, finish.method, still),
                )
                tell(0.7, "joining the build-up")
                # And moving a fitting leaves all that was joined.
                flat = self._run(
                    "build-up solid",
                    _hash(keys.joined, "within", tolerance),
                    lambda: raise_flat(fine, bent, *how, picture, finish.method, still),
                )
            return build(fine, bent, *how, flat, fits, rings, finish.method, still, round_edge)

        def make() -> tuple[Built, MeshReport]:
            fine, bent = relief, lay_map(recipe.begins.form, relief)
            if finish.machine is not None:
                fine = as_made(relief, finish.machine, bent is not None and bent.around)
            tolerance = finish.tolerance_mm
            if finish.most is None:
                built = attempt(tolerance, fine, bent)
            else:
                tolerance, built = within(
                    finish.most,
                    tolerance,
                    lambda t: attempt(t, fine, bent),
                    lambda b: len(b.mesh.faces),
                    max(recipe.begins.art.depth_mm / 2, 2 * tolerance),
                )
            tell(0.85, "measuring it")
            report = built.report or measure(built.mesh)
            if not report.manifold and not draft:
                raise NotSolid(
                    "piece", "its mesh came out open", "Change the size or the depth a little"
                )
            return replace(built, tolerance_mm=tolerance), report

        return make

    def correct(
        self,
        recipe: Recipe,
        quality: Quality = "full",
        upto: int | None = None,
        progress: Progress | None = None,
    ) -> Corrected:
        """The picture after its corrections, or after the first `upto` of the list.

        A correction that is refused is noted in the result; the others still apply.
        """
        with self._lock:
            return self._correct(recipe, quality, upto, progress or (lambda _done, _words: None))

    def picture_key(self, recipe: Recipe) -> str:
        """Tells corrected pictures apart, at full quality, without correcting any."""
        return _plan(recipe, "full", None)[-1].key

    def key_of(self, recipe: Recipe, quality: Quality) -> str:
        """The key the whole evaluation will carry, without running it."""
        return self._later(recipe, quality, _plan(recipe, quality, None)[-1].key).solid

    def _correct(
        self, recipe: Recipe, quality: Quality, upto: int | None, tell: Progress
    ) -> Corrected:
        plan = _plan(recipe, quality, upto)
        facts = self._facts(recipe, quality, plan[0].key, tell)
        wide, tall = size_mm(
            facts.rows,
            facts.cols,
            recipe.begins.art.pictured.along,
            recipe.begins.art.pictured.side.mm,
        )
        first_pitch = wide / (facts.first_cols - 1)
        # Begin after the last step that is kept: what lies before it may be gone already.
        start = next((n for n in range(len(plan) - 1, -1, -1) if plan[n].key in self._kept), 0)
        done: _Done = self._run(
            plan[start].name, plan[start].key, lambda: self._opened(recipe, quality, facts)
        )
        for number, planned in enumerate(plan[start + 1 :], start + 1):
            tell(0.2 + 0.35 * number / len(plan), planned.name.replace("_", " "))
            before = done.at(first_pitch)
            done = self._run(
                planned.name, planned.key, self._applying(before, done, number, planned.step)
            )
        work = done.at(first_pitch)
        failures = tuple(Failure(plan[number].index, error) for number, error in done.refused)
        rows, cols, size = facts.rows, facts.cols, (wide, tall)
        if not done.in_place or work.pitch_mm != first_pitch:
            size = work.size_mm
            rows, cols = (round((n - 1) / work.density) + 1 for n in (work.rows, work.cols))
        return Corrected(
            plan[-1].key, work, failures, rows, cols, size, facts.bit_depth, facts.notes
        )

    def _facts(self, recipe: Recipe, quality: Quality, key: str, tell: Progress) -> _Facts:
        """What is known of a picture, without its pixels when these are kept no more."""
        if key not in self._known:
            tell(0.0, "reading the picture")
            picture: Picture = self._pictures(recipe.begins.art.pictured.file.sha256)
            shares = {
                raised: extremes(picture.tone, picture.alpha, raised) for raised in get_args(Raised)
            }
            work = begin(picture, _LONGEST[quality], 1.0)
            facts = _Facts(
                picture.rows,
                picture.cols,
                work.cols,
                work.density,
                picture.bit_depth,
                picture.notes,
                shares,
            )
            self._known[key] = facts
            while len(self._known) > _KNOWN_PICTURES:
                self._known.popitem(last=False)
            self.computed["picture"] += 1
            self._keep(key, _Done(work, 1.0, True))
        return self._known[key]

    def _opened(self, recipe: Recipe, quality: Quality, facts: _Facts) -> _Done:
        work = begin(self._pictures(recipe.begins.art.pictured.file.sha256), _LONGEST[quality], 1.0)
        return _Done(work, 1.0, True)

    def _applying(
        self, work: Working, before: _Done, number: int, step: Correction | None
    ) -> Callable[[], _Done]:
        def apply() -> _Done:
            assert step is not None
            try:
                after = correct(work, step, self._pictures)
            except NebrelError as error:
                return replace(before, refused=(*before.refused, (number, error)))
            in_place = before.in_place and after.place is work.place
            in_place = in_place and after.density == work.density
            ratio = before.pitch_ratio * after.pitch_mm / work.pitch_mm
            return _Done(after, ratio, in_place, before.refused)

        return apply

    def _later(self, recipe: Recipe, quality: Quality, corrected: str) -> _Keys:
        """Keys of what comes after the corrections."""
        picture, heights = recipe.begins.art.pictured, recipe.begins.art
        tones = _hash(corrected, "tones", None)
        own = _plain(heights.model_dump(mode="json", exclude={"build_up", "picture"}))
        pictured = heights.tones
        assert pictured is not None
        own["tones"] = _plain(pictured.model_dump(mode="json", exclude={"name"}))
        if pictured.mapping == "light":
            own["attenuation_per_mm"] = recipe.made_with.material.attenuation_per_mm
        raised = _hash(tones, "heights", [picture.along, picture.side.mm, own])
        entries = [entry.model_dump(mode="json", exclude={"name"}) for entry in heights.build_up]
        units = recipe.made_with.printer.units
        kind = recipe.begins.form_kind
        built = _hash(raised, "build-up", [_plain(entries), kind, units.line_mm, units.layer_mm])
        turned = _hash(built, "turned out", None)
        fittings = [
            f.model_dump(mode="json", exclude={"name", "id"}) for f in recipe.begins.fittings
        ]
        form = _plain(recipe.begins.form.model_dump(mode="json"))
        shaped = [form, finishing(recipe, quality == "draft").as_key()]
        return _Keys(
            tones,
            raised,
            built,
            turned,
            _hash(raised, "picture solid", [*shaped, pictured.enabled]),
            _hash(turned, "build-up solid", shaped),
            _hash(turned, "solid", [*shaped, _plain(fittings)]),
        )

    def _run(self, name: str, key: str, compute: Callable[[], Any]) -> Any:
        if key in self._kept:
            self._kept.move_to_end(key)
            self.reused[name] += 1
            return self._kept[key]
        result = compute()
        self.computed[name] += 1
        self._keep(key, result)
        return result

    def _tones(self, recipe: Recipe, corrected: Corrected) -> Tones:
        work = corrected.work
        tone = work.tone
        if recipe.begins.art.corrected:
            shares = {raised: extremes(tone, work.alpha, raised) for raised in get_args(Raised)}
        else:
            shares = self._known[corrected.key].shares
        return Tones(tone, work.alpha, shares, 0, 0, 0.0, 0.0, 8, (), ())

    def _keep(self, key: str, result: Any) -> None:
        self._kept[key] = result
        self._weight += _weigh(result)
        while self._weight > self._limit and len(self._kept) > 1:
            _, dropped = self._kept.popitem(last=False)
            self._weight -= _weigh(dropped)


def _raised(recipe: Recipe, tones: Tones, solid: bool) -> Relief:
    art = recipe.begins.art
    assert art.tones is not None
    return raise_relief(
        art.backing.mm, art.tones, tones, recipe.made_with.material.attenuation_per_mm, solid
    )


def _turned(recipe: Recipe, relief: Relief) -> TurnedOut:
    return turn_out(recipe.begins.art, recipe.begins.form.around, relief)


def _sheet(recipe: Recipe, relief: Relief, draft: bool) -> Sheet:
    begins, units = recipe.begins, recipe.made_with.printer.units
    return sheet_of(relief, begins.form.around, begins.round, units, draft)


def _plan(recipe: Recipe, quality: Quality, upto: int | None) -> list[_Planned]:
    """Name and key of reading the picture and of every correction that is switched on."""
    picture = recipe.begins.art.pictured
    key = _hash(quality, "picture", [picture.file.sha256])
    plan = [_Planned("picture", key)]
    for index, step in enumerate(picture.corrections[:upto]):
        if not step.enabled:
            continue
        params: list[Any] = [
            _plain(step.model_dump(mode="json", exclude={"id", "name", "enabled"}))
        ]
        if depends_on_size(step):
            params += [picture.along, picture.side.mm]
        key = _hash(key, step.kind, params)
        plan.append(_Planned(step.kind, key, step, index))
    return plan


def _with_figures(tones: Tones, corrected: Corrected) -> Tones:
    wide, tall = corrected.size_mm
    return replace(
        tones,
        rows=corrected.rows,
        cols=corrected.cols,
        wide_mm=wide,
        tall_mm=tall,
        bit_depth=corrected.bit_depth,
        notes=corrected.notes,
        failures=corrected.failures,
    )


def _plain(values: Any) -> Any:
    """Settings without the words a length was typed in, which change nothing."""
    if isinstance(values, dict):
        if values.keys() == {"mm", "text"}:
            return {"mm": values["mm"]}
        return {name: _plain(value) for name, value in values.items()}
    return [_plain(value) for value in values] if isinstance(values, list) else values


def recipe_key(recipe: Recipe, what: str) -> str:
    """A key for something made of the whole recipe."""
    return _hash("", what, recipe.model_dump(mode="json"))


def _hash(before: str, name: str, params: Any) -> str:
    text = json.dumps([_VERSION, before, name, params], sort_keys=True)
    return hashlib.sha256(text.encode()).hexdigest()


def _weigh(result: Any) -> int:
    if isinstance(result, tuple):
        return sum(_weigh(part) for part in result)
    if isinstance(result, _Done):
        return _weigh(result.work)
    if isinstance(result, Working):
        return result.pixels.nbytes + (0 if result.alpha is None else result.alpha.nbytes)
    if isinstance(result, Tones):
        return result.tone.nbytes + (0 if result.alpha is None else result.alpha.nbytes)
    if isinstance(result, TurnedOut):
        return _weigh(result.relief)
    if isinstance(result, Relief):
        covers = [part.cover for part in result.plateaus]
        covers += [] if result.cover is None else [result.cover]
        entries = (*result.below, *result.above, *result.steps)
        covers += [entry.patch.mm for entry in entries if entry.patch]
        return result.field.mm.nbytes + sum(cover.nbytes for cover in covers)
    if isinstance(result, Built):
        return _weigh(result.mesh)
    if isinstance(result, Mesh):
        return result.vertices.nbytes + result.faces.nbytes
    if hasattr(result, "num_tri"):
        return int(_OF_A_TRIANGLE * result.num_tri())
    return 1000
