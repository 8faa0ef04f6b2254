"""How far a finished surface is from the interpolated heights, at pixels and between them.

The tolerance holds at every pixel. Between pixels the mesh is flat in triangles where the
heights are interpolated in squares, so it may be further off; this says by how much.

    python benchmarks/between_pixels.py
"""

from __future__ import annotations

import numpy as np

from nebrel.core.data import Mesh, Picture
from nebrel.core.forms.maps import FormMap
from nebrel.core.heights.relief import Relief
from nebrel.core.links.lay_map import lay_map
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.recipe.forms import ArcForm, DomeForm, GlobeForm, PanelForm, TubeForm
from nebrel.core.recipe.models import load_recipe
from nebrel.demo.pictures import craters, smooth_noise

_PLACES = 200_000


def measure(mesh: Mesh, lift_mm: float, bent: FormMap | None, relief: Relief) -> np.ndarray:
    """Distance along the normal at random places of the upper surface, mm."""
    points = mesh.vertices.astype(np.float64)
    corners = points[mesh.faces]
    area = np.linalg.norm(
        np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1
    )
    rng = np.random.default_rng(4)
    chosen = rng.choice(len(area), _PLACES, p=area / area.sum())
    share = rng.dirichlet((1, 1, 1), _PLACES)[..., None]
    places = (corners[chosen] * share).sum(axis=1)
    flat = places if bent is None else bent.flatten(places - (0, 0, lift_mm))
    field = relief.field
    top = (flat[:, 2] > 0.3) & (flat[:, 1] > 1) & (flat[:, 1] < field.tall_mm - 1)
    top &= (flat[:, 0] > 1) & (flat[:, 0] < field.wide_mm - 1)
    if bent is not None and bent.around:
        top &= flat[:, 1] < field.tall_mm * 5 / 6  # towards the pole heights are calmed
    flat = flat[top]
    heights, _ = relief.at(flat[:, 0], flat[:, 1])
    return np.abs(flat[:, 2] - heights)


def main() -> None:
    """Print, for each picture and form, the share beyond the tolerance and the worst."""
    pictures = {"craters": craters(300, 450), "clouds": smooth_noise(300, 450, 30, 4, 3)}
    forms = [
        PanelForm(), ArcForm(), TubeForm(), GlobeForm(), DomeForm(),
        ArcForm(side="inside"), GlobeForm(side="inside"),
    ]  # fmt: skip
    for name, tones in pictures.items():
        for form in forms:
            recipe = load_recipe({"picture": {"sha256": "0" * 64, "side": 120}, "form": form})
            picture = Picture(tones.astype(np.float32))
            found = Evaluator(lambda _, picture=picture: picture).evaluate(recipe)
            assert found.relief is not None
            bent = lay_map(form, found.relief)
            side = getattr(form, "side", "")
            off = measure(found.mesh, found.lift_mm, bent, found.relief)
            print(
                f"{name:8} {form.kind:6} {side:8} {len(found.mesh.faces):8} triangles: "
                f"{100 * (off > 0.01).mean():5.2f} % beyond 0.01 mm, 99.9 % within "
                f"{np.quantile(off, 0.999):.3f}, worst {off.max():.3f} mm"
            )


if __name__ == "__main__":
    main()
