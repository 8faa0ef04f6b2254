"""What every piece comes to, whatever it began as."""

from __future__ import annotations

from dataclasses import dataclass, replace

from nebrel.core.data import Mesh
from nebrel.core.mesh.measure import MeshReport, measure
from nebrel.core.solid.build import Built

Place = tuple[float, float, float]


@dataclass(frozen=True)
class Lain:
    """How a decoration came to lie.

    Attributes
    ----------
    stretch : how long lines on it become, the least and the most
    round_mm : how long once around is where it is bent around an axis
    grips : its middle, and the middles of its right and of its upper side, mm
    edge_deg : by how much the surface turns at once under it, where that is the most
    """

    stretch: tuple[float, float] = (1.0, 1.0)
    round_mm: float | None = None
    grips: tuple[Place, ...] = ()
    edge_deg: float = 0.0


@dataclass(frozen=True)
class FigureDone:
    """What a picture in the round came to.

    Attributes
    ----------
    tips_deg : at which angle it tips over
    notes : of its subject, in words
    axis : of what was turned: a share of its width right of its middle, and degrees
    subject_px : width and height of the subject
    seconds, gb : what it takes about, at full quality
    outline : of its silhouette from the front and that of its subject, what is in both: 0 to 1;
        None of a draft, and of what leant
    place : mm for each pixel of the subject, and where its lower left corner is, x and z, mm;
        None of what leant
    thin : which of the parts that are drawn and switched on were too thin for its cells
    box : where the subject is in its picture: left, top, width, height, in shares of it
    """

    tips_deg: float
    notes: tuple[str, ...]
    axis: tuple[float, float] | None
    subject_px: tuple[int, int]
    seconds: float
    gb: float
    outline: float | None = None
    place: tuple[float, float, float] | None = None
    box: tuple[float, float, float, float] = (0.0, 0.0, 1.0, 1.0)
    thin: tuple[int, ...] = ()


@dataclass(frozen=True)
class Shape:
    """A mesh and its figures.

    Attributes
    ----------
    said : what the last step did, in words, where it has some
    laid : how the last decoration lies
    figure : of what began as one
    """

    built: Built
    report: MeshReport
    said: tuple[str, ...] = ()
    laid: Lain = Lain()
    figure: FigureDone | None = None

    @property
    def mesh(self) -> Mesh:
        """The triangles."""
        return self.built.mesh

    def become(
        self, mesh: Mesh, report: MeshReport | None = None, said: tuple[str, ...] = ()
    ) -> Shape:
        """The same after a step.

        Parameters
        ----------
        report : figures of the new mesh, where they are known
        """
        report = report or measure(mesh)
        return Shape(
            replace(self.built, mesh=mesh, report=report), report, said, figure=self.figure
        )
