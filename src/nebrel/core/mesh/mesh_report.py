"""What of a mesh will not print as meant, each with what mends it; and where it is."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from nebrel.core.choices import Fault
from nebrel.core.data import Mesh
from nebrel.core.mesh.faults import Faults, find_faults
from nebrel.core.mesh.measure import MeshReport

Remedy = Literal["repair", "simplify", "even"]
_SPOTS = 60  # places that are told of each
_MANY = 1_000_000  # triangles that many programs refuse


@dataclass(frozen=True)
class MeshFinding:
    """One thing worth knowing about a mesh.

    Attributes
    ----------
    kind : as the field of Faults; or what else it is
    remedy : the finish step that mends it, where one does
    fault : what it mends, where that is one of several that it can
    spots_mm : some of the places where it is, (x, y, z)
    """

    kind: str
    severity: Literal["note", "caution", "wrong"]
    count: int
    text: str
    remedy: Remedy | None = None
    fault: Fault | None = None
    spots_mm: tuple[tuple[float, float, float], ...] = ()


_KINDS: dict[str, tuple[Literal["note", "caution", "wrong"], str, str]] = {
    "holes": ("wrong", "{} hole", "inside is not told from outside"),
    "flipped": ("wrong", "{} face that looks the wrong way", "printed inside out there"),
    "nonmanifold_edges": ("wrong", "{} edge of three faces or more", "no body has such an edge"),
    "self_crossings": ("wrong", "{} face that another passes through", "slices cross there"),
    "duplicates": ("caution", "{} face that is there twice", "no body has a face twice"),
    "degenerate": ("caution", "{} face without an area", "other programs stumble there"),
    "needles": (
        "note",
        "{} face far longer than high",
        "it shades badly there",
    ),
    "floaters": ("caution", "{} part that lies inside another", "printed into the solid"),
}
_FAULTS: dict[str, Fault] = {
    "holes": "holes",
    "flipped": "flipped",
    "nonmanifold_edges": "fins",
    "self_crossings": "crossings",
    "duplicates": "doubles",
    "degenerate": "doubles",
    "floaters": "inside",
}
_PLURAL = {
    "hole": "holes",
    "face": "faces",
    "edge": "edges",
    "part": "parts",
    "looks": "look",
    "is": "are",
    "lies": "lie",
}


def report_mesh(mesh: Mesh, report: MeshReport, line_mm: float) -> list[MeshFinding]:
    """All that is worth knowing, the worst first.

    Parameters
    ----------
    mesh : vertices at one place are one vertex
    line_mm : a nozzle line: what is thinner is not printed
    """
    faults = find_faults(mesh)
    found = [_finding(mesh, faults, kind) for kind in _KINDS if getattr(faults, kind)]
    if faults.thinnest_mm is not None and faults.thinnest_mm < line_mm:
        text = (
            f"Its thinnest wall is {faults.thinnest_mm:.3g} mm, less than a line of the nozzle "
            f"({line_mm:g} mm)"
        )
        found.append(MeshFinding("thin", "caution", 1, text))
    if len(mesh.faces) > _MANY:
        text = f"{len(mesh.faces) / 1e6:.1f} million triangles: many programs refuse so many"
        found.append(MeshFinding("many", "note", len(mesh.faces), text, "simplify"))
    if report.bodies > 1:
        text = f"It consists of {report.bodies} bodies that share no vertex"
        found.append(MeshFinding("bodies", "note", report.bodies, text))
    order = ("wrong", "caution", "note")
    return sorted(found, key=lambda one: order.index(one.severity))


def _finding(mesh: Mesh, faults: Faults, kind: str) -> MeshFinding:
    severity, words, meaning = _KINDS[kind]
    count = int(getattr(faults, kind))
    text = words.format(f"{count:,}".replace(",", "\N{NO-BREAK SPACE}"))
    if count != 1:
        text = " ".join(_PLURAL.get(word, word) for word in text.split(" "))
        text = text.replace("that another passes", "that others pass")
    fault = _FAULTS.get(kind)
    remedy: Remedy = "even" if fault is None else "repair"
    spots = _spots(mesh, faults, kind)
    return MeshFinding(kind, severity, count, f"{text}: {meaning}", remedy, fault, spots)


def _spots(mesh: Mesh, faults: Faults, kind: str) -> tuple[tuple[float, float, float], ...]:
    """Some of the places, spread over all there are."""
    at = faults.places.get(kind, np.zeros(0, np.int64))
    if not len(at):
        return ()
    some = at[np.linspace(0, len(at) - 1, min(_SPOTS, len(at))).astype(int)]
    places = (
        mesh.vertices[some] if kind in _OF_VERTICES else mesh.vertices[mesh.faces[some]].mean(1)
    )
    return tuple((float(x), float(y), float(z)) for x, y, z in places.round(4))


_OF_VERTICES = ("holes", "nonmanifold_edges")
