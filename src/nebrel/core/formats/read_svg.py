"""Reading SVG: filled areas and strokes as an outline in mm."""

from __future__ import annotations

import math
import re
from collections import Counter
from collections.abc import Iterator
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from nebrel.core.data import Loop
from nebrel.core.errors import TooLarge, UnreadableFile
from nebrel.core.formats.drawing import UNIT_MM, Drawing, Room, Unit, check_layers
from nebrel.core.formats.svg_curves import Curves, curves_of
from nebrel.core.formats.svg_parts import Placed, mapped, share_of, tag_of
from nebrel.core.formats.svg_styles import said_of
from nebrel.core.formats.svg_tree import Page
from nebrel.core.kernel import Region, all_of, circle, non_zero, round_sides
from nebrel.core.outline.assemble import Drawn, assemble, open_ends, stroked
from nebrel.core.outline.fit_kernels import flatten
from nebrel.core.outline.outline import Outline
from nebrel.core.outline.regions import outline_of, region_of

_PX_MM = 25.4 / 96
_FLAT_MM = 0.002
_NO_WIDTH_MM = 1e-6
_MOST_ELEMENTS = 200_000
_MOST_ENTITIES, _LONGEST_ENTITY, _MOST_GROWN = 64, 200, 10_000_000
_WHITE = 250 / 255
_MIDDLE = (0.5, 0.5, 0.5, 1.0)  # a gradient, or what is not understood
# Shares of red, green and blue in how light it is. Source: CSS Masking Level 1, luminance.
_LIGHT = (0.2125, 0.7154, 0.0721)
_ROUND = 48  # sides of a circle, at least
_EVEN = 1e-6  # by which the sides of what is drawn evenly may differ
_NAMESPACE = "{http://www.w3.org/2000/svg}"
_LEFT_OUT = {
    "script": ("script", "left out, never run"),
    "image": ("picture", "left out: bring it as a picture of its own"),
    "text": ("text", "left out: turn it into paths in the program it was drawn with"),
    "foreignObject": ("foreign object", "left out"),
    "animate": ("animation", "left out"),
    "animateTransform": ("animation", "left out"),
    "set": ("animation", "left out"),
}
# Drawn only where something refers to it.
_ASIDE = {"symbol", "marker", "clipPath", "mask", "pattern"}


def read_svg(
    content: bytes,
    name: str,
    unit: Unit | None,
    join_mm: float,
    layers: frozenset[str] | None,
) -> Drawing:
    """What an SVG fills and strokes, as it is painted: what is white takes away.

    Parameters
    ----------
    unit : of one user unit of the file, whatever its width says
    layers : as `read_drawing`: its groups by their names

    Raises
    ------
    UnreadableFile : no SVG, entities that it declares, or references without end
    TooLarge : too many elements
    """
    tree, notes = _cleaned(content, name)
    said, unknown = said_of(tree)
    notes += unknown
    counted: Counter[str] = Counter()
    whole: Region = non_zero([])
    added: list[Region] = []  # to the whole, when something is taken away from it
    room = Room(name)
    lines: list[Drawn] = []
    whites = 0

    def area(shape: Placed) -> Region:
        return _filled(shape, _flat(_mapped(shape, room), shape, room))

    def tones(shape: Placed) -> Iterator[tuple[Region, float, float]]:
        drawn = _flat(_mapped(shape, room), shape, room)
        for what in ("fill", "stroke"):
            paint = _paint(shape, what) if drawn else None
            if paint is not None:
                lines = _strokes(shape, drawn, scale, room) if what == "stroke" else None
                area = _filled(shape, drawn) if lines is None else all_of(lines)
                yield _seen(area, shape), float(np.dot(paint[:3], _LIGHT)), paint[3]

    page = Page(tree, said, area, tones)
    scale = _PX_MM if unit is None else UNIT_MM[unit] / page.unit_px
    for shape in page.shapes(scale):
        counted[shape.group] += 1
        if layers is not None and shape.group not in layers:
            continue
        fill, stroke = _painted(shape, "fill"), _painted(shape, "stroke")
        if fill is None and stroke is None:
            continue
        drawn = _flat(_mapped(shape, room), shape, room)
        if not drawn:
            continue
        if fill is not None:
            covered = _seen(_filled(shape, drawn), shape)
            whites += fill
            if fill:
                whole, added = all_of([whole, *added]) - covered, []
            else:
                added.append(covered)
        if stroke is not None and _wide(shape) * scale > _NO_WIDTH_MM:
            added += [_seen(one, shape) for one in _strokes(shape, drawn, scale, room)]
        elif fill is None and stroke is not None:
            lines += drawn
    check_layers(layers, counted, name)
    whole = all_of([whole, *added])
    loose: tuple[tuple[float, float], ...] = ()
    if whole.is_empty() and lines:
        whole, loose = _closed(lines, join_mm, notes)
    if whites:
        notes.append(f"{whites} white shapes take away what lies below them")
    notes += page.notes
    outline = Outline(tuple(loop * (1, -1) for loop in outline_of(whole).loops))
    turned = Outline(tuple(loop[::-1] for loop in outline.loops))
    return Drawing(turned, page.size_mm(scale), unit or "mm", dict(counted), tuple(notes), loose)


