"""Answers what is asked of recipes, by links, so that only what changed is made anew."""

from __future__ import annotations

import hashlib
import json
from collections import Counter
from collections.abc import Callable, Iterable, Mapping
from dataclasses import replace
from pathlib import Path
from threading import RLock
from typing import Any

from nebrel.core.data import Floats, HeightField, Mask, Mesh, Picture
from nebrel.core.errors import InvalidValue, NebrelError, NotFound
from nebrel.core.figure.subject import Subject, find_subject
from nebrel.core.forms.lying import Lying
from nebrel.core.heights.laid import Laid
from nebrel.core.heights.relief import Relief
from nebrel.core.links import picture as pictures_links
from nebrel.core.links.correct import PictureSource
from nebrel.core.links.decoration import (
    as_relief,
    closed_body,
    decorated,
    lying_of_one,
    lying_on,
    on_body,
)
from nebrel.core.links.figure import mask_of, subject
from nebrel.core.links.finishing import finishing
from nebrel.core.links.link import VERSION, Link, at_hand, file, plain
from nebrel.core.links.piece import begun, shape, stages
from nebrel.core.links.relief import DRAFT, FULL, SCREEN, Quality, fitted, heights
from nebrel.core.links.runner import Made, Note, Progress, Runner
from nebrel.core.links.shape import FigureDone, Lain, Shape
from nebrel.core.links.turn_out import doubts
from nebrel.core.outline.outline import Outline
from nebrel.core.outline.tracing import Traced
from nebrel.core.questions.evaluation import (
    Corrected,
    DecorationDone,
    Evaluation,
    Failure,
    Finished,
    QualityName,
    Raised,
    Remark,
    StepDone,
    low_corner,
)
from nebrel.core.recipe.art import Pictured
from nebrel.core.recipe.decoration import Decoration
from nebrel.core.recipe.figure import FigureBegin
from nebrel.core.recipe.models import Recipe
from nebrel.core.recipe.traced import Trace
from nebrel.core.solid.decorate import Mirrored, lying_of
from nebrel.core.solid.stretch import LaidArt, Stretch, stretch_of

_EDGE_DEG = 40.0  # that a surface turns at once under art: an edge, and said
QUALITY: dict[QualityName, Quality] = {"draft": DRAFT, "screen": SCREEN, "full": FULL}


def no_file(sha256: str) -> bytes:
    """Where no files are at hand. Raises NotFound."""
    raise NotFound("drawing", f"{sha256[:8]} is not at hand", "Bring it again")


