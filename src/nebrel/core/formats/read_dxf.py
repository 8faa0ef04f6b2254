"""Reading DXF: closed lines as an outline in mm."""

from __future__ import annotations

import io
from collections import Counter
from collections.abc import Iterator
from typing import Any

import numpy as np

from nebrel.core.errors import TooLarge, UnreadableFile
from nebrel.core.formats.drawing import UNIT_MM, Drawing, Room, Unit, check_layers, guess_unit
from nebrel.core.formats.read_svg import left_over
from nebrel.core.outline.assemble import Drawn, assemble, open_ends
from nebrel.core.outline.outline import Outline
from nebrel.core.outline.regions import outline_of, region_of

_FLAT_MM = 0.002
_MOST_LINES = 200_000
_SOLID = {"3DSOLID", "BODY", "REGION", "SURFACE", "MESH", "3DFACE", "EXTRUDEDSURFACE",
          "LOFTEDSURFACE", "REVOLVEDSURFACE", "SWEPTSURFACE", "PLANESURFACE"}  # fmt: skip
_WORDS = {"TEXT", "MTEXT", "ATTRIB", "ATTDEF", "DIMENSION", "ARC_DIMENSION", "LEADER", "MLEADER",
          "MULTILEADER", "ACAD_TABLE", "IMAGE", "TOLERANCE"}  # fmt: skip
# Units of a header that the library has no factor for: mm, and what they are called.
_OTHER_UNITS = {8: (25.4e-6, "microinches"), 9: (0.0254, "mils"), 21: (1200 / 3937 * 1000, "feet"),
                22: (100 / 3937 * 1000, "in")}  # fmt: skip
_DEEPEST = 100  # inserts within inserts


def read_dxf(
    content: bytes,
    name: str,
    unit: Unit | None,
    join_mm: float,
    layers: frozenset[str] | None,
) -> Drawing:
    """What the lines of a DXF go around, by the even-odd rule.

    Parameters
    ----------
    unit : of one unit of the file, whatever its header says
    layers : as `read_drawing`

    Raises
    ------
    UnreadableFile : no DXF, or nothing but solids or words
    TooLarge : too many lines
    """
    from ezdxf import recover
    from ezdxf.lldxf.const import DXFError

    try:
        document, _ = recover.read(io.BytesIO(content))
    except (DXFError, OSError, ValueError, KeyError, IndexError, TypeError, AttributeError,
            UnicodeError) as error:  # fmt: skip
        raise UnreadableFile(name, "it is not a whole DXF", "Save it again as DXF") from error
    factor, said = _unit(document, unit)
    counted: Counter[str] = Counter()
    strange: Counter[str] = Counter()
    lines: list[Drawn] = []
    room = Room(name)
    for entity in _entities(document, name):
        kind = entity.dxftype()
        if kind in _SOLID or kind in _WORDS:
            strange["solid" if kind in _SOLID else "text or dimension"] += 1
            continue
        layer = str(entity.dxf.get("layer", "0"))
        own = _drawn(entity, factor or 1.0, room, f"{kind.lower()} on layer {layer}")
        if not own:
            continue
        counted[layer] += len(own)
        if layers is None or layer in layers:
            lines += own
        if len(lines) > _MOST_LINES:
            raise TooLarge(name, "it has too many lines", f"At most {_MOST_LINES} are read")
    check_layers(layers, counted, name)
    if not lines:
        solids = strange["solid"]
        raise UnreadableFile(
            name,
            f"it holds {solids} solids or surfaces and no lines" if solids else "it holds no lines",
            "Export the flat view of it" if solids else "Draw with lines, arcs or polylines",
        )
    notes = [f"{count} of {word} left out" for word, count in sorted(strange.items())]
    made = assemble(lines, join_mm)
    outline = outline_of(region_of(Outline(tuple(made.loops))))
    notes += left_over(made.left_open, made.joined, made.doubles)
    if factor is None and outline:
        low, high = outline.bounds
        size = float((high - low).max())
        guess = guess_unit((size, size))
        notes.append(
            f"it does not say its unit; {size:.4g} units are taken for millimetres"
            + ("" if guess == "mm" else f", and could be {guess}")
        )
    ends = open_ends(made.left_open)
    return Drawing(outline, None, said, dict(counted), tuple(notes), ends)


