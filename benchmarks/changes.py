"""One thing changed on a finished piece, against making the piece: what is kept, and what is not.

The crater tile of the demo pieces (a relief with four entries), at full quality.

    python benchmarks/changes.py
"""

from __future__ import annotations

import tempfile
import time
from pathlib import Path
from typing import Any

from nebrel import demo
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.recipe.models import load_recipe
from nebrel.store import Store


def main() -> None:
    """Print the seconds of each change."""
    with tempfile.TemporaryDirectory() as folder:
        store = Store(Path(folder))
        demo.fill(store)
        card = next(card for card in store.pieces() if "crater tile" in card.name)
        document = store.piece(card.id).recipe.model_dump(mode="json")
        evaluator = Evaluator(store.load_picture)
        evaluator.evaluate(load_recipe(document), "draft")  # the picture is read, code is loaded

        def timed(words: str) -> float:
            start = time.perf_counter()
            triangles = evaluator.evaluate(load_recipe(document)).report.triangles
            seconds = time.perf_counter() - start
            print(f"{words:24} {seconds:6.2f} s  {triangles:8} triangles")
            return seconds

        whole = timed("the piece made")
        eyelet: dict[str, Any] = {"kind": "eyelet", "across": 0.3}
        begins = document.get("begins", document)  # an older checkout has all of it there
        begins["fittings"] = [eyelet]
        timed("an eyelet added")
        eyelet["across"] = 0.5
        print(f"  {whole / timed('an eyelet moved'):.0f} times as fast as making it")
        heights = begins["art"] if "art" in begins else document["heights"]
        for field in ("mirror", "negative"):
            heights[field] = True
            timed(f"{field} switched on")
            heights[field] = False
        heights["build_up"][-1]["name"] = "another name"
        timed("an entry renamed")
        store.close()


if __name__ == "__main__":
    main()
