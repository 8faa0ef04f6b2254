"""Links of a picture: read, corrected, and its tones ready to be raised."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from threading import Lock
from typing import Literal, get_args

from nebrel.core.data import Picture
from nebrel.core.errors import NebrelError
from nebrel.core.heights.raise_tones import Raised, size_mm
from nebrel.core.links.correct import correct, depends_on_size
from nebrel.core.links.link import Link, at_hand, file
from nebrel.core.links.raise_relief import Tones, extremes
from nebrel.core.picture.working import Working, begin
from nebrel.core.recipe.art import Pictured
from nebrel.core.recipe.corrections import Correction
from nebrel.core.recipe.files import files_of
from nebrel.core.recipe.length import Length

Shares = dict[Raised, tuple[float, float]]


@dataclass(frozen=True)
class Facts:
    """What is known of a picture file without its pixels.

    Attributes
    ----------
    shares : lowest and highest raised share, at full resolution
    """

    rows: int
    cols: int
    bit_depth: int
    notes: tuple[str, ...]
    shares: Shares


@dataclass(frozen=True)
class Step:
    """A picture after some corrections, and all that has to be known to go on from it.

    Attributes
    ----------
    first_cols, density : of the picture as it was opened
    pitch_ratio : its pitch over that of the picture as it was opened
    in_place : whether every pixel is where it was then
    """

    work: Working
    first_cols: int
    pitch_ratio: float = 1.0
    in_place: bool = True


@dataclass(frozen=True)
class Corrected:
    """A picture after its corrections, in mm.

    Attributes
    ----------
    rows, cols : at full quality
    size_mm : width and height at full quality
    """

    work: Working
    rows: int
    cols: int
    size_mm: tuple[float, float]
    bit_depth: int
    notes: tuple[str, ...]


def original(step: Pictured) -> Link[Picture]:
    """The picture as it was brought in."""
    return file("picture", step.file.sha256)


def facts(step: Pictured) -> Link[Facts]:
    """What is known of it."""
    return Link(_facts, (original(step),), "looking at the picture")


def _facts(picture: Picture) -> Facts:
    shares: Shares = {
        raised: extremes(picture.tone, picture.alpha, raised) for raised in get_args(Raised)
    }
    return Facts(picture.rows, picture.cols, picture.bit_depth, picture.notes, shares)


def steps(step: Pictured, longest_px: int | None, upto: int | None = None) -> list[Link[Step]]:
    """The picture as it is opened, and after every correction that is switched on.

    Parameters
    ----------
    longest_px : the most pixels along its longer side
    upto : only so many corrections of the list
    """
    # Asked several times for each answer; a key of long strokes takes a while to work out.
    asked = id(step), longest_px, upto
    with _asking:
        known = _known.get(asked)
        if known is None or known[0] is not step:
            while len(_known) >= _MOST_KNOWN:
                del _known[next(iter(_known))]
            known = _known[asked] = step, _steps(step, longest_px, upto)
    return known[1]


_MOST_KNOWN = 24
_asking = Lock()
_known: dict[tuple[int, int | None, int | None], tuple[Pictured, list[Link[Step]]]] = {}


def _steps(step: Pictured, longest_px: int | None, upto: int | None) -> list[Link[Step]]:
    found: list[Link[Step]] = [
        Link(_open, (original(step), longest_px), "opening the picture", 0.2)
    ]
    for one in applied(step, upto):
        sized = (step.along, step.side, facts(step)) if depends_on_size(one) else ()
        names = files_of(one) if "sha256" in type(one).model_fields else []
        seconds = tuple(file("picture", name, told=True) for name in names)
        words = one.kind.replace("_", " ")
        given = found[-1], one, sized, seconds
        found.append(Link(_correct, given, words, 0.5, refused="as before"))
    return found


def applied(step: Pictured, upto: int | None = None) -> list[Correction]:
    """Its corrections that are switched on."""
    return [one for one in step.corrections[:upto] if one.enabled]


def _open(picture: Picture, longest_px: int | None) -> Step:
    work = begin(picture, longest_px, 1.0)
    return Step(work, work.cols)


def _correct(
    before: Step,
    one: Correction,
    sized: tuple[Literal["wide", "tall"], Length, Facts] | tuple[()],
    seconds: Sequence[Picture | NebrelError],
) -> Step:
    pitch = 1.0
    if sized:
        along, side, known = sized
        pitch = size_mm(known.rows, known.cols, along, side.mm)[0] / (before.first_cols - 1)
    work = replace(before.work, pitch_mm=pitch * before.pitch_ratio)
    others = map(at_hand, seconds)
    after = correct(work, one, lambda _: next(others))
    in_place = after.place is work.place and after.density == work.density
    ratio = before.pitch_ratio * after.pitch_mm / work.pitch_mm
    return replace(before, work=after, pitch_ratio=ratio, in_place=before.in_place and in_place)


def corrected(step: Pictured, longest_px: int | None, upto: int | None = None) -> Link[Corrected]:
    """The picture after its corrections, with its size in mm."""
    last = steps(step, longest_px, upto)[-1]
    return Link(_sized, (last, facts(step), step.along, step.side), "sizing the picture", 0.01)


def _sized(last: Step, known: Facts, along: Literal["wide", "tall"], side: Length) -> Corrected:
    wide, tall = size_mm(known.rows, known.cols, along, side.mm)
    first_pitch = wide / (last.first_cols - 1)
    work = replace(last.work, pitch_mm=first_pitch * last.pitch_ratio)
    rows, cols, size = known.rows, known.cols, (wide, tall)
    if not last.in_place or work.pitch_mm != first_pitch:
        size = work.size_mm
        rows, cols = (round((n - 1) / work.density) + 1 for n in (work.rows, work.cols))
    return Corrected(work, rows, cols, size, known.bit_depth, known.notes)


def size_of(step: Pictured, longest_px: int | None) -> Link[tuple[float, float]]:
    """Width and height after the corrections, mm."""
    return Link(_size, (corrected(step, longest_px),), "sizing the picture", 0.01)


def _size(found: Corrected) -> tuple[float, float]:
    return found.size_mm


def tones(step: Pictured, longest_px: int | None) -> Link[Tones]:
    """Brightness and cover, ready to be raised, whatever the size."""
    last = steps(step, longest_px)[-1]
    known = () if applied(step) else (facts(step),)
    return Link(_tones, (last, known), "reading the tones", 0.2)


def _tones(last: Step, known: tuple[Facts, ...]) -> Tones:
    work = last.work
    tone = work.tone
    if known:
        shares = known[0].shares
    else:
        shares = {raised: extremes(tone, work.alpha, raised) for raised in get_args(Raised)}
    return Tones(tone, work.alpha, shares)
