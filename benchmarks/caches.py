"""What the cache counts against the memory that it takes, after a hundred varied questions.

The crater tile: depth, entries, mirror and the section asked for in turn, at draft and full
quality of a smaller copy. Real memory is what the process grows by (Linux).

    python benchmarks/caches.py
"""

from __future__ import annotations

import gc
import tempfile
from contextlib import suppress
from pathlib import Path

import numpy as np

from nebrel import demo
from nebrel.core.data import Picture
from nebrel.core.errors import NebrelError
from nebrel.core.questions.evaluator import Evaluator
from nebrel.core.recipe.models import load_recipe
from nebrel.store import Store


def resident() -> float:
    """Bytes of memory in use."""
    gc.collect()
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return pages * 4096.0


def main() -> None:
    """Print what is counted and what is real."""
    with tempfile.TemporaryDirectory() as folder:
        store = Store(Path(folder))
        demo.fill(store)
        card = next(card for card in store.pieces() if "crater tile" in card.name)
        document = store.piece(card.id).recipe.model_dump(mode="json")
        begins = document.get("begins", document)
        art = begins.get("art") or document["heights"]
        tones = art["build_up"][0] if "begins" in document else document["heights"]
        tones_of = np.array(
            store.load_picture(
                (art["picture"]["file"] if "begins" in document else document["picture"])["sha256"]
            ).tone[::3, ::3]
        )

        def load(_: str) -> Picture:
            return Picture(tones_of.copy())

        warm = Evaluator(load)
        warm.evaluate(load_recipe(document), "full")
        warm.evaluate(load_recipe(document), "draft")
        del warm
        for limit in (1_500_000_000, 300_000_000):
            evaluator = Evaluator(load, cache_bytes=limit)
            before = resident()
            for number in range(100):
                tones["depth"] = {"mm": 4 + (number % 25) / 10}
                art["build_up"][-1]["x"] = {"mm": number % 7}
                art["mirror"] = number % 10 == 9
                recipe = load_recipe(document)
                with suppress(NebrelError):  # now and then no file can hold its edges
                    if number % 4 == 3:
                        evaluator.relief(recipe).joined()
                    else:
                        evaluator.evaluate(recipe, "draft" if number % 2 else "full")
            grown = resident() - before
            runner = getattr(evaluator, "runner", None)
            counted = evaluator._weight if runner is None else runner.weight  # older checkouts
            print(
                f"limit {limit / 1e6:.0f} MB: counted {counted / 1e6:.0f} MB, "
                f"real {grown / 1e6:.0f} MB, 1 : {grown / counted:.2f}"
            )
            del evaluator, recipe
        store.close()


if __name__ == "__main__":
    main()