class Evaluator:
    """Evaluates recipes; results are kept in a bounded cache.

    Parameters
    ----------
    pictures : gives the decoded picture by the SHA-256 of its file
    cache_bytes : how much the kept results may weigh
    runner : another evaluator's, to share what it keeps; each answers one question at a time
    files : gives what a kept file holds by its SHA-256, for drawings; raises NotFound
    meshes : gives where a kept mesh lies, or what it holds; left out: what `files` gives
    """

    def __init__(
        self,
        pictures: PictureSource,
        cache_bytes: int = 600_000_000,
        runner: Runner | None = None,
        files: Callable[[str], bytes] = no_file,
        meshes: Callable[[str], Path | bytes] | None = None,
    ) -> None:
        given: dict[str, Callable[[str], Any]] = {
            "picture": pictures,
            "mesh": meshes or files,
            "network": meshes or files,
            "drawing": files,
        }

        def read(kind: str, sha256: str) -> Any:
            return given[kind](sha256)

        self.runner = runner or Runner(read, cache_bytes)
        self._one_at_a_time = RLock()

    @property
    def computed(self) -> Counter[str]:
        """How often each link was made."""
        return self.runner.computed

    @property
    def reused(self) -> Counter[str]:
        """How often what was kept was taken."""
        return self.runner.reused

    def evaluate(
        self, recipe: Recipe, quality: QualityName = "full", progress: Progress | None = None
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
        fine = QUALITY[quality]
        links = stages(recipe, fine)
        laid: tuple[DecorationDone, ...] = ()
        figure: FigureDone | None = None
        if recipe.body is not None:
            bare = begun(recipe, fine)
            own = decorated(bare, recipe, fine)
            mended = [closed_body(bare)] if own else []
            both, raised = self._run([*mended, *own, *links], progress), None
            whole, both = both[: len(mended)], both[len(mended) :]
            laid, made = _decorations(recipe, own, both, fine), both[len(own) :]
            if whole and whole[0].value.said:
                laid = (_mended_first(laid[0], whole[0].value.said), *laid[1:])
        elif recipe.figure is not None:
            both, raised = self._run([begun(recipe, fine), *links], progress), None
            figure, made = both[0].value.figure, both[1:]
        else:
            made, raised = self._raise(recipe, quality, links, progress)
        last = made[-1].value
        return Evaluation(
            key=self.key_of(recipe, quality),
            quality=quality,
            density_g_cm3=recipe.made_with.material.density_g_cm3,
            bed_mm=recipe.made_with.printer.bed_mm,
            mesh=last.mesh,
            report=last.report,
            raised=raised,
            steps=_steps(recipe, links, made),
            decorations=laid,
            figure=figure,
        )

    def begun(self, recipe: Recipe, progress: Progress | None = None) -> Shape:
        """The mesh before any decoration and finish step, at full quality.

        Raises
        ------
        NebrelError : whatever a step refuses
        """
        found: Shape = self._run([begun(recipe, FULL)], progress)[0].value
        return found

    def around(
        self,
        recipe: Recipe,
        step_id: str,
        progress: Progress | None = None,
        quality: QualityName = "full",
    ) -> tuple[Mesh, Mesh]:
        """The mesh before a finish step and after it.

        Raises
        ------
        NotFound : no finish step that is switched on has that id
        NebrelError : whatever a step before them refuses
        """
        before, after = self._run([*_around(recipe, step_id, quality)], progress)
        return before.value.mesh, after.value.mesh

    def stretch(self, recipe: Recipe, progress: Progress | None = None) -> tuple[Mesh, Stretch]:
        """The body with its decorations, and by how much lines on it became longer or shorter.

        Raises
        ------
        NebrelError : whatever a step refuses
        """
        bare = begun(recipe, FULL)
        laid = lying_on(bare, recipe, FULL)
        goals = [
            [bare, *decorated(bare, recipe, FULL)][-1],
            bare,
            *(one for pair in laid for one in pair),
        ]
        made, before, *lain = (one.value for one in self._run(goals, progress))
        arts = [one for one in on_body(recipe) if isinstance(one, Decoration)]
        laid_art = [
            LaidArt(places, size, one.does in ("colour", "inlay"))
            for one, places, size in zip(arts, lain[::2], lain[1::2], strict=True)
            if places
        ]
        return stretch_of(made.mesh, before.mesh, laid_art)

    def lying(
        self, recipe: Recipe, decoration: Decoration
    ) -> tuple[list[tuple[Lying, bool]], tuple[float, float]]:
        """Each place that a decoration lies at as a draft, and whether left for right; its size.

        Raises
        ------
        NebrelError : whatever a step refuses
        """
        places, size = lying_of_one(begun(recipe, DRAFT), recipe, decoration, DRAFT)
        lain, size_mm = (made.value for made in self._run([places, size]))
        return [(lying_of(place), isinstance(place, Mirrored)) for place in lain], size_mm

    def _raise(
        self,
        recipe: Recipe,
        quality: QualityName,
        links: list[Link[Shape]],
        progress: Progress | None,
    ) -> tuple[list[Made[Shape]], Raised]:
        """The stages of a relief, and what is known of its heights."""
        fine, art = QUALITY[quality], recipe.relief.art
        raised = heights(recipe, fine)
        # What cannot be made is refused before the picture is raised.
        goals: list[Link[Any]] = [raised.sound, raised.settled, raised.turned, raised.range_mm]
        if art.picture is not None:
            goals.append(pictures_links.corrected(art.picture, fine.longest_px))
        made = self._run([*goals, *links], progress)
        own, shapes = made[: len(goals)], made[len(goals) :]
        settled, relief, (low, high) = (one.value for one in own[1:4])
        solid, notes = shapes[0].value, shapes[0].notes
        remarks = [
            *_remarks(notes, raised.lain),
            *(
                Remark("", False, doubt)
                for doubt in doubts(recipe.made_with.printer, art.backing.mm, relief, low, high)
            ),
        ]
        wanted = finishing(recipe)
        return shapes, Raised(
            picture=None if art.picture is None else _corrected(art.picture, quality, own[4]),
            relief=relief,
            range_mm=(low, high),
            begins=recipe.relief,
            remarks=tuple(remarks),
            fitting_remarks=tuple(_remarks(notes, fitted(recipe, fine))),
            islands=settled.islands,
            lift_mm=solid.built.lift_mm,
            finish=Finished(
                round(solid.built.tolerance_mm, 6),
                round(wanted.tolerance_mm, 6),
                None if wanted.machine is None else round(max(wanted.machine.pitch), 6),
            ),
        )

    def relief(self, recipe: Recipe, progress: Progress | None = None) -> Relief:
        """Heights at full resolution with the whole build-up; without making the solid.

        Parameters
        ----------
        progress : as `evaluate`

        Raises
        ------
        NebrelError : whatever a step refuses
        """
        found: Relief = self._run([heights(recipe, FULL).turned], progress)[0].value
        return found

    def extent(self, recipe: Recipe) -> tuple[float, float]:
        """Width and height of all that is made of its art, mm, as a draft.

        Raises
        ------
        NebrelError : whatever a step before the build-up refuses
        """
        found: tuple[float, float] = self._run([heights(recipe, DRAFT).extent])[0].value
        return found

    def outlines(self, recipe: Recipe) -> tuple[tuple[float, float], dict[str, Laid]]:
        """Width and height, and every entry of the build-up as it lies, by its id, as a draft.

        Raises
        ------
        NebrelError : whatever a step before the build-up refuses
        """
        raised = heights(recipe, DRAFT)
        size, *laid = self._run([raised.size, *raised.lain.values()])
        found = zip(raised.lain, laid, strict=True)
        return size.value, {name: made.value for name, made in found if made.value is not None}

    def traced(self, recipe: Recipe, trace: Trace, quality: QualityName = "full") -> Traced:
        """What a trace finds in the corrected picture.

        Raises
        ------
        NebrelError : it finds nothing, or the piece was begun without a picture
        """
        link = heights(recipe, QUALITY[quality]).traced(trace)
        found: Traced = at_hand(self._run([link])[0].value)
        return found

    def outline(self, recipe: Recipe, entry_id: str, progress: Progress | None = None) -> Outline:
        """The outline of one entry of the build-up, at full quality.

        Raises
        ------
        NotFound : no entry that is switched on has that id
        NebrelError : it is refused, or what lies before it
        """
        link = heights(recipe, FULL).laid.get(entry_id)
        if link is None:
            raise NotFound("entry", f"no outline is called “{entry_id[:40]}”", "Switch it on")
        made = self._run([link], progress)[0]
        if made.value is None:
            refused = [note.error for note in made.notes if note.refused]
            raise refused[0] if refused else NotFound("entry", "it has no outline", "Give it one")
        found: Outline = made.value.outline
        return found

    def backing(self, recipe: Recipe) -> Outline:
        """Where the backing ends, from the lower left of the picture.

        Raises
        ------
        NebrelError : whatever it follows refuses
        """
        made = self._run([heights(recipe, FULL).ends])[0]
        found: Outline = made.value
        return found

    def heights(self, recipe: Recipe) -> tuple[HeightField, Mask | None]:
        """The heights of every pixel, and where they are.

        Raises
        ------
        NebrelError : whatever a step refuses
        """
        return self.relief(recipe).joined()

    def correct(
        self,
        recipe: Recipe,
        quality: QualityName = "full",
        upto: int | None = None,
        progress: Progress | None = None,
    ) -> Corrected:
        """The picture after its corrections, or after the first `upto` of the list.

        A correction that is refused is noted in the result; the others still apply.

        Raises
        ------
        NotFound : the piece was begun without a picture
        """
        step = recipe.pictured
        link = pictures_links.corrected(step, QUALITY[quality].longest_px, upto)
        return _corrected(step, quality, self._run([link], progress)[0], upto)

    def subject(self, begins: FigureBegin, progress: Progress | None = None) -> Subject:
        """What of its picture is made into a figure. Raises as `find_subject`."""
        found: Subject = self._run([subject(begins, FULL)], progress)[0].value
        return found

    def back_subject(self, begins: FigureBegin) -> Subject | None:
        """The subject from behind, where a picture of that was brought. Raises as `subject`."""
        if begins.back_picture is None:
            return None
        shown: Picture = self._run([file("picture", begins.back_picture.sha256)])[0].value
        return find_subject(shown)

    def mask(self, begins: FigureBegin) -> Floats | None:
        """The mask that was brought beside a figure's picture, as that lies now.

        Raises
        ------
        NebrelError : it is of another size, or not at hand
        """
        link = mask_of(begins)
        found: Floats | None = None if link is None else self._run([link])[0].value
        return found

    def original(self, recipe: Recipe) -> Picture:
        """The picture as it was brought in. Raises NotFound."""
        found: Picture = self._run([pictures_links.original(recipe.pictured)])[0].value
        return found

    def has_original(self, recipe: Recipe) -> bool:
        """Whether that is at hand already."""
        return self.runner.has(pictures_links.original(recipe.pictured))

    def picture_key(self, recipe: Recipe) -> str:
        """Tells corrected pictures apart, at full quality, without correcting any."""
        return pictures_links.corrected(recipe.pictured, None).key

    def key_of(self, recipe: Recipe, quality: QualityName) -> str:
        """The key the whole evaluation will carry, without running it."""
        return key_of(recipe, quality)

    def _run(self, goals: list[Link[Any]], progress: Progress | None = None) -> list[Made[Any]]:
        with self._one_at_a_time:
            return self.runner.run(*goals, tell=progress)


def key_of(recipe: Recipe, quality: QualityName) -> str:
    """The key the whole evaluation will carry, without running it."""
    whole = shape(recipe, QUALITY[quality])
    made_with = recipe.made_with.material.density_g_cm3, *recipe.made_with.printer.bed_mm
    finish = [step.id for step in recipe.finish if step.enabled]
    if recipe.body is not None:
        laid = [one.id for one in on_body(recipe)]
        return hashed([whole.key, *laid, *finish, *made_with])
    if recipe.figure is not None:
        return hashed([whole.key, *finish, *made_with])
    begins, printer = recipe.relief, recipe.made_with.printer
    # The figures name the steps that something is to be said of, which makes no solid another.
    steps = [*begins.art.build_up, *begins.fittings]
    corrections = [] if begins.art.picture is None else begins.art.picture.corrections
    named = [step.id for step in steps if step.enabled], [c.enabled for c in corrections]
    wanted = plain(finishing(recipe))
    found = [whole.key, *named, printer.line_mm, printer.layer_mm, *made_with, wanted]
    return hashed([*found, *finish])


def begun_key(recipe: Recipe) -> str:
    """A key for what is said of the mesh before any finish step, and of the nozzle."""
    line_mm = recipe.made_with.printer.line_mm
    return hashed(["begun", begun(recipe, FULL).key, line_mm])


def around_key(recipe: Recipe, step_id: str) -> str:
    """A key for what a finish step changes. Raises NotFound as `Evaluator.around`."""
    before, after = _around(recipe, step_id)
    return hashed(["around", step_id, before.key, after.key])


def _around(recipe: Recipe, step_id: str, quality: QualityName = "full") -> list[Link[Shape]]:
    on = [step.id for step in recipe.finish if step.enabled]
    if step_id not in on:
        raise NotFound("step", f"none is called “{step_id[:40]}”", "Switch it on")
    at = on.index(step_id)
    return stages(recipe, QUALITY[quality])[at : at + 2]


def recipe_key(recipe: Recipe, what: str) -> str:
    """A key for something made of the whole recipe."""
    return hashed([what, recipe.model_dump(mode="json")])


def hashed(values: Any) -> str:
    """A key for plain values."""
    text = json.dumps([VERSION, values], sort_keys=True)
    return hashlib.sha256(text.encode()).hexdigest()


def _remarks(notes: Iterable[Note], links: Mapping[str, Link[Any]]) -> list[Remark]:
    """What was noted of steps, by their ids; equal steps share what was noted."""
    found = list(notes)
    return [
        Remark(step_id, note.refused, note.error)
        for step_id, link in links.items()
        for note in found
        if note.key == link.key
    ]


def _steps(
    recipe: Recipe, links: list[Link[Shape]], made: list[Made[Shape]]
) -> tuple[StepDone, ...]:
    """What each finish step that is switched on came to."""
    on = [step for step in recipe.finish if step.enabled]
    found = []
    for step, link, before, after in zip(on, links[1:], made, made[1:], strict=False):
        refused = [note.error for note in after.notes if note.key == link.key and note.refused]
        error = refused[0] if refused else None
        said = after.value.said if error is None else ()
        reports = before.value.report, after.value.report
        low_mm = low_corner(before.value.mesh)
        found.append(StepDone(step.id, *reports, low_mm, said, error))
    return tuple(found)


def _decorations(
    recipe: Recipe, links: list[Link[Shape]], made: list[Made[Shape]], quality: Quality
) -> tuple[DecorationDone, ...]:
    """What each decoration that is switched on came to."""
    found = []
    for one, link, after in zip(on_body(recipe), links, made, strict=False):
        refused = [note.error for note in after.notes if note.key == link.key and note.refused]
        error = refused[0] if refused else None
        laid = Lain() if refused else after.value.laid
        doubt = None
        if isinstance(one, Decoration):
            doubt = _doubt(recipe, one, after.notes, quality) or _bent(laid)
        found.append(DecorationDone(one.id, laid, error, doubt))
    return tuple(found)


def _mended_first(one: DecorationDone, done: tuple[str, ...]) -> DecorationDone:
    """The first decoration, which tells what was mended of the body before anything was laid."""
    if one.error is not None or one.doubt is not None:
        return one
    why = f"it was not closed and is mended before anything is laid on it: {', '.join(done)}"
    return replace(one, doubt=InvalidValue("body", why, "See that it is still what it was"))


def _bent(laid: Lain) -> NebrelError | None:
    """What is said of art over an edge."""
    if laid.edge_deg < _EDGE_DEG:
        return None
    return InvalidValue(
        "place",
        f"it is bent around an edge of {laid.edge_deg:.0f} degrees",
        "Set it beside the edge, or make it smaller, if that is not meant",
    )


def _doubt(
    recipe: Recipe, one: Decoration, notes: Iterable[Note], quality: Quality
) -> NebrelError | None:
    """What is said of the entries of its art: first of one that was left out."""
    said = _remarks(notes, heights(as_relief(recipe, one), quality).lain)
    worst = sorted(said, key=lambda remark: not remark.refused)
    return worst[0].error if worst else None


def _corrected(
    step: Pictured,
    quality: QualityName,
    made: Made[pictures_links.Corrected],
    upto: int | None = None,
) -> Corrected:
    longest = QUALITY[quality].longest_px
    of = pictures_links.steps(step, longest, upto)[1:]
    switched_on = [n for n, one in enumerate(step.corrections[:upto]) if one.enabled]
    keys = {one.key: index for index, one in zip(switched_on, of, strict=True)}
    failures = [Failure(keys[note.key], note.error) for note in made.notes if note.key in keys]
    value = made.value
    return Corrected(
        pictures_links.corrected(step, longest, upto).key,
        value.work,
        tuple(failures),
        value.rows,
        value.cols,
        value.size_mm,
        value.bit_depth,
        value.notes,
    )
