"""Reading SVG: filled areas and strokes as an outline in mm."""

from __future__ import annotations

import io
import re
from collections import Counter
from collections.abc import Iterator
from typing import Any

import numpy as np

from nebrel.core.errors import TooLarge, UnreadableFile
from nebrel.core.formats.drawing import UNIT_MM, Drawing, Room, Unit
from nebrel.core.kernel import Region, all_of, non_zero, outline_of, region_of
from nebrel.core.outline.assemble import Drawn, assemble, open_ends, stroked
from nebrel.core.outline.fit_kernels import flatten
from nebrel.core.outline.outline import Loop, Outline

_PX_MM = 25.4 / 96
_FLAT_MM = 0.002
_NO_WIDTH_MM = 1e-6
_MOST_ELEMENTS = 200_000
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
    page, scale = _parsed(tree, name)
    if unit is not None:
        scale = UNIT_MM[unit] / _user_unit(page)
    counted: Counter[str] = Counter()
    whole: Region = non_zero([])
    added: list[Region] = []  # to the whole, when something is taken away from it
    room = Room(name)
    lines: list[Drawn] = []
    whites = 0
    for shape, group in _shapes(page):
        counted[group] += 1
        if layers is not None and group not in layers:
            continue
        drawn = _lines(shape, scale, room)
        if not drawn:
            continue
        fill, stroke, wide = _paint(shape, scale)
        if fill is not None:
            area = _filled(shape, drawn)
            whites += fill
            if fill:
                whole, added = all_of([whole, *added]) - area, []
            else:
                added.append(area)
        if stroke and wide > _NO_WIDTH_MM:
            room.check_reach(np.array([[0, 0], [wide, wide]], np.float64))
            added += [stroked(one.points, one.closed, wide, *_ends(shape)) for one in drawn]
        elif fill is None and stroke:
            lines += drawn
    whole = all_of([whole, *added])
    loose: tuple[tuple[float, float], ...] = ()
    if whole.is_empty() and lines:
        # Lines without a width go around something where they close.
        made = assemble(lines, join_mm)
        whole = region_of(Outline(tuple(made.loops)))
        notes += left_over(made.left_open, made.joined, made.doubles)
        loose = tuple((x, -y) for x, y in open_ends(made.left_open))
    if whites:
        notes.append(f"{whites} white shapes take away what lies below them")
    width, height = float(page.width or 0), float(page.height or 0)
    size = (round(width * scale, 4), round(height * scale, 4)) if width > 0 and height > 0 else None
    outline = Outline(tuple(loop * (1, -1) for loop in outline_of(whole).loops))
    turned = Outline(tuple(loop[::-1] for loop in outline.loops))
    return Drawing(turned, size, unit or "mm", dict(counted), tuple(notes), loose)


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
        tree = fromstring(content, forbid_entities=True, forbid_external=True)
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
    total = clipped = 0
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
            clipped += any(child.get(name, "none") != "none" for name in ("clip-path", "mask"))
            parents.append(child)
    tree.append(aside)
    if total > _MOST_ELEMENTS:
        raise TooLarge(name, f"it has {total} elements", f"At most {_MOST_ELEMENTS} are read")
    _check_uses(tree, name)
    _size_page(tree)
    notes = [f"{clipped} clips or masks are not applied"] if clipped else []
    for tag, count in sorted(counted.items()):
        word, what = _LEFT_OUT.get(tag, ("reference to another file", "left out, never fetched"))
        notes.append(f"{count} {word}{'s' if count > 1 else ''} {what}")
    return tree, notes


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


def _parsed(tree: Any, name: str) -> tuple[Any, float]:
    """The document with all transforms applied, and mm of one of its pixels."""
    from xml.etree.ElementTree import register_namespace, tostring

    from svgelements import SVG

    register_namespace("", _NAMESPACE[1:-1])
    text = tostring(tree, encoding="unicode")
    try:
        return SVG.parse(io.StringIO(text), reify=True, ppi=96.0), _PX_MM
    except (ValueError, TypeError, IndexError, AttributeError, KeyError, ZeroDivisionError,
            RecursionError) as error:  # fmt: skip
        raise UnreadableFile(name, "it holds values that no SVG has", "Save it again") from error