def _closed(
    lines: list[Drawn], join_mm: float, notes: list[str]
) -> tuple[Region, tuple[tuple[float, float], ...]]:
    """What lines without a width go around where they close, and the ends that stay open."""
    made = assemble(lines, join_mm)
    notes += left_over(made.left_open, made.joined, made.doubles)
    ends = tuple((x, -y) for x, y in open_ends(made.left_open))
    return region_of(Outline(tuple(made.loops))), ends


def left_over(left_open: list[Drawn], joined: int, doubles: int) -> list[str]:
    """What was mended or left out of lines that were put together, as sentences."""
    notes = []
    if joined:
        notes.append("1 open end was joined" if joined == 1 else f"{joined} open ends were joined")
    if doubles:
        notes.append(
            "1 line was there twice" if doubles == 1 else f"{doubles} lines were there twice"
        )
    if left_open:
        names = ", ".join(sorted({one.called for one in left_open})[:5])
        x, y = left_open[0].points[0]
        count = "one line stays" if len(left_open) == 1 else f"{len(left_open)} lines stay"
        left_out = "is" if len(left_open) == 1 else "are"
        notes.append(
            f"{count} open and {left_out} left out ({names}), the first from {x:.2f}, {y:.2f} mm"
        )
    return notes


def _cleaned(content: bytes, name: str) -> tuple[Any, list[str]]:
    """The document without what is not drawn, and notes of what that was."""
    from xml.etree.ElementTree import ParseError

    from defusedxml import DefusedXmlException
    from defusedxml.ElementTree import fromstring

    try:
        tree = fromstring(content, forbid_entities=not _only_names(content), forbid_external=True)
    except DefusedXmlException as error:
        raise UnreadableFile(
            name, "it declares entities, which can grow without end", "Save it as plain SVG"
        ) from error
    except (ParseError, ValueError, LookupError, RecursionError) as error:
        raise UnreadableFile(name, "it is not whole XML", "Save it again as SVG") from error
    if _tag(tree) != "svg":
        raise UnreadableFile(name, f"it is XML, but “{_tag(tree)[:40]}”", "Save it as SVG")
    counted: Counter[str] = Counter()
    aside = tree.makeelement(f"{_NAMESPACE}defs", {})
    parents = [tree]
    total = 0
    while parents:
        parent = parents.pop()
        for child in list(parent):
            total += 1
            tag = _tag(child)
            href = child.get("href") or child.get("{http://www.w3.org/1999/xlink}href") or ""
            if tag in _LEFT_OUT or (href and not href.startswith("#")):
                counted[tag if tag in _LEFT_OUT else "reference"] += 1
                parent.remove(child)
                continue
            if tag in _ASIDE and _tag(parent) != "defs":
                parent.remove(child)
                aside.append(child)
            parents.append(child)
    tree.append(aside)
    if total > _MOST_ELEMENTS:
        raise TooLarge(name, f"it has {total} elements", f"At most {_MOST_ELEMENTS} are read")
    _check_uses(tree, name)
    _size_page(tree)
    notes: list[str] = []
    for tag, count in sorted(counted.items()):
        word, what = _LEFT_OUT.get(tag, ("reference to another file", "left out, never fetched"))
        notes.append(f"{count} {word}{'s' if count > 1 else ''} {what}")
    return tree, notes


def _only_names(content: bytes) -> bool:
    """Whether all entities that a file declares are short words, as names of namespaces are."""
    head = content[: content.find(b"]>") + 2] if b"<!ENTITY" in content else b""
    declared = re.findall(rb"<!ENTITY\s+[\w.-]+\s+(\"[^\"<&%]*\"|'[^'<&%]*')\s*>", head)
    if not declared or len(declared) != content.count(b"<!ENTITY"):
        return False
    longest = max(len(value) for value in declared)
    grows = content.count(b"&") * longest
    return len(declared) <= _MOST_ENTITIES and longest <= _LONGEST_ENTITY and grows <= _MOST_GROWN


