"""Light against the photograph, calibration, a lit arc against a dense grid, clearances.

python benchmarks/light.py [--side 2048] [--no-grid]
"""

from __future__ import annotations

import argparse
import math
import time
from typing import Any

import numpy as np
from dense_grid import time_grid

from nebrel.core.data import Picture
from nebrel.core.kernel import solid_of
from nebrel.core.mesh.measure import measure
from nebrel.core.picture.resample import display_bytes
from nebrel.core.products.companions import companion, company_of
from nebrel.core.proof.calibrate import calibrate
from nebrel.core.proof.light import darkest_tone, to_tone
from nebrel.core.proof.wedge import Camera, Wedge, photograph
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.questions.shine import lamp_of, shine
from nebrel.core.recipe.models import Recipe, load_recipe
from nebrel.core.solid import parts
from nebrel.demo.pictures import moonlit_hills, ringed_planet, smooth_noise

THIN, THICK, ATTENUATION = 0.8, 3.2, 1.2


def recipe(mapping: str, wide: float = 120, **more: Any) -> Recipe:
    heights = {
        "raised": "dark",
        "mapping": mapping,
        "backing": THIN,
        "depth": THICK - THIN,
    } | more.pop("heights", {})
    document = {"picture": {"sha256": "0" * 64, "side": wide}, "heights": heights, **more}
    return load_recipe(document)


def reproduction() -> None:
    print("light of the lit panel against the picture's, RMS of full scale, inside the range")
    for name, tones in (("ringed planet", ringed_planet()), ("moonlit hills", moonlit_hills())):
        picture = Picture(tones)
        row = []
        for mapping in ("light", "straight"):
            made = recipe(mapping)
            evaluator = Evaluator(lambda _, kept=picture: kept)
            shone = shine(lamp_of(made), evaluator.relief(made), tones)
            inside = tones >= darkest_tone(THIN, THICK, ATTENUATION)
            off = (shone.light - shone.wanted)[inside]
            row.append(100 * float(np.sqrt((off**2).mean())))
        print(f"  {name:16} by light {row[0]:5.2f} %, straight {row[1]:5.2f} %")


def calibration() -> None:
    off = []
    for attenuation in (0.3, 0.6, 1.2, 2.0):
        for tilt in ((0, 0), (25, 0), (0, 25), (-25, 10), (15, -20)):
            for vignetting in (0.0, 0.3, 0.5):
                for noise in (0.0, 0.01, 0.03):
                    wedge = Wedge(10, 4)
                    camera = Camera(
                        tilt_deg=tilt, vignetting=vignetting, noise=noise, exposure=0.95, seed=3
                    )
                    picture, corners = photograph(wedge, attenuation, camera)
                    found = calibrate(picture.astype(np.float32) / 255, corners, wedge)
                    off.append(abs(found.attenuation_per_mm / attenuation - 1) * 100)
    print(
        f"calibration from {len(off)} simulated photographs: off by {np.median(off):.2f} % in the "
        f"middle, {max(off):.2f} % at worst"
    )


def clearances() -> None:
    tones = ringed_planet(176, 256)
    rim = {"build_up": [{"kind": "picture"}, {"kind": "frame", "wide": 3, "height": THICK - THIN}]}
    for kind, bend in (("panel", 0), ("arc", 60), ("arc", 120)):
        form = {"kind": kind} | ({"bend": bend} if bend else {})
        tabs = [{"kind": "tabs", "clearance": 0.4, "slot": 2.4}]
        made = recipe("light", form=form, fittings=tabs, heights=rim)
        evaluator = Evaluator(lambda _: Picture(tones))
        relief = evaluator.relief(made)
        piece = evaluator.evaluate(made)
        holder = companion(company_of(made), relief, "holder")
        closed = piece.report.manifold and measure(holder).manifold
        closed &= measure(companion(company_of(made), relief, "cap")).manifold
        panel = solid_of(piece.mesh)
        panel = panel.rotate((90, 0, 0)) if kind == "panel" else panel
        gap = panel.translate((0, 0, made.holder.base.mm + 0.2)).min_gap(solid_of(holder), 2)
        print(f"{kind} {bend or ''}: gap {gap:.4f} of 0.2 mm a side, all parts closed: {closed}")
    for sides in (3, 4, 5, 6, 8):
        made = recipe("light", heights=rim, lantern={"sides": sides})
        relief = Evaluator(lambda _: Picture(tones)).relief(made)
        side = companion(company_of(made), relief, "side")
        lid = companion(company_of(made), relief, "lid")
        ring = parts.lantern_ring(solid_of(side), 120, relief.top_mm, sides)
        lip = solid_of(lid).trim_by_plane((0, 0, 1), made.lantern.thick.mm + 0.02)
        gap = ring.translate((0, 0, made.lantern.thick.mm)).min_gap(lip, 3)
        closed = measure(side).manifold and measure(lid).manifold
        print(f"lantern of {sides}: lid's gap {gap:.4f} of 0.3 mm, side and lid closed: {closed}")


def arc_against_grid(side: int, with_grid: bool) -> None:
    tones = np.clip(0.1 + 0.9 * smooth_noise(side, side, 6, 6, 9), 0, 1).astype(np.float32)
    picture = Picture(tones)
    made = recipe("light", 150, form={"kind": "arc", "bend": 100}, finish={"tolerance": 0.02})
    evaluator = Evaluator(lambda _: picture)
    start = time.perf_counter()
    relief = evaluator.relief(made)
    shown = shine(lamp_of(made), relief, evaluator.correct(made).work.tone)
    display_bytes(Picture(to_tone(shown.light)), 1400)
    print(f"light-through of {side} x {side} first shown after {time.perf_counter() - start:.2f} s")
    start = time.perf_counter()
    result = Evaluator(lambda _: picture).evaluate(made)
    ours = time.perf_counter() - start
    count = result.report.triangles
    print(f"{side} x {side} to an arc at 0.02 mm: {ours:.1f} s, {count} triangles")
    if not with_grid:
        return
    grid = time_grid(relief.field.mm, 150, math.radians(100), None, count)
    print(f"the dense grid, mapped and reduced to as many: {grid:.1f} s, {grid / ours:.1f} times")


if __name__ == "__main__":
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--side", type=int, default=2048)
    options.add_argument("--no-grid", action="store_true")
    chosen = options.parse_args()
    reproduction()
    calibration()
    clearances()
    arc_against_grid(chosen.side, not chosen.no_grid)