def _unit(document: Any, unit: Unit | None) -> tuple[float | None, str | None]:
    """Millimetres of one unit of the file, and what that is called; None where it is not said."""
    from ezdxf.enums import InsertUnits
    from ezdxf.units import conversion_factor

    if unit is not None:
        return UNIT_MM[unit], unit
    code = int(document.header.get("$INSUNITS", 0) or 0)
    if code in _OTHER_UNITS:
        return _OTHER_UNITS[code]
    try:
        own = InsertUnits(code)
        factor = float(conversion_factor(own, InsertUnits.Millimeters))
    except (ValueError, KeyError, TypeError):
        return None, None
    if code <= 0 or factor <= 0:
        return None, None
    short = {1.0: "mm", 10.0: "cm", 1000.0: "m", 25.4: "in"}
    return factor, short.get(round(factor, 6), own.name.lower())


def _entities(document: Any, name: str) -> Any:
    """Everything in the model space, inserts taken apart; what is switched off left out."""
    from ezdxf.lldxf.const import DXFError

    hidden = {
        layer.dxf.name.lower() for layer in document.layers if layer.is_off() or layer.is_frozen()
    }
    try:
        for number, entity in enumerate(_taken_apart(document.modelspace())):
            if number > 4 * _MOST_LINES:
                raise TooLarge(name, "it has too many entities", "Leave out what is not needed")
            if str(entity.dxf.get("layer", "0")).lower() not in hidden:
                yield entity
    except (DXFError, RecursionError, ValueError, KeyError) as error:
        raise UnreadableFile(name, "its blocks cannot be taken apart", "Save it again") from error


def _taken_apart(entities: Any) -> Iterator[Any]:
    """Inserts as what they hold; a dimension is one thing, with all its lines and arrows."""
    from ezdxf.protocols import SupportsVirtualEntities, virtual_entities

    pending = [iter(entities)]
    while pending:
        entity = next(pending[-1], None)
        if entity is None:
            pending.pop()
            continue
        if len(pending) > _DEEPEST:
            raise ValueError("inserts within inserts")
        kind = entity.dxftype()
        if kind == "INSERT" and entity.mcount > 1:
            pending.append(iter(entity.multi_insert()))
        elif kind not in _WORDS and isinstance(entity, SupportsVirtualEntities):
            pending.append(iter(virtual_entities(entity)))
        else:
            yield entity


def _drawn(entity: Any, factor: float, room: Room, called: str) -> list[Drawn]:
    from ezdxf.lldxf.const import DXFError
    from ezdxf.path import from_hatch, make_path

    try:
        paths = list(from_hatch(entity)) if entity.dxftype() in ("HATCH", "MPOLYGON") else None
        if paths is None:
            paths = [make_path(entity)]
    except (TypeError, ValueError, DXFError, ZeroDivisionError, ArithmeticError):
        return []
    found = []
    for path in paths:
        for sub in path.sub_paths() if path.has_sub_paths else [path]:
            if len(sub) == 0:
                continue
            held = np.array([(p.x, p.y) for p in sub.control_vertices()], np.float64) * factor
            if not np.isfinite(held).all():
                continue
            room.check_reach(held)
            points = np.array([(p.x, p.y) for p in sub.flattening(_FLAT_MM / factor)]) * factor
            if len(points) < 2 or not np.isfinite(points).all():
                continue
            room.count(len(points))
            closed = bool(np.hypot(*(points[0] - points[-1])) < 1e-9 * max(1.0, np.ptp(points)))
            points = points[:-1] if closed else points
            if len(points) > (2 if closed else 1):
                found.append(Drawn(points, closed, called))
    return found
