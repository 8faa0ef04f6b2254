"""What is written is one manifold without scraps, and passes through itself nowhere."""

import numpy as np
import pytest
import trimesh

from nebrel.core.data import Mesh
from nebrel.core.errors import InvalidValue, NotSolid
from nebrel.core.kernel import block, mesh_of, nothing, solid_of
from nebrel.core.mesh.combine import trim
from nebrel.core.solid.closed import closed, passes_through_itself, without_scraps
from tests.meshes import ball, box, joined


def crossed() -> Mesh:
    """Two balls that reach into each other, and are two shells still."""
    other = ball()
    return joined(ball(), Mesh(other.vertices + np.float32([9, 1, 2]), other.faces))


def test_what_passes_through_itself_is_seen_wherever_it_is() -> None:
    assert not passes_through_itself(ball())
    assert not passes_through_itself(joined(ball(4), box(2, 2, 2, at=(9, 9, 9))))
    assert passes_through_itself(crossed())
    # Only where it is new.
    assert not passes_through_itself(crossed(), [crossed()])
    assert passes_through_itself(joined(crossed(), box(2, 2, 30)), [crossed()])
    assert not passes_through_itself(joined(crossed(), box(2, 2, 2, at=(60, 0, 0))), [crossed()])


def test_scraps_go_and_what_is_meant_stays() -> None:
    scrap = block((0.01, 0.01, 0.01)).translate((30, 0, 0))
    small, hole = block((1, 1, 1)).translate((40, 0, 0)), block((2, 2, 2)).translate((4, 4, 4))
    whole = (block((10, 10, 10)) - hole) + small + scrap
    found, report = closed(whole, "body", "none")
    parts = trimesh.Trimesh(found.vertices, found.faces).split(only_watertight=False)
    assert sorted(round(float(part.volume), 3) for part in parts) == [-8, 1, 1000]
    assert report.manifold and found.name == "body"
    # Where there is nothing else, it was meant; and it is told by what it is a part of.
    assert closed(scrap, "speck", "none")[0].faces.shape == (12, 3)
    assert len(without_scraps(mesh_of(scrap)).faces) == 12
    with pytest.raises(InvalidValue, match="Place it"):
        closed(nothing(), "body", "none", empty="Place it elsewhere")


def test_a_body_that_comes_to_pass_through_itself_is_refused() -> None:
    """Unless it did so before: that is what a repair is for."""
    whole = solid_of(crossed())
    with pytest.raises(NotSolid, match="pass through each other"):
        closed(whole, "body", "Move it", [ball()])
    assert closed(whole, "body", "Move it", [crossed()])[1].manifold
    assert trim(crossed(), "z", 1.0, "above")[1].manifold