def _size_page(tree: Any) -> None:
    """Say how large the page is, where the file leaves a side, or both, to whoever shows it."""
    box = [part for part in (tree.get("viewBox") or "").replace(",", " ").split() if part]
    try:
        wide, tall = float(box[2]), float(box[3])
    except (IndexError, ValueError):
        wide, tall = 0.0, 0.0
    own = {side: (tree.get(side) or "").strip() for side in ("width", "height")}
    said = {side: text for side, text in own.items() if text and not text.endswith("%")}
    for side in own:
        if side not in said:
            tree.attrib.pop(side, None)
    if wide <= 0 or tall <= 0:
        return
    if not said:
        tree.set("width", f"{wide}")
        tree.set("height", f"{tall}")
    elif len(said) == 1:
        (side, text) = next(iter(said.items()))
        number = re.match(r"[-+0-9.eE]*[0-9.]", text)
        if number is not None:
            other, share = ("height", tall / wide) if side == "width" else ("width", wide / tall)
            tree.set(other, f"{float(number[0]) * share}{text[number.end() :]}")


def _tag(element: Any) -> str:
    return str(element.tag).rsplit("}", 1)[-1]


def _check_uses(tree: Any, name: str) -> None:
    """Uses of uses may be a few lines that draw a million shapes, or never end."""
    by_id = {element.get("id"): element for element in tree.iter() if element.get("id")}
    sizes: dict[int, int] = {}
    pending: list[tuple[Any, bool]] = [(tree, False)]
    under_way: set[int] = set()
    while pending:
        element, over = pending.pop()
        key = id(element)
        href = element.get("href") or element.get("{http://www.w3.org/1999/xlink}href") or ""
        target = by_id.get(href[1:]) if _tag(element) == "use" and href else None
        before = [*element, *([target] if target is not None else [])]
        if over:
            under_way.discard(key)
            sizes[key] = 1 + sum(sizes.get(id(one), 0) for one in before)
            if sizes[key] > _MOST_ELEMENTS:
                raise TooLarge(
                    name,
                    f"its references draw more than {_MOST_ELEMENTS} shapes",
                    "Save it with plain copies of what is meant",
                )
            continue
        if key in sizes:
            continue
        under_way.add(key)
        pending.append((element, True))
        for one in before:
            if id(one) in under_way:
                raise UnreadableFile(name, "it refers to itself without end", "Save it again")
            if id(one) not in sizes:
                pending.append((one, False))


def _mapped(shape: Placed, room: Room) -> list[Curves]:
    """The lines of a shape as curves in mm, and whether each is closed."""
    found = []
    for curves, closed in curves_of(shape):
        with np.errstate(over="ignore", invalid="ignore"):
            placed = mapped(shape.matrix, curves)
        if np.isfinite(placed).all():
            room.check_reach(placed)
            found.append((placed, closed))
    return found


def _flat(curves: list[Curves], shape: Placed, room: Room, within: float = _FLAT_MM) -> list[Drawn]:
    """Curves as lines of points."""
    called = shape.element.get("id") or tag_of(shape.element)
    found = []
    for cubics, closed in curves:
        points: Loop = flatten(np.ascontiguousarray(cubics), within, np.inf)
        room.count(len(points))
        last = cubics[-1, 3]
        ends = not closed and np.hypot(*(last - points[0])) > 1e-9
        if ends:
            points = np.concatenate([points, last[None]])
        dot = not closed and len(cubics) == 1
        found.append(Drawn(points, not (ends or dot), called))
    return found


def _seen(area: Region, shape: Placed) -> Region:
    return area if shape.clip is None else area ^ shape.clip


def _painted(shape: Placed, what: str) -> bool | None:
    """Whether it is filled, or stroked, with white or with anything; None: not."""
    found = _paint(shape, what)
    if found is None or found[3] <= 0:
        return None
    return min(found[:3]) >= _WHITE


def _paint(shape: Placed, what: str) -> tuple[float, ...] | None:
    """Red, green, blue and alpha that it is filled or stroked with; None: not."""
    style = shape.style
    seen = share_of(style.get(f"{what}-opacity"))
    if seen <= 0:
        return None
    text = style.get(what, "black" if what == "fill" else "none").strip()
    if text.startswith("url("):
        return _MIDDLE
    if text.lower() == "none":
        return None
    if text.lower() == "currentcolor":
        text = style.get("color", "black")
    found = _colour(text)
    return (*found[:3], found[3] * seen) if found is not None else _MIDDLE


@lru_cache(1000)
def _colour(text: str) -> tuple[float, ...] | None:
    """Red, green, blue and alpha, 0 to 1."""
    from tinycss2 import color3, color4

    found = color3.parse_color(text.split(" icc-color", maxsplit=1)[0])
    if isinstance(found, tuple):
        return tuple(found)
    try:
        other = color4.parse_color(text)
        return tuple(other.to("srgb")) if other is not None and other != "currentcolor" else None
    except (ValueError, NotImplementedError):
        return None