def _user_unit(page: Any) -> float:
    """Pixels of one user unit."""
    box, width = page.viewbox, page.width
    if box is not None and getattr(box, "width", None) and width:
        return float(width) / float(box.width)
    return 1.0


def _shapes(page: Any) -> Iterator[tuple[Any, str]]:
    """Every shape that is seen, in the order it is painted, with the name of its group."""
    from svgelements import Group, Shape, Use

    pending: list[tuple[Any, str, int]] = [(page, "", 0)]
    while pending:
        element, group, depth = pending.pop()
        values = getattr(element, "values", None) or {}
        if values.get("display") == "none" or values.get("visibility") in ("hidden", "collapse"):
            continue
        if isinstance(element, Shape):
            yield element, group
        elif isinstance(element, Group | Use | list):
            if depth == 1 and isinstance(element, Group):
                group = _label(values) or getattr(element, "id", None) or group
            pending += [(child, group, depth + 1) for child in reversed(list(element))]


def _label(values: Any) -> str | None:
    """What a group is called for people, by whichever program."""
    for key, value in values.items():
        if isinstance(value, str) and str(key).startswith("{") and key.endswith("}label"):
            return value
    return None


def _paint(shape: Any, scale: float) -> tuple[bool | None, bool, float]:
    """Whether it is filled with white or with anything (None: not), stroked, and how wide, mm."""
    fill, stroke = shape.fill, shape.stroke
    filled = None
    if fill is not None and fill.value is not None and (fill.alpha is None or fill.alpha > 0):
        filled = bool(min(fill.red, fill.green, fill.blue) >= 250)
    drawn = stroke is not None and stroke.value is not None and stroke.alpha != 0
    wide = float(shape.implicit_stroke_width or 0) * scale if drawn else 0.0
    return filled, drawn, wide if np.isfinite(wide) else 0.0


def _ends(shape: Any) -> tuple[str, str]:
    values = shape.values or {}
    return values.get("stroke-linecap", "butt"), values.get("stroke-linejoin", "miter")


def _filled(shape: Any, drawn: list[Drawn]) -> Region:
    loops = [one.points for one in drawn if len(one.points) > 2]
    rule = (shape.values or {}).get("fill-rule", "nonzero")
    if rule == "evenodd":
        return region_of(Outline(tuple(loops)))
    return non_zero(loops)


def _lines(shape: Any, scale: float, room: Room) -> list[Drawn]:
    from svgelements import Path

    path = abs(Path(shape))  # what a rotated shape keeps as a transform applied, too
    path.approximate_arcs_with_cubics()
    called = shape.id or type(shape).__name__.lower()
    found = []
    for sub in path.as_subpaths():
        pieces, closed = _cubics(sub)
        if not pieces:
            continue
        cubics = np.array(pieces, np.float64) * scale
        if not np.isfinite(cubics).all():
            continue
        room.check_reach(cubics)
        points: Loop = flatten(cubics, _FLAT_MM, np.inf)
        room.count(len(points))
        last = cubics[-1, 3]
        if not closed and np.hypot(*(last - points[0])) > 1e-9:
            points = np.concatenate([points, last[None]])
        elif not closed:
            closed = True
        found.append(Drawn(points, closed, called))
    return found


def _cubics(sub: Any) -> tuple[list[Any], bool]:
    from svgelements import Close, CubicBezier, Line, Move, QuadraticBezier

    found, closed = [], False
    for segment in sub:
        if isinstance(segment, Move) or segment.end is None or segment.start is None:
            continue
        a, d = complex(segment.start), complex(segment.end)
        if isinstance(segment, CubicBezier):
            b, c = complex(segment.control1), complex(segment.control2)
        elif isinstance(segment, QuadraticBezier):
            middle = complex(segment.control)
            b, c = a + (middle - a) * 2 / 3, d + (middle - d) * 2 / 3
        elif isinstance(segment, Line | Close):
            closed = closed or isinstance(segment, Close)
            if abs(d - a) < 1e-12:
                continue
            b, c = a + (d - a) / 3, a + (d - a) * 2 / 3
        else:
            continue
        found.append([(z.real, z.imag) for z in (a, b, c, d)])
    return found, closed
