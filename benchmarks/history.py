"""What a change costs as the history grows: a recipe of about 93 kB, changed again and again.

Run it against another checkout by putting that one's `src` on PYTHONPATH.
"""

from __future__ import annotations

import argparse
import statistics
import tempfile
import time
from pathlib import Path

import cv2
import numpy as np

import nebrel
from nebrel.core.recipe.models import load_recipe
from nebrel.store import Store


def main() -> None:
    """Print the median time of the last ten changes at several lengths of the history."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--most", type=int, default=2000)
    most = parser.parse_args().most
    picture = cv2.imencode(".png", np.tile(np.arange(256, dtype=np.uint8), (200, 1)))[1].tobytes()
    with tempfile.TemporaryDirectory() as folder:
        store = Store(Path(folder))
        piece = store.create_piece(store.add_picture(picture, "ramp.png"))
        rng = np.random.default_rng(3)
        strokes = [
            {"points": rng.uniform(0, 200, (120, 2)).round(3).tolist(), "wide": 9}
            for _ in range(45)
        ]
        document = piece.recipe.model_dump(mode="json")
        art = document["begins"]["art"] if "begins" in document else document
        tones = art["build_up"][0] if "begins" in document else document["heights"]
        art["picture"]["corrections"] = [{"kind": "brush", "strokes": strokes, "tone": 0.5}]
        spent = []
        print(nebrel.__file__)
        for number in range(1, most + 1):
            tones["depth"] = {"mm": 1 + number / 1000}
            recipe = load_recipe(document)
            start = time.perf_counter()
            store.change(piece.id, recipe)
            spent.append(time.perf_counter() - start)
            if number in (10, 30, 60, 120, 250, 500, 1000, 2000):
                print(f"{number:5d} revisions: {1000 * statistics.median(spent[-10:]):7.1f} ms")
        size = len(recipe.model_dump_json())
        print(f"recipe of {size / 1000:.0f} kB")
        store.close()


if __name__ == "__main__":
    main()