def _filled(shape: Placed, drawn: list[Drawn]) -> Region:
    loops = [one.points for one in drawn if len(one.points) > 2]
    if shape.style.get("fill-rule", "nonzero") == "evenodd":
        return region_of(Outline(tuple(loops)))
    return non_zero(loops)


def _wide(shape: Placed) -> float:
    """Width of its strokes in its units."""
    return shape.viewport.length(shape.style.get("stroke-width"), "both", 1.0)


def _strokes(shape: Placed, drawn: list[Drawn], scale: float, room: Room) -> list[Region]:
    """The areas of its lines drawn with their width, mm."""
    style, turn, wide = shape.style, shape.matrix[:2, :2], _wide(shape)
    ends = style.get("stroke-linecap", "butt"), style.get("stroke-linejoin", "miter")
    limit = shape.viewport.length(style.get("stroke-miterlimit"), "both", 4.0)
    least, most = _stretch(turn)
    if style.get("vector-effect") == "non-scaling-stroke":
        least = most = scale
    if not most > 0:
        return []
    room.check_size(wide * most)
    dashes, offset = _dashes(shape)
    if most - least <= _EVEN * most:
        own = [(one, dashes * most, offset * most) for one in drawn]
        if tag_of(shape.element) == "circle" and not len(dashes):
            return [_ring(drawn[0].points, wide * most)]
        return [
            stroked(part.points, part.closed, wide * most, *ends, limit)
            for one, pattern, begin in own
            for part in _dashed(one, pattern, begin, room)
        ]
    # What is drawn longer in one way than in another is as wide as that, too.
    local = _flat(curves_of(shape), shape, room, _FLAT_MM / most)
    found = []
    for one in local:
        for part in _dashed(one, dashes, offset, room):
            region = stroked(part.points, part.closed, wide, *ends, limit)
            loops = tuple(mapped(shape.matrix, loop) for loop in outline_of(region).loops)
            found.append(region_of(Outline(loops)))
    return found


def _stretch(turn: NDArray[np.float64]) -> tuple[float, float]:
    """How long a unit becomes, the least and the most."""
    (a, c), (b, d) = turn.tolist()
    whole, apart = math.hypot(a + d, b - c), math.hypot(a - d, b + c)
    return abs(whole - apart) / 2, (whole + apart) / 2


def _ring(around: Loop, wide_mm: float) -> Region:
    """The stroke of a circle."""
    middle = (around.min(axis=0) + around.max(axis=0)) / 2
    radius = float(np.hypot(*(around[0] - middle)))
    outer, inner = radius + wide_mm / 2, radius - wide_mm / 2
    sides = max(_ROUND, round_sides(outer))
    found = circle(outer, sides)
    if inner > 0:
        found -= circle(inner, sides)
    return found.translate((float(middle[0]), float(middle[1])))


def _dashes(shape: Placed) -> tuple[NDArray[np.float64], float]:
    """Lengths of dashes and gaps in turn, in its units, none for a whole line; where it begins."""
    text = shape.style.get("stroke-dasharray", "none").replace(",", " ")
    if text == "none":
        return np.empty(0), 0.0
    port = shape.viewport
    found = [port.length(part, "both", -1.0) for part in text.split()]
    if not found or min(found) < 0 or sum(found) <= 0:
        return np.empty(0), 0.0
    found *= 1 if len(found) % 2 == 0 else 2
    return np.array(found), port.length(shape.style.get("stroke-dashoffset"), "both")


def _dashed(one: Drawn, pattern: NDArray[np.float64], begin: float, room: Room) -> list[Drawn]:
    """The dashes of a line."""
    if not len(pattern):
        return [one]
    points = np.concatenate([one.points, one.points[:1]]) if one.closed else one.points
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    whole = float(along[-1])
    period = float(pattern.sum())
    first = begin % period
    count = int(np.ceil((whole + first) / period))
    room.count(count * len(pattern))
    ends = (np.cumsum(np.tile(pattern, count)) - first).reshape(-1, 2)
    found = []
    for stop, length in zip(ends[:, 0], np.tile(pattern[::2], count), strict=True):
        low, high = max(0.0, stop - length), min(whole, stop)
        if high < low or (high == low and length > 0):
            continue
        inside = points[(along > low) & (along < high)]
        edge = [
            np.array([np.interp(at, along, points[:, k]) for k in (0, 1)]) for at in (low, high)
        ]
        found.append(Drawn(np.vstack([edge[0], inside, edge[1]]), False, one.called))
    if one.closed and len(found) > 1:
        early, late = found[0].points, found[-1].points
        # Two dashes that meet where it closes are one.
        if (early[0] == late[-1]).all():
            joined = Drawn(np.concatenate([late, early[1:]]), False, one.called)
            found = [joined, *found[1:-1]]
    return found
